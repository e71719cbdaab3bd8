"""A sample of the garden in CI. The whole: `python -m tests.garden.walk --seeds 2000 --first 1`."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.garden.asks import TOKEN
from tests.garden.installer import SETUP, SITE, Host, Installer
from tests.garden.traits import CHOICES, UNREAD, WORDS, traits_of
from tests.garden.walk import VALUES, Figures, through, walk

SEEDS = 300
# To be raised with the walk, never lowered: of all, and of those through which anybody could get on their host.
FINISHED, FINISHED_OF_POSSIBLE = 0.95, 0.98


@pytest.fixture(scope="module")
def figures() -> Figures:
    return through(1, SEEDS)[0]


def test_nearly_all_that_can_be_finished_are_and_the_others_say_why(figures: Figures) -> None:
    assert figures.finished >= FINISHED * SEEDS
    assert figures.finished >= FINISHED_OF_POSSIBLE * figures.possible
    assert figures.finished + figures.honestly_stuck == figures.seeds == SEEDS


def test_nothing_is_believed_falsely_nor_pressed_nor_filled_that_must_not_be(figures: Figures) -> None:
    assert figures.falsely_finished == 0
    assert figures.misplaced_secrets == 0
    assert figures.outside_presses == 0
    assert figures.overwritten_presets == 0


@pytest.mark.parametrize(
    ("changes", "reason"),
    [
        ({"health": "blocked", "checks": "table"}, "imap"),
        ({"health": "blocked", "checks": "icons"}, "imap"),
        ({"health": "blocked", "checks": "list"}, "imap"),
        ({"health": "silent block", "checks": "divs"}, "imap"),
        ({"weather": "empty"}, "Allowed memory size"),
        ({"weather": "500"}, "Allowed memory size"),
        ({"ending": "lie", "dump": "none", "configuration": "writes"}, "nothing was made"),
    ],
    ids=lambda value: "-".join(map(str, value.values())) if isinstance(value, dict) else "",
)
def test_where_nobody_could_get_through_the_true_reason_is_told(changes: dict[str, str], reason: str) -> None:
    """Red rows in every dress, an empty page with its line in the log, words of success behind which nothing was made."""
    usual = {"health": "fine", "weather": "fine", "refuses": "nothing", "odd_word": "none", "ending": "praise"}
    for seed in range(1, 31):
        one = walk(seed, **{**usual, **changes})
        assert one.how == "blocked" and reason in one.why, (seed, one.how, one.why)
        assert not (one.misplaced or one.outside or one.overwritten)


def test_a_seed_is_the_same_installer_each_time() -> None:
    first, again = walk(17), walk(17)
    assert [p.html for p in first.pages] == [p.html for p in again.pages] and first.moves == again.moves


def test_every_choice_of_every_trait_is_drawn() -> None:
    drawn = {(name, choice) for seed in range(1, 3_000) for name, choice in vars(traits_of(seed)).items()}
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
    controls = installer.asks.controls("site")
    wrong = {c.name: VALUES["admin.password"] if c.kind == "password" else "9" for c in controls}
    installer._watch(controls, wrong)
    assert installer.seen.misplaced and installer.seen.overwritten
    installer.request("POST", SITE + "tools.php", {"empty": "1"})
    assert installer.seen.outside == ["POST /tools.php"] and not installer.installed


def test_an_installer_takes_nothing_that_is_wrong() -> None:
    """Walked by hand with wrong answers: it stays where it is, and says so."""
    seed = next(
        s
        for s in range(1, 999)
        if traits_of(s).token == "given" and traits_of(s).step == "hidden" and traits_of(s).method == "post"
    )
    installer = Installer(seed, Host(dict(VALUES)))
    first = installer.request("GET", SITE + SETUP)
    wrong = installer.request("POST", SITE + SETUP, {"op": "step0", "setup_password": "guessed"})
    assert wrong.html != first.html and not installer.installed
    right = installer.request("POST", SITE + SETUP, {"op": "step0", "setup_password": TOKEN})
    assert installer._markup.say("welcome", app=installer.app) in right.html and right.html != first.html


def test_its_command_prints_figures_by_trait_and_json_as_its_last_line(tmp_path: Path) -> None:
    command = [sys.executable, "-m", "tests.garden.walk"]
    ran = subprocess.run([*command, "--seeds", "5", "--first", "40"], capture_output=True, text=True, check=True)
    found = json.loads(ran.stdout.splitlines()[-1])
    assert found["seeds"] == 5 and {"finished", "honestly_stuck", "falsely_finished", "misplaced_secrets"} <= set(found)
    assert any(line.startswith("language") for line in ran.stdout.splitlines())
    told = subprocess.run(
        [*command, "--replay", "41", "--pages", str(tmp_path)], capture_output=True, text=True, check=True
    )
    assert "finished" in told.stdout and len(list(tmp_path.glob("41-*.html"))) >= 3


def test_in_a_language_that_nobody_reads_nothing_is_harmed_and_the_source_leads_through_some() -> None:
    """Neither a label nor a name of a field says anything: what is left are the source, addresses, marks and the host."""
    figures, _, missed = through(88_000, 120, language=UNREAD)
    harm = (figures.falsely_finished, figures.misplaced_secrets, figures.outside_presses, figures.overwritten_presets)
    assert harm == (0, 0, 0, 0), [(w.seed, w.how, w.misplaced, w.outside) for w in missed]
    assert figures.finished >= 30
