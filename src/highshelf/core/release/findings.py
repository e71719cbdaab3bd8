"""What was read out of a release: conclusions from clues and names, each kept with where it stands and how sure it is."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from highshelf.core.release import names, scripts, signing, weighing
from highshelf.core.release.clues import ASKS_FOR_LIBRARIES, Clue
from highshelf.core.release.contents import Contents
from highshelf.core.release.php.tables import ALWAYS
from highshelf.core.release.taken import Taken
from highshelf.core.release.weighing import NAMES, Weighed, split

PRE_RELEASE = re.compile(r"(?i)(alpha|beta|(?<![a-z])rc|dev|pre(?!fix)|snapshot|nightly|git|\d[ab]\d)")
GENERIC = re.compile(
    r"(?i)^(latest|release|master|main|trunk|upload|source|src|htdocs|www|public_html|web|html|archive|download|package|dist|build|app|files|stable|full|update|\d[\d.]*)$"
)
MAX_KEPT = 300
# Clues below this are kept for reading, and decide nothing.
DECIDES = 0.45
# What is written to comes nearly empty: a folder with more in it is the application's own, even where it writes there.
MOST_BROUGHT = 4
# What a dump's path says of its server.
SERVER_WORD = re.compile(r"mysqli?|mariadb|pgsql|postgres(?:ql)?|sqlite3?")
# When a package was made is no part of its name, and no version: `notes-2025-03`, `notes_20251104`.
DATED = re.compile(r"[-_. ](?:19|20)\d\d(?:[-_.]?(?:0[1-9]|1[0-2])(?:[-_.]?(?:[0-2]\d|3[01]))?)$")
# A folder with such files is the application's own; index pages that only shut a listing are no code.
CODE = re.compile(r"(?i)(?<!/index)\.(php\d?|phtml|inc|js|css|tpl|twig|sql|py|pl)$")
# Clues whose value is a path of the archive.
PLACES = ("terminal", "unquoted-name")
# What nothing speaks of may still be there.
NOT_FOUND = 0.3
# What a library that came along says of itself is no need of the application's.
OF_A_LIBRARY = 0.4


@dataclass(frozen=True)
class Finding:
    """A thing read, where it was read (`file:line`), and how sure it is (0 to 1)."""

    what: str
    value: str
    where: str
    sure: float


@dataclass(frozen=True)
class Findings:
    """Everything that was read out of a release.

    Attributes:
        php, php_below: the oldest PHP that it takes, and the first that it does not; "" when nothing says so.
        extensions, wished_extensions: those it does not run without, and those it would like.
        alternatives: extensions of which one has to be there, such as "gd or imagick".
        against: what else was said, by a finding's name.
        corrected: what an operator knew better: finding -> `was`, `by`, `at`; the finding itself is the operator's.
        sure: how sure each finding is, 0 to 1, by its name; one that is left out was not weighed.
        databases: kinds it can use; `none_needed` when it also runs without one.
        database_versions: kind -> the oldest version.
        installer_routes: addresses of an installer that has no file of its own, such as `setup`.
        dump_databases: the names that its SQL files insist on.
        web_folder: the folder that the web must see, "" when it is the root.
        php_settings: settings of PHP with the least that is wanted, as `php.ini` has it: `128M`, seconds.
        published_login: name and password that its texts tell everybody; () when they tell none.
        first_login: how the first administrator comes about: `asked` (the installer takes one), `published`, `own` (pages sign people in,
            nothing tells how the first is made), `server` (the web server signs in), `none`; "" when no program is there.
        packed: how it was packed, for people ("7z", "zip", "2 archives").
        fields: what each field of its installer is for, as its source says.
        terminal_installers: programs that install in a terminal, the likeliest first.
        unquoted_names: `file:line` where a database's name is written into SQL without quotation marks.
        javascript: pages and scripts that installing does not go without.
        setting_up: sources that take a database's login, whatever they are called.
        notes: what was odd in the archive, with the member's name.
    """

    name: str
    version: str
    databases: tuple[str, ...]
    installers: tuple[str, ...]
    samples: tuple[str, ...]
    readmes: tuple[str, ...]
    dotfiles: tuple[str, ...]
    has_php: bool
    details: tuple[Finding, ...] = field(default=())
    title: str = ""
    pre_release: bool = False
    php: str = ""
    php_below: str = ""
    extensions: tuple[str, ...] = ()
    wished_extensions: tuple[str, ...] = ()
    alternatives: tuple[str, ...] = ()
    php_settings: dict[str, str] = field(default_factory=dict)
    database_versions: dict[str, str] = field(default_factory=dict)
    installer_routes: tuple[str, ...] = ()
    terminal_installers: tuple[str, ...] = ()
    unquoted_names: tuple[str, ...] = ()
    dumps: tuple[str, ...] = ()
    dump_databases: tuple[str, ...] = ()
    writable: tuple[str, ...] = ()
    web_folder: str = ""
    administration: tuple[str, ...] = ()
    javascript: tuple[str, ...] = ()
    licences: tuple[str, ...] = ()
    rewriting: bool = False
    wrapper: str = ""
    packed: str = ""
    published_login: tuple[str, ...] = ()
    first_login: str = ""
    notes: tuple[str, ...] = ()
    fields: tuple[Taken, ...] = ()
    setting_up: tuple[str, ...] = ()
    sure: dict[str, float] = field(default_factory=dict)
    against: dict[str, tuple[str, ...]] = field(default_factory=dict)
    corrected: dict[str, Any] = field(default_factory=dict)

    def dump_kinds(self) -> dict[str, str]:
        """The server that the text of each SQL file is for, as far as it says."""
        return {d.where.rpartition(":")[0] or d.where: d.value for d in self.details if d.what == "dump-kind"}

    def installer_entries(self) -> list[str]:
        """What tidying takes away: the installer's top folder or its file."""
        entries = []
        for path in self.installers:
            folder = path.rpartition("/")[0]
            entries.append(folder if names.INSTALLER_FOLDER.search(folder) else path)
        return sorted(set(entries))


def find(contents: Contents, file_name: str, clues: Iterable[Clue], *, wrapper: str | None = None) -> Findings:
    """Conclude. The clues' paths are those of the archive; `wrapper` is what was stripped (default: the contents')."""
    wrapper = contents.wrapper if wrapper is None else wrapper
    cut = len(wrapper) + 1 if wrapper else 0
    found = [replace(c, path=c.path[cut:], value=c.value[cut:] if c.what in PLACES else c.value) for c in clues]
    strangers = names.libraries([f.path for f in contents.files])
    found = [
        replace(c, sure=c.sure * OF_A_LIBRARY)
        if _below(c.path, strangers) and not ASKS_FOR_LIBRARIES.search(c.path)
        else c
        for c in found
    ]
    by_what: dict[str, list[Clue]] = defaultdict(list)
    for clue in found:
        by_what[clue.what].append(clue)
    paths = [f.path for f in contents.files]
    web, web_sure = names.web_folder(paths, [c.path for c in by_what["thin-front"]])
    name = _name(by_what, wrapper, file_name)
    version, said = _version(by_what["version"], wrapper, file_name)
    idle = {c.path for c in by_what["idle-installer"]}
    installers = [p for p in names.installers(paths, web) if p not in idle]
    databases = _databases(by_what)
    required, wished = _extensions(by_what, databases)
    dumps = [p for p in names.own(paths) if p.lower().endswith(".sql") and _has_tables(p, by_what)]
    samples = names.samples(paths)[:40]
    fields, setting_up = _fields(by_what["input"], {c.path for c in by_what["makes-tables"]})
    writable = _writable(by_what, paths, web)[:60]
    published = _published(by_what["published-login"])
    has_php = any(re.search(r"\.(php\d?|phtml)$", p) for p in paths)
    asked = signing.asked(fields, {*installers, *setting_up})
    first, first_sure = signing.conclude(by_what["signs-in"], asked, bool(published), has_php)
    scripted = scripts.conclude(*(by_what[w] for w in ("javascript", "sends-plainly", "script-calls")))
    return Findings(
        name=name,
        title=_title(by_what, name),
        version=version.value,
        pre_release=bool(PRE_RELEASE.search(version.value)),
        php=_php(by_what["php"]),
        php_below=_best([c for c in by_what["php-below"] if c.sure >= DECIDES]),
        extensions=tuple(required),
        wished_extensions=tuple(wished),
        alternatives=_alternatives(by_what, required, databases),
        php_settings=_settings(by_what["php-setting"]),
        databases=databases,
        database_versions=_database_versions(by_what, databases),
        installers=tuple(installers),
        installer_routes=() if installers else tuple(dict.fromkeys(c.value for c in by_what["installer-route"])),
        terminal_installers=_surest_first(by_what["terminal"])[:20],
        unquoted_names=tuple(dict.fromkeys(c.value for c in by_what["unquoted-name"] if c.sure >= DECIDES))[:20],
        samples=tuple(samples),
        dumps=tuple(dumps[:60]),
        dump_databases=tuple(dict.fromkeys(c.value for c in by_what["dump-database"] if c.path in dumps)),
        writable=tuple(writable),
        readmes=tuple(names.readmes(paths)),
        web_folder=web,
        administration=tuple(names.administration(paths, web)[:6]),
        javascript=tuple(sorted(scripted))[:20],
        licences=tuple(_licences(by_what["licence"])),
        rewriting=any(c.path.count("/") <= (1 if web else 0) for c in by_what["rewriting"]),
        dotfiles=tuple([p for p in paths if any(part.startswith(".") for part in p.split("/"))][:200]),
        has_php=has_php,
        wrapper=wrapper,
        published_login=published,
        first_login=first,
        fields=fields,
        setting_up=setting_up,
        details=tuple(_kept([*said, *(c for c in found if c.what != "input")])),
        sure={
            **_sure(by_what, version, databases, web_sure, installers, writable, samples, scripted),
            "first_login": first_sure,
        },
        against={"version": version.against} if version.against else {},
    )


def _fields(clues: list[Clue], making: set[str]) -> tuple[tuple[Taken, ...], tuple[str, ...]]:
    if not clues:
        return (), ()
    # The words of pages and configurations take a fifth of a second to load: more than a small release takes to be read.
    from highshelf.core.release.inputs import conclude

    return conclude(clues, making)


def _kept(clues: list[Clue]) -> list[Finding]:
    """The surest first within their kind, and no kind crowding out the others."""
    per: dict[str, int] = defaultdict(int)
    kept: list[Finding] = []
    for c in sorted(clues, key=lambda c: (c.what, -c.sure, c.path.count("/"), c.path, c.line)):
        per[c.what] += 1
        if per[c.what] <= 25 and len(kept) < MAX_KEPT:
            kept.append(Finding(c.what, c.value, f"{c.path}:{c.line}" if c.line else c.path, round(c.sure, 2)))
    return kept


def stem(file_name: str) -> str:
    """An archive's name without its ending."""
    return re.sub(r"(?i)\.(zip|tar|tgz|tbz2?|txz|tzst|tar\.\w+|7z)$", "", file_name)


def _name(by_what: dict[str, list[Clue]], wrapper: str, file_name: str) -> str:
    top = [c for c in by_what["name"] if "/" not in c.path]
    for text in (wrapper.split("/")[-1], stem(file_name), wrapper.split("/")[0]):
        text = DATED.sub("", text)
        name = split(text)[0] or re.sub(r"(?i)[-_](?:main|master|latest|trunk|stable|release|upload|full)$", "", text)
        if name and not GENERIC.match(name):
            return name
    if top:
        return max(top, key=lambda c: c.sure).value
    if by_what["title"]:
        return re.sub(r"\W+", "-", max(by_what["title"], key=lambda c: c.sure).value).strip("-").lower()
    return wrapper.split("/")[-1] or stem(file_name)


def _title(by_what: dict[str, list[Clue]], name: str) -> str:
    """The name as people write it: the readme's, when it speaks of the same thing."""
    for c in sorted(by_what["title"], key=lambda c: (-c.sure, len(c.path))):
        bare, other = (re.sub(r"[^a-z0-9]", "", t.lower()) for t in (c.value, name))
        if bare and other and (bare.startswith(other[:5]) or other.startswith(bare[:5])):
            return c.value
    return name


def _version(clues: list[Clue], wrapper: str, file_name: str) -> tuple[Weighed, list[Clue]]:
    """The version, and what names say of it."""
    said = [
        Clue("version", found, where, 0, sure)
        for text, where, sure in ((wrapper.split("/")[-1], NAMES[0], 0.7), (stem(file_name), NAMES[1], 0.65))
        if (found := split(text)[1])
    ]
    return weighing.version([*clues, *said]), said


def _number(text: str) -> tuple[int, ...]:
    return tuple(int(n) for n in re.findall(r"\d+", text)[:4])


def _php(clues: list[Clue]) -> str:
    """The highest among what is surest: an installer that refuses 7.3 outweighs a readme that still says 5.6."""
    deciding = [c for c in clues if c.sure >= DECIDES]
    if not deciding:
        return ""
    top = max(c.sure for c in deciding)
    best = max((c for c in deciding if c.sure >= top - 0.1), key=lambda c: _number(c.value))
    return re.sub(r"^(\d+\.\d+)\.0$", r"\1", best.value)


def _best(clues: list[Clue]) -> str:
    return max(clues, key=lambda c: (c.sure, _number(c.value))).value if clues else ""


def _databases(by_what: dict[str, list[Clue]]) -> tuple[str, ...]:
    sure: dict[str, float] = defaultdict(float)
    for c in by_what["database"]:
        # A source connects, a readme only speaks: two readmes' lines are not more than one.
        sure[c.value] = max(sure[c.value], c.sure)
    for c in by_what["dump-kind"]:
        sure[c.value] = max(sure[c.value], c.sure - 0.2)
    connected = {c.value for c in by_what["database"] if c.sure >= 0.6}
    connected |= _family(by_what)
    kinds = {k for k, s in sure.items() if s >= DECIDES}
    return tuple(sorted(kinds & connected if connected else kinds))


def _family(by_what: dict[str, list[Clue]]) -> set[str]:
    """Servers for each of which the release brings the same tables, in files side by side."""
    making = {c.path for c in by_what["dump-tables"]}
    beside: dict[str, set[str]] = defaultdict(set)
    for c in by_what["dump-kind"]:
        if c.path in making and c.sure >= 0.9:
            # `sql/mysql.sql` beside `sql/pgsql.sql`, and `mysql/tables.sql` beside `pgsql/tables.sql`.
            beside[SERVER_WORD.sub("", c.path.lower())].add(c.value)
    return {kind for kinds in beside.values() if len(kinds) > 1 for kind in kinds}


def _extensions(by_what: dict[str, list[Clue]], databases: tuple[str, ...]) -> tuple[list[str], list[str]]:
    sure: dict[str, float] = defaultdict(float)
    wished: dict[str, float] = defaultdict(float)
    for c in by_what["extension"]:
        sure[c.value] = max(sure[c.value], c.sure)
    for c in by_what["wished-extension"]:
        wished[c.value] = max(wished[c.value], c.sure)
    for value in list(sure):
        # What is asked for in one place and called optional, as surely, in another is a wish.
        if wished[value] > sure[value]:
            sure[value] = 0.0
    drivers = {"pdo_mysql", "mysqli", "pdo_pgsql", "pgsql", "pdo_sqlite", "sqlite3", "mysql"}
    required = sorted(
        e for e, s in sure.items() if s >= DECIDES and e not in ALWAYS and (e not in drivers or len(databases) <= 1)
    )
    return required, sorted(e for e, s in wished.items() if s >= DECIDES and e not in required and e not in ALWAYS)


def _settings(clues: list[Clue]) -> dict[str, str]:
    """Of each setting the most that is wanted."""
    wanted: dict[str, str] = {}
    for name, _, value in (c.value.partition(" ") for c in clues if c.sure >= DECIDES):
        if int(value.rstrip("M")) > int(wanted.get(name, "0").rstrip("M")):
            wanted[name] = value
    return dict(sorted(wanted.items()))


def _published(clues: list[Clue]) -> tuple[str, ...]:
    """The login that texts agree on; several different ones are none."""
    told = {c.value for c in clues}
    return tuple(told.pop().split(" ", 1)) if len(told) == 1 else ()


def _alternatives(by_what: dict[str, list[Clue]], required: list[str], databases: tuple[str, ...]) -> tuple[str, ...]:
    """Choices of which none is needed anyhow; a choice among drivers is the database's own affair."""
    found = {c.value for c in by_what["one-of-extensions"] if c.sure >= DECIDES}
    drivers = {"pdo_mysql", "mysqli", "pdo_pgsql", "pgsql", "pdo_sqlite", "sqlite3", "mysql"}
    return tuple(
        sorted(
            v
            for v in found
            if not (names_in := set(v.split(" or "))) & {*required, *ALWAYS} and not names_in <= drivers
        )
    )


def _sure(
    by_what: dict[str, list[Clue]],
    version: Weighed,
    databases: tuple[str, ...],
    web_sure: float,
    installers: list[str],
    writable: list[str],
    samples: list[str],
    scripted: dict[str, float],
) -> dict[str, float]:
    """How sure each finding is. What nothing speaks of was only not found: that is never sure."""

    def best(what: str, otherwise: float = NOT_FOUND) -> float:
        return round(max((c.sure for c in by_what[what] if c.sure >= DECIDES), default=otherwise), 2)

    return {
        "version": version.sure,
        "php": best("php"),
        "php_below": best("php-below"),
        "extensions": best("extension"),
        "wished_extensions": best("wished-extension"),
        "php_settings": best("php-setting"),
        "samples": 0.8 if samples else 0.5,
        "databases": max((round(c.sure, 2) for c in by_what["database"] if c.value in databases), default=0.4),
        "licences": round(max((c.sure for c in by_what["licence"] if OF_ITS_OWN.match(c.path)), default=NOT_FOUND), 2),
        "writable": best("writable") if writable else NOT_FOUND,
        "web_folder": web_sure,
        "installers": 0.9 if installers else 0.6 if by_what["installer-route"] else 0.4,
        "dumps": 0.9 if by_what["dump-tables"] else 0.7,
        "terminal_installers": best("terminal"),
        "javascript": round(min(scripted.values()), 2) if scripted else NOT_FOUND,
        "unquoted_names": best("unquoted-name"),
    }


def _surest_first(clues: list[Clue]) -> tuple[str, ...]:
    sure: dict[str, float] = {}
    for c in clues:
        if c.sure >= DECIDES:
            sure[c.value] = max(sure.get(c.value, 0.0), c.sure)
    return tuple(sorted(sure, key=lambda value: (-sure[value], value)))


def _database_versions(by_what: dict[str, list[Clue]], databases: tuple[str, ...]) -> dict[str, str]:
    found: dict[str, str] = {}
    for kind in databases:
        clues = [c for c in by_what["database-version"] if c.sure >= DECIDES]
        said = [(c, c.value.split(" ", 1)[1]) for c in clues if c.value.startswith(kind + " ")]
        if said:
            top = max(c.sure for c, _ in said)
            found[kind] = max((v for c, v in said if c.sure >= top - 0.05), key=_number)
    return found


def _has_tables(path: str, by_what: dict[str, list[Clue]]) -> bool:
    return any(c.path == path for c in by_what["dump-tables"]) or any(c.path == path for c in by_what["dump-database"])


def _writable(by_what: dict[str, list[Clue]], paths: list[str], web: str) -> list[str]:
    """Said folders that are in the release (below the root, the web folder, or wherever the saying file lies), and empty ones named so."""
    folders = {f for p in paths for f in names._up(p.rpartition("/")[0])} | set(paths)
    found: dict[str, float] = {}
    for c in _known_places(by_what, "writable"):
        if c.sure < DECIDES:
            continue
        base, said = c.path.rpartition("/")[0], c.value.rstrip("./")
        for candidate in dict.fromkeys(
            [
                said,
                f"{web}/{said}" if web else said,
                f"{base}/{said}",
                *(f"{p}/{said}" for p in names._up(base)),
            ]
        ):
            if candidate in folders and candidate not in ("", "."):
                found[candidate] = max(found.get(candidate, 0), c.sure)
                break
    for folder, sure in _written(by_what, paths).items():
        found[folder] = max(found.get(folder, 0), sure)
    for folder in names.writable(paths):
        if not any(folder.startswith(f + "/") or f.startswith(folder + "/") for f in found):
            found.setdefault(folder, 0.5)
    # Files that only exist as a sample yet are asked for by their real name are left to the configuration's leg.
    return sorted(f for f in found if not re.search(r"(?i)(^|/)(readme|install|index)\.\w+$", f))


def _below(path: str, folders: frozenset[str]) -> bool:
    return bool(folders) and any(folder in folders for folder in names._up(path.rpartition("/")[0]))


def _written(by_what: dict[str, list[Clue]], paths: list[str]) -> dict[str, float]:
    """Folders that sources write to and that hold no code: the nearest one that the release brings, with how sure it is."""
    inside = Counter(f for p in paths for f in names._up(p.rpartition("/")[0]))
    code = {f for p in paths if CODE.search(p) for f in names._up(p.rpartition("/")[0])}
    folders = {f for f, count in inside.items() if count <= MOST_BROUGHT} - code
    found: dict[str, float] = {}
    for c in _known_places(by_what, "writes-to"):
        if c.sure < DECIDES:
            continue
        above = ["", *names._up(c.path.rpartition("/")[0])]
        parts = names._up(c.value.rstrip("/") if c.value.endswith("/") else c.value.rpartition("/")[0])
        for place in (f"{base}/{part}".strip("/") for part in reversed(parts) for base in reversed(above)):
            if place in folders:
                found[place] = max(found.get(place, 0), c.sure)
                break
    return found


def _known_places(by_what: dict[str, list[Clue]], what: str) -> list[Clue]:
    """Folders asked to be writable, or written to, with constants of other files put in."""
    known = dict(c.value.split("=", 1) for c in by_what["path-constant"])
    return [
        replace(c, value=re.sub(r"\{(\w+)\}", lambda m: known.get(m[1], ""), c.value).lstrip("./"))
        for c in by_what[what]
    ]


# From here on it is the licence's own text, and not a sentence that names one.
A_TEXT = 0.85
# Where an application's own licence lies, when it does not lie above everything.
OF_ITS_OWN = re.compile(
    r"(?i)^(?:[^/]+|(?:docs?|documentation|legal|licen[sc]es?|about|info|manual)/[^/]+|[^/]+/index\.php)$"
)


def _licences(clues: list[Clue]) -> list[str]:
    near = sorted(
        (c for c in clues if c.sure >= DECIDES and OF_ITS_OWN.match(c.path)),
        key=lambda c: (c.path.count("/"), -c.sure, c.path),
    )
    texts = [c for c in near if c.sure >= A_TEXT]
    if not texts:
        # Only told in a sentence: the surest of them, with its version where one tells it.
        told = max(near, key=lambda c: (c.sure, "-" in c.value), default=None)
        return [told.value] if told else []
    return list(dict.fromkeys(c.value for c in texts if c.path.count("/") == texts[0].path.count("/")))[:3]
