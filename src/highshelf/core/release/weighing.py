"""Name and version of a release, weighed: sources that agree support one another, also where one tells less than the other. Pure.

Rules:
1. What an archive and its wrapper are called is one source; each kind of file is one more. A hundred libraries are no majority.
2. A version is supported by what begins with it, and by what it begins with: 6.1 and 6.1.9 speak for each other.
3. A number of one part loses to one of several. What contradicts takes from how sure it is.
4. The same clues give the same answer, in whichever order they come.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from highshelf.core.release.clues import Clue

# What a shorter version adds to a longer one that it begins, and the other way round.
SHORTER, LONGER = 0.8, 0.5
NAMES = ("the wrapper folder's name", "the archive's name")
# Behind these a version is over.
TAIL = r"(?:[-_.+](?:full|complete|all|stable|release|upload|package|dist|en|de|multi\w*|orig|src|source|bin|ds\d?|dfsg\w*))*$"
PRE = r"(?:[-._~+]?(?:alpha|beta|rc|dev|pre|pl|git|ds)[\w.~+-]*|[a-z]\d?)?"
# Dots, or strokes: a version that has the one keeps to it.
NUMBERS = rf"(?:\d+(?:\.\d+)+{PRE}|\d+(?:-\d+)+{PRE}|\d+(?:_\d+)+{PRE}|\d+{PRE})"
APART = re.compile(rf"(?P<name>[A-Za-z][\w .+]*?(?:-[A-Za-z\d][\w.+]*?)*)[-_ ]+v?(?P<version>{NUMBERS}){TAIL}", re.I)
TOGETHER = re.compile(rf"(?P<name>[A-Za-z][A-Za-z _-]*?)[-_ .]*v?(?P<version>\d+(?:[._-]\d+)+{PRE}){TAIL}", re.I)


@dataclass(frozen=True)
class Weighed:
    """A value, how sure it is (0 to 1), and what speaks for something else."""

    value: str
    sure: float
    against: tuple[str, ...] = ()


def split(text: str) -> tuple[str, str]:
    """Name and version of "ferrybook-2.1", "ferrybook_v2-1-0", "Ferrybook 2.1"; digits of the name stay there; "" for what is not told."""
    text = text[:100]
    found = APART.match(text) or TOGETHER.match(text)
    if not found:
        return "", ""
    return found["name"].rstrip("-_ ."), re.sub(r"(?<=\d)[_-](?=\d)", ".", found["version"])


def version(clues: Sequence[Clue]) -> Weighed:
    """The version that is supported best; "" where what stands there is likelier a library's."""
    values = sorted({c.value for c in clues})
    weights = {value: _support(value, clues) for value in values}
    several = {v: w for v, w in weights.items() if _parts(v) > 1 and w >= LEAST} or weights
    if not several:
        return Weighed("", 0.0)
    best = max(several, key=lambda v: (round(several[v], 6), _parts(v), v))
    # What begins with it and has a source of its own tells more.
    longer = [v for v in several if _begins(best, v) and several[v] >= LEAST]
    best = max(longer, key=lambda v: (round(several[v], 6), v), default=best)
    others = [v for v in values if not _begins(v, best) and not _begins(best, v) and v != best and weights[v] >= LEAST]
    sure = weights[best] * (1 - 0.5 * max((weights[v] for v in others), default=0.0))
    return Weighed(best, round(sure, 2), tuple(others)) if weights[best] >= LEAST else Weighed("", 0.0, tuple(values))


# Below this nothing is decided.
LEAST = 0.45


def _support(value: str, clues: Sequence[Clue]) -> float:
    kinds: dict[str, float] = {}
    for clue in clues:
        share = (
            1.0
            if clue.value == value
            else SHORTER
            if _begins(clue.value, value)
            else LONGER
            if _begins(value, clue.value)
            else 0.0
        )
        kind = "name" if clue.path in NAMES else clue.path.rsplit("/", 1)[-1].rsplit(".", 1)[-1].lower()
        kinds[kind] = max(kinds.get(kind, 0.0), clue.sure * share)
    doubt = 1.0
    for kind in sorted(kinds):
        doubt *= 1 - kinds[kind]
    return 1 - doubt


def _begins(short: str, long: str) -> bool:
    """Whether a longer version begins with a shorter one, part by part."""
    return len(short) < len(long) and long.startswith(short) and long[len(short)] in ".-~+_"


def _parts(value: str) -> int:
    return len(re.findall(r"\d+", value.split("-")[0].split("~")[0]))
