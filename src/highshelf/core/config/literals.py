"""What a configuration file's formats have in common: literals with their place, and changing one without touching the rest.

Rules:
1. Only literals that stand alone are found: what is put together at run time is nobody's to set.
2. A change replaces the bytes of the literals and no other; line ends, character set and comments stay.
3. What cannot be spelled in a format so that its reader gets it back is an error, never something near it.
"""

from __future__ import annotations

import bisect
import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal as Oneof
from typing import Protocol

from highshelf.core.errors import ConfigurationError

Kind = Oneof["text", "number", "flag", "null"]
# Larger files are no configuration that anybody wrote.
MOST_BYTES = 4_000_000


@dataclass(frozen=True)
class Literal:
    """One value that stands in a file.

    Attributes:
        path: the keys that lead to it, outermost first: `("$db", "host")`, `("DB_HOST",)`, `("database", "name")`.
        value: as the format's reader gives it; flags are `true` and `false`, nothing is "".
        start, end: the bytes that spell it.
        line: counted from 1.
        comment: what stands behind it and directly above or below it, for people.
        section: the last heading or comment that stands above it.
        off: it stands in a comment; setting it takes the comment's mark away.
    """

    path: tuple[str, ...]
    value: str
    kind: Kind
    start: int
    end: int
    line: int
    comment: str = ""
    section: str = ""
    off: bool = False

    @property
    def name(self) -> str:
        return ".".join(self.path)


class Format(Protocol):
    """One format. `spell` gives the bytes that a reader of it takes for the value, in the place of a literal."""

    @property
    def name(self) -> str: ...
    def literals(self, data: bytes) -> list[Literal]: ...
    def spell(self, data: bytes, literal: Literal, value: str) -> bytes: ...


def put(form: Format, data: bytes, changes: Sequence[tuple[Literal, str]]) -> bytes:
    """The file with these literals set.

    Raises:
        ConfigurationError: a value cannot be spelled in this format, or what came out reads otherwise than it should.
    """
    made = data
    for literal, value in sorted(changes, key=lambda c: c[0].start, reverse=True):
        made = made[: literal.start] + form.spell(data, literal, value) + made[literal.end :]
    _prove(form, made, changes)
    return made


def _prove(form: Format, made: bytes, changes: Sequence[tuple[Literal, str]]) -> None:
    """Read it again: each literal has to be there with its value."""
    found = [(one.path, one.value) for one in form.literals(made) if not one.off]
    for literal, value in changes:
        if (literal.path, as_read(literal, value)) not in found:
            raise ConfigurationError(
                f"{literal.name} cannot be set so that the {form.name} file keeps its meaning",
                hint="edit the file by hand",
            )


TRUE, FALSE = ("true", "yes", "on", "1"), ("false", "no", "off", "0", "")


def as_read(literal: Literal, value: str) -> str:
    """How a value reads once it is in the place of a literal: flags have two words only."""
    if literal.kind == "flag" and value.lower() in (*TRUE, *FALSE):
        return "true" if value.lower() in TRUE else "false"
    return value


def is_number(value: str) -> bool:
    """Whether it can stand without quotation marks and mean the same."""
    return re.fullmatch(r"0|-?[1-9]\d{0,17}", value) is not None


def decoded(data: bytes) -> str:
    """The text; bytes of any character set come back as they were by `encoded`."""
    return data.decode("utf-8", "surrogateescape")


def encoded(text: str, data: bytes) -> bytes:
    """A value in the character set of the file that it goes into.

    Raises:
        ConfigurationError: the file's character set does not have these letters.
    """
    try:
        raw = text.encode("utf-8", "surrogateescape")
    except UnicodeEncodeError as fault:
        raise ConfigurationError("this value is no text", hint="choose another one") from fault
    if b"\0" in raw:
        raise ConfigurationError("no configuration file holds a NUL", hint="choose another value")
    if raw.isascii() or _is_utf8(data):
        return raw
    try:
        return text.encode("cp1252")
    except UnicodeEncodeError as fault:
        raise ConfigurationError(
            "the file's character set has no such letters", hint="save it as UTF-8 first"
        ) from fault


def _is_utf8(data: bytes) -> bool:
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


class Lines:
    """Where lines begin, which of them are comments, and what is said around a line."""

    def __init__(self, data: bytes, comments: Iterable[tuple[int, int]], clean: Callable[[str], str]) -> None:
        """`comments`: bytes from and to; `clean` takes a comment's marks away."""
        self._starts = [0, *(m.end() for m in re.finditer(rb"\r\n|\r|\n", data))]
        self._clean = clean
        self._behind: dict[int, str] = {}
        alone: dict[int, str] = {}
        for start, end in comments:
            text = data[start:end].decode("utf-8", "replace")
            first = self.of(start)
            before = data[self._starts[first - 1] : start]
            if before.strip():
                self._behind[first] = clean(text)
            else:
                for number, part in enumerate(re.split(r"\r\n|\r|\n", text)):
                    alone[first + number] = part
        self._alone = alone
        count = len(self._starts)
        self._blank = {
            n for n in range(1, count + 1) if not data[self._starts[n - 1] : self._end(n, len(data))].strip()
        } | {0, count + 1}
        self._above = self._stands_above()

    def _end(self, line: int, size: int) -> int:
        return self._starts[line] if line < len(self._starts) else size

    def of(self, position: int) -> int:
        """The line of a byte, counted from 1."""
        return bisect.bisect_right(self._starts, position)

    def _stands_above(self) -> bool:
        """Whether this file's comments stand above what they are about, or below."""
        above = below = 0
        for line in self._alone:
            if line - 1 not in self._alone and line - 1 not in self._blank and self._ends_in_blank(line):
                below += 1
            elif line + 1 not in self._alone and line + 1 not in self._blank and self._begins_in_blank(line):
                above += 1
        return above >= below

    def _ends_in_blank(self, line: int) -> bool:
        while line in self._alone:
            line += 1
        return line in self._blank

    def _begins_in_blank(self, line: int) -> bool:
        while line in self._alone:
            line -= 1
        return line in self._blank

    def comment(self, first: int, last: int) -> str:
        """What is said about what stands on these lines."""
        parts = [self._behind.get(n, "") for n in range(first, last + 1)]
        step, line = (-1, first - 1) if self._above else (1, last + 1)
        block: list[str] = []
        while line in self._alone:
            block.append(self._clean(self._alone[line]))
            line += step
        parts += reversed(block) if self._above else block
        return " ".join(p for p in parts if p)

    def section(self, line: int) -> str:
        """The last block of comment above a line, however far."""
        while line > 0 and line not in self._alone:
            line -= 1
        block: list[str] = []
        while line in self._alone:
            block.append(self._clean(self._alone[line]))
            line -= 1
        return " ".join(p for p in reversed(block) if p)


def told(literals: Iterable[Literal], lines: Lines) -> list[Literal]:
    """With what is said around each."""
    return [
        replace(one, comment=lines.comment(one.line, one.line), section=one.section or lines.section(one.line))
        for one in literals
    ]
