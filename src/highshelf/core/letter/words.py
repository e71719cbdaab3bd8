"""The words of letters, read once from words.yaml."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from highshelf.core.pages.lexicon import any_in, fold
from highshelf.core.wordlist import shipped

# Shorter words end others by chance.
LEAST_PART = 5


@dataclass(frozen=True)
class Words:
    sections: dict[str, tuple[str, ...]]
    roles: dict[str, tuple[str, ...]]
    customers: tuple[str, ...]
    same: tuple[str, ...]
    credentials: tuple[str, ...]
    nothing: tuple[str, ...]
    elsewhere: tuple[str, ...]
    absent: tuple[str, ...]
    anybody: tuple[str, ...]
    greetings: tuple[str, ...]
    verbs: tuple[str, ...]
    until: tuple[str, ...]
    doors: tuple[str, ...]
    persons: tuple[str, ...]
    things: tuple[str, ...]
    elsewhere_paths: tuple[str, ...]
    signs: tuple[str, ...]
    as_whom: tuple[str, ...]
    it_is_called: tuple[str, ...]
    into: tuple[str, ...]
    databases: tuple[str, ...]
    stands_on: tuple[str, ...]

    def section(self, text: str) -> str:
        """What a label or heading is about, or ""."""
        found = _first(self.sections, text)
        if not found and self.role(text) in ("login", "password", "customer") and self.says_customer(text):
            return "panel"
        return found

    def role(self, label: str) -> str:
        """What a label calls, or ""."""
        return _first(self.roles, label) or self._last_part(label)

    def _last_part(self, label: str) -> str:
        """What the last part of a compound calls: `Zielordner` is a folder."""
        found = (_compound(word) for word in re.findall(r"[a-z]+", fold(label.lower())))
        return next((kind for kind in found if kind), "")

    def is_database(self, label: str) -> bool:
        """Whether a label is a word for a database, and nothing else."""
        return fold(label.lower().strip()) in self.databases

    def says_customer(self, text: str) -> bool:
        return any(stem in fold(text.lower()) for stem in self.customers)

    def says_credentials(self, text: str) -> bool:
        """Whether a text speaks of a login and its password in one word."""
        return _any(self.credentials, fold(text.lower()))

    def says_same(self, text: str) -> bool:
        return _any(self.same, fold(text.lower()))

    def says_name(self, text: str) -> bool:
        """Whether a text speaks of what something is called."""
        return _any(self.roles["bare"], fold(text.lower()))

    def says_elsewhere(self, text: str) -> bool:
        """Whether a text says that the value comes by another way."""
        return _any(self.elsewhere, fold(text.lower()))

    def says_absent(self, text: str) -> bool:
        return _any(self.absent, fold(text.lower()))

    def says_until(self, text: str) -> bool:
        """Whether a sentence speaks of the time before the name points here."""
        return _any(self.until, fold(text.lower()))

    def says_door(self, text: str) -> bool:
        """Whether a label speaks of where one signs in, or of an address in the web."""
        return _any(self.doors, fold(text.lower()))

    def says_things(self, text: str) -> bool:
        """Whether a sentence speaks of what is brought to a site, and of no program."""
        folded = fold(text.lower())
        return _any(self.things, folded) and not _any(self.elsewhere_paths, folded)

    def says_sign_in(self, text: str) -> bool:
        return _any(self.signs, fold(text.lower()))

    def is_person(self, name: str) -> bool:
        """Whether somebody is greeted by title and name: no name of a site."""
        return fold(name.split()[0].lower().rstrip(".")) in self.persons if name.split() else False

    def greets(self, line: str) -> str:
        """Whom a line greets by name, or ""."""
        folded = fold(line.lower())
        for greeting in sorted(self.greetings, key=len, reverse=True):
            if folded.startswith(greeting + " "):
                rest = " ".join(line.split()[len(greeting.split()) :])
                # `Hallo liebe …` greets twice.
                name = self.greets(rest) or re.split(r"[,!:.]", rest)[0].strip()
                fits = name[:1].isupper() and len(name) <= 60 and not _any(self.anybody, fold(name.lower()))
                return name if fits else ""
        return ""

    def says_nothing(self, text: str) -> bool:
        return fold(text) in {fold(w) for w in self.nothing} or not fold(text)


def _compound(word: str) -> str:
    if not word.endswith(_long_stems()):
        return ""
    for kind, stems in words().roles.items():
        if any(len(s) >= LEAST_PART and len(word) > len(s) + 2 and word.endswith(s) for s in stems):
            return kind
    return ""


@lru_cache(maxsize=1)
def _long_stems() -> tuple[str, ...]:
    return tuple(s for stems in words().roles.values() for s in stems if len(s) >= LEAST_PART)


@lru_cache(maxsize=200)
def _folded(stems: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(fold(stem) for stem in stems)


def _any(stems: tuple[str, ...], folded: str) -> bool:
    return any_in(_folded(stems), folded)


def _first(kinds: dict[str, tuple[str, ...]], text: str) -> str:
    # In capitals and small letters as they come: `MySQL` is one word here.
    folded = fold(text.lower())
    return next((kind for kind, stems in kinds.items() if _any(stems, folded)), "")


@lru_cache(maxsize=1)
def words() -> Words:
    raw = shipped(__package__ or "")
    sections, roles = ({n: tuple(map(str, s)) for n, s in raw[kind].items()} for kind in ("sections", "roles"))
    lists = {
        k: tuple(map(str, raw[k]))
        for k in (
            "customers",
            "same",
            "credentials",
            "nothing",
            "elsewhere",
            "absent",
            "anybody",
            "greetings",
            "verbs",
            "until",
            "doors",
            "persons",
            "things",
            "elsewhere_paths",
            "signs",
            "as_whom",
            "it_is_called",
            "into",
            "databases",
            "stands_on",
        )
    }
    return Words(sections, roles, **lists)
