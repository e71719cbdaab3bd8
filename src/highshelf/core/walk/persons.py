"""The names of whoever will sign in: the login beside a password, first and last name beside each other, the person's own. Pure."""

from __future__ import annotations

import re

from highshelf.core.pages.lexicon import fold, lexicon
from highshelf.core.pages.page import Form
from highshelf.core.walk.assignment import ENOUGH, Assignment, right_before
from highshelf.core.walk.mails import EXAMPLE, MAIL, THEIRS
from highshelf.core.walk.namesakes import NAME_OF

# A name that others see, which nobody signs in with.
SHOWN = re.compile(
    r"\b(?:display|displayed|shown|public name|anzeige\w*|angezeigt\w*|affich\w*|visible"
    r"|para mostrar|a mostrar|da mostrare|visualizzat\w*|exibicao|exibir|weergave\w*|getoond\w*|wyswietlan\w*)\b"
)
# What opens something else, and is nobody's name.
KEYS = re.compile(r"\b(?:\w*key|\w*schlussel|cle|\w*sleutel|chiave|chave|klucz|token)\b")


def person_by_place(form: Form, groups: list[str], found: list[Assignment]) -> list[Assignment]:
    """An administrator who is to have a password has a name too: the empty field beside it, whatever the name is called."""
    secret = next((a for a in found if a.value == "admin.password"), None)
    if secret is None or any(a.value == "admin.name" for a in found):
        return []
    taken = {id(a.field) for a in found}
    # "Their password" behind a word that nobody knows: whose it is has just been asked.
    theirs = THEIRS.match(fold(secret.field.label)) is not None
    free = [
        f
        for f, group in zip(form.fields, groups, strict=True)
        if (group == "admin" or (theirs and group in ("", "site")))
        and f.kind == "text"
        and f.typed
        and not f.value
        and id(f) not in taken
        # What a page calls by a word of another thing is that thing: a telephone, a street, an answer.
        and not lexicon().says("particulars", f"{f.label} {f.name}")
        and not lexicon().says("optional", f.label)
        and not NAME_OF.match(fold(f.label))
        and not KEYS.search(fold(f.label))
        and not MAIL.search(fold(f.label))
    ]
    beside = right_before(secret.field, free, form)
    mine = beside or (free[0] if len(free) == 1 and not theirs else None)
    if mine is not None and SHOWN.search(fold(mine.label)):
        return [Assignment(mine, "admin.fullname", ENOUGH)]
    return [Assignment(mine, "admin.name", ENOUGH)] if mine is not None else []


def named_alike(form: Form, found: list[Assignment]) -> list[Assignment]:
    """`Name of the first keeper` beside `Password of the first keeper` is whoever signs in, whatever a keeper is."""
    have = {a.value for a in found}
    whose_words = [fold(a.field.label).partition(" ")[2] for a in found if a.value in ("admin.password", "admin.email")]
    tails = {tail for tail in whose_words if len(tail.split()) >= 2}
    taken = {id(a.field): a for a in found}
    if "admin.name" in have or not tails:
        return []
    for field in form.fields:
        head, _, tail = fold(field.label).partition(" ")
        known = taken.get(id(field))
        free = field.kind == "text" and field.typed and not field.value and known is None
        if free and tail in tails and lexicon().says("called", head):
            return [Assignment(field, "admin.name", ENOUGH)]
    return []


def lone_last_name(found: list[Assignment]) -> list[Assignment]:
    """What is only called a name is a login where nobody asks for a first one, whatever letter its field's own name begins with."""
    have = {a.value for a in found}
    if "admin.name" in have or "admin.firstname" in have or "admin.password" not in have:
        return found
    return [
        Assignment(a.field, "admin.name", a.score)
        if a.value == "admin.lastname" and fold(a.field.label).strip(" *") in lexicon().lists["naming"]
        else a
        for a in found
    ]


def first_name(form: Form, found: list[Assignment]) -> list[Assignment]:
    """Beside a first name a field that is only called a name is the last one, and the other way round."""
    have = {a.value: a for a in found}
    known = [n for n in ("admin.firstname", "admin.lastname") if n in have]
    if len(known) != 1:
        return []
    missing = "admin.lastname" if known == ["admin.firstname"] else "admin.firstname"
    taken = {id(a.field) for a in found}
    typed = [f for f in form.fields if f.typed]
    at = next(n for n, f in enumerate(typed) if f is have[known[0]].field)
    for beside in (*typed[max(at - 1, 0) : at], *typed[at + 1 : at + 2]):
        short = len(fold(beside.label).split()) == 1 and lexicon().says("naming", beside.label)
        if id(beside) not in taken and beside.kind == "text" and not beside.value and short:
            return [Assignment(beside, missing, ENOUGH)]
    return []


def whole_name(form: Form, groups: list[str], found: list[Assignment]) -> list[Assignment]:
    """Beside whoever signs in and has a login already, a field that is only called a name is for the person's own."""
    have = {a.value: a for a in found}
    if "admin.name" not in have or {"admin.fullname", "admin.firstname"} & set(have):
        return []
    taken = {id(a.field) for a in found}
    near = have["admin.name"].field.near
    for field, group in zip(form.fields, groups, strict=True):
        # "Civil name", "Ihr richtiger Name": some name of theirs, and of nothing else.
        label = fold(EXAMPLE.sub(" ", field.label))
        short = len(label.split()) <= 3 and lexicon().says("naming", label) and not NAME_OF.match(label)
        free = field.kind == "text" and field.typed and not field.value and id(field) not in taken
        if free and short and group == "admin" and field.near == near:
            return [Assignment(field, "admin.fullname", ENOUGH)]
    return []
