"""Installers for the terminal: told by what a program there does, the likeliest first. Pure."""

from __future__ import annotations

import re
from collections.abc import Iterator

from highshelf.core.release.clues import Clue, line_of
from highshelf.core.release.php.source import Source

WORDS = (b"php_sapi", b"argv", b"getopt")
ASKS = re.compile(rb"php_sapi_name\s*\(\s*\)|php_sapi\b")
ONLY = re.compile(rb"(?:php_sapi_name\s*\(\s*\)|php_sapi)\s*[!=]==?\s*['\"]cli")
ARGUMENTS = re.compile(rb"\$argv\b|\bgetopt\s*\(|\$_server\[['\"]argv")
# Texts that name an option, a part of a list of options, or a question.
OPTION = re.compile(rb"['\"](?:--?)?([a-z][a-z0-9_-]{1,30})(?:::?|=|)['\"]")
LOGIN = {
    "name": re.compile(rb"^(?:db|database|sql|mysql|pg|my)?[_-]?(?:name|base|db|database|schema)$"),
    "user": re.compile(rb"^(?:db|database|sql|mysql|pg|my)?[_-]?(?:user|username|login|owner)$"),
    "password": re.compile(rb"^(?:db|database|sql|mysql|pg|my)?[_-]?(?:pass|password|passwd|pwd|word)(?:[_-]file)?$"),
    "host": re.compile(rb"^(?:db|database|sql|mysql|pg|my)?[_-]?(?:host|hostname|server|socket)$"),
}
MAKES = re.compile(rb"create(?<=\bcreate)\s+table\b|\.sql['\"]")
FIRST = re.compile(r"(?i)install|setup|first[-_]?(?:run|start)|bootstrap")
LATER = re.compile(r"(?i)migrat|init")
# What is for an application that stands already.
AFTERWARDS = re.compile(r"(?i)updat|upgrad|backup|restore|cron|daemon|worker|clean")
COMMAND = re.compile(rb"['\"](?:\w+:)?(?:install|setup)['\"]")
CONSOLE = re.compile(r"(?i)(?:^|[/_-])(?:console|cli|artisan|manage)(?:\.php)?$")


def read(source: Source) -> Iterator[Clue]:
    """`terminal` with how sure it is that this program installs: by its options, by what it makes, by its name."""
    small = source.small
    if not (small.startswith(b"#!") or any(word in small for word in WORDS)):
        return
    shebang = small.startswith(b"#!") and b"php" in small[:60]
    only, arguments = ONLY.search(small), ARGUMENTS.search(small)
    if not (shebang or only or (ASKS.search(small) and arguments)):
        return
    name = source.path.rsplit("/", 1)[-1]
    options = {m[1] for m in OPTION.finditer(small)} if arguments else set()
    told = sum(any(pattern.match(o) for o in options) for pattern in LOGIN.values())
    # A user and a password alone may be anybody's.
    told = told if told >= 3 or _of_a_database(options) else 0
    found = arguments or only
    at = line_of(source.data, found.start()) if found else 1
    sure = max(
        0.95 if told >= 3 else 0.8 if told == 2 else 0.0,
        0.85 if FIRST.search(name) else 0.6 if LATER.search(name) else 0.0,
        0.8 if MAKES.search(small) and (told or (arguments and not AFTERWARDS.search(name))) else 0.0,
        0.85 if arguments and COMMAND.search(small) else 0.0,
        0.5 if shebang and CONSOLE.search(source.path) else 0.0,
    )
    if sure:
        yield Clue("terminal", source.path, source.path, at, sure)


def _of_a_database(options: set[bytes]) -> bool:
    # The bare name of a kind of server is compared with anywhere.
    return any(re.match(rb"(?:db|database|sql|mysql|pg|schema)[_-]|(?:db|database|schema)$|db\w", o) for o in options)
