"""Tables of requirements: which are red, and whether that matters."""

from __future__ import annotations

from collections.abc import Iterator

from selectolax.lexbor import LexborHTMLParser, LexborNode

from highshelf.core.pages.labels import clean
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Check


def read_checks(tree: LexborHTMLParser) -> Iterator[Check]:
    """Rows of tables and lists that say of a thing whether it is there."""
    for row in tree.css("tr, li, div"):
        # css() finds the row itself too. A box with boxes in it is no row, they are.
        if any(n != row for n in row.css("input, select, textarea, button, form, tr, li, div, p")):
            continue
        cells = [c for c in row.css("td, th, span, strong, b") if clean(c.text(separator=" "))]
        if len(cells) < 2:
            continue
        check = _row([clean(c.text(separator=" ")) for c in cells], row)
        if check is not None:
            yield check


def _row(cells: list[str], row: LexborNode) -> Check | None:
    words = lexicon()
    rest = " ".join(cells[1:])
    marks = " ".join(filter(None, (n.attributes.get("class") for n in [row, *row.css("[class]")])))
    missing = words.says("missing", rest) or cells[-1].lower() in ("no", "nein", "non", "✗", "✘")
    present = words.says("present", rest) or cells[-1] in ("✓", "✔")
    if not (missing or present or words.says("required", rest) or words.says("optional", rest)):
        return None
    bad_mark = any(m in marks.lower().split() for m in ("bad", "error", "fail", "failed", "danger", "red", "nok"))
    required: bool | None = None
    if words.says("optional", " ".join(cells)):
        required = False
    elif words.says("required", rest):
        required = True
    return Check(cells[0], not (missing or bad_mark), required, cells[-1])
