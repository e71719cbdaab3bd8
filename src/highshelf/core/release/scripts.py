"""Which pages of an installer are nothing without JavaScript, as their sources say. Pure.

Rules:
1. A page can be sent without scripts when a form of it has a button that sends it, whatever scripts do beside.
2. A page whose form has fields and no such button, or that is an empty place and a script, is its script's.
3. A script that talks to the server says little: it may only try a connection. It counts where no page beside it can be sent.
4. What an application says of itself, outside its installer, is no word of the installer's.
"""

from __future__ import annotations

import re
from collections.abc import Iterable

from highshelf.core.release.clues import Clue, line_of

SETS_UP = re.compile(r"(?i)(?:^|/)(?:\w*install\w*|\w*setup\w*|\w*wizard\w*)\b")
# Libraries that came along talk to servers because they can, not because a page needs it.
BROUGHT = re.compile(r"(?i)[.-]min\.js$|(?:^|/)(?:vendor|node_modules|bower_components|third-?party|libs?)/")
CALLS = (b"fetch", b"xmlhttprequest", b"$.ajax", b"$.post", b"$.getjson", b"axios")
# It sends something there: what is only fetched may be a word about a newer version.
CALL = re.compile(
    rb"(?:\bfetch\s*\(|xmlhttprequest|\$\.ajax\s*\()(?=[^\0]{0,400}?\bpost\b)|\$\.post\s*\(|axios\.post|axios\s*\(\s*\{"
)
TAKES = (b"$_post", b"php://input", b"$_request", b"filter_input")
# What makes such a page one that sets something up.
KEEPS = (b"create table", b"create database", b"file_put_contents", b"fwrite", b"new pdo", b"mysqli", b"pg_connect")
SCRIPT = re.compile(rb"<script\b.*?(?:</script>|\Z)", re.S)
FORM = re.compile(rb"<form\b[^>]*>(.*?)</form>", re.S)
TYPED = re.compile(rb"<(?:select|textarea)\b|<input\b(?![^>]*type\s*=\s*['\"]?(?:hidden|submit|button|image|reset))")
# A button sends unless it says that it does not.
SENDS = re.compile(rb"<button\b(?![^>]*\btype\s*=\s*['\"]?(?:button|reset))|type\s*=\s*['\"]?(?:submit|image)")
IDLE = re.compile(rb"<(?:button|input)\b[^>]*\btype\s*=\s*['\"]?(?:button|reset)[^>]*>|</button")
# Helpers of templates that make one are called so, and what else is put in may bring one.
MAY_SEND = re.compile(rb"button|submit|\binclude|\brequire|->|::|\{[%{]|\bimplode")
PLACE = re.compile(rb"<(div|main|section)\b[^>]*\bid\s*=[^>]*>\s*</\1>")
PAGE = re.compile(rb"<body\b|<html\b|<!doctype html")
MAX_BYTES = 400_000


def read(path: str, data: bytes, small: bytes) -> list[Clue]:
    """Clues of one page or script: `javascript` (a page that is its script's), `sends-plainly`, `script-calls`.

    Args:
        small: the data in small letters.
    """
    if len(data) > MAX_BYTES or BROUGHT.search(path):
        return []
    sets_up = SETS_UP.search(path) is not None
    if not sets_up and not (b"<form" in small and any(w in small for w in TAKES) and any(w in small for w in KEEPS)):
        return []
    found = list[Clue]()
    if not path.endswith(".js"):
        found += _page(path, small, sets_up)
    if sets_up and any(w in small for w in CALLS) and (call := CALL.search(small)):
        said = "a script of the installer talks to its server"
        found.append(Clue("script-calls", said, path, line_of(data, call.start()), 0.5))
    return found


def _page(path: str, small: bytes, sets_up: bool) -> list[Clue]:
    def clue(what: str, said: str, at: int, sure: float) -> list[Clue]:
        return [Clue(what, said, path, line_of(small, at), sure)]

    at = small.find(b"<noscript>")
    if sets_up and at >= 0 and b"javascript" in small[at : at + 400]:
        return clue("javascript", "a page says that it needs JavaScript", at, 0.7)
    # As long as before, so that places stay what they are.
    bare = SCRIPT.sub(lambda m: b" " * len(m[0]), small)
    forms = list(FORM.finditer(bare))
    asks = [f for f in forms if TYPED.search(f[1])]
    if any(SENDS.search(f[1]) for f in forms):
        return clue("sends-plainly", "a form with a button that sends it", forms[0].start(), 0.8)
    if any(MAY_SEND.search(IDLE.sub(b"", f[1])) for f in forms):
        return clue("sends-plainly", "a form that may well have a button that sends it", forms[0].start(), 0.5)
    if bare == small and not any(w in small for w in CALLS):
        return []
    if asks:
        return clue("javascript", "its form has no button that sends it: a script does", asks[0].start(), 0.75)
    place = PLACE.search(bare)
    empty = place is not None and PAGE.search(bare) and not re.search(rb"<form\b|<a\b|<input\b", bare)
    return clue("javascript", "an empty place that a script fills", place.start(), 0.8) if place and empty else []


def conclude(pages: Iterable[Clue], plain: Iterable[Clue], calls: Iterable[Clue]) -> dict[str, float]:
    """Pages and scripts that installing does not go without, and how sure that is.

    Args:
        pages, plain, calls: the clues `javascript`, `sends-plainly` and `script-calls`.
    """
    found: dict[str, float] = {}
    for clue in pages:
        found[clue.path] = max(found.get(clue.path, 0.0), clue.sure)
    # Beside a page that is its script's, the script is that one's.
    folders = {_top(c.path) for c in plain} - {_top(path) for path in found}
    for clue in calls:
        if _top(clue.path) not in folders:
            found[clue.path] = max(found.get(clue.path, 0.0), 0.6)
    return found


def _top(path: str) -> str:
    """The installer's own folder, or the folder that a page lies in."""
    parts = path.split("/")
    for n, part in enumerate(parts[:-1]):
        if SETS_UP.search(part):
            return "/".join(parts[: n + 1])
    return "/".join(parts[:-1])
