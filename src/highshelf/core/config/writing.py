"""What goes into the literal of a filling: values as they are, in an address's or a connection's form, or a key made here."""

from __future__ import annotations

import re
import secrets
import string
from collections.abc import Callable, Mapping
from urllib.parse import quote, urlsplit

from highshelf.core.config.filling import DRIVERS, KEY, URL_DSN, Filling

KEY_LENGTH = 64
_LETTERS = string.ascii_letters + string.digits


def made_key(how: str, pick: Callable[[str], str] = secrets.choice) -> str:
    """A key of so many letters: `hex 32`, `any 64`; 0 is as long as keys usually are."""
    letters, _, number = how.partition(" ")
    length = int(number or 0) or KEY_LENGTH
    return "".join(pick("0123456789abcdef" if letters == "hex" else _LETTERS) for _ in range(length))


def written(filling: Filling, values: Mapping[str, str]) -> str | None:
    """What goes into the literal; None where a value of it is not known."""
    if filling.value == KEY:
        return made_key(filling.how)
    if filling.value == "database.dsn":
        return _written_dsn(filling, values)
    if filling.value == "database.kind":
        return filling.how
    known = values.get(filling.value)
    if known is None:
        return None
    match filling.how:
        case "host:port":
            return f"{known}:{values.get('database.port') or '3306'}"
        case "no slash":
            return known.rstrip("/")
        case "path":
            return urlsplit(known).path
        case "host":
            return urlsplit(known).netloc
        case "pattern":
            return _pattern(filling.literal.value, urlsplit(known).hostname or "")
    return known


def _pattern(old: str, host: str) -> str:
    """The host's name as a pattern with the same marks around it; its dots mean dots."""
    marks = re.fullmatch(r"([/~#]?\^).*(\$[/~#]?i?)", old)
    before, after = (marks[1], marks[2]) if marks else ("^", "$")
    return before + re.sub(r"([.\-+*?\[\]^$(){}|\\])", lambda m: m[1] if m[1] == "-" else "\\" + m[1], host) + after


def _written_dsn(filling: Filling, values: Mapping[str, str]) -> str | None:
    wanted = ("database.host", "database.name", "database.user", "database.password")
    host, name, user, password = (values.get(n) or "" for n in wanted)
    port, postgresql = values.get("database.port") or "", values.get("database.kind") == "postgresql"
    if not host or not name:
        return None
    said = filling.literal.value
    if (whole := URL_DSN.match(said)) is not None:
        scheme = whole[1]
        if (scheme.lower().replace("pdo_", "") in DRIVERS["postgresql"]) != postgresql:
            scheme = "pgsql" if postgresql else "mysql"
        at = f":{port}" if port and (whole[5] or port != ("5432" if postgresql else "3306")) else ""
        return (
            f"{scheme}://{quote(user, safe='')}:{quote(password, safe='')}@{host}{at}/{quote(name, safe='')}{whole[7]}"
        )
    parts = [p.partition("=") for p in said.partition(":")[2].split(";") if p]
    given = {"host": host, "dbname": name, "port": port, "user": user, "username": user, "password": password}
    kept = [f"{key}={given.get(key, old)}" for key, _, old in parts]
    if port and not any(p.startswith("port=") for p in kept) and port != ("5432" if postgresql else "3306"):
        kept.insert(1, f"port={port}")
    return f"{'pgsql' if postgresql else 'mysql'}:" + ";".join(kept)
