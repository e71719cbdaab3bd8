"""The multilingual lexicon, read once from lexicon.yaml, and the comparison of words with it."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from functools import lru_cache

from highshelf.core.wordlist import shipped

# Letters that are no others with an accent.
LETTERS = str.maketrans(
    {
        "’": "'",
        "ł": "l",
        "Ł": "L",
        "ø": "o",
        "Ø": "O",
        "ß": "ss",
        "æ": "ae",
        "Æ": "AE",
        "œ": "oe",
        "đ": "d",
        "ı": "i",
        "þ": "th",
    }
)


@dataclass(frozen=True)
class Words:
    """How a value is called: stems found in labels and in field names; `group` is what it belongs to.

    `together`: lists of stems of which a label has one each, in whatever order a language puts them.
    """

    label: tuple[str, ...]
    name: tuple[str, ...]
    group: str
    together: tuple[tuple[str, ...], ...] = ()


@dataclass(frozen=True)
class Lexicon:
    values: dict[str, Words]
    groups: dict[str, tuple[str, ...]]
    lists: dict[str, tuple[str, ...]]

    def says(self, topic: str, text: str) -> bool:
        """Whether a text has a word of the topic (`forward`, `decoy`, `success`, …)."""
        return _topic(topic).search(fold(text)) is not None


@lru_cache(maxsize=1)
def lexicon() -> Lexicon:
    raw = shipped(__package__ or "", "lexicon.yaml")
    values = {
        name: Words(
            tuple(map(apart, w["label"])),
            tuple(map(apart, w["name"])),
            w["group"],
            tuple(map(tuple, w.get("together", ()))),
        )
        for name, w in raw.pop("values").items()
    }
    groups = {name: tuple(map(apart, stems)) for name, stems in raw.pop("groups").items()}
    return Lexicon(values, groups, {topic: tuple(stems) for topic, stems in raw.items()})


def plain_letters(text: str) -> str:
    """The same without accents."""
    apart = unicodedata.normalize("NFKD", text.translate(LETTERS))
    return "".join(c for c in apart if not unicodedata.combining(c))


@lru_cache(maxsize=20_000)
def fold(text: str) -> str:
    """Lower case, no accents, single spaces; `dbHost[0]`, `db_host` and `DB-HOST` all become `db host`."""
    text = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", " ", text)
    flat = plain_letters(text).encode("ascii", "ignore").decode().lower()
    return apart(re.sub(r"[\s_\-\[\].:*]+", " ", flat).strip())


# What languages that write words together put before others: "Datenbankkennwort" is a Kennwort, of the Datenbank.
COMPOUND = re.compile(
    r"(?<![a-z])(datenbank|databank|database|administrator|mysql|mariadb|beheerders?|datenbanken)(?=[a-z]{3})"
)


def apart(folded: str) -> str:
    """Words that were written together, with a space between."""
    return COMPOUND.sub(r"\1 ", folded)


def _pattern(stem: str) -> str:
    """A stem begins a word; short ones must be whole words, and those that end with "$". "^next$" is the whole text."""
    stem, whole = apart(re.sub(r"[\s_\-]+", " ", stem)), stem.endswith("$")
    if stem.startswith("^"):
        return rf"^\W*{re.escape(stem.strip('^$'))}\W*$"
    return re.escape(stem.rstrip("$")) + (r"(?![a-z0-9])" if whole or len(stem) <= 4 else "")


# By its name: a tuple of some hundred words is hashed anew at every look.
@lru_cache(maxsize=500)
def _topic(topic: str) -> re.Pattern[str]:
    return _any_of(lexicon().lists[topic])


@lru_cache(maxsize=5_000)
def _any_of(stems: tuple[str, ...]) -> re.Pattern[str]:
    return re.compile(rf"(?<![a-z0-9])(?:{'|'.join(map(_pattern, stems))})")


def pattern_of(stems: tuple[str, ...]) -> re.Pattern[str]:
    """What finds any of some stems at the beginning of a word, in folded text."""
    return _any_of(stems)


def any_in(stems: tuple[str, ...], folded: str) -> bool:
    """Whether any of some stems begins a word of the folded text."""
    return _any_of(stems).search(folded) is not None


@lru_cache(maxsize=4_000)
def _plain_stem(stem: str) -> tuple[str, bool]:
    """A stem as it is looked for, and whether it has to be a whole word."""
    return apart(re.sub(r"[\s_\-]+", " ", stem)).rstrip("$"), stem.endswith("$") or len(stem) <= 4


# By plain comparison: a pattern of its own for each of some thousand stems costs the first page of a process a tenth of a second.
@lru_cache(maxsize=50_000)
def stem_in(stem: str, folded: str) -> bool:
    """Whether a stem begins a word of the folded text; short stems must be whole words."""
    word, whole = _plain_stem(stem)
    at = folded.find(word)
    while at >= 0:
        end = at + len(word)
        if not _is_word(folded, at - 1) and not (whole and _is_word(folded, end)):
            return True
        at = folded.find(word, at + 1)
    return False


def _is_word(text: str, at: int) -> bool:
    return 0 <= at < len(text) and ("a" <= text[at] <= "z" or "0" <= text[at] <= "9")
