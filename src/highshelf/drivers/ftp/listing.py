"""Lines of FTP listings, as servers of several families write them."""

from __future__ import annotations

import re
from collections.abc import Iterable

from highshelf.core.ports import Entry, Kind

_LONG = re.compile(
    # mode, links, owner, perhaps a group, size, month and day (or an ISO date), time or year, name
    r"^([-dlbcps])([rwxsStT-]{9})\S*\s+\d+\s+\S+\s+(?:\S+\s+)?(\d+)\s+(\S+\s+\d+\s+[\d:]+|\d+\s+\S+\s+[\d:]+|\d{4}-\d\d-\d\d\s+[\d:]+)\s(.+)$"
)
_DOS = re.compile(r"^\d\d-\d\d-\d{2,4}\s+\d\d:\d\d(?:[AP]M)?\s+(<DIR>|\d+)\s+(.+)$", re.I)


def machine_entry(line: str, name: str = "") -> Entry | None:
    """A line of MLSD or MLST (RFC 3659, section 7.2): facts, a space, the name."""
    facts_text, _, path = line.partition(" ")
    facts = {k.lower(): v for k, _, v in (f.partition("=") for f in facts_text.split(";") if f)}
    kind = facts.get("type", "").lower()
    if kind in ("cdir", "pdir") and not name:
        return None
    mode = facts.get("unix.mode")
    size = facts.get("size", "0")
    return Entry(
        name or path.rsplit("/", 1)[-1],
        _machine_kind(kind),
        int(size) if size.isdigit() else 0,
        int(mode, 8) & 0o7777 if mode else None,
        facts.get("modify", ""),
    )


def deep_listing(lines: Iterable[str]) -> dict[str, list[Entry]]:
    """What `LIST -aR` gives: a part for each folder, headed by its path and a colon, "" being the one that was asked for.

    A server that lists no deeper gives one part; what is missing is for the caller to ask for.
    """
    found: dict[str, list[Entry]] = {"": []}
    folder = ""
    for line in lines:
        entry = long_entry(line)
        if entry is None:
            if line.endswith(":"):
                path = line[:-1].removeprefix("./").strip("/")
                folder = "" if path == "." else path
                found.setdefault(folder, [])
        elif entry.name not in (".", ".."):
            found[folder].append(entry)
    return found


def _machine_kind(kind: str) -> Kind:
    if kind == "file":
        return "file"
    if "link" in kind:
        return "link"
    return "folder" if kind in ("dir", "cdir", "pdir") else "other"


def long_entry(line: str) -> Entry | None:
    """A line of LIST as Unix servers write it, or as servers on Windows do; others are passed over."""
    dos = _DOS.match(line)
    if dos:
        folder = dos[1].upper() == "<DIR>"
        return Entry(dos[2], "folder" if folder else "file", 0 if folder else int(dos[1]))
    found = _LONG.match(line)
    if not found:
        return None
    kinds: dict[str, Kind] = {"-": "file", "d": "folder", "l": "link"}
    kind = kinds.get(found[1], "other")
    name = found[5].split(" -> ")[0] if kind == "link" else found[5]
    bits = sum(1 << (8 - i) for i, c in enumerate(found[2]) if c not in "-ST")
    return Entry(name, kind, int(found[3]), bits, " ".join(found[4].split()))
