"""What a letter says only by pointing: `the same password as for SFTP`, `mêmes identifiants que pour …`, `its user has the same name`.

Rules:
1. What a sentence points from is the service named last before the words for it, else the one that was spoken of.
2. What it points to is named after them; where it names none, the only other service whose values are known.
3. A panel whose password is the transfer's needs none of its own.
4. Nothing that the letter says itself is replaced, and mail is no service of ours.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from highshelf.core.letter.columns import Line
from highshelf.core.letter.prose import ENDS, last_section, spoken_of
from highshelf.core.letter.words import words

if TYPE_CHECKING:
    from highshelf.core.letter.read import Said

LOGIN, PASSWORD = "login", "password"
VALUES = {
    "transfer": {LOGIN: "transfer.login", PASSWORD: "transfer.password"},
    "panel": {LOGIN: "panel.login", PASSWORD: "panel.password"},
    "database": {LOGIN: "database.user", PASSWORD: "database.password"},
}
# Shown as doubtful: a person looks at what was only pointed at.
SURE = 0.55
CLAUSE = re.compile(r"[,;:(]\s+")


@dataclass(frozen=True)
class Sentence:
    """One sentence of running text, the line that it begins in, and what was spoken of before."""

    text: str
    line: int
    spoken: str


def followed(said: Sequence[Said], lines: Sequence[Line]) -> list[Said]:
    """Values that are only pointed at, as if they had been said there."""
    have = {s.name: s for s in said}
    found: dict[str, Said] = {}
    for sentence in sentences(lines):
        for before, pointing, after in _pointing(sentence.text):
            about = last_section(f"{before} {pointing}") or sentence.spoken
            if about not in VALUES:
                continue
            for name, source in _meant(about, pointing, after, have):
                if name not in have and name not in found:
                    shown = sentence.text.strip()[:160]
                    sure = min(SURE, source.sure)
                    found[name] = replace(source, name=name, line=sentence.line, where=shown, sure=sure, others=())
    return list(found.values())


def sentences(lines: Sequence[Line]) -> Iterator[Sentence]:
    """Running text put together over the ends of lines, and parted where sentences end."""
    text, number, spoken = "", 0, ""
    for line in [*lines, Line("", 0)]:
        # A row of a table, or an entry of a list, is a sentence of its own.
        if (
            line.strip()
            and line != "---"
            and (not text or line.strip()[:1].islower() or not re.search(r"[.:;!?]$", text))
        ):
            text, number = f"{text} {line.strip()}".strip(), number or line.number
            continue
        for part in re.split(ENDS, text):
            if part.strip():
                yield Sentence(part, number, spoken)
                spoken = spoken_of(part) or spoken
        text, number = line.strip().replace("---", ""), line.number
        if not text:
            number = 0


def _pointing(text: str) -> Iterator[tuple[str, str, str]]:
    """Parts of a sentence that point: what stands before the part, it up to the words that point, and what stands behind them."""
    ends = [0, *(m.end() for m in CLAUSE.finditer(text)), len(text)]
    for begin, end in itertools.pairwise(ends):
        clause = text[begin:end]
        if not words().says_same(clause):
            continue
        parts = clause.split()
        # The shortest beginning that says it all: behind it stands what is pointed to.
        n = next(n for n in range(1, len(parts) + 1) if words().says_same(" ".join(parts[:n])))
        yield text[:begin], " ".join(parts[:n]), " ".join([*parts[n:], text[end:]])


def _meant(about: str, pointing: str, after: str, have: dict[str, Said]) -> Iterator[tuple[str, Said]]:
    wanted = _roles(f"{pointing} {CLAUSE.split(after)[0]}")
    if about == "database" and LOGIN in wanted and words().says_name(f"{pointing} {after}") and "database.name" in have:
        yield "database.user", have["database.name"]
        return
    other = _first_section(after, about)
    known = [g for g in VALUES if g != about and all(VALUES[g][role] in have for role in wanted)]
    # "As for the old one": what that is, nobody knows.
    elsewhere = not other and len(CLAUSE.split(after)[0].strip(" .)").split()) >= 2
    alone = known[0] if not other and len(known) == 1 and not elsewhere else ""
    source = other if other in known else alone
    if source:
        # An account without a password for its panel takes the transfer's by itself.
        for role in [r for r in wanted if (about, r, source) != ("panel", PASSWORD, "transfer")]:
            yield VALUES[about][role], have[VALUES[source][role]]


def _roles(text: str) -> list[str]:
    if words().says_credentials(text):
        return [LOGIN, PASSWORD]
    parts = re.findall(r"[^\W\d_]+(?:[-'’][^\W\d_]+)?", text)
    called = {words().role(" ".join(parts[n : n + size])) for n in range(len(parts)) for size in (1, 2, 3)}
    return [role for role in (LOGIN, PASSWORD) if role in called]


def _first_section(text: str, about: str) -> str:
    """The first service that a text names, but for the one that it is about."""
    parts = CLAUSE.split(text)[0].split()
    found = (words().section(" ".join(parts[:n])) for n in range(1, len(parts) + 1))
    return next((s for s in found if s and s != about), "")
