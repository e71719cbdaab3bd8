"""What explains a field, told apart from what names it.

Rules:
1. What comes first in a label, or in the box of one field, names it; a sentence set apart behind that explains it.
2. What is in brackets, or short, is the label's own: "(again)", "(optional)", "of the database".
3. What a field points to as its description (WAI-ARIA 1.2, 5.2.8.4) explains it, wherever it stands.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from selectolax.lexbor import LexborNode

CONTROLS = ("select", "textarea", "button", "input")
APART = ("small", "em", "i", "span", "p", "div", "font", "tt", "code", "blockquote")
DRESSED = re.compile(
    r"(?<![a-z])(?:hints?|help(?:er|text)?|notes?|desc(?:ription)?|expl(?:ain|anation)?|tips?|hilfe|hinweis|aide|ayuda|aiuto"
    r"|uitleg|toelichting|pomoc|opis|ajuda)(?![a-z])",
    re.I,
)
SMALL = ("small", "em", "i")
# Fewer words are a part of the label: "of the database", "(if there is one)".
SENTENCE = 4
MOST_LABEL, MOST_WORDS, MOST_HINT = 60, 6, 300


def clean(text: str) -> str:
    return re.sub(r"\s+", " ", text).strip()


def parts_of(node: LexborNode) -> Iterator[tuple[str, bool]]:
    """The texts in a node one by one, without those of controls; and whether each is set apart to explain."""
    for child in node.iter(include_text=True):
        if child.tag == "-text":
            if text := clean(child.text() or ""):
                yield text, False
        elif child.tag not in CONTROLS:
            if text := apart(child):
                yield text, True
            else:
                yield from parts_of(child)


def apart(node: LexborNode) -> str:
    """The words of a node that is set apart to explain, or ""."""
    if node.tag not in APART or any(node.css_first(tag) is not None for tag in CONTROLS):
        return ""
    text = clean(node.text(separator=" "))
    dressed = DRESSED.search(node.attributes.get("class") or "") is not None
    return text if text and not text.startswith("(") and (dressed or explains(text)) else ""


def explains(text: str) -> bool:
    """Whether words are as many as a sentence has."""
    return len(text.split()) >= SENTENCE


def named_and_explained(node: LexborNode) -> tuple[str, str]:
    """What names a field in its label, and what explains it."""
    named: list[str] = []
    explained: list[str] = []
    for text, aside in parts_of(node):
        # What comes first names it, however it is dressed.
        (explained if aside and named else named).append(text)
    return clean(" ".join(named)), clean(" ".join(explained))[:MOST_HINT]


def set_apart(node: LexborNode) -> bool:
    """Whether a text before a field is there to explain: by its dress, or by its length."""
    said = clean(node.text(separator=" ") or "")
    dressed = node.tag != "-text" and DRESSED.search(node.attributes.get("class") or "") is not None
    return dressed or node.tag in SMALL or explains(said)


def first_of(texts: Sequence[LexborNode]) -> str:
    """Of the texts before a field in its box, in their order, the one that names it; "" when that cannot be told."""
    first, others = clean(texts[0].text(separator=" ") or ""), texts[1:]
    short = len(first) <= MOST_LABEL and len(first.split()) <= MOST_WORDS and not first.endswith((".", "!"))
    return first if others and short and all(map(set_apart, others)) else ""


def pointed_to(node: LexborNode) -> str:
    """What a field points to as its description, or ""."""
    names = (node.attributes.get("aria-describedby") or "").split()
    above = node
    while names and above.parent is not None and above.tag != "body":
        above = above.parent
    found = [
        one.text(separator=" ") for name in names[:3] for one in above.css("[id]") if one.attributes.get("id") == name
    ]
    return clean(" ".join(found))[:MOST_HINT]
