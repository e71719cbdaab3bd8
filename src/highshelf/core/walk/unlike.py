"""Fields that have a word of one of our values in them, and ask for another thing: a subtitle, a postal code, the port of a server. Pure."""

from __future__ import annotations

import re

from highshelf.core.pages.groups import group_of
from highshelf.core.pages.lexicon import fold
from highshelf.core.pages.page import Field

# What has the same word in it and is another thing: a line below the title, what somebody is at work, a sign, a postal code.
OTHER_THINGS = {
    "site.title": re.compile(r"(?:sub|unter|sous ?|sotto|onder|pod)t[iy]t|\bjob\b|personal|\bown (?:page|site)"),
    "site.currency": re.compile(r"symbol|zeichen|symbole|simbolo|teken"),
    "admin.email": re.compile(r"kod poczt|postal|post ?code"),
    "admin.password": (
        KEYWORDS := re.compile(
            r"palabras clave|key ?words?\b|mots? ?-?cles?\b|schlusselw|stichw|schlagw|parole chiave|palavras ?-?chave|trefwoord|slow\w* klucz"
        )
    ),
    "database.password": KEYWORDS,
}
# "Port of the server": what is asked for is the port, though the server is named as well; "server:port" is another matter.
PORT_OF = re.compile(r"(?:[a-z]+ )?(?:port|puerto|porta|poort)(?![a-z])")
# "Server[:port]", "Host (:port)": a server, to which a port may be added.
WITH_PORT = re.compile(r"\w\s*[\[(]?\s*:\s*\[?\s*(?:port|puerto|porta|poort)")
# Domains that are none of the site's address.
OTHER_DOMAINS = re.compile(r"cookie|session|mail|smtp|ldap|directory|allow|trusted|@")


def is_another(name: str, field: Field) -> bool:
    """Whether a field is surely not for a value, whatever words they share."""
    label = fold(field.label)
    if name in OTHER_THINGS and OTHER_THINGS[name].search(label):
        return True
    if name == "site.timezone":
        # A part of a time zone is chosen from a list; what is typed is where somebody lives.
        return field.kind == "text" and label in ("city", "continent")
    if name == "site.domain":
        return OTHER_DOMAINS.search(fold(f"{field.label} {field.name}")) is not None
    if name == "site.shortname":
        # Whoever is asked for under a heading of people has initials, and a mail server none.
        return group_of(field.near) not in ("", "site") or group_of(field.label) not in ("", "site")
    if name == "database.port" and (WITH_PORT.search(label) or re.search(r"[a-z]", field.value, re.I)):
        return True
    if name == "database.host":
        return PORT_OF.match(label) is not None and not re.search(r"\w ?[:/] ?\w", field.label)
    return False
