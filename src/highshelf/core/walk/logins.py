"""Logins that an installer tells instead of asking for them: one that everybody knows, a fixed name, a password of its own making. Pure.

Rules:
1. A name and a password together are a published login: anybody may know it.
2. A name alone, where only its password is asked for, is whom that password is for. It is tried before any other.
3. A password alone is one that the installer made: it is shown once.
"""

from __future__ import annotations

import re
from dataclasses import replace
from functools import lru_cache
from itertools import pairwise

from highshelf.core.pages.groups import FOREIGN, group_of
from highshelf.core.pages.lexicon import lexicon, plain_letters
from highshelf.core.pages.page import Field, Form, Page
from highshelf.core.walk.assign import assign

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


def told_name(page: Page) -> str:
    """Whom a page says that its password is for: a name in a field that nobody may change, or in a sentence; "" where it asks for one."""
    asks = False
    for form in page.real_forms:
        found = {a.value: a.field for a in assign(_as_if_free(form), page)}
        name = found.get("admin.name")
        if name is not None:
            return name.value if _is_fixed(name) else ""
        others = {id(field) for value, field in found.items() if value != "admin.password"}
        asks |= any(f.kind == "password" and id(f) not in others and not _is_foreign(f) for f in form.fields)
    return _name_in(page) if asks or not any(f.typed for form in page.real_forms for f in form.fields) else ""


def _is_foreign(field: Field) -> bool:
    """Whether a secret is for what is none of ours: a mail server, the web space."""
    return group_of(f"{field.label} {field.name}") in FOREIGN or group_of(field.near) in FOREIGN


def told_password(page: Page) -> str:
    """The password that an installer made for the administrator: in a field that nobody may change, or alone in a sentence."""
    for form in page.real_forms:
        for found in assign(_as_if_free(form), page):
            # Stars in a field that is only shown are no password.
            if found.value == "admin.password" and _is_fixed(found.field) and re.search(r"\w", found.field.value):
                return found.field.value
    if any(f.typed for form in page.real_forms for f in form.fields):
        return ""
    for sentence in page.told:
        found_one = _made().search(plain_letters(sentence))
        if found_one is not None and _looks_made(found_one[1]):
            at = plain_letters(sentence).index(found_one[1])
            return sentence[at : at + len(found_one[1])].rstrip(".,;")
    return ""


def _is_fixed(field: Field) -> bool:
    return bool(field.fixed and field.value.strip())


def _as_if_free(form: Form) -> Form:
    """A form in which what is switched off, and has a text, is read like any other field."""
    free = tuple(
        replace(f, disabled=False, fixed=True)
        if f.disabled and f.value and f.kind in ("text", "email", "password")
        else f
        for f in form.fields
    )
    return replace(form, fields=free)


def _name_in(page: Page) -> str:
    labels = [f.label for form in page.real_forms for f in form.fields if f.kind == "password"]
    for sentence in (*page.told, *page.headings, *labels):
        plain = plain_letters(sentence)
        for shape in _whose():
            found = shape.search(plain)
            if found is not None and not _is_no_name(found[1]):
                return found[1].rstrip(".-")
    return ""


@lru_cache(maxsize=1)
def _whose() -> tuple[re.Pattern[str], ...]:
    """Sentences that name whom a password is for: "for the user X", "the user name is X", "sign in as X"."""
    lists = lexicon().lists
    # An address is who somebody is, and no name.
    people = [word for word in lists["identity"] if word not in ("e-mail", "email", "correo")]
    person = "|".join(map(re.escape, (*people, *lists["administrators"])))
    doors = "|".join(map(re.escape, (*lists["login"], *lists["signing_in"], *lists["administrators"])))
    quotes = "[\"'“”„«»‚‘’`]"
    quoted, bare = rf"{quotes} ?([\w.@+-]{{3,40}}) ?{quotes}", r"([\w.@+-]{3,40})(?=\s*(?:$|[.,;:)!]))"
    said = "|".join(map(re.escape, lists["is_called"]))
    return tuple(
        re.compile(pattern, re.I)
        for one in (quoted, bare)
        for pattern in (
            rf"\b(?:{person})\w*(?:[ '’]\w+[ '’]?){{0,3}}?\s+(?:{said})\s+(?:\w+\s+)?{one}",
            rf"\b(?:{person})\w*(?:\s+n\w*m\w*)?(?:\s*[:=]\s*|\s+){one}",
            rf"\b(?:{doors})\w*\b.{{0,40}}?\b(?:as|als|en tant que|comme|como|come|jako)\s+{one}",
        )
    )


@lru_cache(maxsize=1)
def _made() -> re.Pattern[str]:
    secrets = "|".join(map(re.escape, lexicon().lists["password"]))
    return re.compile(
        rf"\b(?:{secrets})\w*(?=\s*[:=]|\s\w{{1,6}}\b)(?:\s+(?:is|ist|est|es|e|lautet|jest|to)\b)?\s*[:=]?\s*[\"'“”„«»]?(\S{{6,60}}?)[\"'“”„«»]?(?=[\s,;]|\.?$|\.\s)",
        re.I,
    )


def _looks_made(text: str) -> bool:
    """Whether no word of a sentence: it mixes letters and figures, or capitals in its middle."""
    return bool(re.search(r"\d", text) and re.search(r"[A-Za-z]", text)) or bool(re.search(r"[a-z][A-Z]", text))
