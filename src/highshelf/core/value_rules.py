"""What a value has to look like, checked when a plan is made: everything that an installer would only say after the files are there. Pure.

Sources: addresses for mail RFC 5321 (section 4.1.2), in the part of it that installers take; time zones the IANA database; languages ISO 639-1
with a country (ISO 3166-1) or a script (ISO 15924) behind; currencies ISO 4217.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from functools import lru_cache

from highshelf.core.errors import InputError
from highshelf.core.release.taken import Taken
from highshelf.core.values import ASK, CATALOGUE
from highshelf.core.wordlist import shipped

MAIL = re.compile(r"[^\s@\"<>(),;:\\]{1,64}@[^\W_](?:[^\W_]|-(?!\.))*(?:\.[^\W_](?:[^\W_]|-(?!\.|$))*)+")
LANGUAGE = re.compile(r"(?P<code>[a-z]{2})(?:[-_](?:[A-Z]{2}|[A-Z][a-z]{3}))?")
CURRENCY = re.compile(r"[A-Z]{3}")
# Servers take letters, digits and a stroke without quoting, and tables are named behind it.
PREFIX = re.compile(r"[A-Za-z][A-Za-z0-9_]{0,19}")
HOST = re.compile(r"[^\s'\"<>\\]+")
NAME = re.compile(r"[\w.$@-]{1,64}")
HIGHEST_PORT = 65_535
KINDS = ("mariadb", "postgresql")


@lru_cache(maxsize=1)
def _standards() -> dict[str, frozenset[str]]:
    return {name: frozenset(those) for name, those in shipped("highshelf.core", "standards.yaml").items()}


def check_values(settings: Mapping[str, str], fields: Iterable[Taken] = ()) -> None:
    """Raise InputError with every value that cannot be right; what is to be asked for is not looked at.

    Args:
        fields: what the release's own installer takes: how long a password has to be.
    """
    faults = [
        f"{name}={'•' * 8 if CATALOGUE[name].secret else said}: {fault}"
        for name, said in settings.items()
        if name in CATALOGUE and said not in ("", ASK) and (fault := _fault(name, said, fields))
    ]
    if faults:
        raise InputError("; ".join(faults), hint="`highshelf value list` says what each of them is")


def _fault(name: str, said: str, fields: Iterable[Taken]) -> str:
    """What is wrong with a value, or ""."""
    if re.search(r"[\x00-\x1f\x7f]", said):
        return "it has a line end or another character that no form takes"
    if name in RULES and (fault := RULES[name](said)):
        return fault
    if not CATALOGUE[name].secret:
        return ""
    least = max((f.least for f in fields if f.value == name), default=0)
    return f"this release's installer wants {least} letters or more" if len(said) < least else ""


def _matches(pattern: re.Pattern[str], wanted: str) -> Callable[[str], str]:
    return lambda said: "" if pattern.fullmatch(said) else f"it is no {wanted}"


def _language(said: str) -> str:
    found = LANGUAGE.fullmatch(said)
    if found and found["code"] in _standards()["languages"]:
        return ""
    return "it is no code of a language, such as en, de or pt-BR"


def _zone(said: str) -> str:
    return "" if said in _standards()["zones"] else "it is no time zone, such as Europe/London or UTC"


def _port(said: str) -> str:
    fits = said.isascii() and said.isdigit() and 0 < int(said) <= HIGHEST_PORT
    return "" if fits else f"it is no port (1 to {HIGHEST_PORT})"


RULES: dict[str, Callable[[str], str]] = {
    "admin.email": _matches(MAIL, "address for mail"),
    "site.email": _matches(MAIL, "address for mail"),
    "site.language": _language,
    "site.timezone": _zone,
    "site.currency": _matches(CURRENCY, "code of a currency, such as EUR"),
    "database.prefix": _matches(PREFIX, "prefix of tables: a letter, then letters, digits and _, 20 at the most"),
    "database.port": _port,
    "database.host": _matches(HOST, "name of a server"),
    "database.name": _matches(NAME, "name of a database"),
    "database.user": _matches(NAME, "name of a database user"),
    "database.kind": lambda said: "" if said in KINDS else f"it is none of {', '.join(KINDS)}",
}
