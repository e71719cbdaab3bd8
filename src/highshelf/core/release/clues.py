"""What one file of a release says: clues with line and how sure they are. Pure; one file at a time, as it streams by."""

from __future__ import annotations

import re
from dataclasses import dataclass

MAX_READ_BYTES = 1_000_000
LIBRARIES = re.compile(
    r"(^|/)(vendors?|node_modules|tests?|libs?/external|third[-_]?party|3rd[-_]?party|extlibs?|externals?|bower_components|phpunit|examples?|docs?)/",
    re.I,
)

# What bundled libraries need of PHP is the release's need: this file of theirs asks for it whenever they are loaded.
ASKS_FOR_LIBRARIES = re.compile(r"(^|/)composer/platform_check\.php$")
PROGRAM = re.compile(r"(?i)(^|/)(bin|cli|console|scripts?|tools|maintenance)/|install|setup|console")


@dataclass(frozen=True)
class Clue:
    """One thing read. `path` is as the archive says it until the wrapper is known; `line` counts from 1, 0 for a name.

    what: `name`, `title`, `version`, `php`, `php-below`, `extension`, `wished-extension`, `database`,
        `database-version` (value "kind version"), `writable`, `dump-database`, `dump-kind`, `licence`, `javascript`, `sends-plainly`, `script-calls`,
        `terminal`, `administration`, `rewriting`, `sample-wants`, `configuration`, `collation`, `remove`, `web-folder`, `input` (what
        becomes of what is typed, as JSON: `php/inputs.py`), `writes-to` (a place that is written to), `makes-tables`, `unquoted-name`.
    sure: 0 to 1.
    """

    what: str
    value: str
    path: str
    line: int
    sure: float


LICENCE = re.compile(r"(?:licen[sc]e|copying)[\w.-]*$")
SAMPLE = re.compile(r"[._-](dist|sample|example|default)$")
READ_BY_ENDING = re.compile(
    r"\.(php\d?|phtml|inc|module|sql|txt|md|rst|html?|json|ini|dist|sample|example|env|ya?ml|xml|tpl|twig|js)$"
)
READ_BY_NAME = re.compile(
    r"(version|readme|install|licen[sc]e|copying|changelog|changes|news|upgrad\w*|\.htaccess|\.user\.ini|\.env)"
)
FOR_PEOPLE = re.compile(
    r"(?i)(readme|read[-_]me|lies[-_]?mich|leame|léeme|lisez[-_]?moi|install|upgrad|updat|changelog|changes|news|licen[sc]e|copying|"
    r"authors|requirements|release[-_]?notes|history|security|contributing)[\w. -]*$"
)
FOR_PROGRAMS = re.compile(r"(?i)\.(php\d?|inc|phtml|js|css|sql|tpl|twig|json|xml|ya?ml|png|gif|jpe?g|lang)$")


def wants(path: str, size_bytes: int) -> bool:
    """Whether a file is read at all; what is not is only hashed."""
    name = path.rsplit("/", 1)[-1].lower()
    if ASKS_FOR_LIBRARIES.search(path):
        return size_bytes < 200_000
    if LICENCE.match(name) and path.count("/") <= 2:
        # Also among the documentation, which is not read otherwise.
        return size_bytes < 200_000
    if size_bytes > 64 << 20 or LIBRARIES.search(path):
        return False
    if "." not in name and size_bytes < 200_000 and PROGRAM.search(path):
        return True
    return bool(SAMPLE.search(name) or READ_BY_ENDING.search(name) or READ_BY_NAME.match(name))


def is_text_for_people(path: str) -> bool:
    """Readme, installation text, changelog, licence: what `release read` shows."""
    name = path.rsplit("/", 1)[-1]
    return FOR_PEOPLE.match(name) is not None and FOR_PROGRAMS.search(name) is None


def line_of(data: bytes, at: int) -> int:
    return data.count(b"\n", 0, at) + 1


VERSION = re.compile(
    r"^v?(\d{1,4}(?:\.\d+)+(?:[-~+._]?(?:alpha|beta|rc|dev|pre|pl|p|a|b|git|snapshot|nightly|lts)[\w.~+-]*)?|\d{1,4})$",
    re.I,
)


def version_in(text: str) -> str:
    """The version that a short text is, without its "v", or ""."""
    found = VERSION.match(text.strip().removeprefix("version ").removeprefix("Version "))
    return found[1] if found else ""
