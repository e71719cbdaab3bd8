"""PHP sources, read by a grammar (tree-sitter): version comparisons, extensions asked for, connections, constants, paths.

A comparison counts for what its program makes of it: one whose branch ends the script or reports an error is a need;
one that only chooses another way is not.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from highshelf.core.release import scripts, signing
from highshelf.core.release.clues import Clue, line_of
from highshelf.core.release.granted import granted
from highshelf.core.release.logins import published_logins
from highshelf.core.release.php import inputs, needs, settings, terminals, unquoted, versions
from highshelf.core.release.php.source import INSTALLER_PATH, Source, parser_of_php

# Only files with one of these are parsed: the rest says nothing that is asked here. In small letters.
# Looking for a plain word costs a tenth of what a pattern does, and patterns that begin with one are nearly as quick.
TELLING_WORDS = (
    *(
        b"version_compare",
        b"extension_loaded",
        b"get_loaded_extensions",
        b"function_exists",
        b"class_exists",
        b"ini_get",
    ),
    *(b"pdo", b"pg_connect", b"pgsql:", b"is_writ", b"chmod", b"$argv", b"getopt", b"<noscript"),
)
TELLING = (
    re.compile(rb"mysql(?:i|:)"),
    re.compile(rb"sqlite[3:]"),
    re.compile(
        rb"php(?:_?(?:version|min|req|sapi)|_major_version|(?<=min_php)|(?<=minimum_php)|(?<=minimumphp)|(?<=minphp))"
    ),
    re.compile(rb"php(?<=required_php)|php(?<=requiredphp)"),
    # Licence headers speak of versions too: a bare word does not count.
    re.compile(rb"version['\"]?\s*(?:=|,)"),
    re.compile(rb"/(?<=['\"]/)(?:setup|install|wizard)\w{0,5}/?['\"]"),
)
MAX_PARSED_BYTES = 600_000
MAX_FOUND = 400
# Sources of people nest a few dozen deep. What is made to be deep costs the square of its depth.
MAX_DEPTH = 200
_NAMED_PLACE = (
    rb"(\w{1,60})['\"]?\s*[,=]\s*(?:(?:__DIR__|dirname\s*\(\s*__FILE__\s*\)|\w+)\s*\.\s*)?['\"]([\w./-]{1,60})['\"]"
)
# Each begins with its plain word, for speed.
PLACE_CONSTANTS = (
    re.compile(rb"define(?<=\bdefine)\s*\(\s*['\"]" + _NAMED_PLACE),
    re.compile(rb"const(?<=\bconst)\s+" + _NAMED_PLACE),
)
DOCUMENTED = re.compile(rb"(?im)^[ \t/*#]*@version\s+v?(\d+\.\d[\w.-]{0,20})")
# Such a constant names a folder also where its text has no stroke.
PLACE_NAME = re.compile(rb"DIR|PATH|FOLDER")


def read(path: str, data: bytes) -> list[Clue]:
    """All clues of one PHP source."""
    if len(data) > MAX_PARSED_BYTES:
        return []
    small = data.lower()
    if not (_tells(small) or inputs.keeps(path, small)) or _depth(data) > MAX_DEPTH:
        return _unparsed(path, data, small)
    parser, query = parser_of_php()
    source = Source(path, data, small, parser.parse(data).root_node, query)
    found = []
    for clue in _clues(source):
        found.append(clue)
        if source.late():
            break
    return list(dict.fromkeys([*found, *_unparsed(path, data, small)]))[:MAX_FOUND]


def _unparsed(path: str, data: bytes, small: bytes) -> list[Clue]:
    """What is told without a grammar."""
    return [
        *(*_place_constants(path, data), *inputs.givers(path, data), *scripts.read(path, data, small)),
        *(*unquoted.read(path, small), *_documented(path, data), *_licensed(path, data)),
        *_first_login(path, data, small),
        *signing.read(path, data, small),
    ]


def _clues(source: Source) -> Iterator[Clue]:
    yield from versions.versions(source)
    yield from versions.comparisons(source)
    yield from versions.told_versions(source)
    yield from needs.extensions(source)
    yield from needs.connections(source)
    yield from needs.writable(source)
    yield from versions.rows(source)
    yield from settings.read(source)
    yield from needs.written(source)
    yield from needs.tables(source)
    yield from terminals.read(source)
    yield from needs.routes(source)
    yield from needs.idle(source)
    yield from inputs.inputs(source)


def _place_constants(path: str, data: bytes) -> list[Clue]:
    """Constants that name folders; another file may ask whether such a folder is writable. Too many files have them to parse each."""
    return [
        Clue("path-constant", f"{m[1].decode()}={m[2].decode()}", path, line_of(data, m.start()), 0.3)
        for m in sorted((m for p in PLACE_CONSTANTS for m in p.finditer(data)), key=lambda m: m.start())
        if b"/" in m[2] or PLACE_NAME.search(m[1])
    ][:50]


def _documented(path: str, data: bytes) -> list[Clue]:
    """The version in the comment that a program near the top begins with; surer where it is called as its folder is."""
    m = DOCUMENTED.search(data[:2000]) if path.count("/") <= 1 else None
    if m is None:
        return []
    folder, _, name = path.rpartition("/")
    sure = 0.7 if folder and name.rpartition(".")[0].lower() == folder.lower() else 0.5
    return [Clue("version", m[1].decode(), path, line_of(data, m.start(1)), sure)]


# A sentence is no longer than this.
MAX_LINE = 800
FRONT = re.compile(r"(?i)^(?:[^/]+/){0,2}index\.php$")


def _licensed(path: str, data: bytes) -> list[Clue]:
    """The licence in the comment at the head of a front page."""
    return granted(path, data[:3_000], 0.6) if FRONT.match(path) else []


def _first_login(path: str, data: bytes, small: bytes) -> list[Clue]:
    """A login that an installer's own page tells whoever has finished it."""
    if b"password" not in small or not INSTALLER_PATH.search(path):
        return []
    for number, line in enumerate(data.split(b"\n"), 1):
        low = line.lower()
        if (
            b"passw" in low
            and len(line) < MAX_LINE
            and any(word in low for word in (b"default", b"initial", b" in ", b" on "))
        ):
            told = re.sub(r"<[^>]{1,80}>|\\n|\s+", " ", line.decode("utf-8", "replace"))
            if found := published_logins(path, number, told, ""):
                return found
    return []


def _tells(small: bytes) -> bool:
    return any(word in small for word in TELLING_WORDS) or any(p.search(small) for p in TELLING)


def _depth(data: bytes) -> int:
    """How deep brackets nest, those in texts counted too."""
    depth = deepest = 0
    for c in data.translate(None, _NO_BRACKETS):
        depth = depth + 1 if c in b"([{" else max(depth - 1, 0)
        deepest = max(deepest, depth)
    return deepest


_NO_BRACKETS = bytes(c for c in range(256) if c not in b"()[]{}")
