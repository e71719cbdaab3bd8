"""What a sentence says has happened: that all is done, that something failed, that it was so before. Pure.

Rules:
1. Words are weighed together, not one by one: "could not be completed" has a word of success in it, "without errors" one of failure.
2. A clause that supposes ("once it is installed", "after this step") says nothing of what has happened, nor does one that asks to look.
3. The language is that of the sentence's own short words, else that of the page; where neither is known all must agree.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import lru_cache
from typing import Literal

from highshelf.core.pages.lexicon import fold, pattern_of
from highshelf.core.wordlist import shipped

Said = Literal["done", "failed", "already", "supposed", ""]
Classes = Mapping[str, re.Pattern[str]]

# Where one clause ends and another begins.
CLAUSE = re.compile(r"(?:(?<=\w)[,;:.!?]+(?=\s|$)|\s[–—-]\s)\s*")
# So many of a language's short words make it that one.
SURE = 2
# A longer text is a page, and says many things.
LONGEST = 400


@lru_cache(maxsize=1)
def _words() -> dict[str, dict[str, tuple[str, ...]]]:
    raw = shipped(__package__ or "", "saying.yaml")
    return {code: {name: tuple(map(str, stems)) for name, stems in classes.items()} for code, classes in raw.items()}


# A language at a time: the patterns of all of them cost the first page of a process a fifth of a second.
@lru_cache(maxsize=20)
def _classes(code: str) -> Classes:
    return {name: pattern_of(stems) for name, stems in _words()[code].items()}


@lru_cache(maxsize=1)
def _cheers() -> re.Pattern[str]:
    return pattern_of(tuple(dict.fromkeys(stem for classes in _words().values() for stem in classes["cheers"])))


@lru_cache(maxsize=1)
def _marks() -> dict[str, frozenset[str]]:
    return {code: frozenset(classes["marks"]) for code, classes in _words().items()}


@lru_cache(maxsize=20_000)
def said(sentence: str, language: str = "") -> Said:
    """What a sentence says.

    Args:
        language: the page's, as `language_of` tells it; "" where nobody knows.
    """
    if not sentence or len(sentence) > LONGEST:
        return ""
    code = _by_marks(fold(sentence), SURE + (1 if language else 0)) or language
    if code in _words():
        return _in(sentence, _classes(code))
    found = {_in(sentence, _classes(one)) for one in _words()} - {""}
    # Of a word like "create" another language makes one that says "created": what is done is said in a language that is known.
    return "" if len(found) != 1 or (found == {"done"} and not cheers(sentence)) else found.pop()


@lru_cache(maxsize=2_000)
def language_of(text: str) -> str:
    """The language whose short words a text is full of; "" where none leads."""
    return _by_marks(fold(text), SURE)


def cheers(sentence: str) -> bool:
    """Whether a sentence is said for nothing but a good end: "Congratulations!"."""
    return _cheers().search(fold(sentence)) is not None


def _by_marks(folded: str, least: int) -> str:
    words = re.findall(r"[a-z]+(?:'[a-z]+)?", folded.replace("e mail", ""))
    counts = sorted(((sum(w in marks for w in words), code) for code, marks in _marks().items()), reverse=True)
    (most, code), (second, _) = counts[:2]
    return code if most > second and most >= least else ""


def _in(sentence: str, words: Classes) -> Said:
    if (begun := words["warns"].search(fold(sentence))) and not re.search(r"\w", fold(sentence)[: begun.start()]):
        return ""
    clauses = [fold(part) for part in CLAUSE.split(sentence) if part.strip()]
    # What somebody is asked to look at is said in the clauses behind it.
    looks = next((n for n, clause in enumerate(clauses) if words["verify"].search(clause)), len(clauses))
    found: list[Said] = [_clause(clause, words) for clause in clauses[:looks]]
    found += ["supposed"] if looks < len(clauses) else []
    if "failed" not in found and any(words["cheers"].search(clause) for clause in clauses[:looks]):
        return "done"
    for what in ("already", "failed", "done", "supposed"):
        if what in found:
            return what
    return ""


def _clause(clause: str, words: Classes) -> Said:
    def has(name: str) -> bool:
        return words[name].search(clause) is not None

    supposed = _place(words["supposes"], clause)
    # "Error after the update" tells of an error; "after an error" supposes one.
    wrong = min((at for name in ("fault", "fails") if (at := _place(words[name], clause)) >= 0), default=-1)
    if has("almost") or (supposed >= 0 and not 0 <= wrong < supposed):
        return "supposed"
    denied = has("not")
    if has("give") and has("valid"):
        return "failed"
    if denied and has("yet"):
        return "supposed"
    if has("fault") and denied and not has("able"):
        # "Without errors", "no problems": all went well.
        return "done" if has("done") or has("made") or has("works") else ""
    if has("locked") and not denied:
        return "already"
    if has("already") and has("stands") and not denied and not has("cheers"):
        return "already"
    # That something cannot be changed later is no failure: it has to be something that was to work, or to be done.
    if has("fault") or has("fails") or (denied and (has("works") or (has("able") and (has("done") or has("made"))))):
        return "failed"
    if denied:
        return ""
    if has("cheers") or has("done"):
        return "done"
    return ""


def _place(pattern: re.Pattern[str], clause: str) -> int:
    found = pattern.search(clause)
    return found.start() if found else -1
