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


def first_dumps(dumps: Sequence[str], kinds: Mapping[str, str], server: Server, named: Sequence[str] = ()) -> list[str]:
    """The dumps of a new database, in order; [] where none is known, or several could be meant.

    Args:
        dumps: paths in the release; kinds: path -> the server that its text is for, as far as that is known.
        named: those that a page or a readme speaks of: then these and no others.
    """
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
