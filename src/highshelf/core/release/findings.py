"""What can be read out of a release: name and version, database needs, installer, configuration samples."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from highshelf.core.release.contents import Contents

Peek = Callable[[str], bytes]

DATABASES = {
    "mariadb": re.compile(
        rb"\bnew\s+mysqli\b|\bmysqli_(?:real_)?connect\b|\bmysqli_init\b|mysql:(?:host|dbname|unix_socket)=|pdo_mysql"
    ),
    "postgresql": re.compile(rb"\bpg_connect\s*\(|pgsql:(?:host|dbname)=|pdo_pgsql"),
}
INSTALLER = re.compile(
    r"^(?:[\w.-]+/)?(install(?:er|ation)?|setup)(?:/(?:index\.php|install\.php|setup\.php)|\.php)$", re.I
)
SAMPLE = re.compile(
    r"(config|settings|parameters|\.env)[\w.-]*[.-](?:example|sample|dist|default|tpl)|(?:example|sample|default)[.-][\w.-]*(?:config|settings)|(?:config|settings)\.(?:example|sample|dist|default)\.",
    re.I,
)
README = re.compile(r"^(readme|install|changelog|upgrading|license|copying)[\w.-]*$", re.I)


@dataclass(frozen=True)
class Finding:
    """A thing read, where it was read, and how sure it is (0 to 1)."""

    what: str
    value: str
    where: str
    sure: float


@dataclass(frozen=True)
class Findings:
    """Everything that was read out of a release."""

    name: str
    version: str
    databases: tuple[str, ...]
    installers: tuple[str, ...]
    samples: tuple[str, ...]
    readmes: tuple[str, ...]
    dotfiles: tuple[str, ...]
    has_php: bool
    details: tuple[Finding, ...] = field(default=())

    def installer_entries(self) -> list[str]:
        """What tidying takes away: the installer's top folder or its file."""
        entries = []
        for path in self.installers:
            folder = path.rpartition("/")[0]
            entries.append(folder if re.search(r"(^|/)(install(er|ation)?|setup)$", folder, re.I) else path)
        return sorted(set(entries))


def find(contents: Contents, file_name: str, peek: Peek) -> Findings:
    """Read a release. `peek` gives a file's bytes by its path below the wrapper."""
    paths = [f.path for f in contents.files]
    details: list[Finding] = []
    name, version = _identity(contents, file_name, peek, details)
    databases = _databases(contents, peek, details)
    installers = sorted((p for p in paths if INSTALLER.match(p)), key=lambda p: (p.count("/"), len(p)))
    for path in installers:
        details.append(Finding("installer", path, path, 0.8))
    return Findings(
        name=name,
        version=version,
        databases=databases,
        installers=tuple(installers),
        samples=tuple(p for p in paths if SAMPLE.search(p.rsplit("/", 1)[-1]) and p.count("/") < 3),
        readmes=tuple(p for p in paths if "/" not in p and README.match(p)),
        dotfiles=tuple(p for p in paths if any(part.startswith(".") for part in p.split("/"))),
        has_php=any(p.endswith(".php") for p in paths),
        details=tuple(details),
    )


def _identity(contents: Contents, file_name: str, peek: Peek, details: list[Finding]) -> tuple[str, str]:
    name = version = ""
    for text, where, sure in (
        (contents.wrapper.split("/")[-1], "wrapper folder", 0.7),
        (_stem(file_name), "archive's name", 0.6),
    ):
        found = re.match(r"^(?P<name>[A-Za-z][\w .]*?(?:-[A-Za-z][\w.]*?)*)[-_ ]v?(?P<version>\d[\w.~+-]*)$", text)
        if found and not version:
            name, version = found["name"], found["version"]
            details.append(Finding("version", version, where, sure))
    if not name:
        name = contents.wrapper.split("/")[-1] or _stem(file_name)
        details.append(Finding("name", name, "wrapper folder or archive's name", 0.4))
    paths = contents.paths()
    if "composer.json" in paths:
        composer = _json(peek("composer.json"))
        if isinstance(composer.get("version"), str):
            version = composer["version"]
            details.append(Finding("version", version, "composer.json", 0.9))
        php = composer.get("require", {}).get("php") if isinstance(composer.get("require"), dict) else None
        if isinstance(php, str):
            details.append(Finding("php", php, "composer.json", 0.9))
    for candidate in ("VERSION", "version.txt", "VERSION.txt"):
        if candidate in paths and paths[candidate].size_bytes < 64:
            text = peek(candidate).decode("utf-8", "replace").strip()
            if re.match(r"^v?\d[\w.~+-]*$", text):
                version = text.removeprefix("v")
                details.append(Finding("version", version, candidate, 0.9))
    return name, version


def _stem(file_name: str) -> str:
    return re.sub(r"\.(zip|tar|tgz|tbz2?|txz|tar\.\w+|7z)$", "", file_name, flags=re.I)


def _json(raw: bytes) -> dict[str, Any]:
    try:
        loaded = json.loads(raw)
    except ValueError:
        return {}
    return loaded if isinstance(loaded, dict) else {}


def _databases(contents: Contents, peek: Peek, details: list[Finding]) -> tuple[str, ...]:
    """Kinds of database the sources connect to; libraries that came along do not count."""
    found: dict[str, str] = {}
    for member in contents.files:
        if not member.path.endswith((".php", ".inc")) or member.size_bytes > 2_000_000 or _of_a_library(member.path):
            continue
        raw = peek(member.path)
        for kind, pattern in DATABASES.items():
            if kind not in found and (hit := pattern.search(raw)):
                line = raw.count(b"\n", 0, hit.start()) + 1
                found[kind] = f"{member.path}:{line}"
                details.append(Finding("database", kind, found[kind], 0.8))
    return tuple(sorted(found))


def _of_a_library(path: str) -> bool:
    return any(part in ("vendor", "vendors", "node_modules", "tests", "test") for part in path.split("/")[:-1])
