"""Which of several choices stands for a value: kinds of database servers, languages, zones, countries. Pure."""

from __future__ import annotations

import re
from collections.abc import Mapping

from highshelf.core.pages.groups import group_of
from highshelf.core.pages.lexicon import fold, lexicon, stem_in
from highshelf.core.pages.page import Field, Option
from highshelf.core.walk.knowledge import COUNTRIES

KINDS = re.compile(r"(mysql|mariadb|postgre|pgsql|sqlite|sqlsrv|oracle|oci8)")
# What stands beside a kind of server where none is needed.
FILES = re.compile(
    r"\b(?:text |flat |plain )?files?\b|\bdatei(?:en)?\b|\bfichiers?\b|\bficheros?\b|\barchivos?\b|\bficheiros?\b|"
    r"\bbestand(?:en)?\b|\bplik\w*|\bsqlite",
    re.I,
)
SERVER = re.compile(r"server\b|\bserveur|\bservidor|\bserwer", re.I)
# What else is kept in files or in a database.
NOT_THE_DATA = re.compile(
    r"session|sitzung|sesi|sess[aã]o|sessie|sesj|cache|log(?:s|file)?\b|protokol|journal|upload|attach|anhäng|search|such|queue|lock|mail|post\b|backup",
    re.I,
)


def names_kinds(field: Field) -> bool:
    """Whether what can be chosen are kinds of database servers."""
    kinds = {k for o in field.options if (k := _kind_of(o))}
    files = any(FILES.search(f"{o.label} {o.value}") for o in field.options)
    return len(kinds) >= 2 or (len(kinds) == 1 and files and len(field.options) == 2) or _by_server(field) is not None


def names_tongues(field: Field) -> bool:
    """Whether what can be chosen are languages, most of them by their own names."""
    said = [o.label for o in field.options if o.value]
    return len(said) > 1 and sum(lexicon().says("tongues", label) for label in said) * 2 > len(said)


def _by_server(field: Field) -> Option | None:
    """Of two choices where an application's data are kept, a file's or a server's, the server's, whichever that is."""
    if len(field.options) != 2 or NOT_THE_DATA.search(f"{field.label} {field.near}"):
        return None
    filed = [o for o in field.options if FILES.search(o.label)]
    served = [o for o in field.options if SERVER.search(o.label) and o not in filed]
    if len(filed) != 1 or len(served) != 1 or NOT_THE_DATA.search(served[0].label):
        return None
    of_databases = "sqlite" in filed[0].label.lower() or group_of(served[0].label) == "database"
    return served[0] if of_databases else None


def _kind_of(option: Option) -> str:
    """The database server that a choice names, or ""."""
    if len(option.label.split()) > 4 and (named := {_plain(k) for k in KINDS.findall(option.label.lower())}):
        # A tile with a few words to it names one of them; a sentence about several names none.
        return named.pop() if len(named) == 1 and len(option.label.split()) <= 14 else ""
    said = option.label if len(option.label.split()) <= 4 else option.value
    found = re.match(rf"(?:pdo[_ ]?)?{KINDS.pattern}", said.strip().lower()) or (
        KINDS.search(said.lower()) if len(option.label.split()) <= 4 else None
    )
    return _plain(found[1]) if found else ""


def _plain(kind: str) -> str:
    return {"mariadb": "mysql", "pgsql": "postgre"}.get(kind, kind)


def choose_option(field: Field, wanted: str, value: str) -> str | None:
    """The option of a select that stands for a value, or None. `value` is what kind of value it is."""
    synonyms: Mapping[str, tuple[str, ...]] = {
        "mariadb": ("mariadb", "mysqli", "mysql", "pdo mysql"),
        "postgresql": ("postgresql", "pgsql", "postgres", "pdo pgsql"),
    }
    names = synonyms.get(wanted, (wanted,)) if value == "database.kind" else (wanted,)
    if value == "site.timezone" and "/" in wanted:
        # Some ask for the continent and the city one by one.
        names = (wanted, wanted.rpartition("/")[2], wanted.partition("/")[0])
    if value == "site.country":
        names = next((all_names for all_names in COUNTRIES.values() if wanted in all_names), names)
    for name in map(_joined, names):
        for option in field.options:
            if name in (_joined(option.value), _joined(option.label)):
                return option.value
    for name in map(_joined, names):
        for option in field.options:
            if (
                stem_in(name, fold(option.label))
                or _joined(option.label).startswith(name)
                or _joined(option.value).startswith(name)
            ):
                return option.value
    server = _by_server(field) if value == "database.kind" and wanted in synonyms else None
    return server.value if server is not None else None


def _joined(text: str) -> str:
    """Without the gaps that capitals make: `MySQL` is `mysql`."""
    return fold(text).replace(" ", "")
