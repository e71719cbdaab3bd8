"""A login that a release's maker publishes, as its texts for people tell it. Pure."""

from __future__ import annotations

import re
from functools import cache

from highshelf.core.release.clues import Clue

# A name and a password in one line, after a word that says that this is the first login, or how to get in.
FIRST = re.compile(
    r"(?i)default|initial|first (?:login|time)|log ?in|sign in|log ?on|standard|anmeld|melden sie sich|einlogg|connect\w*(?: avec|-vous)|par défaut|"
    r"por defecto|inicial|inici\w* sesi|predefinit|accedere|padrão|standaard|inloggen|domyśln|zalog"
)
NAME = r"(?:user(?: ?name)?|login|benutzer(?:name[n]?)?|utilisateur|identifiant|usuario|utente|utilizador|gebruiker(?:snaam)?|użytkownik)"
PASSWORD = r"(?:password|passwort|kennwort|mot de passe|contraseña|senha|palavra-passe|wachtwoord|hasło)"
IS = r"(?: is| ist| est| es)?\s*[:=]?\s*"
WORD = r"[\"'`*“„«]*(?P<{}>[^\s\"'`*“”„«»,;/]{{3,30}}?)[\"'`*”“»]*(?=[\s.,;)!/|]|$)"
NAMED = (
    rf"(?i)\b{NAME}\b{IS}{WORD.format('name')}\s*[,;/|]?\s*(?:(?:and|und|et|y|e|en|i|with|mit|avec|con)\s)?(?:\w+\s){{0,2}}?"
    rf"\b{PASSWORD}\b{IS}{WORD.format('word')}"
)
# "Log in as harbour with the password …".
AS = (
    r"(?i)\b(?:as|als|en tant que|comme|como|come|jako)\s+(?:(?:the|den|le|el|il|de)\s+)?"
    rf"(?:{NAME}\s+)?{WORD.format('name')}\s*,?\s+(?:\w+\s){{0,4}}?{PASSWORD[:-1]}|hasłem)\b{IS}{WORD.format('word')}"
)
AND = r"(?:and|und|et|y|e|en|i|&|/)"
PAIRED = (
    rf"(?i)\b(?:(?:default|initial|standard)\s+(?:login|credentials|account|{NAME})|{NAME}(?=\s*{AND}\s*{PASSWORD}))"
    rf"(?P<both>\s*{AND}\s*{PASSWORD})?\b(?: (?:combination|pair|is|are|ist|sind|lautet|lauten|est|sont|es|son|são|zijn|to))*\s*[:=]?\s*"
    rf"{WORD.format('name')}\s*(?:/|(?(both){AND}|/))\s*{WORD.format('word')}"
)
# "Log on with *harbour* / *ebb*": both set off from the words around them, or they may be anything.
SET_OFF = (
    r"(?i)\b(?:with|as|using|mit|als|avec|con|com|met)\s+[\"'`*“„«]+(?P<name>[\w.@-]{3,30})[\"'`*”“»]+"
    r"\s*/\s*[\"'`*“„«]+(?P<word>[^\s\"'`*“”„«»]{3,30})[\"'`*”“»]+"
)
# Somebody else's, or the reader's own to choose.
OTHERS = re.compile(
    r"(?i)database|mysql|mariadb|postgres|\bdb\b|smtp|imap|ldap|datenbank|base de d|baza|ftp|your (?:own )?(?:user|password)|choose|generat"
)
# A place that a program fills.
VARIABLE = re.compile(r"^[%{]|[{(<]|%[sd]")
NO_WORD = re.compile(r"(?i)and|the|your|with|is|for|und|mit")
NO_NAME = re.compile(r"(?i)and|the|your|with|name|password|is|for|und|mit")


@cache
def _ways() -> tuple[re.Pattern[str], ...]:
    """Made when a line speaks of a first login: hardly any release has one, and making them is much of what loading costs."""
    return tuple(re.compile(way) for way in (NAMED, PAIRED, AS, SET_OFF))


def published_logins(path: str, number: int, line: str, section: str) -> list[Clue]:
    """The clue of a line, at most one: `published-login`, with name and password parted by a blank."""
    around = f"{line} {section}"
    if path.count("/") > (2 if path.endswith(".php") else 1) or not FIRST.search(around) or OTHERS.search(around):
        return []
    found = (way.search(line) for way in _ways())
    told = next((m for m in found if m and not NO_NAME.fullmatch(m["name"]) and not NO_WORD.fullmatch(m["word"])), None)
    if told is None or "$" in f"{told['name']}{told['word']}" or VARIABLE.search(told["word"]):
        return []
    return [Clue("published-login", f"{told['name']} {told['word'].rstrip('.')}", path, number, 0.6)]
