"""Tables of requirements: which are red, and whether that matters."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator

from selectolax.lexbor import LexborHTMLParser, LexborNode

from highshelf.core.pages.labels import clean
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Check

# Whole class names, or what stands in longer ones such as `text-danger`, `is-red`, `reqfail`; `no-gutters` is no refusal.
RED_MARK = re.compile(
    r"(?<![\w-])(?:(?:text|bg|is|status|icon|color|state|label)-)?(?:bad|no|red|missing|problem)(?![\w-])"
    r"|(?<![a-z])(?:danger|nok|wrong|times|cross|invalid|negative|critical)(?![a-z])|error|fail",
    re.I,
)


def read_checks(tree: LexborHTMLParser, unseen: Collection[int] = ()) -> Iterator[Check]:
    """Rows of tables and lists that say of a thing whether it is there."""
    for row in tree.css("tr, li, div"):
        if row.mem_id in unseen:
            continue
        # css() finds the row itself too. A box with boxes in it is no row, they are.
        if any(n != row for n in row.css("input, select, textarea, button, form, tr, li, div, p")):
            continue
        cells = _inline(row) or [
            text for c in row.css("td, th, span, strong, b, em, i, img, svg") if (text := seen_in(c))
        ]
        if len(cells) < 2:
            continue
        check = _row(cells, row)
        if check is not None:
            yield check


def _inline(row: LexborNode) -> list[str]:
    """The two halves of "name (needed): state" where the state alone stands in a box of its own, or in none."""
    if row.css("td, th") or len(row.css("span, strong, b, em, i")) > 1:
        return []
    text = clean(row.text(separator=" "))
    name, sign, state = text.rpartition(":") if ":" in text else text.rpartition(" - ")
    few = 0 < len(state.split()) <= 4 and len(name.split()) <= 12
    return [name.strip(), state.strip()] if sign and few and name.strip() else []


def seen_in(node: LexborNode) -> str:
    """What a person sees in a cell: its text, or what its picture stands for."""
    text = clean(node.text(separator=" "))
    if text:
        return text
    for one in [node, *node.css("img, svg, i, span")]:
        a = one.attributes
        if drawn := a.get("alt") or a.get("title") or a.get("aria-label"):
            return clean(drawn)
    return ""


def _row(cells: list[str], row: LexborNode) -> Check | None:
    words = lexicon()
    rest = " ".join(cells[1:])
    marks = " ".join(filter(None, (n.attributes.get("class") for n in [row, *row.css("[class]")])))
    missing = words.says("missing", rest) or cells[-1].lower() in ("no", "nein", "non", "✗", "✘")
    present = words.says("present", rest) or cells[-1] in ("✓", "✔")
    if not (missing or present or words.says("required", rest) or words.says("optional", rest)):
        return None
    bad_mark = RED_MARK.search(marks) is not None
    required: bool | None = None
    if words.says("optional", " ".join(cells)):
        required = False
    elif words.says("required", rest):
        required = True
    return Check(cells[0], not (missing or bad_mark), required, cells[-1])
