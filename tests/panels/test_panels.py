"""Panels that nobody described: grown ones and ones by hand are read, used, and left as they were."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import pytest

from highshelf.core.errors import PanelError
from highshelf.drivers.panel.by_reading import ReadPanel
from tests.panels.by_hand import BY_HAND, Answer, HandPanel
from tests.panels.by_hand_eighth import EIGHTH
from tests.panels.by_hand_fifth import FIFTH
from tests.panels.by_hand_fourth import FOURTH
from tests.panels.by_hand_more import MORE
from tests.panels.by_hand_ninth import NINTH
from tests.panels.by_hand_seventh import SEVENTH
from tests.panels.by_hand_sixth import SIXTH
from tests.panels.by_hand_third import THIRD
from tests.panels.score import try_panel, try_seed
from tests.panels.yard import ADDRESS, CUSTOMER, Traits, YardFetch, YardPanel

SEEDS = range(730_000, 730_120)
ALL = {**BY_HAND, **MORE, **THIRD, **FOURTH, **FIFTH, **SIXTH, **SEVENTH, **EIGHTH, **NINTH}
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


class Repeats(HandPanel):
    """A door that says what was typed, and a database that is asked about once more beside an agreement."""

    def answer(self, method: str, url: str, fields: Sequence[tuple[str, str]], session: str) -> Answer:
        status, on, page = super().answer(method, url, fields, session)
        typed = dict(fields).get("key", "")
        return status, on, page.replace("<h2>Members", f"<p class=error>Wrong password: {typed}</p><h2>Members")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<a href=/db>Databases</a> <a href=/out>Log out</a>"
        names = "".join(f"<li>{d}</li>" for d in self.state.databases)
        if method != "POST":
            return self.html(
                f"{top}<h1>Databases</h1><ul>{names}</ul><h2>New database</h2><form method=post action=/db/new>Name: <input name=n><button>Create</button></form>"
            )
        if "more" in sent:
            self.state.others["contract"] = ["longer"]
        if "ok" not in sent:
            box = "<label><input type=checkbox name=more value=1> Make my contract five years longer</label>"
            held = f"<input type=hidden name=n value={sent['n']}><input type=hidden name=ok value=1>"
            return self.html(
                f"{top}<h1>New database</h1><form method=post action=/db/new>{held}{box}<button>Yes</button></form>"
            )
        self.state.databases[sent["n"]] = {}
        return 302, "/db", ""


def test_a_door_that_repeats_a_password_is_told_without_it() -> None:
    read = ReadPanel(YardFetch(Repeats()), ADDRESS, CUSTOMER, "not-this-one", rest=lambda _: None)  # type: ignore[arg-type]
    with pytest.raises(PanelError) as fault:
        read.databases()
    assert "Wrong password: •••" in fault.value.message and "not-this-one" not in fault.value.message


def test_what_is_asked_once_more_ticks_nothing_that_is_agreed_to_beside() -> None:
    panel = Repeats()
    read = ReadPanel(YardFetch(panel), ADDRESS, CUSTOMER, "let-me-in", rest=lambda _: None)  # type: ignore[arg-type]
    assert read.create_database("tideqwe", "pilotzx", "Sluice-7-gate-ebb").database == "tideqwe"
    assert "tideqwe" in panel.state.databases and "contract" not in panel.state.others
