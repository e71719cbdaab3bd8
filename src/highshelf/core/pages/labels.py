"""Where the label of a field is, in the order of how often real installers do it so."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from itertools import islice

from selectolax.lexbor import LexborHTMLParser, LexborNode

from highshelf.core.pages.hints import MOST_HINT, clean, first_of, named_and_explained, pointed_to, set_apart

FIELDS = "input, select, textarea, button"
# What stands around one field has few parts; a box with thousands of them is not looked through for each.
MOST_IN_BOX = 8
HEADINGS = ("h1", "h2", "h3", "h4", "h5", "h6", "legend")
GROUPS = ("group", "radiogroup", "region")
# How a box that is a heading is called by whoever dresses it.
MOST_QUESTION = 200
BOLD, BREAKS, MOST_HEADING = ("b", "strong", "big", "u"), ("br", "hr"), 60
DRESSED = re.compile(r"(?:^|[\s_-])(?:head(?:er|ing|line)?|title|legend)(?:$|[\s_-])", re.I)


def labels_in(tree: LexborHTMLParser) -> dict[str, list[LexborNode]]:
    """The labels of a page by what they are for."""
    found: dict[str, list[LexborNode]] = {}
    for label in tree.css("label[for]"):
        found.setdefault(label.attributes.get("for") or "", []).append(label)
    return found


def label_of(node: LexborNode, labels: Mapping[str, Sequence[LexborNode]]) -> str:
    """What a person reads at the field, or ""."""
    a = node.attributes
    # A control of the page's own making says by some attribute which part of it a label is for.
    keys = (a.get("id"), a.get("name"), *(a.values() if "-" in (node.tag or "") else ()))
    for key in keys:
        if key and len(key) < 200:
            for label in labels.get(key, ()):
                if text := _own_text(label):
                    return text
    if (a.get("type") or "").lower() in ("checkbox", "radio") and (text := _wrapping(node) or _text_after(node)):
        return text
    for way in (
        _wrapping,
        _definition,
        _cell,
        _cell_above,
        _cell_behind,
        _sibling_label,
        _attribute,
        _behind,
        _text_before,
    ):
        if text := way(node):
            return text
    return ""


def hint_of(node: LexborNode, labels: Mapping[str, Sequence[LexborNode]]) -> str:
    """The sentence that explains a field: what it points to, what stands apart in its label, or beside it in its own box; or ""."""
    if text := pointed_to(node):
        return text
    a = node.attributes
    named = next((one for key in (a.get("id"), a.get("name")) if key for one in labels.get(key, ())), None)
    label = named or _label_around(node)
    if label is not None and (text := named_and_explained(label)[1]):
        return text
    box = node.parent
    if box is None or box.tag in ("form", "body", "label", "fieldset") or not _holds_one(box):
        return ""
    told = [one for one in _children(box) if one.tag not in ("-text", "label") and set_apart(one)]
    return clean(" ".join(one.text(separator=" ") for one in told if one.mem_id != node.mem_id))[:MOST_HINT]


def _label_around(node: LexborNode) -> LexborNode | None:
    parent = node.parent
    while parent is not None and parent.tag not in ("label", "form"):
        parent = parent.parent
    return parent if parent is not None and parent.tag == "label" else None


def _holds_one(box: LexborNode) -> bool:
    """Whether a box has few parts, and one field among them."""
    return len(list(islice(box.iter(), MOST_IN_BOX + 1))) <= MOST_IN_BOX and len(_shown_fields(box)) == 1


def question_of(node: LexborNode) -> tuple[str, str] | None:
    """Label and heading of a field without words of its own, where a page asks right before a form of one field or two.

    What is asked before two is the heading of both, and the label of neither.
    """
    form = node.parent
    while form is not None and form.tag != "form":
        form = form.parent
    if form is None:
        return None
    fields = [f for f in _shown_fields(form) if f.tag != "button"]
    if not 1 <= len(fields) <= 2:
        return None
    before = _element(form, back=True)
    # A complaint may stand between the question and the form.
    for _ in range(2):
        if before is None or before.tag not in ("p", "div", "span", "-text"):
            return None
        text = clean(before.text(separator=" ") or "")
        if text.partition("?")[1] and len(text) <= MOST_QUESTION and not _has_fields(before):
            return (text.partition("?")[0] if len(fields) == 1 else ""), text
        before = _element(before, back=True)
    return None


def _has_fields(node: LexborNode) -> bool:
    return node.tag != "-text" and node.css_first(FIELDS) is not None


def near_of(node: LexborNode) -> str:
    """The legend or heading the field stands under, or ""."""
    current: LexborNode | None = node
    while current is not None and current.tag not in ("body", "html"):
        if current.tag == "fieldset":
            legend = current.css_first("legend")
            if legend is not None:
                return clean(legend.text(separator=" "))
        if named := _named_itself(current):
            return named
        previous = current.prev
        while previous is not None:
            if (
                previous.tag in HEADINGS
                or _heads_rows(previous)
                or _dressed_as_heading(previous)
                or _stands_alone(previous)
            ):
                return clean(previous.text(separator=" "))
            previous = previous.prev
        current = current.parent
    return ""


def _named_itself(node: LexborNode) -> str:
    """What a table's caption says, or the words that a group names as its own (WAI-ARIA 1.2, 5.2.8.4)."""
    if node.tag == "table":
        caption = next((one for one in node.iter() if one.tag == "caption"), None)
        return clean(caption.text(separator=" ")) if caption is not None else ""
    a = node.attributes
    if a.get("role") not in GROUPS and node.tag not in ("fieldset", "section"):
        return ""
    named = (a.get("aria-labelledby") or "").split()
    above = node
    while named and above.parent is not None and above.tag != "form":
        above = above.parent
    words = [one.text(separator=" ") for name in named for one in above.css("[id]") if one.attributes.get("id") == name]
    return clean(" ".join(words) or a.get("aria-label") or "")


def _beside(node: LexborNode, *, back: bool) -> LexborNode | None:
    """What stands before or behind a thing, gaps aside."""
    other = node.prev if back else node.next
    while other is not None and (
        other.tag == "-comment" or (other.tag == "-text" and not (other.text(deep=False) or "").strip())
    ):
        other = other.prev if back else other.next
    return other


def _stands_alone(node: LexborNode) -> bool:
    """Words in bold on a line of their own, or a paragraph of nothing else, that no field follows at once: a heading of old pages."""
    if node.tag == "p":
        inner = list(node.iter())
        bold = inner[0] if len(inner) == 1 and inner[0].tag in BOLD else None
        if bold is None or clean(bold.text(separator=" ")) != clean(node.text(separator=" ")):
            return False
    elif node.tag not in BOLD:
        return False
    text, before, behind = clean(node.text(separator=" ")), _beside(node, back=True), _beside(node, back=False)
    if not 0 < len(text) <= MOST_HEADING or node.css_first(FIELDS) is not None or behind is None:
        return False
    lines = (*BREAKS, "p", "table", "div", "ul", "ol", "dl", "form", "fieldset")
    if (before is not None and before.tag not in lines) or (node.tag != "p" and behind.tag not in lines):
        return False
    after = _beside(behind, back=False) if behind.tag in BREAKS else behind
    return after is None or after.tag not in FIELDS.split(", ")


def _dressed_as_heading(node: LexborNode) -> bool:
    """A box or a line that heads what follows: by its element, or by the name of its looks."""
    if node.tag not in ("header", "div", "p", "span", "strong", "summary") or node.css_first(FIELDS) is not None:
        return False
    return node.tag in ("header", "summary") or DRESSED.search(node.attributes.get("class") or "") is not None


def _heads_rows(node: LexborNode) -> bool:
    """A row of a table that is nothing but a heading for those that follow."""
    if node.tag != "tr" or node.css(FIELDS):
        return False
    cells = node.css("td, th")
    return len(cells) == 1 and (cells[0].tag == "th" or "colspan" in cells[0].attributes)


def _own_text(label: LexborNode) -> str:
    """A label's words without those of the controls inside it, and without the sentence that explains."""
    return named_and_explained(label)[0]


def _wrapping(node: LexborNode) -> str:
    label = _label_around(node)
    return _own_text(label) if label is not None else ""


def _definition(node: LexborNode) -> str:
    parent = node.parent
    while parent is not None and parent.tag not in ("dd", "form"):
        parent = parent.parent
    if parent is None or parent.tag != "dd":
        return ""
    previous = parent.prev
    while previous is not None and previous.tag != "dt":
        previous = previous.prev
    return clean(previous.text(separator=" ")) if previous is not None else ""


def _cell(node: LexborNode) -> str:
    parent = node.parent
    while parent is not None and parent.tag not in ("td", "th", "form"):
        parent = parent.parent
    if parent is None or parent.tag == "form":
        return ""
    previous = parent.prev
    while previous is not None:
        if previous.tag in ("td", "th") and not previous.css(FIELDS) and (text := clean(previous.text(separator=" "))):
            return text
        previous = previous.prev
    return ""


def _cell_above(node: LexborNode) -> str:
    """The cell over the field's own, in a row of labels over a row of fields."""
    cell: LexborNode | None = node
    while cell is not None and cell.tag not in ("td", "th", "form"):
        cell = cell.parent
    row = cell.parent if cell is not None and cell.tag != "form" else None
    if cell is None or row is None or row.tag != "tr":
        return ""
    above = row.prev
    while above is not None and above.tag != "tr":
        above = above.prev
    mine = [c for c in row.iter() if c.tag in ("td", "th")]
    theirs = [c for c in above.iter() if c.tag in ("td", "th")] if above is not None and not above.css(FIELDS) else []
    if len(mine) < 2 or len(mine) != len(theirs):
        return ""
    at = next((n for n, one in enumerate(mine) if one == cell), None)
    return clean(theirs[at].text(separator=" ")) if at is not None else ""


def _cell_behind(node: LexborNode) -> str:
    """The cell on the other side, in a row that begins with its field."""
    cell: LexborNode | None = node
    while cell is not None and cell.tag not in ("td", "th", "form"):
        cell = cell.parent
    if cell is None or cell.tag == "form" or cell.parent is None:
        return ""
    cells = [c for c in cell.parent.iter() if c.tag in ("td", "th")]
    if len(cells) != 2 or cells[0] != cell or cells[1].css_first(FIELDS) is not None:
        return ""
    text = clean(cells[1].text(separator=" "))
    return text if len(text) <= 60 else ""


def _sibling_label(node: LexborNode) -> str:
    """A label without `for` in the same small box: the field's, when it is the only field there."""
    box = node.parent
    for _ in range(2):
        if box is None or box.tag in ("form", "body"):
            return ""
        visible = [f for f in box.css(FIELDS) if (f.attributes.get("type") or "") not in ("hidden", "submit")]
        labels = [label for label in box.css("label") if not label.attributes.get("for")] or box.css("label")
        if len(labels) == 1 and len(visible) == 1:
            return _own_text(labels[0])
        box = box.parent
    return ""


def _attribute(node: LexborNode) -> str:
    a = node.attributes
    return clean(a.get("aria-label") or a.get("placeholder") or a.get("title") or "")


def _behind(node: LexborNode) -> str:
    """The words behind a field, in a form that has all of them there: what stands before belongs to the field before."""
    box = _own_box(node)
    if box is None or not (text := _only_behind(box, node)):
        return ""
    beside = [one for one in (_element(box, back=True), _element(box, back=False)) if one is not None]
    return text if any(_ends_with_words(one) for one in beside) else ""


def _own_box(node: LexborNode) -> LexborNode | None:
    """The box around a field that has no other one in it."""
    box = node.parent
    if box is None or box.tag in ("form", "body", "td", "dd", "label", "fieldset"):
        return None
    return box if _holds_one(box) else None


def _shown_fields(box: LexborNode) -> list[LexborNode]:
    return [
        f for f in box.css(FIELDS) if (f.attributes.get("type") or "").lower() not in ("hidden", "submit", "button")
    ]


def _only_behind(box: LexborNode, node: LexborNode) -> str:
    """The text behind a field in its box, where none stands before it."""
    before = [n for n in _children(box) if n.mem_id != node.mem_id]
    at = next((i for i, n in enumerate(_children(box)) if n.mem_id == node.mem_id), -1)
    if at < 0 or any(clean(n.text(separator=" ") or "") for n in before[:at]):
        return ""
    text = clean(" ".join(n.text(separator=" ") or "" for n in before[at:]))
    return text if len(text) <= 80 else ""


def _children(box: LexborNode) -> list[LexborNode]:
    return list(box.iter(include_text=True))


def _element(box: LexborNode, *, back: bool) -> LexborNode | None:
    beside = box.prev if back else box.next
    while beside is not None and beside.tag == "-text" and not clean(beside.text() or ""):
        beside = beside.prev if back else beside.next
    return beside


def _ends_with_words(box: LexborNode) -> bool:
    """Whether a box is such a one, too: a field, and words behind it alone."""
    fields = _shown_fields(box) if box.tag not in ("-text",) else []
    return len(fields) == 1 and fields[0].tag != "button" and bool(_only_behind(box, fields[0]))


def _text_after(node: LexborNode) -> str:
    """The words right behind a box to tick, as far as the next control."""
    words: list[str] = []
    following = node.next
    while following is not None and following.tag not in ("input", "select", "textarea", "button", "br", "label"):
        if text := clean(following.text(separator=" ") or ""):
            words.append(text)
        following = following.next
    return clean(" ".join(words))[:200]


def caption_of(node: LexborNode) -> str:
    """What stands before choices of one name, which is what they are about: their own labels are only the answers."""
    name = node.attributes.get("name") or ""
    box = node.parent
    for _ in range(5):
        if box is None or box.tag in ("form", "body"):
            return ""
        alike = [n for n in box.css("input[type=radio]") if n.attributes.get("name") == name]
        if len(alike) > 1:
            first = alike[0]
            start = first.parent if first.parent is not None and first.parent.tag == "label" else first
            said = _text_before(start)
            return "" if any(said and said == clean(n.text(separator=" ") or "") for n in box.css("option")) else said
        box = box.parent
    return ""


def _named_in_box(node: LexborNode) -> str:
    """The name of a field that stands alone in its box, behind its name and a sentence about it."""
    box = node.parent
    if box is None or box.tag in ("form", "body", "label", "fieldset"):
        return ""
    if not _holds_one(box):
        return ""
    texts = []
    for child in _children(box):
        if child.mem_id == node.mem_id:
            break
        if clean(child.text(separator=" ") or "").strip(" :*.-–"):
            texts.append(child)
    return first_of(texts) if texts else ""


def _text_before(node: LexborNode) -> str:
    if named := _named_in_box(node):
        return named
    current: LexborNode = node
    for _ in range(3):
        previous = current.prev
        while previous is not None:
            if previous.tag in ("input", "select", "textarea"):
                return ""
            text = clean(previous.text(separator=" ") or "")
            # A colon behind words that are set apart is no label.
            if text.strip(" :*.-–"):
                return text[-80:]
            previous = previous.prev
        if current.parent is None or current.parent.tag in ("form", "body"):
            return ""
        current = current.parent
    return ""
