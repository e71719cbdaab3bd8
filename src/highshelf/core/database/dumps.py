"""Which of a release's SQL files belong into its database before the first page, and in which order. Pure."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Mapping, Sequence

from highshelf.core.database.statements import Server

# Steps from an older version, examples, and what takes away: none of it belongs into a new database.
NOT_FIRST = re.compile(
    r"(?i)(?:^|[/_.-])(?:up(?:date|grade)s?|patch(?:es)?|migrat\w*|versions?|delta|downgrade|test\w*|demo|samples?|examples?|fixtures?|"
    r"uninstall|drop|remove|clean\w*|purge|backup|old|convert\w*|double|option\w*|to[_-]?\d[\d.]*)(?:[/_.-]|$)|(?:^|/)\d[\d._-]*\.sql$"
)
KINDS: dict[str, re.Pattern[str]] = {
    "mariadb": re.compile(r"(?i)(?:^|[/_.-])(?:mysqli?|mariadb|my)(?:[/_.-]|\d|$)"),
    "postgresql": re.compile(r"(?i)(?:^|[/_.-])(?:pgsql|postgres\w*|pg|psql)(?:[/_.-]|\d|$)"),
    "others": re.compile(r"(?i)(?:^|[/_.-])(?:sqlite\d?|oracle|oci\d?|mssql|sqlsrv|db2|firebird|sybase)(?:[/_.-]|$)"),
}
# Tables come before what is put into them.
ORDER = (
    r"schema|struct\w*|tables?|create|ddl|base|init\w*|install|main|database|db",
    r"images?|data|values?|insert\w*|content|seed\w*|default\w*|populate",
)


TABLE_OF = re.compile(
    r"(?i)\b(?:CREATE|ALTER)\s+TABLE\s+(?:IF\s+NOT\s+EXISTS\s+|ONLY\s+)*[`\"]?(?:\w+[`\"]?\.[`\"]?)?(\w+)"
)
REFERS = re.compile(r"(?i)\bREFERENCES\s+[`\"]?(?:\w+[`\"]?\.[`\"]?)?(\w+)")
FILLS = re.compile(r"(?im)^\s*(?:(?:INSERT|REPLACE)\s+(?:IGNORE\s+)?INTO|COPY)\s+[`\"]?(?:\w+[`\"]?\.[`\"]?)?(\w+)")


def first_dumps(
    dumps: Sequence[str],
    kinds: Mapping[str, str],
    server: Server,
    named: Sequence[str] = (),
    fills: Sequence[str] = (),
) -> list[str]:
    """The dumps of a new database, in order; [] where none is known, or several could be meant.

    Args:
        dumps: paths in the release; kinds: path -> the server that its text is for, as far as that is known.
        named: those that a page or a readme speaks of: then these and no others.
        fills: SQL files of the release that make no tables: those beside the tables belong to them, unless their names say otherwise.
    """
    tables = _with_tables(dumps, kinds, server, named)
    if named or not tables:
        return tables
    beside = [
        f
        for f in fills
        if posixpath.dirname(f) == posixpath.dirname(tables[0])
        and f not in tables
        and _fits(f, kinds.get(f, ""), server)
        and not NOT_FIRST.search(f)
    ]
    return [*tables, *sorted(beside, key=_order)]


def told_of_dumps(
    dumps: Sequence[str], kinds: Mapping[str, str], server: str, sql: Sequence[str], *, asked: bool
) -> list[str]:
    """What a plan says of them, for people.

    Args:
        server: the kind of database that is planned; sql: all SQL files of the release.
        asked: whether PHP on that host can be asked to import; else a person is.
    """
    if server not in ("mariadb", "postgresql"):
        return []
    kind: Server = "postgresql" if server == "postgresql" else "mariadb"
    first = first_dumps(dumps, kinds, kind, fills=[s for s in sql if s not in dumps])
    if not first:
        return []
    who = "the job does it" if asked else "nobody on that host can be asked to, so the job will ask you"
    return [f"the installer may want its tables imported first ({', '.join(first)}): {who} when it says so"]


def in_order(texts: Mapping[str, str]) -> list[str]:
    """Dumps, as they are to be imported: what fills a table comes after what fills those that it refers to; else as they were.

    Args:
        texts: path -> the dump, in the order of `first_dumps`.
    """
    refers: set[tuple[str, str]] = set()
    for text in texts.values():
        for statement in text.split(";"):
            if "REFERENCES" in statement.upper() and (table := TABLE_OF.search(statement)):
                refers |= {(table[1].lower(), parent.lower()) for parent in REFERS.findall(statement)}
    fills = {path: {t.lower() for t in FILLS.findall(text)} for path, text in texts.items()}
    makes = {path for path, text in texts.items() if TABLE_OF.search(text)}
    left, ordered = [p for p in texts if p not in makes], [p for p in texts if p in makes]

    def waits(path: str) -> bool:
        own = fills[path]
        return any(
            child in own and parent in fills[other] - own for child, parent in refers for other in left if other != path
        )

    while left:
        following = next((p for p in left if not waits(p)), left[0])
        ordered.append(following)
        left.remove(following)
    return ordered


def _with_tables(dumps: Sequence[str], kinds: Mapping[str, str], server: Server, named: Sequence[str]) -> list[str]:
    fitting = [d for d in dumps if _fits(d, kinds.get(d, ""), server)]
    if named:
        said = [d for d in named if d in fitting]
        if said:
            return sorted(said, key=_order)
    rest = [d for d in fitting if not NOT_FIRST.search(d)]
    folders = {posixpath.dirname(d) for d in rest}
    if len(folders) > 1:
        # The folder that holds tables, when only one does.
        folders = {posixpath.dirname(d) for d in rest if _order(d)[0] == 0}
    if len(folders) != 1:
        return []
    here = [d for d in rest if posixpath.dirname(d) in folders]
    mains = [d for d in here if _order(d)[0] == 0]
    # One file, or tables and then what is put into them; two that both could be the tables are a question.
    if len(here) == 1 or (len(mains) == 1 and all(_order(d)[0] == 1 for d in here if d not in mains)):
        return sorted(here, key=_order)
    return mains if len(mains) == 1 else []


def _fits(path: str, kind: str, server: Server) -> bool:
    said = [k for k, pattern in KINDS.items() if pattern.search(path)]
    if said:
        return server in said
    return kind in ("", server)


def _order(path: str) -> tuple[int, str]:
    stem = posixpath.basename(path).lower().removesuffix(".sql")
    parts = set(re.split(r"[_.-]+", stem))
    for rank, words in enumerate(ORDER):
        if any(re.fullmatch(words, p) for p in parts):
            return rank, path
    return 2, path
