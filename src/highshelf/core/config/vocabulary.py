"""The words of configuration files, read once from words.yaml."""

from __future__ import annotations

import re
from functools import cache, lru_cache
from typing import Any

from highshelf.core.wordlist import shipped

PLACEHOLDER_MARKS = re.compile(
    r"^(?:[%@#]{1,3}[\w.-]+[%@#]{0,3}|\{+\s*[\w.$-]+\s*\}+|<[\w .-]+>|\[[\w .-]+\]|\$\{?\w+\}?|__?\w+__?|x{3,}|\*{3,}|\.{3,}|\?+)$"
    r"|change.?me|replace.?me|notsecret|_here$",
    re.I,
)


@lru_cache(maxsize=1)
def vocabulary() -> dict[str, Any]:
    return dict(shipped(__package__ or ""))


def _flat(words: Any) -> list[str]:
    return [w for one in words for w in (one if isinstance(one, list) else [one])]


def _pattern_of(topic: str, part: str = "") -> str:
    words = vocabulary()[topic]
    return "|".join(_flat(words[part] if part else words))


@cache
def says(topic: str) -> re.Pattern[str]:
    """A word of the topic as a whole word, in folded text."""
    return re.compile(rf"(?<![a-z0-9])(?:{_pattern_of(topic)})(?![a-z0-9])")


@cache
def names(topic: str, part: str = "") -> re.Pattern[str]:
    """The whole text is a word of the topic."""
    return re.compile(rf"(?:{_pattern_of(topic, part)})", re.I)


@cache
def key_name() -> re.Pattern[str]:
    kinds, ends = _pattern_of("key_kinds"), _pattern_of("key_ends")
    return re.compile(
        rf"(?<![a-z0-9])(?:(?:{kinds}) ?(?:{ends})|{_pattern_of('keys')}|{_pattern_of('weak_keys')})(?![a-z0-9])"
    )


def is_placeholder(text: str) -> bool:
    folded = text.lower()
    return bool(
        PLACEHOLDER_MARKS.search(text)
        or names("whole_placeholders").fullmatch(folded)
        or says("placeholders").search(re.sub(r"[_\W]+", " ", folded))
    )


def is_example(text: str) -> bool:
    return bool(re.search(rf"(?i)(?:^|[@/.])(?:{_pattern_of('examples')})(?:\.|$|[/:])|\.example\b|^https?://$", text))


@cache
def _begun(topic: str) -> re.Pattern[str]:
    return re.compile(rf"(?<![a-z0-9])(?:{_pattern_of(topic)})")


def begins(topic: str, folded: str) -> bool:
    """Whether a word of the text begins with one of the topic's."""
    return _begun(topic).search(folded) is not None


def part_of(core: str, *, named: bool = False) -> str | None:
    """The database's value that such a key means; the bare name of the database only when asked for."""
    parts = vocabulary()["parts"]
    return next((v for v in parts if (named or v != "database.name") and names("parts", v).fullmatch(core)), None)
