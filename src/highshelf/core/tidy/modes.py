"""Modes: 755 and 644 for everything, the tightest that works for configuration."""

from __future__ import annotations

import re
from collections.abc import Iterable

TIGHTEST_FIRST = (0o600, 0o640, 0o644)
CONFIGURATION = re.compile(
    r"(^|/)(?:[\w.-]*(?:config|settings|conf|parameters|credentials|database|dbconfig|local)[\w.-]*\.(?:php|inc|ini|json|ya?ml|conf|xml)(?:\.php)?|\.env[\w.]*)$"
    # Whatever it is called, in a folder that says what is in it.
    r"|(^|/)(?:config|configs|configuration|conf|settings|etc)/[\w.-]+\.(?:php|inc|ini|json|ya?ml|conf|xml|env)$",
    re.I,
)


# What is worth a look for what it holds: a file of text, of a configuration's size.
MAY_HOLD = re.compile(r"\.(?:php\d?|inc|ini|env|json|ya?ml|xml|conf|cfg|dat|txt|neon)$|(^|/)[\w-]+$", re.I)
MOST_HOLDING_BYTES, MOST_LOOKED_AT = 64_000, 40


def holds(text: bytes, secrets: Iterable[str]) -> bool:
    """Whether a file has one of these in it: then it is a configuration, whatever it is called."""
    return any(s.encode() in text for s in secrets if len(s) > 7)


def configurations(made: Iterable[str], named: Iterable[str]) -> list[str]:
    """Of the files the installation made, those that look like configuration, and those a primer names."""
    made = list(made)
    return sorted({p for p in made if CONFIGURATION.search(p)} | (set(named) & set(made)))
