"""What must not be lost on a page: codes that are shown once, and a login that the installer publishes."""

from __future__ import annotations

import re
from collections.abc import Collection
from functools import lru_cache
from itertools import pairwise

from highshelf.core.pages.lexicon import lexicon, plain_letters
from highshelf.core.pages.page import Page

# "you can log in … with login=admin and password=admin": an invitation, then both, joined by a sign.
PLAIN_LOGIN = re.compile(
    r"(?:log ?in|sign in|default|credentials)\b.{0,60}?\b(?:login|user(?:name)?)\s*[=:]\s*([\w.@-]{3,40})\W.{0,12}?"
    r"\bpassword\s*[=:]\s*([\w.@-]{3,40})",
    re.I,
)

# Words that stand between a name and a password without being either.
NO_NAMES = frozenset(
    [
        "and",
        "und",
        "ent",
        "or",
        "oder",
        "your",
        "ihr",
        "the",
        "with",
        "for",
        "con",
        "per",
        "pour",
        "para",
        "com",
        "met",
        "dla",
        "oraz",
        # What stands behind "the password" where none is told.
        *(
            "you",
            "that",
            "which",
            "from",
            "above",
            "below",
            "chosen",
            "given",
            "this",
            "set",
            "sie",
            "das",
            "dem",
            "den",
            "aus",
            "oben",
        ),
        *(
            "que",
            "vous",
            "choisi",
            "usted",
            "elegida",
            "hai",
            "che",
            "scelta",
            "escolheu",
            "die",
            "gekozen",
            "ktore",
            "vom",
            "von",
            "was",
        ),
    ]
)


def shown_once(page: Page) -> list[tuple[str, str]]:
    """(label, text) of each code, key or token set apart on the page with words that say what it is."""
    found = []
    for shown in page.shown:
        looks_so = re.fullmatch(r"[A-Za-z0-9][A-Za-z0-9 _./+=:-]{5,200}", shown.text) is not None
        if (
            looks_so
            and lexicon().says("once", shown.before)
            and re.search(r"\d|[A-Z]", shown.text)
            and "/" not in shown.text[:1]
        ):
            label = re.split(r"(?<=[.!?:])\s", shown.before)
            told = next((part for part in label if lexicon().says("once", part)), shown.before)
            found.append((told.strip(" :.")[:120], shown.text))
    return found


def published_login(page: Page) -> tuple[str, str] | None:
    """(name, password) where the page tells a default login: two short words set apart after words of logging in."""
    pairs = [s for s in page.shown if re.fullmatch(r"[\w.@-]{3,40}", s.text)]
    for first, second in pairwise(pairs):
        before = first.before.lower()[-200:]
        between = second.before.lower().rpartition(first.text.lower())[2]
        invites = re.search(r"log ?in|sign in|default", before)
        if invites and len(between) <= 40 and "password" in before + between:
            return first.text, second.text
    plain = PLAIN_LOGIN.search(page.text)
    return (plain[1], plain[2]) if plain else _told_login(page)


def _told_login(page: Page) -> tuple[str, str] | None:
    """A name and a password that a sentence about signing in tells, in any of the lexicon's languages."""
    words = lexicon()
    for sentence in page.told:
        if not words.says("login", sentence):
            continue
        for shape in (_pair(), _as_somebody()):
            found = shape.search(plain_letters(sentence))
            if found and not any(_is_no_name(found[n]) for n in (1, 2)):
                return found[1], found[2].rstrip(".,")
    return None


def _is_no_name(text: str) -> bool:
    """Whether a word only speaks of names and passwords: "with your user name and password"."""
    words = lexicon()
    return text.lower() in NO_NAMES or any(words.says(topic, text) for topic in ("identity", "password", "called"))


@lru_cache(maxsize=1)
def _pair() -> re.Pattern[str]:
    lists = lexicon().lists
    names, secrets = ("|".join(map(re.escape, lists[topic])) for topic in ("identity", "password"))
    said = r"\w*\b(?:\s+(?:is|ist|est|es|e|jest)\b)?(?:\s*[:=]\s*|\s+)[\"'“”„«»]?([\w.@+-]{3,40})"
    return re.compile(rf"\b(?:{names}){said}[\"'“”„«»]?\W.{{0,30}}?\b(?:{secrets}){said}", re.I)


@lru_cache(maxsize=1)
def _as_somebody() -> re.Pattern[str]:
    """ "Sign in as keeper with the password marsh": a name after a word for as whom, and a password close behind it."""
    secrets = "|".join(map(re.escape, lexicon().lists["password"]))
    quotes = "[\"'“”„«»]?"
    whom = (
        r"\b(?:as|als|en tant que|comme|como|come|jako)\s+(?:the user |user |benutzer |utilisateur |usuario |utente )?"
    )
    said = rf"\w*\b(?:\s+(?:is|ist|est|es|e|jest))?(?:\s*[:=]\s*|\s+){quotes}([\w.@+-]{{3,40}})"
    return re.compile(rf"{whom}{quotes}([\w.@+-]{{3,40}}){quotes}\W.{{0,30}}?\b(?:{secrets}){said}", re.I)


def told_to_remove(page: Page, entries: Collection[str]) -> list[str]:
    """Of these files and folders, those that a page wants taken away or renamed."""
    says = [t for t in (*page.told, *page.complaints()) if lexicon().says("removal", t)]
    return [
        e
        for e in entries
        if any(re.search(rf"(?<![\w-]){re.escape(e.rsplit('/', 1)[-1])}(?![\w-])", t, re.I) for t in says)
    ]
