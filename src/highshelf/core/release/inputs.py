"""What each field of an installer is for, as its own source says: concluded from what becomes of what is typed.

Rules:
1. What PHP's own functions do outweighs keys of a configuration, keys outweigh columns, columns outweigh the names of variables.
2. What is passed on to a function of another file is whatever that function does with it.
3. Of two meanings of one kind that are as likely, neither is told. What goes to another server than the database's is nobody's here.
"""

from __future__ import annotations

import itertools
import json
import re
from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any

from highshelf.core.config.filling import KEY, Reading, is_another
from highshelf.core.config.filling import read as read_literals
from highshelf.core.config.literals import Literal
from highshelf.core.pages.page import Field, Form, Page
from highshelf.core.release.clues import Clue
from highshelf.core.release.php.inputs import SETS_UP
from highshelf.core.release.php.pieces import GIVEN_BY
from highshelf.core.release.taken import FOREIGN, Taken
from highshelf.core.walk.assign import assign

ROW_LINES = 12
LEAST_SURE, MARGIN = 0.5, 0.08
# How sure a file has to be that nothing calls an installer's.
ELSEWHERE = 0.75
SURELY = 0.85
# From when on another meaning of a name has to be thought of.
LIKELY = 0.75
MOST_FIELDS, MOST_FILES = 120, 20
CALLED = re.compile(f"([^{GIVEN_BY}]+){GIVEN_BY}(.+)", re.S)
MARK = re.compile("\x01(\\d+)\x02")
# `host=…`, `dbname=…` and their like, as the drivers of PHP take them (php.net, PDO drivers and pg_connect).
DSN = re.compile(r"(?i)^\s*(?:mysql|pgsql|mysqli|pdo_\w+):|\b(?:dbname|hostaddr)\s*=\s*['\"]?\x01")
KIND = re.compile("^\\s*\x01(\\d+)\x02:(?:host|dbname|port|unix_socket)=")
DSN_PARTS = {
    "host": "database.host",
    "hostaddr": "database.host",
    "server": "database.host",
    "dbname": "database.name",
    "database": "database.name",
    "port": "database.port",
    "user": "database.user",
    "username": "database.user",
    "password": "database.password",
}
ADDRESS = re.compile(
    r"(?i)(?:mysqli?|pgsql|postgres(?:ql)?|mariadb|pdo[-_]\w+)://\x01(?P<user>\d+)\x02(?::\x01(?P<password>\d+)\x02)?@\x01(?P<host>\d+)\x02(?::\x01(?P<port>\d+)\x02)?/\x01(?P<name>\d+)\x02"
)
NAMED_DATABASE = re.compile(
    r"(?i)\b(?:create\s+(?:database|schema)(?:\s+if\s+not\s+exists)?|use|drop\s+database(?:\s+if\s+exists)?)\s+[`\"']?\x01(\d+)\x02"
)
PREFIXED = re.compile(
    r"(?i)\b(?:table(?:\s+if\s+(?:not\s+)?exists)?|into|from|update|like)\s+[`\"']?\x01(\d+)\x02_?\w*"
)
GRANTED = re.compile(r"(?i)identified\s+by\s+'\x01(\d+)\x02'")
INSERTED = re.compile(r"(?is)\b(?:insert|replace)\s+(?:ignore\s+)?into\s+([^\s(]+)\s*\(([^)]*)\)\s*values\s*\((.*)\)")
UPDATED = re.compile(r"(?is)\b(?:update|(?:insert|replace)\s+into)\s+(\S+)\s+set\s+(.*?)(?:\bwhere\b(.*))?$")
# A row without the names of its columns.
BARE_ROW = re.compile(r"(?is)\b(?:insert|replace)\s+into\s+\S+\s+values\s*\((.*)\)")
KEYED = re.compile(r"([\w\]['\"$>.-]*\w)['\"\]]*\s*(?:=>|[=:,])\s*(?:[\w]+\()?['\"]?$")
PEOPLE = re.compile(
    r"(?i)user|member|admin|root\b|owner|manager|account|staff|people|person|login|operator|author|nutzer|redact|editor|keeper|team|benutzer|mitglied|utilisateur|usuario|utent|gebruiker"
)
# A login with a server beside it is nobody's who signs in to the application.
SERVERS = re.compile(
    r"(?i)(?:^|[\s_])(?:\w*host\w*|\w*server|port|\w*db\w*|\w*sql\w*|database|conn\w*|smtp|mail(?:er)?|ldap|redis|cache|proxy|ftp|api)"
    r"(?:$|[\s_])"
)
ABOUT_SETTINGS = re.compile(r"(?i)(?:settings?|options?|config(?:uration)?|params?|parameters|data|info|credentials)$")
SECRET = re.compile(r"(?i)pass|pwd|\bpw|hash|secret|kennwort")
KEYS = re.compile(r"(?i)^(?:name|key|k|option|setting|param\w*|variable|var|item|option_name|config\w*|ident\w*)$")


Votes = dict[str, dict[str, tuple[float, str]]]


def conclude(clues: Iterable[Clue], making: Collection[str] = ()) -> tuple[tuple[Taken, ...], tuple[str, ...]]:
    """What is known of each field, by the facts of all files; and the files that set something up.

    Those take a database's login, or make tables (`making`: such files) together with whoever signs in.
    """
    every_fact = [(json.loads(c.value), c) for c in clues]
    givers = {f["gives"].partition(":")[0].removeprefix("@") for f, _ in every_fact if "gives" in f}
    resolved = [
        (_resolved(f, givers), c) for f, c in every_fact if "gives" not in f and not _unknown(f.get("field"), givers)
    ]
    facts = [(f, c) for f, c in resolved if None not in f.get("again", ())]
    by_file: dict[str, list[tuple[dict[str, Any], Clue]]] = defaultdict(list)
    for fact, clue in facts:
        by_file[clue.path].append((fact, clue))
    every: dict[str, Votes] = {}
    means: Votes = defaultdict(dict)
    for file in sorted(by_file):
        every[file] = _one_file(by_file[file])
        for name in [n for n in every[file] if n.startswith("@")]:
            for value, (sure, where) in every[file].pop(name).items():
                _vote(means, name, value, sure, where)
    setting_up = set[str]()
    own, rest = (
        defaultdict[str, dict[str, tuple[float, str]]](dict),
        defaultdict[str, dict[str, tuple[float, str]]](dict),
    )
    for file, votes in every.items():
        _handed_on(by_file[file], means, votes)
        _from_sessions(votes)
        if SETS_UP.search(file) or _sets_up(file, votes, making):
            setting_up.add(file)
        into = own if file in setting_up else rest
        for field, found in votes.items():
            for value, (sure, where) in found.items():
                if into is own or sure >= ELSEWHERE:
                    _vote(into, field, value, sure, where)
    # What a field is for where something is set up says more than what another page calls by the same name.
    mine = [(f, c) for f, c in facts if c.path in setting_up]
    taken = tuple(_taken(mine or facts, own if own else {**rest, **own}))[:MOST_FIELDS]
    return taken, tuple(sorted(f for f, votes in every.items() if _sets_up(f, votes, making)))[:MOST_FILES]


def _resolved(said: Any, givers: set[str]) -> Any:
    """A fact with what `f('x')` gives as the field `x`, where `f` is a function that gives what was typed; else nobody knows what it is."""
    if isinstance(said, dict):
        return {k: _resolved(v, givers) for k, v in said.items() if k == "f" or not _unknown(v, givers)}
    if isinstance(said, list):
        return [None if _unknown(v, givers) else _resolved(v, givers) for v in said]
    if isinstance(said, str) and (call := CALLED.fullmatch(said)):
        return call[1]
    return said


def _unknown(said: Any, givers: set[str]) -> bool:
    """Whether it is what a function gives that does not give what was typed."""
    name = said.get("f") if isinstance(said, dict) and set(said) == {"f"} else said
    call = CALLED.fullmatch(name) if isinstance(name, str) else None
    return call is not None and call[2] not in givers


def _sets_up(file: str, votes: Votes, making: Collection[str]) -> bool:
    known = {v for found in votes.values() for v, (sure, _) in found.items() if sure >= SURELY}
    return _connects(votes) or (file in making and "admin.password" in known)


def _connects(votes: Votes) -> bool:
    """Whether what is typed on these pages is a database's login: nothing but an installer asks for that."""
    known = {v for found in votes.values() for v, (sure, _) in found.items() if sure >= SURELY}
    return {"database.user", "database.password"} <= known


def _vote(votes: Votes, field: str, value: str, sure: float, where: str) -> None:
    have = votes[field].get(value)
    if have is None or sure > have[0]:
        votes[field][value] = (round(sure, 3), where)


def _where(clue: Clue) -> str:
    return f"{clue.path}:{clue.line}"


def _one_file(facts: Sequence[tuple[dict[str, Any], Clue]]) -> Votes:
    votes: Votes = defaultdict(dict)
    rows: list[list[str]] = []
    for fact, clue in facts:
        if "is" in fact:
            _vote(votes, fact["field"], fact["is"], clue.sure, _where(clue))
        elif "text" in fact:
            rows.append(_text(fact["text"], clue, votes))
        elif "statement" in fact:
            rows.append(_prepared(fact["statement"], fact["fields"], clue, votes))
    for table, columns, clue in _joined_rows(facts):
        of_table = [(field, table, column) for column, field in columns.items()]
        _people(of_table, clue, votes)
        _settings(of_table, clue, votes)
        rows.append(list(columns.values()))
    paths = [(tuple(map(str, f["path"])), f["field"], c) for f, c in facts if "path" in f]
    containers: dict[tuple[str, ...], list[tuple[tuple[str, ...], str, Clue]]] = defaultdict(list)
    for one in paths:
        containers[one[0][:-1]].append(one)
    for container, group in containers.items():
        if container and PEOPLE.search(container[0]):
            # `'admins' => [['login' => …]]`: people that are kept in a file.
            _people([(field, container[0], path[-1]) for path, field, _ in group], group[0][2], votes)
    for group in [*containers.values(), *([paths] if len(containers) > 1 else [])]:
        _keys(group, votes)
    mails = {f["mail"] for f, _ in facts if "mail" in f}
    for row in rows:
        _first_person(row, mails, votes)
    return votes


def _joined_rows(facts: Sequence[tuple[dict[str, Any], Clue]]) -> list[tuple[str, dict[str, str], Clue]]:
    """What goes into the columns of one table, or is kept of one thing, a few lines from one another."""
    rows: list[tuple[str, dict[str, str], Clue]] = []
    for fact, clue in facts:
        if "columns" not in fact:
            continue
        near = next((r for r in rows if r[0] == fact["table"] and abs(r[2].line - clue.line) <= ROW_LINES), None)
        if near is None:
            rows.append((fact["table"], dict(fact["columns"]), clue))
        else:
            near[1].update(fact["columns"])
    return rows


def _first_person(row: Sequence[str], mails: set[str], votes: Votes) -> None:
    """Whoever goes into one row with a password that is made unreadable will sign in with it, whatever the columns are called."""
    secret = next((f for f in row if "admin.password" in votes[f]), None)
    if secret is None:
        return
    where = votes[secret]["admin.password"][1]
    _vote(votes, secret, "admin.password", 0.85, where)
    for field in row:
        if field in mails:
            _vote(votes, field, "admin.email", 0.8, where)
    rest = [f for f in row if f != secret and f not in mails and not votes[f]]
    if any("admin.name" in votes[f] for f in row):
        return
    before = row[row.index(secret) - 1] if row.index(secret) else ""
    if len(rest) == 1:
        _vote(votes, rest[0], "admin.name", 0.8, where)
    elif before in rest:
        # Of several, what stands right before a password: nobody keeps them the other way round.
        _vote(votes, before, "admin.name", 0.7, where)


def _keys(
    paths: Sequence[tuple[tuple[str, ...], str, Clue]], votes: Votes, section: str = "", *, foreign: bool = True
) -> None:
    """Keys of a configuration, read together as those of a sample are.

    Args:
        foreign: whether a word for another server makes them that server's; a column `mail` of some table does not.
    """
    literals = [Literal(path, "", "text", n, n, c.line, section=section) for n, (path, _, c) in enumerate(paths)]
    of = {n: (field, clue) for n, (_, field, clue) in enumerate(paths)}
    _read(read_literals(literals), of, votes)
    # What a variable that holds several things is called is its author's own: `$input`, `$data`.
    bare = [replace(one, path=one.path[1:]) for one in literals if len(one.path) > 1 and not is_another(one)]
    _read(read_literals(bare), of, votes)
    for prefix in _prefixes(literals):
        # `$cfg_host`, `$cfg_user`: what they all begin with is what they stand in.
        inner = [
            replace(one, path=(prefix, one.path[-1].lstrip("$")[len(prefix) + 1 :]))
            for one in literals
            if _begins(one, prefix)
        ]
        _read(read_literals(inner), of, votes)
    for one in literals:
        _, field, clue = paths[one.start]
        if foreign and is_another(one):
            _vote(votes, field, FOREIGN, clue.sure, _where(clue))


def _begins(one: Literal, prefix: str) -> bool:
    return one.path[-1].lstrip("$").startswith(prefix + "_")


def _prefixes(literals: Sequence[Literal]) -> list[str]:
    """What three or more keys begin with, up to their first underscore."""
    begun = Counter(one.path[-1].lstrip("$").partition("_")[0] for one in literals if "_" in one.path[-1][1:])
    return sorted(prefix for prefix, often in begun.items() if often >= 3 and prefix)


def _read(reading: Reading, of: Mapping[int, tuple[str, Clue]], votes: Votes) -> None:
    for filling in reading.fillings:
        if filling.value not in (KEY, "database.dsn") and filling.literal.start in of:
            field, clue = of[filling.literal.start]
            # Whose a "login" is in a list of settings that names nobody is anybody's guess.
            whose = (
                0.75
                if filling.value.startswith("admin.") and not PEOPLE.search(" ".join(filling.literal.path))
                else 1.0
            )
            _vote(votes, field, filling.value, clue.sure * whose * (0.75 + filling.sure / 4), _where(clue))


def _marked(pieces: Sequence[Any]) -> tuple[str, list[str]]:
    """A text with a mark for each field, and the fields."""
    fields: list[str] = []
    text = ""
    for piece in pieces:
        if isinstance(piece, str):
            text += piece
        elif piece is None:
            text += "\x03"
        else:
            text += f"\x01{len(fields)}\x02"
            fields.append(piece["f"])
    return text, fields


def _text(pieces: Sequence[Any], clue: Clue, votes: Votes) -> list[str]:
    """Vote by what a text says of the fields in it; those that go into one row of a table."""
    text, fields = _marked(pieces)

    def vote(number: str, value: str, sure: float) -> None:
        _vote(votes, fields[int(number)], value, sure, _where(clue))

    known = set[str]()
    for number, value, sure in (*_sources(text), *_sql(text)):
        vote(number, value, sure)
        known.add(number)
    if _is_sql(text):
        for number, table, _, key in _columns(text):
            if key:
                _keys([((key,), fields[int(number)], replace(clue, sure=0.8))], votes, table)
        people = [(fields[int(n)], t, c) for n, t, c, key in _columns(text) if not key]
        _people(people, clue, votes)
        _settings(people, clue, votes)
        if bare := BARE_ROW.search(text):
            return [fields[int(m[0])] for entry in _split(bare[1]) if len(m := MARK.findall(entry)) == 1]
        return [field for field, _, _ in people]
    found = []
    for mark in MARK.finditer(text):
        before = KEYED.search(text[max(mark.start() - 160, 0) : mark.start()].rsplit("\n", 1)[-1])
        if mark[1] not in known and before is not None:
            path = [p for p in re.split(r"[^\w]+", before[1]) if p]
            section = re.findall(r"(?m)^\s*\[([\w .-]+)\]\s*$", text[: mark.start()])
            found.append(((*section[-1:], *path), fields[int(mark[1])], clue))
    if found:
        _keys(found, votes)
    if len(found) < len(fields) and re.search(r"(?i)\blang(?:uages?)?/\x01(\d+)\x02", text):
        vote(re.findall(r"(?i)\blang(?:uages?)?/\x01(\d+)\x02", text)[0], "site.language", 0.7)
    return []


def _sources(text: str) -> Iterator[tuple[str, str, float]]:
    if whole := ADDRESS.search(text):
        for part, number in whole.groupdict().items():
            if number is not None:
                yield number, f"database.{part}", 0.95
    if kind := KIND.search(text):
        yield kind[1], "database.kind", 0.9
    elif not DSN.search(text):
        return
    for entry in re.finditer(r"(?i)\b(\w+)\s*=\s*['\"]?\x01(\d+)\x02", text):
        if (value := DSN_PARTS.get(entry[1].lower())) is not None:
            yield entry[2], value, 0.97


def _is_sql(text: str) -> bool:
    return (
        re.match(r"(?i)\s*(?:insert|replace|update|create|use|grant|drop|select|alter|delete|show)\s", text) is not None
    )


def _sql(text: str) -> Iterator[tuple[str, str, float]]:
    if not _is_sql(text):
        return
    for number in NAMED_DATABASE.findall(text):
        yield number, "database.name", 0.9
    for number in GRANTED.findall(text):
        yield number, "database.password", 0.8
    if re.match(r"(?i)\s*(?:create\s+table|drop\s+table|insert|replace|update)", text):
        for found in PREFIXED.finditer(text):
            if re.match(r"_?[\w\x01\x03]", text[found.start(1) + len(found[1]) + 1 :]) is not None:
                yield found[1], "database.prefix", 0.9


def _split(values: str) -> list[str]:
    """The entries of a list in SQL: commas in quotation marks and brackets part nothing."""
    parts, depth, quote, at = [], 0, "", 0
    for n, c in enumerate(values):
        if quote:
            quote = "" if c == quote else quote
        elif c in "'\"`":
            quote = c
        elif c in "()":
            depth += 1 if c == "(" else -1
        elif c == "," and depth == 0:
            parts.append(values[at:n])
            at = n + 1
    return [*parts, values[at:]]


def _bare(text: str) -> str:
    return re.sub(r"[\x01-\x03]\d*", "", text).strip(" `'\"[]\t\r\n")


def _columns(text: str) -> Iterator[tuple[str, str, str, str]]:
    """(mark, table, column, key): where each thing goes; a key where a table keeps names and values."""
    if found := INSERTED.search(text):
        columns = [_bare(c) for c in found[2].split(",")]
        entries = _split(found[3])
        keys = [n for n, c in enumerate(columns) if KEYS.match(c)]
        for n, (column, entry) in enumerate(zip(columns, entries, strict=False)):
            key = (
                _bare(entries[keys[0]])
                if len(columns) <= 4 and keys and keys[0] != n and not MARK.search(entries[keys[0]])
                else ""
            )
            marks = MARK.findall(entry)
            if len(marks) == 1:
                yield marks[0], _bare(found[1]), column, key
    elif found := UPDATED.search(text):
        told = re.search(r"(?i)[`\"]?(\w+)[`\"]?\s*=\s*'([\w.-]+)'", found[3] or "")
        key = told[2] if told and KEYS.match(told[1]) else ""
        for entry in _split(found[2]):
            column, _, value = entry.partition("=")
            marks = MARK.findall(value)
            if len(marks) == 1:
                yield marks[0], _bare(found[1]), _bare(column), key


def _prepared(statement: Sequence[Any], given: Mapping[str, str], clue: Clue, votes: Votes) -> list[str]:
    """A statement with places for what is given: `?` by their order, `:name` by name."""
    text, fields = _marked(statement)
    places = iter(range(10_000))
    marked = re.sub(r"\?", lambda _: f":{next(places)}:", text)
    marked = re.sub(r"\$(\d+)", lambda m: f":{int(m[1]) - 1}:", marked)
    extra = len(fields)
    numbers: dict[str, int] = {}

    def number(found: re.Match[str]) -> str:
        name = found[1] or found[2]
        if name not in given:
            return "\x03"
        numbers.setdefault(name, extra + len(numbers))
        return f"\x01{numbers[name]}\x02"

    whole = re.sub(r":(\d+):|:(\w+)", number, marked)
    every = [*fields, *(given[name] for name in numbers)]
    pieces: list[Any] = []
    for n, part in enumerate(MARK.split(whole)):
        pieces.append({"f": every[int(part)]} if n % 2 else part)
    return _text(pieces, clue, votes)


def _people(columns: Sequence[tuple[str, str, str]], clue: Clue, votes: Votes) -> None:
    """What goes into a table of people is the first one's: its columns are read as the fields of a form."""
    if not columns:
        return
    table = columns[0][1]
    names = _apart([column for _, _, column in columns])
    columns = [(field, table, name) for (field, table, _), name in zip(columns, names, strict=True)]
    if not PEOPLE.search(table) and (
        not any(SECRET.search(c) for _, _, c in columns) or SERVERS.search(" ".join([table, *names]))
    ):
        return
    fields = tuple(
        Field(column, "password" if SECRET.search(column) else "text", "", column, near="Administrator")
        for _, _, column in columns
    )
    form = Form("", "post", False, fields, ())
    page = Page("", 200, "Administrator", (), "", (form,), (), (), (), (), "", ())
    at = {id(f): n for n, f in enumerate(fields)}
    for one in assign(form, page):
        if one.value.startswith("admin."):
            _vote(votes, columns[at[id(one.field)]][0], one.value, 0.85, _where(clue))


def _settings(columns: Sequence[tuple[str, str, str]], clue: Clue, votes: Votes) -> None:
    """What goes into a table of settings, or is kept under one name: that name is what the rest is about."""
    if not columns or PEOPLE.search(columns[0][1]):
        return
    names = _apart([column for _, _, column in columns])
    table = ABOUT_SETTINGS.sub("", re.sub(r"\W+", "", columns[0][1]))
    paths = [
        ((table, name), field, replace(clue, sure=0.8)) for (field, _, _), name in zip(columns, names, strict=True)
    ]
    _keys(paths, votes, foreign=SERVERS.search(table) is not None)


def _apart(columns: Sequence[str]) -> list[str]:
    """Columns without the letters that all of a table's begin with: `mb_name`, `mb_mail`; `opname`, `oppwd`."""
    small = sorted(c.lower() for c in columns)
    same = itertools.takewhile(lambda pair: pair[0] == pair[1], zip(small[0], small[-1], strict=False))
    shared = "".join(a for a, _ in same) if len(columns) > 1 else ""
    if not shared and len(columns) == 1 and (alone := re.match(r"[a-z]{1,4}_(?=[a-z]{3})", columns[0].lower())):
        shared = alone[0]
    shared = shared if len(shared) > 1 and all(len(c) > len(shared) for c in columns) else ""
    return [c[len(shared) :] for c in columns]


def _handed_on(facts: Sequence[tuple[dict[str, Any], Clue]], means: Votes, votes: Votes) -> None:
    for fact, _ in facts:
        if "given" in fact:
            name, at = fact["given"]
            for value, (sure, where) in means.get(f"@{name}:{at}", {}).items():
                _vote(votes, fact["field"], value, sure * 0.95, where)


def _from_sessions(votes: Votes) -> None:
    """What stands in a session under a name was mostly typed into a field of that name."""
    for kept in [f for f in votes if f.startswith("?")]:
        for value, (sure, where) in votes.pop(kept).items():
            _vote(votes, kept[1:], value, sure * 0.9, where)


def _taken(facts: Sequence[tuple[dict[str, Any], Clue]], votes: Votes) -> Iterator[Taken]:
    mails, again = dict[str, str](), dict[str, str]()
    least, most = dict[str, int](), dict[str, int]()
    for fact, clue in facts:
        where = _where(clue)
        if "mail" in fact:
            mails[fact["mail"].lstrip("?")] = where
        if "again" in fact:
            one, other = (f.lstrip("?") for f in fact["again"])
            if one == other:
                continue
            again |= {one: other, other: one}
        if "least" in fact:
            least[fact["field"].lstrip("?")] = fact["least"]
        if "most" in fact:
            most[fact["field"].lstrip("?")] = fact["most"]
    for name in sorted({*votes, *mails, *again, *least, *most}):
        if name.startswith("@") or name in ("*", ""):
            continue
        value, sure, where, others = _best(votes.get(name, {}))
        if not value and not others and name in mails:
            # Whoever has to have an address for mail where something is set up is the first one there.
            value, sure = "admin.email", 0.6
        yield Taken(
            name,
            value,
            where or mails.get(name, ""),
            sure,
            others,
            mail=name in mails,
            again=again.get(name, ""),
            least=least.get(name, 0),
            most=most.get(name, 0),
        )


def _best(found: Mapping[str, tuple[float, str]]) -> tuple[str, float, str, tuple[str, ...]]:
    """The likeliest meaning, and others of another kind that are likely as well: one name may be for two things on two pages."""
    ordered = sorted(((sure, value, where) for value, (sure, where) in found.items()), reverse=True)
    if not ordered or ordered[0][0] < LEAST_SURE:
        return "", 0.0, "", ()
    sure, value, where = ordered[0]
    kind = value.partition(".")[0]
    if any(sure - s < MARGIN for s, v, _ in ordered[1:] if v.partition(".")[0] == kind):
        return "", 0.0, "", ()
    others = tuple(v for s, v, _ in ordered[1:] if s >= LIKELY and v.partition(".")[0] != kind)
    return value, round(sure, 2), where, others
