"""Panels that nobody described: grown ones and ones by hand are read, used, and left as they were."""

from __future__ import annotations

from collections import Counter

import pytest

from highshelf.core.errors import PanelError
from highshelf.drivers.panel.by_reading import ReadPanel
from tests.panels.by_hand import BY_HAND
from tests.panels.by_hand_fifth import FIFTH
from tests.panels.by_hand_fourth import FOURTH
from tests.panels.by_hand_more import MORE
from tests.panels.by_hand_third import THIRD
from tests.panels.score import try_panel, try_seed
from tests.panels.yard import ADDRESS, CUSTOMER, Traits, YardFetch, YardPanel

SEEDS = range(730_000, 730_120)
ALL = {**BY_HAND, **MORE, **THIRD, **FOURTH, **FIFTH}
# Nobody gets through: a language that no list has, a box to tick that only a person may, a password that nobody is told.
STOPPED = {"ordered": "no form was found", "cards": "Veuillez accepter", "tables": "it was deleted again"}


def test_grown_panels_make_what_was_asked_for_and_nothing_else() -> None:
    outcomes = {seed: try_seed(seed) for seed in SEEDS}
    counts = Counter(o.kind for o in outcomes.values())
    wrong = {seed: o for seed, o in outcomes.items() if o.kind not in ("made", "impossible", "refused")}
    assert not wrong, wrong
    possible = counts["made"] + counts["refused"]
    assert counts["made"] >= 0.97 * possible > 60, (
        counts,
        {s: o.why for s, o in outcomes.items() if o.kind == "refused"},
    )


@pytest.mark.parametrize("name", ALL)
def test_panels_by_hand_are_used_or_say_why_not(name: str) -> None:
    panel = ALL[name]()
    before = panel.state.picture()
    outcome = try_panel(panel)
    if name in STOPPED:
        assert outcome.kind == "refused" and STOPPED[name] in outcome.why, outcome
    else:
        assert outcome.kind == "made", outcome
    assert panel.state.picture() == before


def test_looking_changes_nothing_and_says_each_step() -> None:
    panel = YardPanel(Traits.of(4321))
    fetch, before = YardFetch(panel), panel.state.picture()
    moves = ReadPanel(fetch, ADDRESS, CUSTOMER, "let-me-in", rest=lambda _: None).moves()
    assert moves[0] == f"sign in at {ADDRESS} as {CUSTOMER}" and len(moves) >= 2
    assert panel.words["create"] in " ".join(moves) and "let-me-in" not in " ".join(moves)
    posts = [a for a in fetch.asked if a.startswith("POST")]
    assert panel.state.picture() == before and all("/door" in p or "/tour" in p for p in posts), posts


def test_a_refused_login_is_tried_once() -> None:
    panel = YardPanel(Traits.of(4321))
    read = ReadPanel(YardFetch(panel), ADDRESS, CUSTOMER, "wrong", rest=lambda _: None)
    for _ in range(3):
        with pytest.raises(PanelError, match="does not let"):
            read.databases()
    assert panel.refused_at_door == 1
