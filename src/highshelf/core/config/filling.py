"""Which literal of a sample wants which value, and how it is written there. Pure.

Rules:
1. A literal is read as a field of a form would be: its keys are its name, what stands around it is its group.
2. What already says something of its own stays: only what is empty, a placeholder, an example or a database's is filled.
3. What belongs to another server (mail, directory, cache, a second database, a service's key) is nobody's here.
4. A key is made here, as long and of such letters as the sample asks for.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from highshelf.core.config.literals import Literal
from highshelf.core.config.vocabulary import (
    begins,
    is_example,
    is_placeholder,
    key_name,
    names,
    part_of,
    says,
    vocabulary,
)
from highshelf.core.pages.groups import FOREIGN, group_of
from highshelf.core.pages.lexicon import fold
from highshelf.core.pages.page import Field, Form, Page
from highshelf.core.walk.assign import assign

KEY = "key"
URL_DSN = re.compile(
    r"^((?:pdo[_-]?)?(?:mysqli?|mariadb|pgsql|postgres(?:ql)?))://"
    r"(?:([^:@/]*)(?::([^@/]*))?@)?([^:/?]*)(?::(\d+))?/([\w.%$@{}-]*)(.*)$",
    re.S,
)
PDO_DSN = re.compile(r"^(mysql|pgsql):(?:[\w]+=[^;]*;?)+$")
DRIVERS = {
    "mariadb": ("mysqli", "pdo_mysql", "pdo-mysql", "mysql", "mariadb"),
    "postgresql": ("pgsql", "pdo_pgsql", "postgresql", "postgres", "psql"),
}
DRIVER = re.compile(
    r"(?i)(?<![a-z])(pdo[_-]mysql|pdo[_-]pgsql|mysqli|mysql|mariadb|pgsql|postgresql|postgres|psql)(?![a-z])"
)
MOST_KEY = 128
# What a field's score is at least where its whole name and label are a value's.
WHOLE = 14.0
MAIL = re.compile(r"[^@\s:/]+@[^@\s]*(?:example|domain|your|localhost|test|invalid)[^@\s]*", re.I)


@dataclass(frozen=True)
class Filling:
    """A literal and what belongs there.

    Attributes:
        value: the catalogue's name, `database.dsn` for several of them in one text, `key` for a key that is made.
        how: `plain`; `host:port`, `host;port`; `url`, `pdo` for a DSN; `no slash`, `path`, `domain` of an address; `hex 32`, `any 64`
            for keys; for the kind of database the word to write.
        sure: 0 to 1.
        why: for people.
    """

    literal: Literal
    value: str
    how: str = "plain"
    sure: float = 0.8
    why: str = ""


@dataclass(frozen=True)
class Reading:
    """What a sample asks for.

    Attributes:
        open: placeholders for which nothing is known; the application may not start while they stand.
        connects: whether all is there that a login to a database takes.
    """

    fillings: tuple[Filling, ...]
    open: tuple[Literal, ...]

    @property
    def values(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(f.value for f in self.fillings))

    @property
    def connects(self) -> bool:
        named = {"database.name", "database.user", "database.password"} <= set(self.values)
        return named or "database.dsn" in self.values


def read(literals: Sequence[Literal], kind: str = "mariadb") -> Reading:
    """What each literal of a sample wants; `kind` is the database that is planned."""
    ours = [one for one in literals if not one.off and one.kind != "flag" and (_mail(one) or not is_another(one))]
    found: list[Filling] = []
    for one in ours:
        filling = _dsn(one) or _driver(one, kind) or _key(one) or _mail(one) or _host_name(one)
        if filling is not None:
            found.append(filling)
    taken = {f.literal.start for f in found}
    rest = [one for one in ours if one.start not in taken and not _settled(one)]
    dsn = any(f.value == "database.dsn" and f.how == "url" for f in found)
    found += [f for f in _as_form(rest) if not (dsn and f.value.startswith("database."))]
    found = _one_each(found)
    found += _switched_on(found, literals)
    taken = {f.literal.start for f in found}
    left = tuple(one for one in ours if one.start not in taken and one.value and is_placeholder(one.value))
    return Reading(tuple(sorted(found, key=lambda f: f.literal.start)), left)


def _switched_on(found: Sequence[Filling], literals: Sequence[Literal]) -> list[Filling]:
    """Settings in comments that a connection lacks: they are switched on."""
    have = {f.value for f in found}
    if len({v for v in have if v.startswith("database.")}) < 2:
        return []
    off = [one for one in literals if one.off and not is_another(one) and _of_database(one)]
    wanted = {"database.host", "database.name", "database.user", "database.password", "database.port"} - have
    return [f for f in _one_each(_by_parts(off)) if f.value in wanted]


def _words(one: Literal) -> str:
    """Its keys as words, without the container that everything stands in."""
    parts = [p for p in one.path if not names("containers").fullmatch(p.lstrip("$"))] or [one.path[-1]]
    return " ".join(re.sub(r"([A-Z]+)([A-Z][a-z])", r"\1 \2", p.lstrip("$@")) for p in parts)


def _spaced(one: Literal) -> str:
    return fold(_words(one))


def is_another(one: Literal) -> bool:
    """Whether it belongs to a server or a service that is not ours to fill; keys for cookies and sessions are."""
    if key_name().search(_spaced(one)) and not says("no_keys").search(_spaced(one)):
        return False
    return says("others").search(_spaced(one)) is not None or group_of(_spaced(one)) in FOREIGN


def _settled(one: Literal) -> bool:
    """Whether it says what kind of letters, folder or engine is meant, not whose database it is."""
    words = _spaced(one)
    return says("settled").search(words) is not None and not re.search(r"url|address|prefix", words)


def _dsn(one: Literal) -> Filling | None:
    # A connection of the application's own is called by nothing but that.
    core = says("database").sub("", _spaced(one)).strip()
    if not re.fullmatch(r"|dsn|url|uri|(?:connection )?string|(?:data )?source", core):
        return None
    if URL_DSN.match(one.value):
        return Filling(one, "database.dsn", "url", 0.95, "a connection in one line")
    if PDO_DSN.match(one.value):
        return Filling(one, "database.dsn", "pdo", 0.95, "a connection in one line")
    return None


def _driver(one: Literal, kind: str) -> Filling | None:
    """The kind of server: known by its word standing there, or being offered beside it."""
    words = _spaced(one)
    if not says("kinds").search(words.rpartition(" ")[2]):
        return None
    here = DRIVER.fullmatch(one.value)
    offered = [m[1] for m in DRIVER.finditer(f"{one.comment}")]
    placed = not one.value or is_placeholder(one.value)
    said = group_of(words) == "database" or group_of(one.section) == "database" or bool(offered)
    if not here and not (placed and said):
        return None
    wanted = DRIVERS["mariadb" if kind != "postgresql" else "postgresql"]
    if here and here[1].lower() in wanted:
        word = one.value
    else:
        pdo = "pdo_" if here and here[1].lower().startswith("pdo") else ""
        plain = pdo + ("pgsql" if kind == "postgresql" else "mysql")
        word = next(
            (o for o in offered if o.lower() in wanted), plain.upper() if here and one.value.isupper() else plain
        )
    return Filling(one, "database.kind", word, 0.9 if here else 0.7, "a kind of database server")


def _host_name(one: Literal) -> Filling | None:
    """Names that the site answers to: as a pattern, where what stands there is one."""
    if not names("host_names").fullmatch(_spaced(one)):
        return None
    if re.fullmatch(r"[/~#]?\^.*\$[/~#]?i?", one.value):
        return Filling(one, "site.address", "pattern", 0.8, "a pattern of host names")
    if re.search(r"trusted|allowed|valid|accepted", _spaced(one)) and (not one.value or is_example(one.value)):
        return Filling(one, "site.address", "host", 0.7, "a list of host names")
    return None


def _mail(one: Literal) -> Filling | None:
    """An example of a mail address: the sender's, or where the administrator gets mail."""
    if not MAIL.fullmatch(one.value):
        return None
    value = "site.email" if says("senders").search(_spaced(one)) else "admin.email"
    return Filling(one, value, "plain", 0.7, "an example of a mail address")


def _key(one: Literal) -> Filling | None:
    words = _spaced(one)
    named = key_name().search(words)
    if not named or says("no_keys").search(words) or one.kind not in ("text", "null"):
        return None
    around = one.comment
    told = begins("random", fold(around))
    # A service's own key has that service's name before it.
    rest = names("containers").sub("", key_name().sub("", words)).strip()
    strong = named[0] not in vocabulary()["weak_keys"] and not rest
    value = one.value
    hexes = re.fullmatch(r"[0-9a-f]{16,128}", value)
    placed = not value or is_placeholder(value) or hexes or (told and len(value) >= 8 and " " not in value)
    if not placed or not (strong or told):
        return None
    number = next((int(n) for n in re.findall(r"(?<![\d.])(\d{2,3})(?![\d.])", around) if 8 <= int(n) <= MOST_KEY), 0)
    if not number and (hexes or (len(value) >= 16 and " " not in value and not is_placeholder(value))):
        number = len(value)
    letters = "hex" if hexes or re.search(r"(?i)hex", around) else "any"
    return Filling(one, KEY, f"{letters} {number}", 0.9 if told else 0.75, "a key that nobody can guess")


def _as_form(rest: Sequence[Literal]) -> list[Filling]:
    """The others: a database's by what their keys say besides that, what is left as the fields of a form."""
    database = [one for one in rest if _of_database(one)]
    others = [one for one in rest if one not in database]
    bare = {_spaced(one): one for one in others}
    if not database and len(bare.keys() & set(vocabulary()["generic"])) >= 3:
        # A file with nothing but a host, a user and a password speaks of a database without saying so.
        database = [one for words, one in bare.items() if part_of(words) or words in vocabulary()["generic"]]
        others = [one for one in others if one not in database]
    found = _by_parts(database)
    found += _beside(found, others)
    taken = {f.literal.start for f in found}
    return [*found, *_by_words([one for one in others if one.start not in taken])]


def _beside(found: Sequence[Filling], others: Sequence[Literal]) -> list[Filling]:
    """ "Server", "login" and "password" that stand right beside a database's name are the database's, unless it has its own."""
    scopes = {f.literal.path[:-1] for f in found}
    have = {f.value for f in found}
    if not have & {"database.name", "database.prefix"}:
        return []
    made = []
    for one in others:
        value = part_of(_spaced(one))
        if value and value not in have and one.path[:-1] in scopes and (filling := _filling(one, value, 0.6)):
            made.append(filling)
    return made


def _of_database(one: Literal) -> bool:
    words = _spaced(one)
    return (
        says("database").search(words) is not None
        or re.match(r"(?:db|sql)\w", words) is not None
        or bool(names("parts", "database.prefix").search(words))
    )


def _by_parts(database: Sequence[Literal]) -> list[Filling]:
    found = []
    for one in database:
        words = _spaced(one)
        if not any(g.strip() for g in says("database").findall(words)) and (
            cut := re.match(r"(?:db|sql)(?=\w)", words)
        ):
            words = words[cut.end() :]
        core = re.sub(r"^app(?:lication)? ", "", says("database").sub("", words).strip())
        value = part_of(core, named=True)
        if (
            value == "database.name"
            and not core
            and len(one.path) > 1
            and one.value not in ("", "null")
            and one.kind == "number"
        ):
            value = None
        if value is not None and (filling := _filling(one, value, 0.9)) is not None:
            found.append(filling)
    return found


def _by_words(others: Sequence[Literal]) -> list[Filling]:
    found, rest = [], []
    for one in others:
        value = next((v for v in vocabulary()["site"] if names("site", v).fullmatch(_spaced(one))), None)
        if value is None:
            rest.append(one)
        elif (filling := _filling(one, value, 0.8)) is not None:
            found.append(filling)
    by_field = {id(field): (field, one) for field, one in ((_field(one), one) for one in rest)}
    form = Form("", "post", False, tuple(field for field, _ in by_field.values()), ())
    page = Page("", 200, "", (), "", (form,), (), (), (), (), "", ())
    for assigned in assign(form, page):
        one = by_field[id(assigned.field)][1]
        # Part of a key may speak of anything; it counts where nothing but a placeholder stands.
        enough = assigned.score >= WHOLE or (bool(one.value) and _is_placed(one) and assigned.value != "site.address")
        if not enough or assigned.value.startswith("database."):
            continue
        if (filling := _filling(one, assigned.value, 0.7)) is not None:
            found.append(filling)
    return found


def _field(one: Literal) -> Field:
    words = _words(one)
    secret = re.search(r"pass|pwd|kennwort|wort\b", fold(words)) is not None
    value = "" if _is_placed(one) else one.value
    return Field(words, "password" if secret else "text", value, words)


def _is_placed(one: Literal) -> bool:
    """Whether what stands there is nobody's yet."""
    return not one.value or one.kind == "null" or bool(is_placeholder(one.value) or is_example(one.value))


def _filling(one: Literal, value: str, sure: float) -> Filling | None:
    """What is filled in, unless what stands there says that it is something else."""
    placed, why = _is_placed(one), f"called {one.name}"
    match value:
        case "database.host" if re.fullmatch(r"\S*:\d+", one.value):
            return Filling(one, value, "host:port", sure, why)
        case "database.port":
            return Filling(one, value, "plain", sure, why) if placed or one.value.isdigit() else None
        case "site.address":
            return _address(one, placed)
        case "site.timezone":
            zone = re.fullmatch(r"UTC|GMT|[A-Z]\w+/[\w/]+", one.value)
            return Filling(one, value, "plain", sure, why) if placed or zone else None
        case "site.language":
            code = re.fullmatch(r"[a-z]{2}(?:[_-][A-Za-z]{2})?", one.value)
            return Filling(one, value, "plain", sure, why) if placed or code else None
        case "site.currency":
            return Filling(one, value, "plain", sure, why) if placed or re.fullmatch("[A-Z]{3}", one.value) else None
        case "site.title":
            return Filling(one, value, "plain", sure, why) if not one.value.isdigit() else None
    if value.startswith("database.") or placed or (value.endswith(".email") and "@" in one.value):
        return Filling(one, value, "plain", sure, why)
    return None


def _address(one: Literal, placed: bool) -> Filling | None:
    if re.match(r"https?://", one.value) or placed:
        example = "://" in one.value and not one.value.endswith("/")
        bare = example or says("no_slash").search(fold(one.comment))
        return Filling(one, "site.address", "no slash" if bare else "plain", 0.8, f"called {one.name}")
    if one.value.startswith("/"):
        return Filling(one, "site.address", "path", 0.6, f"called {one.name}")
    return None


def _one_each(found: list[Filling]) -> list[Filling]:
    """Of two literals for one value the surer stays; keys, addresses and what is in one line may stand more than once."""
    kept: list[Filling] = []
    for one in found:
        rival = next((k for k in kept if k.value == one.value), None)
        if rival is None or one.value in (KEY, "site.address", "database.dsn"):
            kept.append(one)
        elif one.sure > rival.sure:
            kept[kept.index(rival)] = one
    return kept
