"""Read a Snapshot: what a person would see on the page. Knows HTML and its habits, no application."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import urljoin

from selectolax.lexbor import LexborHTMLParser, LexborNode

from highshelf.core.pages.checks import read_checks
from highshelf.core.pages.labels import clean, label_of, near_of
from highshelf.core.pages.lexicon import fold, lexicon
from highshelf.core.pages.page import Button, Field, Form, Link, Notice, Option, Page, Shown
from highshelf.core.pages.snapshot import Snapshot

PHP_FAULT = re.compile(
    r"\b(?:Fatal error|Parse error|Uncaught \w+(?:Exception|Error)|Warning|Deprecated|Notice)\b: .{0,300}?on line \d+",
    re.S,
)
# Words in class names that say what a box is for; "alert" and "notice" alone say nothing.
BAD_MARK = re.compile(
    r"(?<![a-z])(error|errors|danger|fail|failed|failure|bad|invalid|complaint|refusal)(?![a-z])", re.I
)
GOOD_MARK = re.compile(r"(?<![a-z])(success|ok|done|good)(?![a-z])", re.I)
MILD_MARK = re.compile(r"(?<![a-z])(info|warning|hint|note|help)(?![a-z])", re.I)
NOT_A_NOTICE = {
    "html",
    "body",
    "form",
    "table",
    "tbody",
    "tr",
    "main",
    "script",
    "style",
    "head",
    "input",
    "select",
    "button",
    "td",
    "th",
}


def read(snapshot: Snapshot) -> Page:
    """The meaning of a page. Never raises on odd HTML: what cannot be read is not there."""
    tree = LexborHTMLParser(snapshot.html or "<html></html>")
    for node in tree.css("script, style, template, noscript"):
        node.decompose()
    base_node = tree.css_first("base[href]")
    base = _join(snapshot.url, (base_node.attributes.get("href") or "") if base_node else "")
    body = tree.body or tree.root
    text = clean(body.text(separator=" ")) if body else ""
    title = tree.css_first("title")
    return Page(
        url=snapshot.url,
        status=snapshot.status,
        title=clean(title.text()) if title else "",
        headings=tuple(clean(n.text(separator=" ")) for n in tree.css("h1, h2, h3, legend")),
        text=text,
        forms=tuple(_forms(tree, base)),
        links=tuple(_links(tree, base)),
        notices=tuple(_notices(tree)),
        checks=tuple(read_checks(tree)),
        shown=tuple(_shown(tree)),
        refresh=_refresh(tree, base, snapshot),
        php_faults=tuple(
            clean(re.sub(r"<[^>]+>", " ", m.group(0)))
            for m in PHP_FAULT.finditer(re.sub(r"</?(b|br) ?/?>", "", snapshot.html))
        ),
    )


def _join(base: str, href: str) -> str:
    """The address a reference means; the page's own where the reference cannot be read."""
    try:
        return urljoin(base, href)
    except ValueError:
        return base


def _forms(tree: LexborHTMLParser, base: str) -> Iterator[Form]:
    for node in tree.css("form"):
        inside = list(node.css("input, select, textarea, button"))
        identity = node.attributes.get("id")
        if identity:
            outside = tree.css(f'[form="{identity}"]')
            inside += [
                n for n in outside if n.tag in ("input", "select", "textarea", "button") and not _within(n, node)
            ]
        method = "post" if (node.attributes.get("method") or "").strip().lower() == "post" else "get"
        action = _join(base, (node.attributes.get("action") or "").strip())
        fields = tuple(f for f in (_field(n, tree) for n in inside if not _is_button(n)) if f is not None)
        buttons = tuple(_button(n, base) for n in inside if _is_button(n))
        multipart = "multipart" in (node.attributes.get("enctype") or "").lower()
        yield Form(action, method, multipart, fields, buttons)  # type: ignore[arg-type]


def _within(node: LexborNode, ancestor: LexborNode) -> bool:
    parent = node.parent
    while parent is not None:
        if parent == ancestor:
            return True
        parent = parent.parent
    return False


def _is_button(node: LexborNode) -> bool:
    if node.tag == "button":
        return True
    return node.tag == "input" and (node.attributes.get("type") or "").lower() in ("submit", "button", "image", "reset")


def _button(node: LexborNode, base: str) -> Button:
    a = node.attributes
    label = clean(node.text(separator=" ")) or a.get("value") or a.get("alt") or a.get("title") or ""
    target = a.get("formaction") or ""
    if not target and a.get("onclick"):
        found = re.search(r"location(?:\.href)?\s*=\s*['\"]([^'\"]+)", a.get("onclick") or "")
        target = found.group(1) if found else ""
    kind = (a.get("type") or ("submit" if node.tag == "button" else "")).lower()
    # A plain button or a reset does nothing without JavaScript.
    dead = kind == "reset" or (kind == "button" and not target)
    return Button(
        a.get("name") or "",
        a.get("value") or "",
        label,
        "disabled" in a or dead,
        _join(base, target) if target else "",
    )


def _field(node: LexborNode, tree: LexborHTMLParser) -> Field | None:
    a = node.attributes
    name = a.get("name") or ""
    if not name:
        return None
    kind = (a.get("type") or "text").lower() if node.tag == "input" else str(node.tag)
    options: tuple[Option, ...] = ()
    value = a.get("value") or ""
    if node.tag == "select":
        options = tuple(_option(o) for o in node.css("option"))
        value = next((o.value for o in options if o.selected), options[0].value if options else "")
    elif node.tag == "textarea":
        value = node.text()
    elif kind in ("checkbox", "radio") and a.get("value") is None:
        value = "on"
    label = "" if kind == "hidden" else label_of(node, tree)
    return Field(
        name=name,
        kind=kind,
        value=value,
        label=label,
        near="" if kind == "hidden" else near_of(node),
        options=options,
        required="required" in a or a.get("aria-required") == "true" or label.rstrip().endswith("*"),
        checked="checked" in a,
        disabled="disabled" in a,
        autocomplete=(a.get("autocomplete") or "").lower(),
    )


def _option(node: LexborNode) -> Option:
    label, value = clean(node.text()), node.attributes.get("value")
    return Option(label if value is None else value, label, "selected" in node.attributes)


def _links(tree: LexborHTMLParser, base: str) -> Iterator[Link]:
    for node in tree.css("a[href]"):
        href = (node.attributes.get("href") or "").strip()
        if href and not href.lower().startswith(("javascript:", "mailto:", "#", "data:")):
            yield Link(_join(base, href), clean(node.text(separator=" ")) or node.attributes.get("title") or "")


def _notices(tree: LexborHTMLParser) -> Iterator[Notice]:
    seen: set[str] = set()
    for node in tree.css("[class], [role=alert], [role=status], [style*=color], font[color], li, strong"):
        if node.tag in NOT_A_NOTICE:
            continue
        text = clean(node.text(separator=" "))
        if not text or len(text) > 1500 or text in seen:
            continue
        tone = _tone(node, text)
        if tone != "neutral":
            seen.add(text)
            yield Notice(text, tone)  # type: ignore[arg-type]


def _tone(node: LexborNode, text: str) -> str:
    """What a box is: by its class names first, by its words where they leave it open."""
    if node.css("input, select, textarea"):
        return "neutral"
    a, words = node.attributes, lexicon()
    marks = a.get("class") or ""
    fails, succeeds = words.says("failure", text), words.says("success", text)
    if BAD_MARK.search(marks):
        return "complaint"
    if (GOOD_MARK.search(marks) or succeeds) and not fails:
        return "success"
    coloured = "color" in (a.get("style") or "") or bool(a.get("color"))
    loud = a.get("role") == "alert" or coloured or "alert" in marks
    if loud and fails:
        return "complaint"
    if a.get("role") == "alert" and not MILD_MARK.search(marks) and not GOOD_MARK.search(marks):
        return "complaint"
    return "neutral"


def _shown(tree: LexborHTMLParser) -> Iterator[Shown]:
    for node in tree.css("code, pre, kbd, samp, textarea, input[readonly]"):
        text = node.attributes.get("value") if node.tag == "input" else node.text()
        if text and text.strip():
            yield Shown(text.strip(), _words_before(node))


def _words_before(node: LexborNode) -> str:
    """The words that stand before a thing: in its own box, and before that box when they are few."""
    before = ""
    current: LexborNode | None = node
    for _ in range(3):
        if current is None or current.tag in ("body", "html"):
            break
        previous = current.prev
        while previous is not None and len(before) < 300:
            before = clean(f"{previous.text(separator=' ') or ''} {before}")
            previous = previous.prev
        if len(before) >= 8:
            break
        current = current.parent
    return before[-300:]


def _refresh(tree: LexborHTMLParser, base: str, snapshot: Snapshot) -> str:
    content = snapshot.headers.get("refresh", "")
    for node in tree.css("meta[http-equiv]"):
        if (node.attributes.get("http-equiv") or "").lower() == "refresh":
            content = node.attributes.get("content") or ""
    found = re.search(r"url\s*=\s*['\"]?([^'\";]+)", content, re.I)
    return _join(base, found.group(1).strip()) if found else ""


def says_login(page: Page) -> Form | None:
    """The page's login form, or None: one password and a name, with words of signing in; or nothing but these two."""
    words = lexicon()
    for form in page.forms:
        typed = [f for f in form.fields if f.typed]
        passwords = [f for f in typed if f.kind == "password"]
        texts = [f for f in typed if f.kind in ("text", "email")]
        if len(passwords) != 1 or not 1 <= len(texts) <= 2 or len(typed) > 6:
            continue
        if any(lexicon_group("database", f) for f in typed):
            continue
        heads, pressed = " ".join([page.title, *page.headings]), " ".join(b.label for b in form.buttons)
        if not words.says("login", pressed) and words.says("making", f"{pressed} {' '.join(page.headings)}"):
            continue
        said = f"{heads} {pressed} {form.action}"
        if words.says("login", said) or passwords[0].autocomplete == "current-password":
            return form
        bare = len(texts) == 1 and len([f for f in typed if f.kind not in ("checkbox", "select")]) == 2
        named = words.says("identity", f"{texts[0].label} {texts[0].name}")
        if bare and named and not words.says("installing", heads):
            return form
    return None


def lexicon_group(group: str, field: Field) -> bool:
    """Whether a field's own words belong to a group such as `database`."""
    words = fold(f"{field.label} {field.name}")
    return any(re.search(rf"(?<![a-z]){re.escape(stem)}", words) for stem in lexicon().groups[group])
