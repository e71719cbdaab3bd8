"""Read a Snapshot: what a person would see on the page. Knows HTML and its habits, no application."""

from __future__ import annotations

import itertools
import json
import re
from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import islice
from urllib.parse import unquote, urljoin

from selectolax.lexbor import LexborHTMLParser, LexborNode

from highshelf.core.pages.checks import read_checks
from highshelf.core.pages.dress import looks_of
from highshelf.core.pages.hints import clean
from highshelf.core.pages.labels import caption_of, hint_of, label_of, labels_in, near_of, question_of
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Button, Field, Form, Link, Notice, Option, Page, Shown
from highshelf.core.pages.saying import said
from highshelf.core.pages.shared import parted
from highshelf.core.pages.snapshot import Snapshot

# A fault that ends PHP carries its whole trace before it says where; others say it in one line.
PHP_FAULT = re.compile(
    r"\b(?:Fatal error|Parse error) ?: .{0,4000}?on line \d+|\b(?:Fatal error|Parse error) ?: (?:Uncaught|Allowed|Maximum|syntax).{0,300}"
    r"|\b(?:Uncaught \w+(?:Exception|Error)|Warning|Deprecated|Notice) ?: .{0,300}?on line \d+",
    re.S,
)
# How links say that they are buttons, and lists that they are steps.
DRESS = re.compile(r"(?<![a-z])(?:btn|button|cta)(?![a-z])|button", re.I)
STEPS = re.compile(r"(?<![a-z])(?:steps?|progress|wizard|breadcrumbs?|current|active|stepper)(?![a-z])", re.I)
NOISE = re.compile(r"(?:Warning|Deprecated|Notice|Strict Standards) ?: .*on line \d+")
# Words in class names that say what a box is for; "alert" and "notice" alone say nothing.
BAD_MARK = re.compile(
    r"(?<![a-z])(?:errors?|danger|fail|failed|failure|bad|invalid|complaint|refusal|wrong|problems?|faults?|critical|fatal|negative|rejected"
    r"|incorrect|nok|fehler|erreur|fout)(?![a-z])|error|fail",
    re.I,
)
GOOD_MARK = re.compile(r"(?<![a-z])(?:success|successful|ok|done|good|positive|passed|valid)(?![a-z])", re.I)
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
    "a",
    "label",
    "option",
    "svg",
    "img",
}
UNSEEN = (
    "[hidden], [style*='display:none'], [style*='display: none'], [style*='visibility:hidden'], [style*='visibility: hidden'], "
    ".d-none, .hidden, .hide, .is-hidden, .invalid-feedback, .invalid-tooltip"
)
# document.name.submit(), document.forms[0].submit(), document.getElementById('name').submit(), this.form.submit(), $('#name').submit()
SENDS = re.compile(
    r"(?:document\.(?!forms\b|getElementById\b)(\w+)|forms\[['\"]?(\w+)['\"]?\]|['\"]#?(\w+)['\"]\)|form|closest\([^)]*\))\.(?:requestSubmit|submit)\(\s*\)"
)
LEADS = re.compile(
    r"(?:^|[;{(\"'\s])(?:(?:window|self|top|parent|document)\.)?location(?:\.href|\.replace|\.assign)?\s*(?:=|\()\s*\\?['\"]([^'\"\\]+)"
)
# Characters of a script that does nothing but lead on.
LONGEST_LINE = 300
IN_TABLES = ("table", "tbody", "thead", "tfoot", "tr")
FEEDBACK = re.compile(r"invalid-(?:feedback|tooltip)")

# What a page gives those without scripts to go on with.
WITHOUT_SCRIPT = "a[href]:not([href*='://']), form, meta[http-equiv], button, input[type=submit], input[type=image]"


def read(snapshot: Snapshot) -> Page:
    """The meaning of a page. Never raises on odd HTML: what cannot be read is not there."""
    tree = LexborHTMLParser(snapshot.html[:MOST_LETTERS] or "<html></html>")
    scripts = bool(tree.css("script"))
    led = _led_by_script(tree)
    without = " ".join(clean(n.text(separator=" ")) for n in tree.css("noscript"))
    for node in tree.css("script, style, template, noscript"):
        if node.tag == "noscript" and node.css_first(WITHOUT_SCRIPT) is not None:
            # A way on for those who have no scripts, which is us; what only says how to have some leads elsewhere.
            node.unwrap()
            continue
        node.decompose()
    base_node = tree.css_first("base[href]")
    base = _join(snapshot.url, (base_node.attributes.get("href") or "") if base_node else "")
    unseen = _unseen(tree)
    body = tree.body or tree.root
    text = clean(body.text(separator=" ")) if body else ""
    title = tree.css_first("title")
    refresh, refresh_seconds = _refresh(tree, base, snapshot)
    if not refresh and led and tree.css_first("form, a[href], frame") is None:
        refresh, refresh_seconds = _join(base, led[0]), led[1]
    return Page(
        url=snapshot.url,
        status=snapshot.status,
        title=clean(title.text()) if title else "",
        headings=tuple(
            clean(n.text(separator=" "))
            for n in tree.css("h1, h2, h3, legend")[:MOST_HEADINGS]
            if n.mem_id not in unseen
        ),
        text=text,
        forms=tuple(_forms(tree, base)),
        links=tuple(islice(_links(tree, base, unseen), MOST_LINKS)),
        notices=tuple(_notices(tree, unseen)),
        checks=tuple(islice(read_checks(tree, unseen), MOST_ROWS)),
        shown=tuple(_shown(tree)),
        refresh=refresh,
        refresh_seconds=refresh_seconds,
        scripted=scripts,
        php_faults=tuple(
            clean(re.sub(r"<[^>]+>", " ", m.group(0)))
            for m in PHP_FAULT.finditer(re.sub(r"</?(b|br) ?/?>", "", snapshot.html[:MOST_LETTERS]))
        ),
        told=tuple(dict.fromkeys(_told(body, step_lists(tree), unseen))) if body else (),
        needs_script=scripts
        and not refresh
        and not tree.css("form, a[href]")
        and (len(text) < 40 or "javascript" in without.lower()),
        frames=tuple(
            Link(
                _join(base, n.attributes.get("src") or ""), n.attributes.get("title") or n.attributes.get("name") or ""
            )
            for n in tree.css("iframe[src], frame[src]")
        ),
        language=_language(tree),
    )


BLOCKS = frozenset(
    [
        "p",
        "div",
        "li",
        "h1",
        "h2",
        "h3",
        "h4",
        "h5",
        "h6",
        "td",
        "th",
        "dt",
        "dd",
        "section",
        "article",
        "header",
        "footer",
        "main",
        "form",
        "fieldset",
        "legend",
        "table",
        "tr",
        "ul",
        "ol",
        "pre",
        "br",
        "hr",
        "blockquote",
        "body",
        "caption",
        "center",
        "summary",
    ]
)
# What stands on these says what they would do, or is an example: it tells nothing of what has happened.
CODE = frozenset(["code", "kbd", "samp"])
CONTROLS = frozenset(["a", "button", "select", "option", "textarea", "label", "nav"]) | CODE
# One word in the letters of a machine is what a sentence speaks of: a file, a folder, an extension.
ONE_WORD = re.compile(r"\s*[^\s<>]{1,80}\s*")
CONTROL_TAGS = ("input", "select", "textarea", "button")
# A page with more headings is a list.
MOST_HEADINGS = 200
MOST_NODES, MOST_FORMS, MOST_FIELDS, MOST_LINKS, MOST_ROWS, MOST_BOXES = 30_000, 50, 600, 1_000, 400, 2_000
# An installer's page was never seen to be larger than a few hundred kilobytes: what stands behind so much is not read.
MOST_LETTERS = 4 << 20
Labels = Mapping[str, Sequence[LexborNode]]


def _language(tree: LexborHTMLParser) -> str:
    root = tree.css_first("html[lang]")
    return (root.attributes.get("lang") or "").lower()[:2] if root is not None else ""


def _told(body: LexborNode, lists: Iterable[LexborNode], unseen: Collection[int]) -> Iterator[str]:
    """Sentences of a page's prose, in its order."""
    parts: list[str] = []
    skipped = {one.mem_id for one in lists}
    for number, node in enumerate(body.traverse(include_text=True)):
        if number > MOST_NODES:
            break
        if node.tag in BLOCKS:
            yield from _sentences(parts)
            parts = []
        elif (
            node.tag == "-text"
            and (text := node.text(deep=False))
            and text.strip()
            and not _on_control(node, skipped, unseen)
        ):
            parts.append(text)
    yield from _sentences(parts)


def _on_control(node: LexborNode, skipped: Collection[int], unseen: Collection[int]) -> bool:
    """Whether a text stands on a control, in a list of steps, or where nobody sees it."""
    parent, near = node.parent, True
    while parent is not None:
        near = near and parent.tag not in BLOCKS
        if (
            parent.mem_id in unseen
            or (near and parent.tag in CONTROLS and not _is_one_word(parent))
            or (parent.tag in ("ol", "ul", "nav") and parent.mem_id in skipped)
        ):
            return True
        parent = parent.parent
    return False


def _is_one_word(node: LexborNode) -> bool:
    return node.tag in CODE and ONE_WORD.fullmatch(node.text()) is not None


def _sentences(parts: list[str]) -> Iterator[str]:
    for sentence in re.split(r"(?<=[.!?])\s+", clean(" ".join(parts))):
        # What PHP itself says stands in a list of its own.
        if sentence and not NOISE.match(sentence):
            yield sentence[:1000]


def _join(base: str, href: str) -> str:
    """The address a reference means; the page's own where the reference cannot be read."""
    try:
        return urljoin(base, href)
    except ValueError:
        return base


def _forms(tree: LexborHTMLParser, base: str) -> Iterator[Form]:
    labels = labels_in(tree)
    strays, senders, lists = _strays(tree), _senders(tree), list(step_lists(tree))
    for node in tree.css("form")[:MOST_FORMS]:
        inside = [
            n
            for n in node.css("*")
            if (n.tag and n.tag in CONTROL_TAGS) or ("-" in (n.tag or "") and n.attributes.get("name"))
        ]
        inside += strays.get(node.mem_id, [])
        identity = node.attributes.get("id")
        if identity:
            outside = [n for n in tree.css("[form]") if n.attributes.get("form") == identity]
            inside += [
                n for n in outside if n.tag in ("input", "select", "textarea", "button") and not _within(n, node)
            ]
        # No person fills in more: a page with more is no installer's.
        inside = inside[:MOST_FIELDS]
        method = "post" if (node.attributes.get("method") or "").strip().lower() == "post" else "get"
        action = _join(base, (node.attributes.get("action") or "").strip())
        fields = tuple(f for f in (_field(n, labels) for n in inside if not _is_button(n)) if f is not None)
        buttons = tuple(
            replace(_button(n, base), listed=any(_within(n, one) for one in lists)) for n in inside if _is_button(n)
        )
        buttons += tuple(senders.get(node.mem_id, ()))
        fields = _asked_by_heading(parted(fields))
        multipart = "multipart" in (node.attributes.get("enctype") or "").lower()
        yield Form(
            action,
            method,  # type: ignore[arg-type]
            multipart,
            fields,
            buttons,
            node.attributes.get("data-at") or "",
            "data-loose" in node.attributes,
            _is_around(node),
            near_of(node) if not any(f.typed for f in fields) else "",
        )


def _is_around(node: LexborNode) -> bool:
    """Whether an element stands in what is around a page's own content."""
    parent = node.parent
    while parent is not None:
        if parent.tag in AROUND or (parent.attributes.get("role") or "") in AROUND_ROLES:
            return True
        parent = parent.parent
    return False


def _strays(tree: LexborHTMLParser) -> dict[int, list[LexborNode]]:
    """Controls that belong to a form without standing in it, by the form.

    A form that begins between a table and its rows is closed at once by the parser, and goes on owning the controls that follow
    (HTML standard, 13.2.6.4.9 and the form element pointer of 13.2.4.3).
    """
    owner: LexborNode | None = None
    found: dict[int, list[LexborNode]] = {}
    for node in tree.css("form, input, select, textarea, button, [name]:not(form, input, select, textarea, button)"):
        if node.tag not in CONTROL_TAGS and node.tag != "form" and "-" not in (node.tag or ""):
            continue
        if node.tag == "form":
            owner = node if node.parent is not None and node.parent.tag in IN_TABLES and node.child is None else None
        elif owner is not None and not _within_form(node) and not node.attributes.get("form"):
            found.setdefault(owner.mem_id, []).append(node)
    return found


def _senders(tree: LexborHTMLParser) -> dict[int, list[Button]]:
    """Links, and buttons outside, whose script sends a form, by the form: what they say is its button."""
    forms = tree.css("form")
    found: dict[int, list[Button]] = {}
    for node in tree.css("a[href], a[onclick], button[onclick], input[onclick]"):
        script = node.attributes.get("onclick") or ""
        if (href := node.attributes.get("href") or "").lower().startswith("javascript:"):
            script += ";" + unquote(href)
        sent = SENDS.search(script)
        if sent is None or (_is_button(node) and _within_form(node)):
            continue
        named = sent[1] or sent[2] or sent[3] or ""
        form = next((f for f in forms if named and named in (f.attributes.get("name"), f.attributes.get("id"))), None)
        if form is None and named.isdigit() and int(named) < len(forms):
            form = forms[int(named)]
        if form is None and (_within_form(node) or len(forms) == 1):
            form = next((f for f in forms if _within(node, f)), forms[0] if len(forms) == 1 else None)
        if form is not None and (label := _said_by(node)):
            found.setdefault(form.mem_id, []).append(Button("", "", label, "disabled" in node.attributes))
    return found


# Elements and roles around a page's own content (HTML standard, 4.3; WAI-ARIA 1.2, 5.3.4).
AROUND = ("footer", "nav", "aside")
AROUND_ROLES = ("navigation", "contentinfo", "complementary", "search")
# A word or two in brackets at a label's end.
MARK = re.compile(r"\s*[(\[]\s*([^()\[\]]{2,30}?)\s*[)\]]\s*:?\s*$")
# More links than these that say the same are no ways to choose from.
MOST_LIKE = 16
# A heading of several words, or a compound that ends in "name": what all fields under it are about is mostly told by one.
MORE_THAN_GROUP = re.compile(r"\S\s+\S|name$|naam$", re.I)


def _asked_by_heading(fields: tuple[Field, ...]) -> tuple[Field, ...]:
    """What stands over the only field is its label; or over the first, where the others have labels and it says more than what all are about."""
    typed = [f for f in fields if f.typed]
    asked = []
    for near, under in itertools.groupby(typed, key=lambda f: f.near):
        first, *others = under
        if first.label or first.kind in ("checkbox", "radio") or not all(f.label for f in others):
            continue
        if len(typed) == 1 or MORE_THAN_GROUP.search(near.strip()):
            asked.append(first)
    return tuple(replace(f, label=f.near) if any(f is one for one in asked) else f for f in fields)


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
    label = _said_by(node)
    target = a.get("formaction") or ""
    if not target and a.get("onclick"):
        target = _location(a.get("onclick") or "")
    kind = (a.get("type") or ("submit" if node.tag == "button" else "")).lower()
    # A plain button or a reset does nothing without JavaScript, unless all that its script does is to send the form.
    sends = SENDS.search(a.get("onclick") or "") is not None
    dead = kind == "reset" or (kind == "button" and not target and not sends)
    return Button(
        a.get("name") or "",
        a.get("value") or "",
        label,
        "disabled" in a or dead,
        _join(base, target) if target else "",
        a.get("data-at") or "",
        shut="disabled" in a and not dead,
        looks=looks_of(a),
    )


ARROWS = {**dict.fromkeys("◀◄←⇐‹«", "back"), **dict.fromkeys("▶►→⇒›»", "next")}


def _said_by(node: LexborNode) -> str:
    """What a person reads on a button: its text, what its picture stands for, what is said over it; a value only where that is seen."""
    a = node.attributes
    picture = node.css_first("img[alt], svg[aria-label]") if node.tag in ("button", "a") else None
    drawn = (picture.attributes.get("alt") or picture.attributes.get("aria-label")) if picture is not None else ""
    seen = a.get("value") if node.tag == "input" and (a.get("type") or "").lower() != "image" else ""
    ways = (clean(node.text(separator=" ")), seen, drawn, a.get("aria-label"), a.get("title"), a.get("alt"))
    said = [clean(w) for w in ways if w and w.strip()]
    # An arrow is no word: what is said over it comes first, and else which way it points.
    words = next((w for w in said[:1] if re.search(r"\w", w)), "") or next(
        (w for w in said[1:] if re.search(r"[^\W\d]", w)), ""
    )
    arrow = next((ARROWS[c] for w in said[:1] for c in w if c in ARROWS), "")
    return words or arrow or next(iter(said), "") or clean(a.get("value") or "")


def _field(node: LexborNode, labels: Labels) -> Field | None:
    a = node.attributes
    name = a.get("name") or ""
    if not name:
        return None
    kind = (a.get("type") or "text").lower() if node.tag == "input" else str(node.tag)
    if "-" in kind:
        return _custom(node, labels, name)
    options: tuple[Option, ...] = ()
    value = a.get("value") or ""
    if node.tag == "select":
        options = tuple(_option(o) for o in node.css("option"))
        value = next((o.value for o in options if o.selected), options[0].value if options else "")
    elif node.tag == "textarea":
        value = node.text()
    elif kind in ("checkbox", "radio") and a.get("value") is None:
        value = "on"
    label, near = ("", "") if kind == "hidden" else (label_of(node, labels), near_of(node))
    if not label and kind not in ("hidden", "checkbox", "radio"):
        label, near = question_of(node) or (label, near)
    label, needed = _without_mark(label)
    return Field(
        name=name,
        kind=kind,
        value=value,
        label=label,
        near=near,
        options=options,
        required="required" in a or a.get("aria-required") == "true" or needed or label.rstrip().endswith("*"),
        checked="checked" in a,
        disabled="disabled" in a or _switched_off(node),
        fixed="readonly" in a and node.tag != "select" and kind not in ("checkbox", "radio", "hidden"),
        autocomplete=(a.get("autocomplete") or "").lower(),
        hint="" if kind == "hidden" else hint_of(node, labels),
        placeholder=clean(a.get("placeholder") or "") or (caption_of(node) if kind == "radio" else ""),
        multiple=node.tag == "select" and "multiple" in a,
    )


def _without_mark(label: str) -> tuple[str, bool]:
    """A label without "(required)" at its end, which is no part of what is asked for; and whether it was there."""
    found = MARK.search(label)
    if found is None or not lexicon().says("required", found[1]) or lexicon().says("optional", found[1]):
        return label, False
    return label[: found.start()], True


def _switched_off(node: LexborNode) -> bool:
    """Whether a field stands in a fieldset that is switched off as a whole: no browser sends it."""
    above = node.parent
    while above is not None and above.tag not in ("form", "body"):
        if above.tag == "fieldset" and "disabled" in above.attributes:
            return True
        above = above.parent
    return False


def _custom(node: LexborNode, labels: Labels, name: str) -> Field:
    """A control of the page's own making: it has a name and a value, and maybe a list of what can be chosen."""
    a = node.attributes
    options: list[Option] = []
    for text in a.values():
        if text and text.lstrip().startswith("[{"):
            options += _listed(text, a.get("value"))
    value = a.get("value") or (options[0].value if options else "")
    return Field(
        name=name,
        kind="select" if options else "text",
        value=value,
        label=label_of(node, labels),
        near=near_of(node),
        options=tuple(options),
        required="required" in a,
        disabled="disabled" in a,
    )


def _listed(text: str, chosen: str | None) -> Iterator[Option]:
    try:
        entries = json.loads(text)
    except ValueError:
        return
    for entry in entries:
        if isinstance(entry, dict) and "value" in entry and not entry.get("is_disabled") and not entry.get("disabled"):
            value = str(entry["value"])
            yield Option(value, str(entry.get("label") or entry.get("text") or value), value == chosen)


def _option(node: LexborNode) -> Option:
    label, value = clean(node.text()), node.attributes.get("value")
    return Option(label if value is None else value, label, "selected" in node.attributes)


def _links(tree: LexborHTMLParser, base: str, unseen: Collection[int]) -> Iterator[Link]:
    lists = list(step_lists(tree))
    often = Counter(clean(n.text(separator=" ")) for n in tree.css("a[href]")[:MOST_LINKS])
    for node in tree.css("a[href], button[onclick], input[type=button][onclick]"):
        a = node.attributes
        if node.mem_id in unseen:
            continue
        if node.tag == "a":
            href = (a.get("href") or "").strip()
        elif _within_form(node):
            continue
        else:
            href = _location(a.get("onclick") or "")
        if not href or href.lower().startswith(("javascript:", "mailto:", "#", "data:")):
            continue
        label = clean(node.text(separator=" ")) if node.tag == "a" else _said_by(node)
        dressed = node.tag != "a" or a.get("role") == "button" or DRESS.search(a.get("class") or "") is not None
        listed = any(_within(node, one) for one in lists)
        said = label or _said_by(node)
        near = near_of(node) if 1 < often[label] <= MOST_LIKE else ""
        yield Link(_join(base, href), said, dressed, listed, a.get("data-at") or "", near)


def _within_form(node: LexborNode) -> bool:
    parent = node.parent
    while parent is not None and parent.tag != "form":
        parent = parent.parent
    return parent is not None


def _location(script: str) -> str:
    """Where a script leads, when it does nothing else that can be seen."""
    found = re.search(r"location(?:\.href|\.assign|\.replace)?\s*(?:=|\()\s*['\"]([^'\"]+)", script)
    return found.group(1) if found else ""


def step_lists(tree: LexborHTMLParser) -> Iterator[LexborNode]:
    """Lists that say where one is: three short items or more, in order, or one of them marked as the current one."""
    for node in tree.css("ol, ul, nav"):
        items = node.css("li") or node.css("a, span")
        if len(items) < 3 or node.css("input, select, textarea, form, ol ol, ul ul, p"):
            continue
        texts = [clean(i.text(separator=" ")) for i in items]
        short = all(len(t.split()) <= 8 and not t.endswith((".", "!", "?", ":")) for t in texts)
        marks = " ".join(filter(None, (n.attributes.get("class") for n in [node, *node.css("[class]")])))
        said = STEPS.search(marks) is not None or bool(node.css("[aria-current]"))
        if short and (said or (node.tag == "ol" and not node.css("code, pre, kbd"))):
            yield node


def _unseen(tree: LexborHTMLParser) -> set[int]:
    """What stands on the page and is not shown: texts that a script would show, and words at fields that are not refused yet.

    Fields there are sent all the same, as a browser does.
    """
    found: set[int] = set()
    for node in tree.css(UNSEEN):
        waiting = FEEDBACK.search(node.attributes.get("class") or "") is not None
        if waiting and node.parent is not None and node.parent.css(".is-invalid"):
            continue
        found |= {node.mem_id, *(inner.mem_id for inner in node.css("*"))}
    return found


def _notices(tree: LexborHTMLParser, unseen: Collection[int]) -> Iterator[Notice]:
    seen: set[str] = set()
    steps = {inner.mem_id for one in step_lists(tree) for inner in one.css("*")}
    for node in tree.css("[class], [role=alert], [role=status], [style*=color], font[color], li, strong")[:MOST_BOXES]:
        if node.tag in NOT_A_NOTICE or node.mem_id in steps or node.mem_id in unseen:
            continue
        if DRESS.search(node.attributes.get("class") or ""):
            # Colours of buttons say what pressing them would do.
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
    weighed = said(text)
    fails = weighed == "failed" or (words.says("failure", text) and weighed != "done")
    succeeds = weighed == "done" or (words.says("success", text) and not words.says("condition", text))
    if BAD_MARK.search(marks):
        warns = words.says("warning", " ".join(text.split()[:2])) and not fails
        return "neutral" if warns else "complaint"
    # A green word in a line is a badge; a box of that kind says that something succeeded.
    praised = GOOD_MARK.search(marks) is not None and node.tag not in ("span", "strong", "b", "em", "i", "small")
    if (praised or succeeds) and not fails:
        return "success"
    coloured = "color" in (a.get("style") or "") or bool(a.get("color"))
    loud = a.get("role") == "alert" or coloured or "alert" in marks
    supposed = words.says("supposing", " ".join(text.lstrip("( ").split()[:1]))
    if loud and fails and not supposed:
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


def _led_by_script(tree: LexborHTMLParser) -> tuple[str, float] | None:
    """Where a page's only line of script leads, and after how many seconds: what a browser does at once, when nothing else is to be done."""
    for node in tree.css("script:not([src])"):
        script = re.sub(r"//[^\n]*|/\*.*?\*/", "", node.text() or "", flags=re.S).strip()
        if len(script) > LONGEST_LINE or "function" in script.replace("function()", ""):
            continue
        if (where := LEADS.search(script)) is not None:
            waits = re.search(r"setTimeout\(.*,\s*(\d{1,5})\s*\)", script, re.S)
            return where[1], int(waits[1]) / 1000 if waits else 0.0
    return None


def _refresh(tree: LexborHTMLParser, base: str, snapshot: Snapshot) -> tuple[str, float]:
    """Where a page leads by itself, and after how many seconds; one without an address comes back to itself."""
    content = snapshot.headers.get("refresh", "")
    for node in tree.css("meta[http-equiv]"):
        if (node.attributes.get("http-equiv") or "").lower() == "refresh":
            content = node.attributes.get("content") or ""
    after = re.match(r"\s*(\d{1,4})", content)
    found = re.search(r"url\s*=\s*['\"]?([^'\";]+)", content, re.I)
    if found is None and after is None:
        return "", 0.0
    return (_join(base, found.group(1).strip()) if found else snapshot.url), float(after[1]) if after else 0.0
