"""Extensions of PHP that an installer misses, where the panel may have a switch for them. Pure.

Rules:
1. Only what a red row or a sentence names as missing, or what PHP itself stopped at: a function or a class that it does not know.
2. A row that names several is content with one of them: which of them the panel has a switch for is seen there.
3. Each is tried once; what PHP always has is never meant, whatever a row is called.
"""

from __future__ import annotations

import re

from highshelf.core.pages.judgement import red
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page
from highshelf.core.release.php.tables import ALWAYS, BY_CLASS, BY_FUNCTION, EXTENSION_NAMES
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import Switch

UNKNOWN_FUNCTION = re.compile(r"undefined function \\?(?:\w+\\)*(\w+)\(", re.I)
UNKNOWN_CLASS = re.compile(r"class [\"'“]?\\?(\w+)[\"'”]? not found", re.I)
# Words that are names of extensions, and stand in rows about something else.
WORDS_TOO = frozenset({"mysql", "tidy", "readline", "sockets", "calendar", "zip", "xml", "phar"})
SPEAKS = re.compile(r"(?i)extension|erweiterung|extensión|estensione|extensão|extensie|rozszerzeni|modul|php[ :_-]")
NAME = re.compile(r"[a-z][a-z0-9_]*")


def switched(page: Page, know: Knowledge) -> Switch | None:
    """The extensions to be switched on: groups of which one each is enough; None where none is missed, or all were tried."""
    if not know.switches:
        return None
    groups = [_of_row(f"{row.label} {row.seen}") for row in red(page)]
    missed = [s for s in page.told if SPEAKS.search(s) and lexicon().says("missing", s)]
    groups += [_of_row(sentence) for sentence in missed]
    groups += [_of_fault(fault) for fault in (*page.php_faults, *know.witness.log)]
    new = tuple(dict.fromkeys(g for g in groups if g and not all(mark_of(name) in know.tried for name in g)))
    return Switch(new, "missing: " + ", ".join(" or ".join(g) for g in new)) if new else None


def mark_of(extension: str) -> str:
    """How it is remembered that a switch was looked for."""
    return f"switch {extension}"


def same(offered: str, extension: str) -> bool:
    """Whether a panel's name for an extension, such as `php8.2-bcmath` or `BCMath`, means it."""
    return re.sub(r"^(php[\d.]*[-_ ]*|ext[-_])|\.so$|[-_ ]", "", offered.lower()) == extension.replace("_", "")


def _of_row(said: str) -> tuple[str, ...]:
    names = [n for n in NAME.findall(said.lower()) if n in EXTENSION_NAMES and n not in ALWAYS]
    bare = said.strip().lower() in EXTENSION_NAMES
    return tuple(dict.fromkeys(n for n in names if n not in WORDS_TOO or bare or SPEAKS.search(said)))


def _of_fault(fault: str) -> tuple[str, ...]:
    if found := UNKNOWN_FUNCTION.search(fault):
        return next(((name,) for shape, name in BY_FUNCTION if shape.search(found[1].lower())), ())
    if found := UNKNOWN_CLASS.search(fault):
        name = BY_CLASS.get(found[1].lower())
        return (name,) if name else ()
    return ()
