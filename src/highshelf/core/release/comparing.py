"""Two releases side by side: files added, changed, removed, and what they need otherwise."""

from __future__ import annotations

from dataclasses import dataclass

from highshelf.core.release.contents import Contents
from highshelf.core.release.findings import Findings

# Findings that people compare, with what they are called.
COMPARED = {
    "version": "version",
    "php": "PHP",
    "php_below": "PHP older than",
    "extensions": "extensions",
    "wished_extensions": "wished extensions",
    "php_settings": "PHP settings",
    "databases": "databases",
    "database_versions": "database versions",
    "installers": "installer",
    "web_folder": "web folder",
    "administration": "administration",
    "writable": "writable folders",
    "samples": "configuration samples",
    "dumps": "SQL files",
    "licences": "licences",
    "first_login": "first login",
}


@dataclass(frozen=True)
class Need:
    """A finding that differs."""

    what: str
    before: str
    after: str


@dataclass(frozen=True)
class Comparison:
    """Paths are below the root; `changed` are those with other bytes."""

    added: tuple[str, ...]
    changed: tuple[str, ...]
    removed: tuple[str, ...]
    same: int
    needs: tuple[Need, ...]


def compare_releases(before: tuple[Contents, Findings], after: tuple[Contents, Findings]) -> Comparison:
    """From the first to the second."""
    old = {f.path: f.sha256 for f in before[0].files}
    new = {f.path: f.sha256 for f in after[0].files}
    changed = sorted(p for p in old.keys() & new.keys() if old[p] != new[p])
    return Comparison(
        added=tuple(sorted(new.keys() - old.keys())),
        changed=tuple(changed),
        removed=tuple(sorted(old.keys() - new.keys())),
        same=len(old.keys() & new.keys()) - len(changed),
        needs=tuple(
            Need(title, _text(getattr(before[1], name)), _text(getattr(after[1], name)))
            for name, title in COMPARED.items()
            if getattr(before[1], name) != getattr(after[1], name)
        ),
    )


def _text(value: object) -> str:
    if isinstance(value, dict):
        return ", ".join(f"{k} {v}" for k, v in value.items()) or "none"
    if isinstance(value, (list, tuple)):
        return ", ".join(map(str, value)) or "none"
    return str(value) or "none"
