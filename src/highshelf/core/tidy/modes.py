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


def configurations(made: Iterable[str], named: Iterable[str]) -> list[str]:
    """Of the files the installation made, those that look like configuration, and those a primer names."""
    made = list(made)
    return sorted({p for p in made if CONFIGURATION.search(p)} | (set(named) & set(made)))
