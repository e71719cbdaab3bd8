"""A name that was mistyped, and the one that is there. Pure."""

from __future__ import annotations

from collections.abc import Iterable
from difflib import get_close_matches

# Below this, names are others and not mistyped ones.
ALIKE = 0.7


def meant(word: str, names: Iterable[str]) -> str:
    """ "did you mean X? " for the name that is most like a word, in whichever letter case; "" when none is."""
    folded = {name.lower(): name for name in sorted(names)}
    found = get_close_matches(word.lower(), folded, 1, ALIKE)
    return f"did you mean {folded[found[0]]}? " if found else ""
