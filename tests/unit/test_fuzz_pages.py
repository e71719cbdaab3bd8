"""Pages that nobody meant to be read: whatever comes, the walk ends in a move, in bounded time."""

from __future__ import annotations

import html
import time
import tracemalloc

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from highshelf.core.pages.judgement import judge
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.decide import decide
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import Move, Turn
from highshelf.core.walk.witness import Witness

HERE = "http://boats.saltmarsh.example/setup/"
VALUES = {
    "site.title": "Boats",
    "admin.name": "marekoti42",
    "admin.password": "Hx7-kelp.Ferry29qZ",
    "admin.email": "keeper@saltmarsh.example",
    "database.host": "localhost",
    "database.name": "20711_boats81",
    "database.user": "20711_boats81",
    "database.password": "Rv3+marsh:Lantern4t",
}
TAGS = (
    "form",
    "input",
    "select",
    "option",
    "textarea",
    "button",
    "a",
    "li",
    "ol",
    "tr",
    "td",
    "x-choice",
    "fieldset",
    "legend",
    "iframe",
    "pre",
    "p",
)
NAMES = (
    "name",
    "value",
    "type",
    "href",
    "onclick",
    "class",
    "for",
    "id",
    "action",
    "method",
    "data-options",
    "formaction",
    "http-equiv",
    "content",
)
WORDS = st.one_of(
    st.sampled_from(
        [
            "password",
            "Datenbank",
            "next",
            "installation complete",
            "http://[",
            "../../x",
            "javascript:",
            "[{",
            "[{}]",
            '[{"value":1}]',
            "submit",
            "post",
        ]
    ),
    st.text(max_size=30),
)
PIECES = st.recursive(
    WORDS,
    lambda inner: st.builds(
        lambda tag, attributes, inside, closed: (
            f"<{tag} {' '.join(f'{n}={v!r}' for n, v in attributes)}>{''.join(inside)}"
            + (f"</{tag}>" if closed else "")
        ),
        st.sampled_from(TAGS),
        st.lists(st.tuples(st.sampled_from(NAMES), WORDS), max_size=4),
        st.lists(inner, max_size=5),
        st.booleans(),
    ),
    max_leaves=40,
)


def through(html: str, status: int = 200) -> Move:
    page = read(Snapshot(HERE, status, html))
    judge(page)
    know = Knowledge(VALUES, HERE, witness=Witness(wrote=("config.php",), tables=2))
    decide(page, know, [])
    return decide(page, know, [Turn("x", "Next", "")])


@settings(max_examples=400, deadline=None)
@given(st.lists(PIECES, max_size=12).map("".join), st.sampled_from([200, 0, 302, 404, 500, 999]))
def test_no_page_breaks_the_walk(html: str, status: int) -> None:
    assert through(html, status) is not None


@settings(max_examples=100, deadline=None)
@given(st.lists(PIECES, min_size=3, max_size=12).map("".join), st.integers(0, 400))
def test_no_truncated_page_breaks_the_walk(html: str, cut: int) -> None:
    assert through(html[:cut]) is not None


@pytest.mark.parametrize(
    "html",
    [
        "<p>" * 20_000 + "deep",
        "<form method=post>"
        + "".join(f"<label>Field {n}<input name=f{n}></label>" for n in range(3_000))
        + "<button>Next</button></form>",
        "".join(f"<a href='?p={n}'>Page {n}</a>" for n in range(20_000)),
        "<table>" + "".join(f"<tr><td>mod {n}</td><td>missing</td></tr>" for n in range(10_000)) + "</table>",
        "<ol>" * 500 + "<li>x</li>" * 500,
        "<div class=error>" * 3_000 + "failed",
        "Fatal error: " * 50_000,
        "DB_HOST=x\n" * 30_000,
        "<pre>" + "a = b\n" * 60_000 + "</pre> cannot be written config.php",
        "<select name=x>" + "<option>mysql</option>" * 20_000 + "</select>",
        "<h1>Set-up</h1>" + "".join(f"<h3>Way {n}</h3><a href='?p={n}'>Choose</a>" for n in range(20_000)),
        "<div>" * 3_000 + "".join(f"<a href='?p={n}'>Choose</a>" for n in range(5_000)),
        "<div>" * 3_000 + "<form><button>Choose</button></form>" * 2_000,
    ],
    ids=[
        "deep",
        "fields",
        "links",
        "rows",
        "lists",
        "boxes",
        "faults",
        "lines",
        "offered",
        "options",
        "cards",
        "deep links",
        "deep forms",
    ],
)
def test_no_large_page_takes_long(html: str) -> None:
    """Two seconds a page is what a walk may take at most; ten are allowed here, for machines that do other things as well."""
    begun = time.process_time()
    assert through(html) is not None
    assert time.process_time() - begun < 10


def test_a_page_of_fifty_megabytes_is_read_within_bounds() -> None:
    html = "<p>The estuary is wide.</p>" * (50 * 1024 * 1024 // 27)
    tracemalloc.start()
    try:
        begun = time.process_time()
        assert through(html) is not None
        _, peak = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    assert time.process_time() - begun < 20 and peak < 200 << 20


@pytest.mark.parametrize("identity", ['a"b', "a]b", "\\", "a\nb", "'", "{}", "a:b"])
def test_a_form_may_be_called_anything(identity: str) -> None:
    """What stands in an attribute is no selector."""
    page = f"<form id='{html.escape(identity, quote=True)}' method=post><button>Next</button></form><input name=far form='{html.escape(identity, quote=True)}'>"
    found = read(Snapshot(HERE, 200, page))
    assert "far" in [f.name for form in found.forms for f in form.fields]
