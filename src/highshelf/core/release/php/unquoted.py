"""Names of databases that a source writes into SQL without quotation marks: one with a hyphen, as some panels make them, is
torn apart there ("Schema Object Names", MariaDB's and MySQL's manuals; section 4.1.1 of PostgreSQL's). Pure."""

from __future__ import annotations

import re

from highshelf.core.release.clues import Clue, line_of

# Looked for before any pattern is tried.
WORDS = (b" database ", b" schema ", b"show tables ", b"'use ", b'"use ')
# What comes next is a database's name; `use` also stands in PHP itself, so it has to begin a text.
BEFORE = (
    rb"(?:\b(?:create|drop|alter)\s+(?:database|schema)\s+(?:if\s+(?:not\s+)?exists\s+)?|['\"]\s*use\s+"
    rb"|\bshow\s+tables\s+(?:from|in)\s+)"
)
# A variable, within the text or behind its end; what a function gives back may well be quoted.
NAME = re.compile(BEFORE + rb"(?:['\"]\s*\.\s*)?\{?(\$\w++(?:->\w++|\[[^\]\n]{1,40}\])*+)(?!\s*\()")
MOST = 10


def read(path: str, small: bytes) -> list[Clue]:
    """Clues `unquoted-name`; `small` is the source in small letters."""
    if not any(word in small for word in WORDS):
        return []
    bare = [m for m in list(NAME.finditer(small))[:MOST] if not _quoted_before(small, m[1])]
    places = [line_of(small, m.start(1)) for m in bare]
    return [Clue("unquoted-name", f"{path}:{at}", path, at, 0.7) for at in places]


def _quoted_before(small: bytes, name: bytes) -> bool:
    """Whether the variable was given its quotation marks, or rid of all that would need them, where it was made."""
    made = re.search(re.escape(name) + rb"\s*=[^;\n]*", small)
    return made is not None and re.search(rb"`|\\\"|quote|preg_replace|preg_match", made[0]) is not None
