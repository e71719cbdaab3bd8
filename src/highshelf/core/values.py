"""The catalogue of values: the named things that legs read and fill."""

from __future__ import annotations

import re
import secrets
import string
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass
from typing import Literal

from highshelf.core.errors import InputError

Kind = Literal["text", "secret", "email", "address", "number", "choice"]
ASK = "?"
"""Given instead of a value: ask an operator when it is needed."""


@dataclass(frozen=True)
class Value:
    """One entry of the catalogue. `operator`: whether an operator may set it; otherwise it is found out by the job."""

    name: str
    kind: Kind
    about: str
    operator: bool = True

    @property
    def secret(self) -> bool:
        return self.kind == "secret"


CATALOGUE: dict[str, Value] = {
    v.name: v
    for v in (
        Value("site.title", "text", "the site's title; default: the account's title"),
        Value("site.address", "address", "the address of the installation", operator=False),
        Value("site.email", "email", "the address the site sends mail from; default: the administrator's"),
        Value("site.language", "text", "language of the installation, as a code such as en; default: en"),
        Value("site.timezone", "text", "time zone; default: UTC"),
        Value("site.organisation", "text", "whose site it is; default: the site's title"),
        Value("site.shortname", "text", "one short word for the site; default: the first long one of its title"),
        Value("site.domain", "text", "the host's name in the site's address; default: as the address has it"),
        Value(
            "site.country",
            "text",
            "country, as a name or a code; default: by the language, where the installer has none",
        ),
        Value(
            "site.currency",
            "text",
            "currency, as a code such as EUR; default: by the language, where the installer has none",
        ),
        Value(
            "setup.password",
            "secret",
            "a word that the installer wants before it begins; made up where it only has to be repeated",
        ),
        Value("admin.name", "text", "the administrator's login name; default: generated"),
        Value("admin.password", "secret", "the administrator's password; default: generated"),
        Value("admin.email", "email", "the administrator's e-mail address; default: the account's"),
        Value("admin.firstname", "text", "the administrator's first name; default: the first word of the whole one"),
        Value("admin.lastname", "text", "the administrator's last name; default: the rest of the whole one"),
        Value("admin.fullname", "text", "the administrator's name as shown; default: the account's title"),
        Value(
            "licence.key", "secret", "the application's licence key; default: the one that is filed for this account"
        ),
        Value(
            "database.kind",
            "choice",
            "the kind of database server: mariadb or postgresql; default: what the account offers",
        ),
        Value("database.host", "text", "the database server as PHP sees it; default: what the panel says"),
        Value("database.port", "number", "the database server's port; default: the usual one"),
        Value("database.name", "text", "the database's name before the panel adds to it; default: generated"),
        Value("database.user", "text", "the database user's name before the panel adds to it; default: generated"),
        Value("database.password", "secret", "the database user's password; default: generated"),
        Value(
            "php.switches",
            "choice",
            "whether extensions of PHP that the installer misses are switched on in the panel: yes, no or ask; default: ask where "
            "other sites share the same PHP",
        ),
        Value("database.prefix", "text", "the prefix of the tables; default: generated"),
    )
}


# A field of the installer by its own name: what no value of the catalogue stands for.
FIELD = re.compile(r"field\.[\w.\[\]:-]{1,80}")


def is_secret(name: str) -> bool:
    """Whether a setting is sealed: nobody knows what a field of an installer's own is for."""
    return (name in CATALOGUE and CATALOGUE[name].secret) or bool(FIELD.fullmatch(name))


def about(name: str) -> str:
    """What a setting is, for people."""
    return (
        CATALOGUE[name].about.partition(";")[0]
        if name in CATALOGUE
        else f"the installer's field {name.partition('.')[2]}"
    )


# What else a value went into, when it was asked for by parts or under another name.
GOES_INTO = {
    "site.title": ("site.organisation", "site.shortname"),
    "admin.fullname": ("admin.firstname", "admin.lastname"),
    "admin.email": ("site.email",),
}
# What an installer may ask for or not; a database's login is used in any case.
MAY_BE_ASKED = ("site.", "admin.", "field.", "licence.")


def left_over(given: Iterable[str], used: Collection[str]) -> list[str]:
    """Values that an operator gave and nobody asked for."""
    return sorted(
        name for name in given if name.startswith(MAY_BE_ASKED) and not {name, *GOES_INTO.get(name, ())} & set(used)
    )


SWITCHING = ("yes", "no", "ask")


def check_settings(settings: dict[str, str]) -> None:
    """Raise InputError naming all settings that are unknown or not an operator's to set."""
    unknown = [n for n in settings if not FIELD.fullmatch(n) and (n not in CATALOGUE or not CATALOGUE[n].operator)]
    if unknown:
        allowed = ", ".join(n for n, v in CATALOGUE.items() if v.operator)
        raise InputError(
            f"these values cannot be set: {', '.join(unknown)}",
            hint=f"values that can be: {allowed}; and field.NAME for a field that the installer calls NAME",
        )
    if (said := settings.get("php.switches", "ask")) not in (*SWITCHING, ASK):
        raise InputError(
            f"php.switches={said} is none of {', '.join(SWITCHING)}", hint="ask is what happens without it"
        )


# Without look-alikes (0 O, 1 l I): people read these aloud and type them.
_LETTERS = "".join(c for c in string.ascii_letters + string.digits if c not in "0O1lI")
# Characters that neither shells, SQL, PHP strings nor forms give a meaning to.
_MARKS = "-_.:+"

SYLLABLES = [
    "ba",
    "be",
    "bi",
    "bo",
    "ka",
    "ke",
    "ko",
    "la",
    "le",
    "li",
    "lo",
    "ma",
    "me",
    "mi",
    "mo",
    "na",
    "ne",
    "no",
    "pa",
    "pe",
    "po",
    "ra",
    "re",
    "ri",
    "ro",
    "sa",
    "se",
    "so",
    "ta",
    "te",
    "to",
    "va",
    "ve",
    "vi",
]


def generate_password(length: int = 20) -> str:
    """A password with at least one small letter, capital, digit and mark; never beginning or ending with a mark."""
    while True:
        body = "".join(secrets.choice(_LETTERS + _MARKS) for _ in range(length - 2))
        word = secrets.choice(_LETTERS) + body + secrets.choice(_LETTERS)
        tests = (str.islower, str.isupper, str.isdigit)
        if all(any(t(c) for c in word) for t in tests) and any(c in _MARKS for c in word):
            return word


def generate_key(length: int) -> str:
    """So many letters and digits."""
    return "".join(secrets.choice(_LETTERS) for _ in range(length))


def in_form(how: str, current: str, *, mail: str = "", port: str = "") -> str:
    """A value in another form (core/walk/adapting.py): `long 32` and `plain 16` make passwords, `letters 8` a name."""
    way, _, number = how.partition(" ")
    match way:
        case "long":
            return generate_password(max(int(number), 8))
        case "plain":
            return _plain_password(max(int(number), 8))
        case "letters":
            return "".join(secrets.choice(string.ascii_lowercase) for _ in range(int(number)))
        case "address":
            return mail
        case "with":
            return f"{current}:{port}"
        case "number":
            return "127.0.0.1"
        case "bare":
            return current.rstrip("/")
        case "closed":
            return current.rstrip("/") + "/"
        case _:
            return "localhost"


def _plain_password(length: int) -> str:
    while True:
        word = "".join(secrets.choice(_LETTERS) for _ in range(length))
        if all(any(t(c) for c in word) for t in (str.islower, str.isupper, str.isdigit)):
            return word


def generate_name(syllables: int = 4) -> str:
    """A speakable login name such as `marekoti42`, 10 to 12 characters."""
    return "".join(secrets.choice(SYLLABLES) for _ in range(syllables)) + str(secrets.randbelow(90) + 10)


def generate_prefix() -> str:
    """A table prefix nobody guesses, such as `k3v9_`."""
    return (
        secrets.choice(string.ascii_lowercase)
        + "".join(secrets.choice("23456789abcdefghjkmnpqrstvwxyz") for _ in range(3))
        + "_"
    )


def name_from(title: str, longest: int) -> str:
    """A database name from a title: small letters and digits, a random tail so that it is not taken."""
    tail = secrets.token_hex(2)[: max(1, longest // 2)]
    stem = re.sub(r"[^a-z0-9]", "", title.lower()).lstrip("0123456789") or "site"
    return stem[: longest - len(tail)] + tail


def told_server(host: str | None, port: str | None) -> str | None:
    """A database server as a person is told it: its port stands with it where it is not the usual one of any."""
    return f"{host}:{port}" if host and port and port not in ("3306", "5432") and ":" not in host else host


def redactor(known: Iterable[str]) -> Callable[[str], str]:
    """A function that hides every known secret in a text, also as a form or a page would have encoded it."""
    from html import escape
    from urllib.parse import quote, quote_plus

    spelled = {
        s
        for k in known
        if len(k) >= 4
        for s in (k, escape(k), quote(k), quote(k, safe=""), quote_plus(k), k.replace("\\", "\\\\"))
    }
    ordered = sorted(spelled, key=len, reverse=True)

    def redact(text: str) -> str:
        for secret in ordered:
            text = text.replace(secret, "••••")
        return text

    return redact
