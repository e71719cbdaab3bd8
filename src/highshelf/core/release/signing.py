"""Whether an application signs people in by itself, as its sources tell, and how the first of them comes about. Pure.

Rules:
1. A password that is compared, or that a page takes, is a login's: unless its name says whose else it is, or only an installer takes it.
2. Who the web server says somebody is counts where no password is taken: then signing in is the server's affair.
3. What nothing speaks of was only not found: an application without a login is never sure.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence

from highshelf.core.release.clues import Clue, line_of
from highshelf.core.release.php.source import INSTALLER_PATH
from highshelf.core.release.taken import Taken

# Looked for first: most files have none of them.
WORDS = (b"passw", b"pwd", b"userpass", b"'pass", b'"pass', b"remote_user", b"php_auth")
# Another's: a server's, not a person's.
OTHERS = re.compile(rb"db|database|smtp|mail|imap|pop3?|ftp|sql|proxy|bind|server|ssh|cert")
COMPARES = re.compile(rb"\bpassword_verify\s*\(|php_auth_pw|['\"]type['\"]\s*(?:=>|,|:)\s*['\"]password['\"]")
TAKEN = re.compile(
    rb"(?:_post|_request|input_post|(?<![a-z])(?:get_?)?(?:post|input|param\w*)\s*\()\W{0,6}['\"](\w*(?:pass|pwd)\w*)['\"]"
)
FIELD = re.compile(rb"<input\b[^>]*\btype\s*=\s*\\?['\"]?password\b[^>]*>")
NAMED = re.compile(rb"\bname\s*=\s*\\?['\"]?([\w\[\]-]+)")
BY_SERVER = re.compile(rb"remote_user|php_auth_user")
OWN, SERVER = "own", "server"


def read(path: str, data: bytes, small: bytes) -> list[Clue]:
    """The clue of a source or a template, at most one: `signs-in`, `own` or `server`.

    Args:
        small: the data in small letters.
    """
    if not any(word in small for word in WORDS) or INSTALLER_PATH.search(path):
        return []
    if (at := _taken(small)) is not None:
        return [Clue("signs-in", OWN, path, line_of(data, at), 0.7)]
    m = BY_SERVER.search(small)
    return [Clue("signs-in", SERVER, path, line_of(data, m.start()), 0.55)] if m else []


def _taken(small: bytes) -> int | None:
    """Where a person's password is compared or taken."""
    if m := COMPARES.search(small):
        return m.start()
    for m in TAKEN.finditer(small):
        if not OTHERS.search(m[1]):
            return m.start()
    for m in FIELD.finditer(small):
        named = NAMED.search(m[0])
        if named is None or not OTHERS.search(named[1]):
            return m.start()
    return None


def asked(fields: Sequence[Taken], installers: Collection[str]) -> bool:
    """Whether an installer takes an administrator's name or password; a login page takes them too, and is none."""
    return any(
        taken.value in ("admin.name", "admin.password")
        and ((path := taken.where.rpartition(":")[0]) in installers or INSTALLER_PATH.search(path) is not None)
        for taken in fields
    )


def conclude(clues: Sequence[Clue], asked: bool, published: bool, programs: bool) -> tuple[str, float]:
    """How the first login comes about, and how sure that is.

    Args:
        asked: an installer takes an administrator's login. published: a text tells a login. programs: there are PHP files.

    Returns: `asked`, `published`, `own` (nothing tells how the first is made), `server`, `none`, or "" without programs.
    """
    if asked:
        return "asked", 0.85
    if published:
        return "published", 0.6
    for value in (OWN, SERVER):
        if sure := max((c.sure for c in clues if c.value == value), default=0.0):
            return value, round(sure, 2)
    return ("none", 0.5) if programs else ("", 0.0)
