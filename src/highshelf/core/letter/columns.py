"""Letters that are set in two columns: what stands on the right is read after what stands on the left.

Rules:
1. Two columns are two lists of names and values side by side. Names with their values beside them are one list, and stay as they are.
2. Every line keeps the number that it has in the letter.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from highshelf.core.letter.words import words

# At least so many lines have something on both sides, and begin at one place on the right.
LEAST_ROWS = 3
WIDE = re.compile(r" {2,}(?=\S)")
# A name with its value, as lists have them.
ENTRY = re.compile(r"(?P<name>\S(?:.*?\S)?)(?:\s{2,}|\s*[:=]\s+|\s*\.{3,}\s*)\S")


class Line(str):
    """A line of a letter that knows where it stands there, from 1."""

    number: int

    def __new__(cls, text: str, number: int) -> Line:
        made = super().__new__(cls, text)
        made.number = number
        return made


def numbered(lines: Sequence[str]) -> list[Line]:
    """The lines in the order in which they are to be read."""
    known = [Line(line, number) for number, line in enumerate(lines, 1)]
    found = _columns(known)
    if found is None:
        return known
    at, first, last = found
    rows = known[first : last + 1]
    left = [Line(line[:at].rstrip(), line.number) for line in rows]
    right = [Line(line[at:].rstrip(), line.number) for line in rows]
    return [*known[:first], *left, Line("", rows[-1].number), *right, *numbered_from(known[last + 1 :])]


def numbered_from(rest: Sequence[Line]) -> list[Line]:
    """What follows may be set in columns of its own."""
    return [Line(line, rest[line.number - 1].number) for line in numbered(rest)] if rest else []


def _columns(lines: Sequence[Line]) -> tuple[int, int, int] | None:
    """Where the right column begins, and the first and last line that have two; the earliest of them."""
    starts = [found.end() for line in lines if "\t" not in line for found in WIDE.finditer(line)]
    found = [
        (at, *run)
        for at in sorted({one for one in starts if starts.count(one) >= LEAST_ROWS})
        for run in _runs(lines, at)
        if _are_two_lists(lines[run[0] : run[1] + 1], at)
    ]
    return min(found, key=lambda one: (one[1], one[0]), default=None)


def _runs(lines: Sequence[Line], at: int) -> Iterator[tuple[int, int]]:
    """First and last of lines in a row that have nothing written across this place."""
    rows: list[int] = []
    for index, line in enumerate([*lines, Line("x" * (at + 1), 0)]):
        if not line[at - 2 : at].strip() and not line[at : at + 1].isspace():
            rows.append(index)
            continue
        both = [i for i in rows if lines[i][at:].strip()]
        if len(both) >= LEAST_ROWS:
            yield both[0], _last_of_left(lines, at, rows)
        rows = []


def _last_of_left(lines: Sequence[Line], at: int, rows: list[int]) -> int:
    """The left column may be longer: up to the first gap after the right one's last line."""
    last = max(i for i in rows if lines[i][at:].strip())
    while last + 1 in rows and lines[last + 1].strip():
        last += 1
    return last


def _are_two_lists(rows: Sequence[Line], at: int) -> bool:
    both = sum(1 for line in rows if line[:at].strip() and line[at:].strip())
    sides = [[line[:at].strip() for line in rows], [line[at:].strip() for line in rows]]
    return both >= LEAST_ROWS and all(_is_list(side) for side in sides)


def _is_list(side: list[str]) -> bool:
    """Whether the names in front are names: in a table of many columns, what stands in the third is a value."""
    entries = [found for text in side if (found := ENTRY.match(text))]
    names = [found for found in entries if _is_name(found["name"])]
    return len(names) >= 2 and 3 * len(names) > 2 * len(entries)


def _is_name(text: str) -> bool:
    return not re.search(r"[\d@/]|\w\.\w", text) and bool(words().role(text) or words().section(text))
