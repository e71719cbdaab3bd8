"""When a conversation moves into a browser, and how long a page there is waited for."""

from __future__ import annotations

import pytest

from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.browsing import SEEMS_OVER, SILENT, WAITS, looks_left, told_of_scripts, wants_browser
from highshelf.core.walk.moves import AskFor, Finished, Stuck

STUCK = Stuck("no way on was found")


def page(body: str, status: int = 200) -> Page:
    return read(Snapshot("http://quay.saltmarsh.example/setup/", status, f"<title>Setup</title><body>{body}</body>"))


@pytest.mark.parametrize(
    ("body", "status", "move", "wanted"),
    [
        ("<div id=app></div><script src=a.js></script>", 200, STUCK, True),
        ("<a href=/>Home</a><div id=app></div><script>draw()</script>", 200, STUCK, True),
        ("<h1>Setup</h1><form><input name=a></form><script>1</script>", 200, AskFor("field.a", "?"), False),
        ("<h1>Setup</h1><p>Nothing here leads on.</p>", 200, STUCK, False),
        ("<p class=error>Access denied.</p><script>1</script>", 200, STUCK, False),
        ("<p class=error>Please switch JavaScript on.</p><script>1</script>", 200, STUCK, True),
        ("<h1>Not found</h1><script>1</script>", 404, STUCK, False),
    ],
)
def test_a_browser_is_wanted_where_a_page_is_silent_and_has_scripts(
    body: str, status: int, move: object, wanted: bool
) -> None:
    assert bool(wants_browser(page(body, status), move)) is wanted


def test_a_page_that_says_that_it_is_at_work_is_waited_for_longest() -> None:
    busy, silent = page("<h2>Bitte warten, die Tabellen werden angelegt.</h2>"), page("<h2>Here we are</h2>")
    assert looks_left(busy, Finished("nothing asked"), WAITS - 1) and not looks_left(busy, STUCK, WAITS)
    assert looks_left(silent, STUCK, SILENT - 1) and not looks_left(silent, STUCK, SILENT)
    assert looks_left(silent, Finished("done"), SEEMS_OVER - 1) and not looks_left(silent, Finished("done"), SEEMS_OVER)
    assert not looks_left(busy, AskFor("field.a", "?"), 0)


def test_a_plan_says_of_scripts_only_where_no_browser_is() -> None:
    assert told_of_scripts(["setup/setup.js"], "") == []
    (said,) = told_of_scripts(["setup/setup.js"], "Chromium is not installed")
    assert "setup/setup.js" in said and "Chromium is not installed" in said
