"""Addresses for mail, by whatever word: the administrator's, and the site's own beside it. Pure."""

from __future__ import annotations

import re
from dataclasses import replace

from highshelf.core.pages.groups import FOREIGN, group_of
from highshelf.core.pages.lexicon import fold, lexicon
from highshelf.core.pages.page import Field, Form
from highshelf.core.walk.assignment import ENOUGH, Assignment

MAIL = re.compile(
    r"(?<![a-z])(?:(?:e ?-?)?mail|e ?-?post(?![a-z])|courriel|correo|correio|posta elettronica|poczt|adresse electronique"
    r"|direccion electronica|indirizzo elettronico|endereco eletronico|elektronische adres|adres elektron)"
)
# "Where should a new one be sent?"
SENT_TO = re.compile(
    r"\b(?:be sent|send (?:it|them|mail|messages|a new|you)|write to you|reach you|contact you)\b|geschickt|zugesandt"
    r"|erreichen wir|vous (?:ecrire|joindre)"
    r"|envoye(?:s|es)?\b|enviar(?:le|te|lhe)?\b|enviad|inviar(?:e|ti|le)|spedir|contattar|contactar|verstuurd|toesturen"
    r"|bereiken we|wyslac|przeslac"
)
# A label that says two things in a few words; longer ones explain.
MOST_WORDS = 8
NEGATION = re.compile(
    r"\b(?:no|not|never|without|nor|kein|keinen?|nicht|ohne|pas|aucune?|sans|ni|ninguna?|sin|nessuna?|non|senza|nao|nenhuma?|sem|geen|niet|zonder"
    r"|nie|bez|zaden|zadna)\b"
)
# "Their password": of whoever the field before has named.
THEIRS = re.compile(
    r"(?:his|her|their|its|son|sa|ses|sein|seine|ihr|ihre|suo|sua|seu|zijn|haar|jego|jej|ich)(?![a-z'])"
)
# How an address for mail is shown as an example.
EXAMPLE = re.compile(r"(?<!\S)[\w.+-]+@[\w.-]*\w")


def mails(form: Form, groups: list[str], found: list[Assignment]) -> list[Assignment]:
    """What was found, with the addresses that no word of ours told: the administrator's, and the site's own.

    Of two under one heading the one that names the administrator is theirs; one under another heading is the site's.
    """
    found = [replace(a, value="admin.email") if _is_login_and_address(a) else a for a in found]
    mine = next((a for a in found if a.value == "admin.email"), None)
    taken = {id(a.field) for a in found}
    result, have = list(found), {a.value for a in found}
    for field, group in zip(form.fields, groups, strict=True):
        if id(field) in taken or not _free(field) or group in FOREIGN:
            continue
        sent = SENT_TO.search(fold(field.label)) if mine is None and group == "admin" else None
        told = MAIL.search(fold(f"{field.label} {field.name}")) or EXAMPLE.search(f"{field.placeholder} {field.label}")
        if not told and not sent:
            continue
        if mine is None:
            mine = Assignment(field, "admin.email", ENOUGH)
            result.append(mine)
        elif "site.email" not in have and field.near != mine.field.near:
            have.add("site.email")
            result.append(Assignment(field, "site.email", ENOUGH))
        elif "site.email" not in have and _names_administrator(field) and not _names_administrator(mine.field):
            have.add("site.email")
            result[result.index(mine)] = Assignment(mine.field, "site.email", ENOUGH)
            result.append(Assignment(field, "admin.email", ENOUGH))
        elif "site.email" not in have and _names_administrator(mine.field) and not _names_administrator(field):
            have.add("site.email")
            result.append(Assignment(field, "site.email", ENOUGH))
    return result


def _is_login_and_address(one: Assignment) -> bool:
    """Whether a login's words say that it is an address: "E-mail (will be your login)", "Login (your e-mail)"; an address suits both."""
    said = fold(one.field.label)
    plain = len(said.split()) <= MOST_WORDS and not SENT_TO.search(said) and not NEGATION.search(said)
    return one.value == "admin.name" and plain and MAIL.search(said) is not None


def _free(field: Field) -> bool:
    said, words = EXAMPLE.sub(" ", f"{field.label} {field.name}"), lexicon()
    other = words.says("optional", said) or words.says("unwanted", said) or words.says("again", said)
    # "Bounces (optional)" over it: nothing there has to be said.
    spared = words.says("optional", field.near)
    return field.kind in ("text", "email") and field.typed and not field.value and not other and not spared


def _names_administrator(field: Field) -> bool:
    return group_of(field.label) == "admin" or THEIRS.match(fold(field.label)) is not None
