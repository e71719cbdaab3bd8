"""PHP's own report, read into lines: the limits that matter, who it runs as, what the host has pinned."""

from __future__ import annotations

import base64
import re
from collections.abc import Mapping
from typing import Any

from highshelf.core.sizes import size_text
from highshelf.core.survey.lines import Survey

SETTINGS = (
    "memory_limit", "upload_max_filesize", "post_max_size", "max_file_uploads", "max_execution_time", "max_input_time",
    "max_input_vars", "open_basedir", "disable_functions", "disable_classes", "display_errors", "error_reporting",
    "date.timezone", "allow_url_fopen", "file_uploads", "opcache.enable", "opcache.validate_timestamps",
    "opcache.revalidate_freq", "user_ini.filename", "session.save_path", "pdo_mysql.default_socket",
    "mysqli.default_socket", "highlight.comment", "short_open_tag", "output_buffering", "sendmail_path",
)  # fmt: skip
# How far a script may change each, in PHP as it comes: 7 anywhere, 6 in a folder's file (php.net, list of php.ini directives).
USUAL_ACCESS = {
    "memory_limit": 7, "upload_max_filesize": 6, "post_max_size": 6, "max_execution_time": 7, "max_input_time": 6,
    "max_input_vars": 6, "display_errors": 7, "error_reporting": 7, "date.timezone": 7, "session.save_path": 7,
    "short_open_tag": 6, "output_buffering": 6,
}  # fmt: skip
NEEDED = ("pdo_mysql", "mysqli", "mbstring", "gd", "intl", "xml", "zip", "curl", "openssl", "json")
# Applications of today ask for this much; below it they fail in the middle.
LITTLE_MEMORY, LITTLE_UPLOAD, LITTLE_SECONDS = 128 << 20, 8 << 20, 30
# Hosts pin these for each customer as a matter of course.
HARMLESS_WHEN_PINNED = {"session.save_path"}
MARIADB_PORT, POSTGRESQL_PORT = 3306, 5432
POSTGRESQL = " (PostgreSQL)"
TOPICS = (
    "php.version", "php.handler", "php.user", "php.writes", "php.extensions", "php.memory", "php.upload", "php.post", "php.time",
    "php.input_time", "php.pinned", "php.opcache", "php.timezone", "php.errors", "php.basedir", "php.disabled",
)  # fmt: skip


def size_of(text: str) -> int | None:
    """PHP's short sizes: `128M`, `1G`, `-1` is no limit (None)."""
    found = re.fullmatch(r"\s*(-?\d+)\s*([kmg]?)b?\s*", text, re.I)
    if not found or int(found[1]) < 0:
        return None
    return int(found[1]) << {"": 0, "k": 10, "m": 20, "g": 30}[found[2].lower()]


def tell_php(survey: Survey, report: Mapping[str, Any], how: str, *, own_id: int | None) -> None:
    """All lines of PHP out of its report. `own_id` is the user whose files the transfer login makes, where it is known."""
    values = {n: s["value"] for n, s in report["settings"].items()}
    survey.say("php.version", report["php"], how, data=report["php"])
    survey.say("php.handler", str(report["sapi"]), how, data=report["sapi"])
    _tell_user(survey, report, how, own_id)
    missing = [n for n in NEEDED if n not in [e.lower() for e in report["extensions"]]]
    text = f"{len(report['extensions'])}" + (
        f"; without {', '.join(missing)}" if missing else ", with all that are usual"
    )
    survey.say("php.extensions", text, how, "heed" if missing else "fine", sorted(report["extensions"]))
    _tell_limits(survey, values, how)
    _tell_pinned(survey, report["settings"], how)
    on = bool(report["opcache"])
    stale = on and values.get("opcache.validate_timestamps") == "0"
    text = "on" if on else "off"
    if on:
        text += (
            ", never looks for changed files"
            if stale
            else f", looks for changed files every {values.get('opcache.revalidate_freq', '?')} s"
        )
    survey.say("php.opcache", text, how, "heed" if stale else "fine", on)
    zone = values.get("date.timezone", "")
    survey.say("php.timezone", zone or "not set (PHP takes UTC)", how, "fine" if zone else "heed", zone)
    shown = values.get("display_errors", "").lower() not in ("", "0", "off", "stderr")
    told = "shown to visitors: installers' pages may begin with PHP's own warnings" if shown else "not shown"
    survey.say("php.errors", told, how, "heed" if shown else "fine", shown)
    basedir = values.get("open_basedir", "")
    survey.say("php.basedir", basedir or "nothing", how, data=[p for p in basedir.split(":") if p])
    off = sorted(f.strip() for f in values.get("disable_functions", "").split(",") if f.strip())
    survey.say(
        "php.disabled",
        ", ".join(off[:12]) + (f" and {len(off) - 12} more" if len(off) > 12 else "") or "nothing",
        how,
        data=off,
    )


def _tell_limits(survey: Survey, values: Mapping[str, str], how: str) -> None:
    memory = size_of(values.get("memory_limit", ""))
    little = memory is not None and memory < LITTLE_MEMORY
    survey.say(
        "php.memory",
        values.get("memory_limit", "?") if memory is not None else "without limit",
        how,
        "heed" if little else "fine",
        memory,
    )
    sizes = [s for n in ("upload_max_filesize", "post_max_size") if (s := size_of(values.get(n, ""))) is not None]
    upload = min(sizes) if sizes else None
    if values.get("file_uploads", "1") in ("", "0", "Off"):
        survey.say("php.upload", "switched off", how, "heed", 0)
    else:
        text = f"{values.get('upload_max_filesize')} a file, {values.get('post_max_size')} a form"
        # 0 means no limit here, other than for memory.
        form = size_of(values.get("post_max_size", "")) or None
        survey.say("php.post", f"{values.get('post_max_size')} a form" if form else "without limit", how, data=form)
        survey.say("php.upload", text, how, "heed" if upload is not None and upload < LITTLE_UPLOAD else "fine", upload)
    for topic, name in (("php.time", "max_execution_time"), ("php.input_time", "max_input_time")):
        seconds = int(values.get(name, "0") or 0)
        free = seconds <= 0
        text = "without limit" if free else f"{seconds} s"
        survey.say(topic, text, how, "heed" if not free and seconds < LITTLE_SECONDS else "fine", seconds)


def _tell_pinned(survey: Survey, settings: Mapping[str, Any], how: str) -> None:
    pinned = sorted(
        name
        for name, usual in USUAL_ACCESS.items()
        if name in settings and settings[name]["access"] is not None and settings[name]["access"] < usual
    )
    if any(s["access"] is not None for s in settings.values()):
        text = ", ".join(f"{n} = {settings[n]['value'] or 'empty'}" for n in pinned) or "nothing"
        survey.say("php.pinned", text, how, "heed" if set(pinned) - HARMLESS_WHEN_PINNED else "fine", pinned)
    else:
        survey.say("php.pinned", "not known: ini_get_all is switched off", how, "unknown")


def _tell_user(survey: Survey, report: Mapping[str, Any], how: str, own_id: int | None) -> None:
    user = report["user"]
    number = user["id"]
    if number is None:
        survey.say("php.user", "not known: PHP here cannot tell", how, "unknown")
        return
    name = f"{user['name']} (id {number})" if user["name"] else f"id {number}"
    if own_id is None:
        survey.say("php.user", name, how, data={"id": number, "name": user["name"], "same": None})
        return
    same = number == own_id
    text = (
        f"{name}, the transfer login's own user"
        if same
        else f"{name}; the transfer login's files belong to id {own_id}"
    )
    survey.say("php.user", text, how, "fine" if same else "heed", {"id": number, "name": user["name"], "same": same})


def tell_writes(survey: Survey, folders: Mapping[str, Mapping[str, Any]], how: str) -> None:
    """Which of the folders (by their name for people) PHP can make files in."""
    can = [n for n, f in folders.items() if f["writes"]]
    cannot = [n for n, f in folders.items() if f["there"] and not f["writes"]]
    text = ", ".join(can) or "nothing that was tried"
    if cannot:
        text += f"; not {', '.join(cannot)}"
    survey.say("php.writes", text, how, "heed" if cannot else "fine", {"can": can, "cannot": cannot})


def database_addresses(known: str) -> dict[str, str]:
    """Address as host_greeting in host_report.php takes it -> what configuration calls it; the account's own host first."""
    host, _, port = known.partition(":")
    names = {}
    if host and host != "localhost":
        names[f"tcp://{host}:{port or MARIADB_PORT}"] = known
        names[f"pgsql://{host}:{port or POSTGRESQL_PORT}"] = f"{known}{POSTGRESQL}"
    names["localhost"] = "localhost"
    names[f"tcp://127.0.0.1:{MARIADB_PORT}"] = "127.0.0.1"
    names[f"pgsql://127.0.0.1:{POSTGRESQL_PORT}"] = f"localhost{POSTGRESQL}"
    return names


def tell_database(survey: Survey, greetings: Mapping[str, Mapping[str, Any]], known: str, how: str) -> None:
    """Which database servers PHP there reaches; `known` is the account's own database host."""
    reached, found = [], []
    names = database_addresses(known)
    for address, name in names.items():
        seen = greetings.get(address) or {}
        first = base64.b64decode(seen.get("first", ""))
        version = "PostgreSQL" if first in (b"S", b"N") and address.startswith("pgsql:") else server_version(first)
        if seen.get("reached") and version:
            reached.append(f"{version} at {name.removesuffix(POSTGRESQL)}")
            found.append({"host": name.removesuffix(POSTGRESQL), "version": version})
    if reached:
        survey.say("database.server", "; ".join(reached), how, data=found)
    elif greetings and all(s.get("reached") is None for s in greetings.values()):
        survey.say("database.server", "not known: PHP here may open no connections of its own", how, "unknown")
    else:
        tried = ", ".join(dict.fromkeys(n.removesuffix(POSTGRESQL) for n in names.values()))
        survey.say("database.server", f"none answers at {tried}", how, "heed", [])


def server_version(first: bytes) -> str:
    """The version in the first packet of a server of the MySQL family, such as `MariaDB 10.11.6`; "" for other bytes.

    Source: MySQL client/server protocol, "Protocol::HandshakeV10": 3 bytes length, a number, 0x0a, the version, NUL.
    """
    if len(first) < 6 or first[4] not in (9, 10):
        return ""
    text = first[5:].split(b"\0", 1)[0].decode("ascii", "replace")
    # MariaDB puts this before its own version for clients of old (MariaDB knowledge base, "Connecting").
    text = text.removeprefix("5.5.5-")
    number = text.split("-")[0]
    return f"MariaDB {number}" if "mariadb" in text.lower() else f"MySQL {number}"


def tell_room(survey: Survey, folder: Mapping[str, Any], how: str) -> None:
    """PHP's idea of the room left, where nothing better was told."""
    free = folder.get("free")
    if not survey.has("space.free") and free is not None:
        survey.say("space.free", size_text(free), how, "bad" if free < 50_000_000 else "fine", int(free))
