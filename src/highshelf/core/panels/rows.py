"""What stands together on a panel's page: names with the controls of their row, and words with the value behind them. Pure."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from urllib.parse import unquote, urljoin

from selectolax.lexbor import LexborHTMLParser, LexborNode

from highshelf.core.pages.page import Form
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.panels.words import says, token_in

NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9_.\-]{1,63}")
LEADS = re.compile(r"location(?:\.href)?\s*=\s*[\"']([^\"']+)[\"']")
# How many elements around a control its row may have: a button in a form in a cell in a row, and some wrapping.
ROW_DEPTH = 7
MOST_LABEL = 60
# Characters of what is drawn as a card, for one thing; a longer part of a page is about several.
LONGEST_CARD = 300


@dataclass(frozen=True)
class Control:
    """What deletes one thing: a form of its row, or a link. `about` is the text of the row."""

    about: str
    form: Form | None = None
    link: str = ""
    # The button of this row, where one form goes around all rows.
    button: tuple[str, str] | None = None


def tokens(snapshot: Snapshot) -> set[str]:
    """Everything on the page that could be a name: in text, in lists and in addresses; never what stands in a field to type in."""
    tree = LexborHTMLParser(snapshot.html)
    for node in tree.css("script, style, [role=alert], .error, .alert"):
        node.decompose()
    parts = [tree.body.text(separator=" ") if tree.body else ""]
    parts += [
        n.attributes.get("value") or ""
        for n in tree.css("option, input[type=hidden], input[type=checkbox], input[type=radio]")
    ]
    parts += [unquote(n.attributes.get("href") or "") for n in tree.css("a[href]")]
    parts += [unquote(n.attributes.get("action") or "") for n in tree.css("form[action]")]
    found: set[str] = set()
    for part in parts:
        found.update(t.strip(".-") for t in NAME.findall(part))
        # What stands between marks of an address is a name of its own.
        found.update(t for piece in re.split(r"[/?&=\s]", part) if (t := piece.strip()) and NAME.fullmatch(t))
    return found


def labelled(snapshot: Snapshot) -> list[tuple[str, str]]:
    """Words and the value that stands behind them: two cells, a definition, or one line with a colon."""
    tree = LexborHTMLParser(snapshot.html)
    found: list[tuple[str, str]] = []
    for row in tree.css("tr"):
        cells = [n.text(strip=True) for n in row.iter() if n.tag in ("td", "th")]
        if len(cells) == 2:
            found.append((cells[0], cells[1]))
    for term in tree.css("dt"):
        behind = term.next
        while behind is not None and behind.tag not in ("dd", "dt"):
            behind = behind.next
        if behind is not None and behind.tag == "dd":
            found.append((term.text(strip=True), behind.text(strip=True)))
    for line in tree.css("p, li, div, pre, code"):
        # A search in an element finds the element itself too.
        if all(n.mem_id == line.mem_id for n in line.css("p, li, div, input, table")):
            for text in (line.text(separator=" ") or "").splitlines():
                label, sign, value = text.partition(":")
                if sign and 0 < len(label.strip()) <= MOST_LABEL:
                    found.append((label.strip(), value.strip()))
    return [(label.strip(" :"), value) for label, value in found if label and value and len(label) <= MOST_LABEL]


def deleting(snapshot: Snapshot, whole: str, others: Collection[str]) -> list[Control]:
    """The controls that delete the thing of this whole name, and nothing else."""
    tree = LexborHTMLParser(snapshot.html)
    single = [
        c
        for node in tree.css("a[href], button, input[type=submit], input[type=image]")
        if (c := _control(node, snapshot, whole, others))
    ]
    return single or [Control("", form=form) for form in read(snapshot).forms if _drops_ticked(form, whole)]


def _drops_ticked(form: Form, whole: str) -> bool:
    """Whether a form does something to those that are ticked, or to the one that it is about, and deleting is one of its choices."""
    ticks = any(f.kind in ("checkbox", "hidden") and f.value == whole for f in form.fields)
    return ticks and any(f.kind == "select" and any(says("deleting", o.label) for o in f.options) for f in form.fields)


def _control(node: LexborNode, snapshot: Snapshot, whole: str, others: Collection[str]) -> Control | None:
    form = _around(node, "form")
    leads = LEADS.search(node.attributes.get("onclick") or "")
    if not _deletes(node) or (form is None and node.tag != "a" and leads is None):
        return None
    # One form may go around all rows: then the button of the row says which is meant.
    around_rows = form is not None and bool(node.attributes.get("name")) and len(_things(form)) > 1
    row = _row(node if form is None or around_rows else form, whole)
    if row is None or (around_rows and (form is None or not _within(row, form))):
        return _picking(form, snapshot, whole)
    if len(_things(row)) > 1 or any(token_in(other, _all_of(row)) for other in others if other != whole):
        return _picking(form, snapshot, whole)
    about = row.text(separator=" ").strip()
    if form is None:
        return Control(about, link=urljoin(snapshot.url, leads[1] if leads else node.attributes.get("href") or ""))
    for one in read(Snapshot(snapshot.url, 200, form.html or "")).forms[:1]:
        pressed = (node.attributes.get("name") or "", node.attributes.get("value") or "") if around_rows else None
        return Control(about, form=one, button=pressed)
    return None


def _deletes(node: LexborNode) -> bool:
    """Whether a link or button deletes something, by its words or by its form's address."""
    form = _around(node, "form")
    return says("deleting", _words_of(node)) or (
        form is not None and says("deleting", form.attributes.get("action") or "")
    )


def _things(part: LexborNode) -> set[tuple[int, str]]:
    """The controls of a part of the page that delete: whoever stands in the row of one thing is the only one."""
    found: set[tuple[int, str]] = set()
    for node in part.css("a[href], button, input[type=submit], input[type=image]"):
        if _deletes(node):
            form = _around(node, "form")
            found.add((form.mem_id if form is not None else node.mem_id, node.attributes.get("name") or ""))
    return found


def _within(node: LexborNode, ancestor: LexborNode) -> bool:
    above: LexborNode | None = node
    while above is not None and above.mem_id != ancestor.mem_id:
        above = above.parent
    return above is not None


def _picking(form: LexborNode | None, snapshot: Snapshot, whole: str) -> Control | None:
    """A form that names everything, and deletes the one that is chosen in it."""
    if form is None:
        return None
    for one in read(Snapshot(snapshot.url, 200, form.html or "")).forms[:1]:
        if any(
            f.kind in ("select", "radio", "checkbox")
            and whole in (f.value, *(o.value for o in f.options), *(o.label for o in f.options))
            for f in one.fields
        ):
            return Control("", form=one)
    return None


def _words_of(node: LexborNode) -> str:
    inner = " ".join(
        t
        for n in [node, *node.css("[title], [alt], [aria-label]")]
        for t in (n.attributes.get(a) for a in ("title", "alt", "aria-label"))
        if t
    )
    href = re.sub(r"[?&=/]", " ", node.attributes.get("href") or "") if node.tag == "a" else ""
    return " ".join([node.text(strip=True), node.attributes.get("value") or "", inner, href])


def _around(node: LexborNode, tag: str) -> LexborNode | None:
    above: LexborNode | None = node
    while above is not None and above.tag != tag:
        above = above.parent
    return above


def _row(node: LexborNode, whole: str) -> LexborNode | None:
    """The smallest element around the control in which the name stands."""
    above: LexborNode | None = node
    for _ in range(ROW_DEPTH):
        if above is None or above.tag in ("body", "html"):
            return None
        if token_in(whole, _all_of(above)):
            return above
        above = above.parent
    return None


def _all_of(node: LexborNode) -> str:
    """Text, hidden values and addresses of an element."""
    return " ".join([node.text(separator=" "), *_attributes(node)])


def _attributes(node: LexborNode) -> Iterator[str]:
    for one in [node, *node.css("option, input, button, a[href], form[action]")]:
        for name in (
            ("name", "value", "href", "action", "onclick")
            if one.tag in ("input", "button")
            else ("value", "href", "action", "onclick")
        ):
            if text := one.attributes.get(name):
                # What a part of an address is called is no name: /user?user=boats is about boats.
                yield re.sub(r"[?&/'\"=\[\]]", " ", re.sub(r"(?<=[?&])[^=&]*=", " ", unquote(text)))


def stands_with(snapshot: Snapshot, database: str, user: str) -> bool:
    """Whether the user is named as one of the database's: in its row, or on its own page, outside of lists to choose from."""
    tree = LexborHTMLParser(snapshot.html)
    for node in tree.css("select, option, datalist, script, style, nav, input"):
        node.decompose()
    own = " ".join(n.text(separator=" ") for n in tree.css("h1, h2, title"))
    if token_in(database, own):
        return (
            tree.body is not None
            and token_in(user, tree.body.text(separator=" ").replace(own, " "))
            and user != database
        )
    return any(
        token_in(database, text)
        and (
            (token_in(user, text) and user != database)
            or len(re.findall(rf"(?<![\w-]){re.escape(user)}(?![\w-])", text)) > 1
        )
        for row in tree.css("tr, li, dl, article, div")
        if (text := row.text(separator=" ")) and (row.tag != "div" or len(text) <= LONGEST_CARD)
    )


def beside(snapshot: Snapshot, whole: str) -> set[str]:
    """What stands in the same place of the other rows of a list: cells of a column, links, options, headings of cards."""
    tree = LexborHTMLParser(snapshot.html)
    found: set[str] = set()
    for node in tree.css("td, th, li, a, option, h2, h3, h4, h5, dt, div, span, strong"):
        text = node.text(strip=True)
        if text != whole:
            continue
        path = _shape(node)
        found |= {
            t
            for n in tree.css(node.tag or "p")
            if _shape(n) == path and (t := n.text(strip=True)) and NAME.fullmatch(t)
        }
    return found - {whole}


def _shape(node: LexborNode) -> str:
    """How deep in what an element stands, and which cell of its row it is."""
    parts: list[str] = []
    above: LexborNode | None = node
    while above is not None and above.tag not in ("body", "html") and len(parts) < 5:
        place = 0
        if above.tag in ("td", "th"):
            before = above.prev
            while before is not None:
                place += before.tag in ("td", "th")
                before = before.prev
        parts.append(f"{above.tag}{place or ''}")
        above = above.parent
    return "/".join(parts)


def listed(snapshot: Snapshot) -> set[str]:
    """What stands alone in a cell, an entry of a list, a link or a heading, and could be a name; never what is only offered to choose from."""
    tree = LexborHTMLParser(snapshot.html)
    for node in tree.css("select, nav, header, script, style"):
        node.decompose()
    return {
        t
        for n in tree.css("td, li, a, h2, h3, h4, h5, b, strong, dd, p")
        # Names are lower case but for the customer's part; words of headings begin with a capital.
        if NAME.fullmatch(t := n.text(strip=True)) and (t == t.lower() or re.search(r"\d", t))
    }
