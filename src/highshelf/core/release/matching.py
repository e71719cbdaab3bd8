"""Release and account side by side: what fits, what will be red, what can be mended and by whom.

Rules:
1. What a survey did not find out is `unknown`, never "fits".
2. A need that is only wished for is at worst `heed`.
3. What the release surely wants and the account surely has not, and no switch of the panel mends, forbids an install; what is
   less sure is told.
4. Who can mend is said by what the account has: `.user.ini` when it is honoured and the setting is not pinned, the
   panel for PHP's version and extensions, the host's support for the rest.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from highshelf.core.release.findings import Findings

Verdict = Literal["fits", "heed", "red", "unknown"]
By = Literal["", "panel", ".user.ini", "support", "release"]
SURVEY_FIRST = "not known: `highshelf account check` finds it out"
# The finding that clues of a kind come to.
FINDING = {"extension": "extensions", "one-of-extensions": "extensions", "database": "databases"}
# As sure as a need has to be read before an install is kept from starting by it.
FORBIDS = 0.8
# What has no place in the release; a server that was looked for in one place, while the account may have one elsewhere.
NOT_FOUND = 0.5
# What placing needs beside the files themselves: the archive that goes up with them.
ROOM_FOR_ARCHIVE = 1.1
SERVERS = {"mariadb": ("mariadb", "mysql"), "postgresql": ("postgresql",), "sqlite": ()}
DRIVERS = {
    "mariadb": ("pdo_mysql", "mysqli"),
    "postgresql": ("pdo_pgsql", "pgsql"),
    "sqlite": ("pdo_sqlite", "sqlite3"),
}
# Names that people and PHP write differently.
SAME = {"zend-opcache": "zend opcache", "opcache": "zend opcache"}


@dataclass(frozen=True)
class MatchLine:
    """One need beside what the account has.

    Attributes:
        need: what the release wants, for people; `has`: what stands there.
        verdict: `fits`, `heed` (works, with something to know), `red` (an installer will refuse), `unknown`.
        by: who can mend it, "" when nobody has to; `how` says what to do.
        where: where in the release the need was read.
        sure: how sure the verdict is, 0 to 1: no surer than the need was read.
    """

    topic: str
    need: str
    has: str
    verdict: Verdict
    by: By = ""
    how: str = ""
    where: str = ""
    sure: float = 1.0


def forbidding(lines: Sequence[MatchLine], *, switches: bool) -> list[MatchLine]:
    """The needs that are bound to make an install fail. `switches`: the panel has switches for PHP's extensions."""
    mended = ("extension", "database-driver") if switches else ()
    return [line for line in lines if line.verdict == "red" and line.sure >= FORBIDS and line.topic not in mended]


def match(findings: Findings, facts: Mapping[str, Any], *, unpacked_bytes: int, database: str = "") -> list[MatchLine]:
    """All lines. `facts` are the account's from its last survey; `database` is the kind chosen, when one was."""
    lines = [
        _php(findings, facts),
        *_extensions(findings, facts),
        *_databases(findings, facts, database),
        _room(facts, unpacked_bytes),
        _web(findings, facts),
        _web_folder(findings, facts),
        *_settings(findings, facts),
        _writes(findings, facts),
    ]
    return [line for line in lines if line is not None]


def number(text: str) -> tuple[int, ...]:
    """A version as numbers, for comparing: "8.2.29-0+deb" is (8, 2, 29, 0)."""
    return tuple(int(n) for n in re.findall(r"\d+", text)[:4])


def at_least(has: str, wants: str) -> bool:
    """Whether a version is the wanted one or newer; "8.1" is wanted as 8.1.0."""
    one, other = number(has), number(wants)
    width = max(len(one), len(other))
    return one + (0,) * (width - len(one)) >= other + (0,) * (width - len(other))


def _said(findings: Findings, what: str, value: str = "") -> tuple[str, float]:
    """Where a need was read, and how sure; what an operator corrected has no place, and is sure."""
    said = [d for d in findings.details if d.what == what and (not value or d.value == value)]
    best = max(said, key=lambda d: d.sure, default=None)
    if best is None:
        name = FINDING.get(what, what)
        return "", 1.0 if name in findings.corrected else findings.sure.get(name, NOT_FOUND)
    return best.where, best.sure


def _where(findings: Findings, what: str, value: str = "") -> str:
    return _said(findings, what, value)[0]


def _php(findings: Findings, facts: Mapping[str, Any]) -> MatchLine | None:
    if not findings.php and not findings.php_below:
        return None
    need = " and ".join(
        n
        for n in (
            f"PHP {findings.php} or newer" if findings.php else "",
            f"older than {findings.php_below}" if findings.php_below else "",
        )
        if n
    )
    has = facts.get("php.version") or ""
    where = _where(findings, "php")
    if not has:
        return MatchLine("php", need, SURVEY_FIRST, "unknown", where=where)
    if findings.php and not at_least(has, findings.php):
        how = f"choose PHP {findings.php} or newer for this site in the panel; extensions may have to be switched on again there"
        sure = _said(findings, "php", findings.php)[1]
        return MatchLine("php", need, f"PHP {has}", "red", "panel", how, where, sure)
    if findings.php_below and at_least(has, findings.php_below):
        how = f"choose a PHP older than {findings.php_below} for this site in the panel, or a newer release"
        return MatchLine("php", need, f"PHP {has}", "heed", "panel", how, _where(findings, "php-below"))
    return MatchLine("php", need, f"PHP {has}", "fits", where=where)


def _extensions(findings: Findings, facts: Mapping[str, Any]) -> list[MatchLine]:
    if not findings.extensions and not findings.wished_extensions and not findings.alternatives:
        return []
    there = facts.get("php.extensions")
    if there is None:
        return (
            [MatchLine("extensions", f"PHP with {', '.join(findings.extensions)}", SURVEY_FIRST, "unknown")]
            if findings.extensions
            else []
        )
    loaded = {str(e).lower() for e in there}
    lines = []
    fine = [e for e in findings.extensions if _loaded(e, loaded)]
    if fine:
        lines.append(MatchLine("extensions", "PHP with " + ", ".join(fine), "all there", "fits"))
    for name in findings.extensions:
        if not _loaded(name, loaded):
            how = f"switch on {name} in the panel (one switch may serve the whole account), or ask the host's support"
            where, sure = _said(findings, "extension", name)
            lines.append(MatchLine("extension", f"PHP with {name}", "missing", "red", "panel", how, where, sure))
    for choice in findings.alternatives:
        there_is = [e for e in choice.split(" or ") if _loaded(e, loaded)]
        how = f"switch on one of {choice.replace(' or ', ', ')} in the panel, or ask the host's support"
        where, sure = _said(findings, "one-of-extensions", choice)
        lines.append(
            MatchLine("extension", f"PHP with {choice}", ", ".join(there_is) + " is there", "fits")
            if there_is
            else MatchLine("extension", f"PHP with {choice}", "neither", "red", "panel", how, where, sure)
        )
    chosen = {e for choice in findings.alternatives for e in choice.split(" or ")}
    wished = [e for e in findings.wished_extensions if not _loaded(e, loaded) and e not in chosen]
    if wished:
        how = "it runs without; switched on in the panel, it can do more"
        lines.append(
            MatchLine("extension", "PHP with " + ", ".join(wished) + ", if possible", "missing", "heed", "panel", how)
        )
    return lines


def _loaded(name: str, loaded: set[str]) -> bool:
    return name in loaded or SAME.get(name, name) in loaded


def _databases(findings: Findings, facts: Mapping[str, Any], chosen: str) -> list[MatchLine]:
    kinds = [chosen] if chosen and chosen != "none" else list(findings.databases)
    servers = [k for k in kinds if k != "sqlite"]
    if not servers:
        return []
    names = {"mariadb": "MariaDB or MySQL", "postgresql": "PostgreSQL"}
    need = " or ".join(
        names[k] + (f" {v} or newer" if (v := findings.database_versions.get(k)) else "") for k in servers
    )
    where, sure = _said(findings, "database", servers[0])
    found = facts.get("database.server")
    lines: list[MatchLine] = []
    if found is None:
        lines.append(MatchLine("database", need, SURVEY_FIRST, "unknown", where=where))
    else:
        lines.append(_server(findings, servers, found, need, where))
    there = facts.get("php.extensions")
    if there is not None:
        loaded = {str(e).lower() for e in there}
        drivers = [d for k in kinds for d in DRIVERS[k]]
        if not any(d in loaded for d in drivers):
            how = f"switch on one of {', '.join(drivers)} in the panel, or ask the host's support"
            lines.append(
                MatchLine(
                    "database-driver", "PHP with " + " or ".join(drivers), "missing", "red", "panel", how, where, sure
                )
            )
    return lines


def _server(findings: Findings, kinds: list[str], found: list[Mapping[str, Any]], need: str, where: str) -> MatchLine:
    texts = [str(server.get("version") or server.get("kind") or "") for server in found]
    has = "; ".join(t for t in texts if t)
    for kind in kinds:
        for text in texts:
            if not any(word in text.lower() for word in SERVERS[kind]):
                continue
            wanted = findings.database_versions.get(kind, "")
            if not wanted or not number(text) or at_least(text, wanted):
                return MatchLine("database", need, has, "fits", where=where)
            how = f"ask the host's support for {need}, or for another server"
            # MariaDB counts otherwise than MySQL: 10.x is newer than any MySQL 5.7.
            if kind == "mariadb" and "mariadb" in text.lower() and number(text) >= (10,) and number(wanted) < (10,):
                return MatchLine("database", need, has, "fits", where=where)
            sure = _said(findings, "database-version", f"{kind} {wanted}")[1]
            return MatchLine("database", need, has, "red", "support", how, where, sure)
    how = "look in the panel whether the account has one under another host name, or ask the host's support"
    verdict: Verdict = "heed" if has else "red"
    return MatchLine("database", need, has or "none answers from PHP there", verdict, "support", how, where, NOT_FOUND)


def _room(facts: Mapping[str, Any], unpacked_bytes: int) -> MatchLine:
    need_bytes = int(unpacked_bytes * ROOM_FOR_ARCHIVE)
    need = f"{need_bytes / 1e6:,.1f} MB of room"
    free = facts.get("space.free")
    quota = facts.get("space.quota") or {}
    if quota:
        left = quota["limit"] - quota["used"]
        free = left if free is None else min(free, left)
    if free is None:
        return MatchLine("space", need, "not known: the host does not say", "unknown")
    has = f"{free / 1e6:,.0f} MB free"
    if free < need_bytes:
        return MatchLine("space", need, has, "red", "support", "make room on the account, or ask for a larger one")
    return MatchLine("space", need, has, "fits")


def _web(findings: Findings, facts: Mapping[str, Any]) -> MatchLine | None:
    hidden = [d for d in findings.dotfiles if d.rsplit("/", 1)[-1] == ".htaccess"]
    if not hidden:
        return None
    need = "rules in .htaccess" + (" and rewriting" if findings.rewriting else "")
    seen = facts.get("web.htaccess")
    where = _where(findings, "rewriting")
    if seen is None:
        return MatchLine("htaccess", need, SURVEY_FIRST, "unknown", where=where)
    if seen in ("ignored", "limited"):
        how = f"{len(hidden)} folders of the release hide or rewrite by .htaccess, which does nothing there: ask the host's support"
        return MatchLine("htaccess", need, f".htaccess is {seen}", "heed", "support", how, where)
    if findings.rewriting and facts.get("web.rewriting") is False:
        how = "choose plain addresses in the application, or ask the host's support for mod_rewrite"
        return MatchLine("htaccess", need, "no rewriting", "heed", "support", how, where)
    return MatchLine("htaccess", need, "honoured", "fits", where=where)


def _web_folder(findings: Findings, facts: Mapping[str, Any]) -> MatchLine | None:
    if not findings.web_folder:
        return None
    need = f"the web sees only {findings.web_folder}/, the rest lies outside the document root"
    beside = facts.get("site.beside")
    if beside is None:
        return MatchLine("web-folder", need, SURVEY_FIRST, "unknown")
    if beside:
        return MatchLine("web-folder", need, "the login can put files beside the document root", "fits")
    how = "let the panel point the site at that folder, or hide the rest by rules of the web server"
    return MatchLine("web-folder", need, "nothing can lie beside the document root", "heed", "panel", how)


# A setting, the line it is told in, the survey's fact, and its unit.
SETTINGS = (
    ("memory_limit", "memory", "php.memory", "MB"),
    ("upload_max_filesize", "upload", "php.upload", "MB"),
    ("post_max_size", "form", "php.post", "MB"),
    ("max_execution_time", "time", "php.time", "s"),
    ("max_input_time", "input-time", "php.input_time", "s"),
)


def _settings(findings: Findings, facts: Mapping[str, Any]) -> list[MatchLine]:
    """What the release wants of PHP's settings, beside what the account has; without a word of its own what is usual today."""
    lines: dict[str, MatchLine] = {}
    for name, topic, fact, unit in SETTINGS:
        wanted, has = findings.php_settings.get(name, ""), facts.get(fact)
        if not wanted and name == "memory_limit" and has is not None and has < 128 << 20:
            lines[topic] = _short(
                facts,
                topic,
                "128 MB of memory for PHP, as applications of today ask",
                f"{has >> 20} MB",
                name,
                "256M",
                "",
            )
        if not wanted or (topic in lines and lines[topic].verdict == "heed"):
            continue
        need, where = f"{name} of {wanted}", _where(findings, "php-setting", f"{name} {wanted}")
        least = int(wanted.rstrip("M")) << (20 if unit == "MB" else 0)
        if fact not in facts:
            lines[topic] = MatchLine(topic, need, SURVEY_FIRST, "unknown", where=where)
            continue
        limit = int(has or 0)
        free = has is None or (unit == "s" and limit <= 0)
        shown = "no limit" if free else f"{limit >> 20} MB" if unit == "MB" else f"{limit} s"
        if free or limit >= least:
            lines[topic] = MatchLine(topic, need, shown, "fits", where=where)
        else:
            lines[topic] = _short(facts, topic, need, shown, name, wanted, where)
    return list(lines.values())


def _short(
    facts: Mapping[str, Any], topic: str, need: str, shown: str, name: str, wanted: str, where: str
) -> MatchLine:
    pinned = name in (facts.get("php.pinned") or [])
    own = facts.get("web.user_ini") in (True, "honoured") and not pinned
    how = f"set {name} = {wanted} in .user.ini" if own else "the host has pinned it: ask its support"
    return MatchLine(topic, need, shown, "heed", ".user.ini" if own else "support", how, where)


def _writes(findings: Findings, facts: Mapping[str, Any]) -> MatchLine | None:
    if not findings.writable:
        return None
    need = f"PHP may write to {', '.join(findings.writable[:5])}" + (
        f" and {len(findings.writable) - 5} more" if len(findings.writable) > 5 else ""
    )
    same = (facts.get("php.user") or {}).get("same")
    where = _where(findings, "writable")
    if same is None:
        return MatchLine("writable", need, "not known: who PHP runs as is not", "unknown", where=where)
    if same:
        return MatchLine("writable", need, "PHP runs as the login's own user", "fits", where=where)
    how = "those folders have to be opened for PHP's user: group, or 777 where nothing else helps"
    return MatchLine("writable", need, "PHP runs as another user", "heed", "support", how, where)
