"""A sample of the garden in CI. The whole: `python -m tests.garden.walk --seeds 2000 --first 1`."""

from __future__ import annotations

import pytest

from tests.garden.installer import SITE, Host, Installer
from tests.garden.traits import CHOICES, WORDS, traits_of
from tests.garden.walk import VALUES, Figures, through, walk

SEEDS = 150
# What the walk reaches today over these seeds. To be changed in one direction only: the aim is 97 in a hundred, and none of the rest.
FINISHED = 85
FALSE, MISPLACED, OUTSIDE, OVERWRITTEN = 4, 39, 38, 67


@pytest.fixture(scope="module")
def figures() -> Figures:
    return through(1, SEEDS)[0]


def test_every_walk_has_an_end(figures: Figures) -> None:
    assert figures.finished + figures.honestly_stuck + figures.falsely_finished == figures.seeds == SEEDS


def test_the_walk_becomes_no_worse(figures: Figures) -> None:
    assert figures.finished >= FINISHED
    assert figures.falsely_finished <= FALSE
    assert figures.misplaced_secrets <= MISPLACED
    assert figures.outside_presses <= OUTSIDE
    assert figures.overwritten_presets <= OVERWRITTEN


def test_a_seed_is_the_same_installer_each_time() -> None:
    first, again = walk(17), walk(17)
    assert [p.html for p in first.pages] == [p.html for p in again.pages] and first.moves == again.moves


def test_every_choice_of_every_trait_is_drawn() -> None:
    drawn = {(name, choice) for seed in range(1, SEEDS + 1) for name, choice in vars(traits_of(seed)).items()}
    assert drawn >= {(name, choice) for name, choices in CHOICES.items() for choice, _ in choices}


def test_all_languages_say_the_same_things() -> None:
    for language, words in WORDS.items():
        assert set(words) == set(WORDS["en"]), language
        assert all(ways and all(isinstance(w, str) for w in ways) for ways in words.values()), language


def test_the_truth_is_the_installers_own() -> None:
    """What is done wrong is seen: a secret in another field, a preset changed, a press behind the end."""
    seed = next(
        s
        for s in range(1, 999)
        if traits_of(s).foreign == "mail" and traits_of(s).presets and not traits_of(s).one_page
    )
    installer = Installer(seed, Host(VALUES))
    controls = installer._controls("site")
    wrong = {c.name: VALUES["admin.password"] if c.kind == "password" else "9" for c in controls}
    installer._watch(controls, wrong)
    assert installer.seen.misplaced and installer.seen.overwritten
    installer.request("POST", SITE + "tools.php", {"empty": "1"})
    assert installer.seen.outside == ["POST /tools.php"] and not installer.installed
