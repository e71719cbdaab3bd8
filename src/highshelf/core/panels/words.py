"""What panels say: one list a topic, read once from words.yaml, compared as the pages' lexicon is."""

from __future__ import annotations

import re
from functools import lru_cache

from highshelf.core.pages.lexicon import fold, stem_in
from highshelf.core.wordlist import shipped


@lru_cache(maxsize=1)
def _topics() -> dict[str, tuple[str, ...]]:
    raw = shipped(__package__ or "")
    return {topic: tuple(dict.fromkeys(fold(str(stem)) or str(stem) for stem in stems)) for topic, stems in raw.items()}


@lru_cache(maxsize=20_000)
def says(topic: str, text: str) -> bool:
    """Whether a text has a word of the topic; words of German and Dutch may stand inside others (`Kundendatenbank`)."""
    folded = fold(text)
    return any(stem_in(stem, folded) or (len(stem) >= 7 and stem in folded) for stem in _topics()[topic])


def token_in(token: str, text: str) -> bool:
    """Whether a whole name stands in a text, not only as a part of a longer one."""
    return re.search(rf"(?<![\w-]){re.escape(token)}(?![\w-])", text) is not None
