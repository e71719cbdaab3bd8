"""Tables of requirements: which are red, and whether that matters."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence

from selectolax.lexbor import LexborHTMLParser, LexborNode

from highshelf.core.pages.hints import clean
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Check
from highshelf.core.pages.standing import drawn, stands

# Whole class names, or what stands in longer ones such as `text-danger`, `is-red`, `reqfail`; `no-gutters` is no refusal.
RED_MARK = re.compile(
    r"(?<![\w-])(?:(?:text|bg|is|status|icon|color|state|label)-)?(?:bad|no|red|missing|problem)(?![\w-])"
    r"|(?<![a-z])(?:danger|nok|wrong|times|cross|invalid|negative|critical)(?![a-z])|error|fail",
    re.I,
)


# A state that is written in a colour of its own, without a class.
RED_INK = re.compile(
    r"(?<![\w-])color\s*[:=]\s*[\"']?\s*(?:(?:dark)?red|crimson|firebrick|#(?:f|e|d|c|b|a)00\b|#[a-f][0-9a-f][0-3][0-9a-f][0-4][0-9a-f])",
    re.I,
)
GREEN_INK = re.compile(
    r"(?<![\w-])color\s*[:=]\s*[\"']?\s*(?:(?:dark|lime|forest|sea)?green|#0[5-9a-f]0\b|#[0-4][0-9a-f][6-9a-f][0-9a-f][0-4][0-9a-f])",
    re.I,
)
GREEN_MARK = re.compile(
    r"(?<![a-z])(?:ok|okay|good|success|pass|passed|yes|green|fine|valid|positive|found|check-circle|tick|status|ready)(?![a-z])",
    re.I,
)
MAYBE_INK = re.compile(r"(?<![\w-])color\s*[:=]\s*[\"']?\s*(?:dark)?(?:orange|gold|goldenrod|yellow|amber)", re.I)
MAYBE_MARK = re.compile(
    r"(?<![a-z])(?:warn|warning|yellow|orange|note|notice|optional|recommended|info|hint)(?![a-z])", re.I
)
# Longer ones are prose.
MOST_LABEL, MOST_WORDS = 120, 12


def read_checks(tree: LexborHTMLParser, unseen: Collection[int] = ()) -> Iterator[Check]:
    """Rows of tables and lists that say of a thing whether it is there."""
    yield from _in_boxes(tree, unseen)
    yield from _in_definitions(tree, unseen)
    yield from _by_marks(tree, unseen)


def _in_definitions(tree: LexborHTMLParser, unseen: Collection[int]) -> Iterator[Check]:
    """Lists of terms, each with its state behind it."""
    for term in tree.css("dt"):
        state = term.next
        while state is not None and state.tag == "-text":
            state = state.next
        if state is None or state.tag != "dd" or term.mem_id in unseen or state.css("input, select, textarea, button"):
            continue
        check = _row([seen_in(term), seen_in(state)], term)
        if check is not None and check.label and len(check.label) <= MOST_LABEL:
            yield check


def _by_marks(tree: LexborHTMLParser, unseen: Collection[int]) -> Iterator[Check]:
    """Rows of one list that differ by nothing but their class: green, red, and what is only recommended."""
    boxes = {
        row.parent.mem_id: row.parent for row in tree.css("li[class], p[class], div[class]") if row.parent is not None
    }
    for box in boxes.values():
        rows = [n for n in box.iter() if n.tag in ("li", "p", "div")]
        marks = [n.attributes.get("class") or "" for n in rows]
        plain = all(
            m and n.mem_id not in unseen and not any(c.tag in BOXES for c in n.iter())
            for n, m in zip(rows, marks, strict=True)
        )
        states = [_state(m) for m in marks]
        # One green row at least, and none without a mark: else these are boxes like any others.
        if len(rows) < 2 or not plain or None in states or "green" not in states:
            continue
        labels = [clean(row.text(separator=" ")) for row in rows]
        # Sentences are messages that stand above each other.
        if any((text.endswith((".", "!")) and " " in text) or len(text.split()) > MOST_WORDS for text in labels):
            continue
        for row, label, state in zip(rows, labels, states, strict=True):
            if 0 < len(label) <= MOST_LABEL and not _tells_itself(row):
                yield Check(label, state == "green", False if state == "maybe" else None, "")


BOXES = frozenset(("input", "select", "textarea", "button", "form", "tr", "li", "div", "p", "table", "ul", "ol", "a"))


def _tells_itself(row: LexborNode) -> bool:
    """Whether a row says in words how it stands, and is read by them."""
    cells = _inline(row)
    return (bool(cells) and _row(cells, row) is not None) or len(
        [c for c in row.css("span, strong, b, em, i, img, svg") if seen_in(c)]
    ) > 0


def _state(mark: str) -> str | None:
    if MAYBE_MARK.search(mark):
        return "maybe"
    if RED_MARK.search(mark):
        return "red"
    return "green" if GREEN_MARK.search(mark) else None


def _in_boxes(tree: LexborHTMLParser, unseen: Collection[int]) -> Iterator[Check]:
    unread: dict[int, list[tuple[LexborNode, list[str]]]] = {}
    for row in tree.css("tr, li, div"):
        if row.mem_id in unseen:
            continue
        # css() finds the row itself too. A box with boxes in it is no row, they are.
        # Its own children first: looking through all that is inside costs the square of how deep boxes nest.
        if any(c.tag in BOXES for c in row.iter()):
            continue
        if any(n != row for n in row.css("input, select, textarea, button, form, tr, li, div, p")):
            continue
        cells = _inline(row) or [
            text for c in row.css("td, th, span, strong, b, em, i, img, svg") if (text := seen_in(c))
        ]
        if len(cells) < 2 and len(cells := _ended(row)) < 2:
            continue
        check = _row(cells, row)
        if check is not None:
            yield check
        elif row.parent is not None:
            unread.setdefault(row.parent.mem_id, []).append((row, cells))
    for rows in unread.values():
        yield from _unread(rows)


def _unread(rows: Sequence[tuple[LexborNode, list[str]]]) -> Iterator[Check]:
    """Rows of one list whose words say nothing here, and whose marks or pictures do: all have one, and one at least is green."""
    states = [_state(_marks(row)) for row, _ in rows]
    if len(rows) < 2 or None in states or "green" not in states:
        return
    for (_, cells), state in zip(rows, states, strict=True):
        if 0 < len(cells[0]) <= MOST_LABEL:
            yield Check(cells[0], state == "green", False if state == "maybe" else None, cells[-1], unread=True)


def _marks(row: LexborNode) -> str:
    """Class names of a row and of what stands in it, and what its pictures are called."""
    pictures = (node.attributes.get("src") or "" for node in row.css("img[src]"))
    names = (p.rsplit("/", 1)[-1].rpartition(".")[0] for p in pictures)
    return " ".join(filter(None, (*(n.attributes.get("class") for n in [row, *row.css("[class]")]), *names)))


def _inline(row: LexborNode) -> list[str]:
    """The two halves of "name (needed): state" where the state alone stands in a box of its own, or in none."""
    if row.css("td, th") or len(row.css("span, strong, b, em, i")) > 1:
        return []
    text = clean(row.text(separator=" "))
    name, sign, state = text.rpartition(":") if ":" in text else text.rpartition(" - ")
    few = 0 < len(state.split()) <= 4 and len(name.split()) <= 12
    return [name.strip(), state.strip()] if sign and few and name.strip() else []


def _ended(row: LexborNode) -> list[str]:
    """A few words, and a state that is set apart at their end."""
    apart = row.css("b, strong, em, i, span, font, small, mark")
    text = clean(row.text(separator=" "))
    state = clean(apart[-1].text(separator=" ")) if apart else ""
    name = text.removesuffix(state).strip(" :-–…") if state and text.endswith(state) else ""
    return [name, state] if 0 < len(name.split()) <= 12 and len(state.split()) <= 6 else []


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
    ink = " ".join(
        f"{n.attributes.get('style') or ''} color={n.attributes.get('color') or ''}"
        for n in row.css("[style], [color]")
    )
    red_ink, green_ink = RED_INK.search(ink) is not None, GREEN_INK.search(ink) is not None
    unwritten = words.says("unable", rest) and words.says("writing", rest)
    state = (drawn(cells[0]) or stands(rest)) if len(rest.split()) <= MOST_WORDS else ""
    listed = words.says("missing", rest) or cells[-1].lower() in ("no", "nein", "non", "✗", "✘")
    missing = unwritten or state in ("bad", "maybe") or (listed and state != "fine")
    present = state == "fine" or words.says("present", rest) or cells[-1] in ("✓", "✔")
    if not (missing or present or red_ink != green_ink or words.says("required", rest) or words.says("optional", rest)):
        return None
    bad_mark = RED_MARK.search(marks) is not None or (red_ink and not green_ink)
    required: bool | None = None
    if state == "maybe" or words.says("optional", " ".join(cells)) or MAYBE_INK.search(ink):
        required = False
    elif words.says("required", rest):
        required = True
    # The name is what stands before the state, also where a part of it is set apart.
    whole = clean(row.text(separator=" "))
    before = whole[: whole.rfind(cells[-1])].rstrip(" :-–…") if cells[-1] in whole and not row.css("td, th") else ""
    return Check(before or cells[0], not (missing or bad_mark), required, cells[-1], rest)
