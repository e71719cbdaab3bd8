"""Which fields of a form belong together, and whose they are, where words alone do not say. Pure.

A person who reads a form in a language they hardly know still finds its database: a machine that is called localhost, a port, a secret, and
two empty fields beside it. What else has a secret of its own, and perhaps an address for mail, is the administrator's.

Rules:
1. Fields under one heading stand together. Under one heading with two secrets, the names that begin alike do, else the secrets part them.
2. A cluster is only judged when it has a secret. A machine or a port in it speaks for a database, mail and a secret typed twice for a person.
3. What is left beside a database, or beside questions about the site, and is no machine's is the administrator's: when it is the only one,
   and more than one secret by a word that nobody knows.
4. A machine, a login and a secret under a heading of their own, or on a page that never speaks of a database, and nothing that one could
   be called by, are some service's.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from highshelf.core.pages.groups import FOREIGN, group_of
from highshelf.core.pages.lexicon import fold, lexicon
from highshelf.core.pages.page import Field

HOSTS = ("localhost", "127.0.0.1", "::1", "mysql", "db")
PORTS = ("3306", "5432")
# A word that says more of a database than any other does.
SERVERS = re.compile(r"(?<![a-z])(?:my|pg|maria)?sql|mariadb|postgres|(?<![a-z])db(?![a-z])|\bschema\b", re.I)
KIND = re.compile(r"mysql|mariadb|postgre|pgsql|sqlite|sqlsrv|oracle|oci8")
SECRET = re.compile(r"(?<![a-z])(?:pass|passwd|password|pwd|pw|psw)(?![a-z])")
PREFIX = re.compile(r"[A-Za-z]\w{0,9}_")
TYPES = ("text", "password", "email", "search", "tel", "url", "number", "textarea", "select")
# Words that mean a person, and a login of any kind as well.
EITHER = re.compile(r"(?<![a-z])(?:account|owner|konto|compte|cuenta|conta|rekening)(?![a-z])")
SEVERAL = 2
# The group of what is none of ours.
ANOTHER = "other"
MACHINE = re.compile(
    r"(?<![a-z])(?:host|hostname|server|servername|serveur|hote|servidor|anfitriao|serwer|rechner|machine|maquina|macchina)(?![a-z])"
)
ENOUGH = 2


@dataclass
class _Cluster:
    fields: list[int]
    whose: str = ""
    # Whether others stand under the same heading, which then says nothing of this one.
    parted: bool = False
    # Whether words say that it is a database's, not only that a machine is asked for.
    said: bool = False


@dataclass(frozen=True)
class Stand:
    """Whose cluster a field is in: "database", "admin", "other" for none of ours, or "" where that is not to be said.

    `parted`: its heading stands over another cluster as well.
    """

    whose: str = ""
    parted: bool = False


def whose(fields: Sequence[Field], own: Sequence[str], heads: Sequence[str], *, about: bool) -> list[Stand]:
    """Of each field.

    Args:
        own, heads: the groups that the fields' own words and their headings name, "" for none.
        about: whether the page speaks of a database anywhere.
    """
    clusters = [c for run in _runs(fields) for c in _parted(run, fields)]
    judged = [c for c in clusters if any(is_secret(fields[n]) for n in c.fields)]
    told = [h if h in FOREIGN else o or h for o, h in zip(own, heads, strict=True)]
    for cluster in judged:
        cluster.whose = _judge(cluster, fields, own if cluster.parted else told)
    judged += [rest for c in judged if (rest := _behind_a_machine(c, fields, own)) is not None]
    bases = [c for c in judged if c.whose == "database"]
    apart = len({fields[c.fields[0]].near for c in clusters}) > 1
    for cluster in bases:
        if cluster.said or (about and (cluster.parted or not apart)):
            continue
        if not _has_room_for_a_name(cluster, fields, own):
            # A login on a machine, and nothing of a database, under a heading of its own: some service's.
            cluster.whose = ANOTHER
    bases = [c for c in bases if c.whose == "database"]
    for cluster in bases:
        # A second machine with a login of its own is another service's, whatever that one is called.
        if not cluster.said and (any(c.said for c in bases) or cluster is not bases[0]):
            cluster.whose = ANOTHER
    if bases or "site" in told:
        left = [
            c
            for c in judged
            if not c.whose and not _is_machines(c, fields) and not _foreign(c, told) and not _is_bare(c, fields)
        ]
        if len(left) == 1 and not any(c.whose == "admin" for c in judged):
            left[0].whose = "admin"
    found = [Stand()] * len(fields)
    for cluster in judged:
        for n in cluster.fields:
            found[n] = Stand(
                cluster.whose if cluster.whose not in FOREIGN or cluster.whose == ANOTHER else "", cluster.parted
            )
    return found


def _behind_a_machine(cluster: _Cluster, fields: Sequence[Field], own: Sequence[str]) -> _Cluster | None:
    """Of what is the administrator's by its other fields: a machine, and who signs in there. Taken out of it."""
    at = next((k for k, n in enumerate(cluster.fields) if _is_a_machine(fields[n])), None)
    if cluster.whose != "admin" or not at:
        return None
    secrets = [n for n in cluster.fields[at:] if is_secret(fields[n])]
    if not secrets or any(own[n] == "admin" or fields[n].meant == "admin.password" for n in secrets):
        return None
    rest = replace(cluster, fields=cluster.fields[at:], whose=ANOTHER)
    cluster.fields = cluster.fields[:at]
    return rest


def _has_room_for_a_name(cluster: _Cluster, fields: Sequence[Field], own: Sequence[str]) -> bool:
    """Whether besides the machine and whoever signs in there something else is asked for in words: what a database is called."""
    close = [n for n in cluster.fields if own[n] != "site"]
    # A choice of something else between them parts what stands before it from the login.
    parting = [n for n in close if fields[n].kind == "select" and _kinds(fields[n]) < SEVERAL]
    first_secret = min((n for n in cluster.fields if is_secret(fields[n])), default=0)
    begin = max((n for n in parting if n < first_secret), default=-1)
    free = [fields[n] for n in close if n > begin]
    texts = [f for f in free if f.kind == "text" and not is_secret(f)]
    machines = [f for f in texts if _is_a_machine(f) or f.value.isdigit()]
    return len(texts) - len(machines) > 1 or any(f.kind == "select" for f in free)


def _is_bare(cluster: _Cluster, fields: Sequence[Field]) -> bool:
    """Whether it is one secret that nobody is named beside, by a word that is no password's: it may seal or sign anything."""
    only = fields[cluster.fields[0]]
    return len(cluster.fields) == 1 and bool(only.label) and not lexicon().says("password", only.label)


def is_secret(field: Field) -> bool:
    """Whether a secret is typed here: by its kind, or by what it is called where it is shown while it is typed."""
    if field.kind == "password":
        return True
    return field.kind == "text" and (
        SECRET.search(fold(field.name)) is not None or lexicon().says("password", field.label)
    )


def _runs(fields: Sequence[Field]) -> list[list[int]]:
    """Fields under the same heading."""
    found: list[list[int]] = []
    last: str | None = None
    for n, field in enumerate(fields):
        if not field.typed or field.kind not in TYPES:
            continue
        if field.near != last or not found:
            found.append([])
        last = field.near
        found[-1].append(n)
    return found


def _parted(run: list[int], fields: Sequence[Field]) -> list[_Cluster]:
    spells = _spells(run, fields)
    if len(spells) < SEVERAL:
        return [_Cluster(run)]
    for spell in spells:
        # `mysql_host`, `mysql_user`, `mysql_pass`: their names say who stands together.
        begin = _beginning(fields[spell[0]])
        alike = [n for n in run if begin and _beginning(fields[n]) == begin]
        others = [n for n in run if n not in alike]
        if len(alike) > SEVERAL and others and any(is_secret(fields[n]) for n in others):
            return [_Cluster(alike, parted=True), *(replace(c, parted=True) for c in _parted(others, fields))]
    parts: list[_Cluster] = []
    start = 0
    for spell, following in pairwise(spells):
        end = run.index(spell[-1]) + 1
        # A prefix, a port, a choice behind the secret still belong to what was before.
        while run[end] < following[0] and _trails(fields[run[end]]):
            end += 1
        parts.append(_Cluster(run[start:end], parted=True))
        start = end
    return [*parts, _Cluster(run[start:], parted=True)]


def _spells(run: list[int], fields: Sequence[Field]) -> list[list[int]]:
    """Secrets that follow one another without anything between them."""
    found: list[list[int]] = []
    before = False
    for n in run:
        if is_secret(fields[n]):
            if before:
                found[-1].append(n)
            else:
                found.append([n])
            before = True
        else:
            before = False
    return found


def _beginning(field: Field) -> str:
    begun = re.match(r"([A-Za-z]{1,12})(?=[_\-.\[])|([a-z]{2,12})(?=[A-Z])", field.name)
    return (begun[1] or begun[2] or "") if begun else ""


def _trails(field: Field) -> bool:
    return field.kind == "select" or PREFIX.fullmatch(field.value) is not None or field.value.isdigit()


def _judge(cluster: _Cluster, fields: Sequence[Field], own: Sequence[str]) -> str:
    told = [own[n] for n in cluster.fields]
    if _foreign(cluster, own):
        return next(g for g in told if g in FOREIGN)
    mine = [fields[n] for n in cluster.fields]
    said = [f"{f.label} {f.name}" for f in mine]
    heard = said if cluster.parted else [*said, mine[0].near]
    machine = _is_machines(cluster, fields)
    cluster.said = (
        "database" in told or any(SERVERS.search(fold(s)) for s in heard) or any(_kinds(f) >= SEVERAL for f in mine)
    )
    database = 3 * cluster.said + 2 * machine
    database += any(f.value in ("root",) or PREFIX.fullmatch(f.value) is not None for f in mine)
    mail = any(f.kind == "email" or lexicon().says("mail", s) for f, s in zip(mine, said, strict=True))
    twice = sum(is_secret(f) for f in mine) >= SEVERAL
    # An account may be a database's as well: under one heading with nothing but a database it says little.
    alone = database > 0 and not cluster.parted
    plainly = any(own[n] == "admin" and not (alone and EITHER.search(fold(fields[n].label))) for n in cluster.fields)
    headed = not cluster.parted and group_of(mine[0].near) == "admin"
    admin = (3 if plainly or headed else 1 if "admin" in told else 0) + 2 * mail + 2 * twice
    if max(database, admin) < ENOUGH or database == admin:
        return ""
    return "database" if database > admin else "admin"


def _kinds(field: Field) -> int:
    """How many kinds of database servers can be chosen from."""
    return sum(KIND.search(option.label.lower()) is not None for option in field.options)


def _foreign(cluster: _Cluster, own: Sequence[str]) -> bool:
    return any(own[n] in FOREIGN for n in cluster.fields)


def _is_machines(cluster: _Cluster, fields: Sequence[Field]) -> bool:
    """Whether a machine, or a port, is asked for."""
    return any(_is_a_machine(fields[n]) for n in cluster.fields)


def _is_a_machine(field: Field) -> bool:
    hosts = lexicon().values["database.host"]
    shown, said = {field.value, field.placeholder}, fold(field.label).strip(" ?")
    named = said in hosts.label or fold(field.name) in hosts.name or MACHINE.search(said) is not None
    return named or bool(shown & {*HOSTS[:3], *PORTS})
