"""Pages that say things in unusual places: words behind fields, steps by numbers, colours, headings that let fields be empty."""

from __future__ import annotations

import pytest

from highshelf.core.walk.moves import Submit
from tests.unit.test_walk_parts import after, page_of

ASKS = '<p><input name="who" value="x"></p>'


@pytest.mark.parametrize(
    ("buttons", "pressed"),
    [
        ('<button name="go" value="1">Recuo</button><button name="go" value="3">Mais</button>', ("go", "3")),
        ('<button name="mode" value="0">Install</button><button name="mode" value="1">Qwx</button>', ("mode", "0")),
    ],
)
def test_the_lower_number_leads_back_unless_its_words_lead_on(buttons: str, pressed: tuple[str, str]) -> None:
    move = after(f'<h1>Setup</h1><form method="post" action="/setup/">{ASKS}{buttons}</form>')
    assert isinstance(move, Submit) and pressed in move.fields


def test_words_behind_fields_are_theirs_where_all_stand_so() -> None:
    behind = '<form method="post"><p><input name="a"> server</p><p><input name="b"> nazwa bazy</p></form>'
    assert [f.label for f in page_of(behind).forms[0].fields] == ["server", "nazwa bazy"]
    # A hint behind a field takes no label's place.
    hinted = '<form method="post"><p>Host</p><p><input name="a"> usually localhost</p><p>Base</p><p><input name="b"> a name</p></form>'
    assert [f.label for f in page_of(hinted).forms[0].fields] == ["Host", "Base"]


@pytest.mark.parametrize(("colour", "required"), [("orange", False), ("red", None)])
def test_orange_is_a_wish(colour: str, required: bool | None) -> None:
    rows = f'<table><tr><td>exif</td><td>1</td><td style="color:{colour}">non</td></tr></table>'
    (check,) = page_of(rows).checks
    assert (check.fine, check.required) == (False, required)


def test_a_secret_under_a_heading_that_lets_it_be_empty_stays_empty() -> None:
    form = (
        '<form method="post" action="/setup/"><h3>MySQL database</h3><p>Host <input name="h" value="localhost"></p><p>Name <input name="n"></p>'
        '<p>User <input name="u"></p><p>Password <input name="p" type="password"></p>'
        '<h3>Fast store (may stay empty)</h3><p>Password <input name="q" type="password"></p><button>Install</button></form>'
    )
    move = after(form)
    assert isinstance(move, Submit)
    sent = dict(move.fields)
    assert (sent["p"], sent["q"]) == ("pW-9dkdkdkdkd", "")
