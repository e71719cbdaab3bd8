"""How a thing stands, by the few words behind its name in a table of checks: there, missing, or missing and not needed. Pure.

Rules:
1. Words are weighed together: "not found" denies what "found" says, and "not needed" is no want.
2. A word alone that is yes or no is an answer; in a longer text it is a part of a sentence.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Literal

from highshelf.core.pages.lexicon import fold, lexicon

State = Literal["fine", "bad", "maybe", ""]

# What is drawn instead of said.
SIGNS = (frozenset("✓✔✅☑"), frozenset("✗✘✖❌☒"))
# So many words may stand between a denial and what it denies: "nicht mehr beschreibbar", "n'est pas accessible en écriture".
BETWEEN = 2


@lru_cache(maxsize=20_000)
def stands(text: str) -> State:
    """What a state says; "" where it says nothing."""
    if sign := drawn(text):
        return sign
    words, folded = lexicon(), fold(text).strip(" .!()")
    if not folded:
        return ""
    spare = words.says("optional", text)
    if folded in words.lists["affirming"]:
        return "fine"
    # "Error" is an answer; "error log" is the name of something.
    answer = _answer(folded)
    missing = (
        words.says("absent", text)
        or _denied(folded)
        or answer in words.lists["refused"]
        or answer in words.lists["faulty"]
    )
    if missing:
        return "maybe" if spare else "bad"
    return "fine" if words.says("present", text) else ""


def drawn(text: str) -> State:
    """What the signs in a text say, such as ticks and crosses; "" where none do, or both."""
    good, ill = SIGNS[0] & set(text), SIGNS[1] & set(text)
    return "" if bool(good) == bool(ill) else "fine" if good else "bad"


def _answer(folded: str) -> str:
    """The one word that a state begins with where something in brackets, or nothing, follows it."""
    found = re.match(r"([a-z]+)(?: ?[(,]|$)", folded)
    return found[1] if found else ""


def _denied(folded: str) -> bool:
    """Whether what would say that it is there is denied: the two words stand close, in this order."""
    return _denials().search(folded) is not None


@lru_cache(maxsize=1)
def _denials() -> re.Pattern[str]:
    lists = lexicon().lists
    no = "|".join(re.escape(w.rstrip("$")) for w in lists["denying"])
    yes = "|".join(
        re.escape(w.rstrip("$"))
        for w in (*lists["present"], "writ", "schreib", "ecri", "escri", "scriv", "grava", "zapis")
    )
    return re.compile(rf"(?<![a-z])(?:{no})(?![a-z])(?: [a-z']+){{0,{BETWEEN}}} (?:{yes})")
