"""What stands at the target, and whether an installation may go there."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from highshelf.core.errors import TargetError
from highshelf.core.ports import Entry

FURNITURE = {
    "cgi-bin",
    ".well-known",
    "stats",
    "webstat",
    "webalizer",
    "awstats",
    "error",
    "errors",
    "error_docs",
    "logs",
    ".ftpquota",
    ".quota",
}
PLACEHOLDERS = ("index.html", "index.htm", "default.html", "default.htm", "index.shtml")
# A page the host puts into an empty document root says so, in a few words of its customers' languages.
PLACEHOLDER_WORDS = re.compile(
    r"reserved|coming soon|under construction|parked|placeholder|default (web ?)?page|will be here|webspace|web space|it works|"
    r"im aufbau|platzhalter|reserviert|hier entsteht|en construction|r[eé]serv[eé]|en construcci[oó]n|pr[oó]ximamente|reservado",
    re.I,
)
PLACEHOLDER_BYTES = 16_384
APPLICATION_MARKS = re.compile(
    r"(^index\.php$|\.php$|^composer\.json$|^\.htaccess$|^vendor$|^(config|settings)[\w.-]*$)", re.I
)


# Probes and helpers of High Shelf itself: they come and go while somebody checks the account beside a plan or a job.
OURS = re.compile(r"hs-[0-9a-f]{24}(\.txt|\.php)?(\.seen\.(php|txt))?")


@dataclass(frozen=True)
class Target:
    """What was seen: whether the folder is there, the host's furniture that stays, placeholders that step aside."""

    exists: bool
    furniture: tuple[str, ...]
    placeholders: tuple[str, ...]
    fingerprint: str


def describe_target(path: str, target: Target) -> str:
    """What stands at the place, in a sentence for people."""
    if not target.exists:
        return f"nothing: the folder {path} will be made"
    parts = [f"{target.placeholders[0]} (the host's placeholder page, it steps aside)"] if target.placeholders else []
    if target.furniture:
        parts.append(", ".join(target.furniture) + " (the host's own, stays)")
    return "; ".join(parts) or f"the folder {path}, empty"


def fingerprint_of(entries: Sequence[Entry] | None) -> str:
    """A short hash of a folder's listing, to tell whether something changed; None is a folder that is not there."""
    if entries is None:
        return "absent"
    seen = [e for e in entries if not OURS.fullmatch(e.name)]
    lines = sorted(f"{e.name}\0{e.kind}\0{e.size_bytes if e.kind == 'file' else ''}" for e in seen)
    return hashlib.sha256("\n".join(lines).encode()).hexdigest()[:16]


def judge_target(path: str, entries: Sequence[Entry] | None, read: Callable[[str], bytes]) -> Target:
    """Look at a listing and say what may stay and what steps aside.

    Raises:
        TargetError: something stands there that is not the host's furniture; nothing was touched.
    """
    if entries is None:
        return Target(False, (), (), fingerprint_of(None))
    furniture, placeholders, foreign = [], [], []
    for entry in sorted(entries, key=lambda e: e.name):
        if entry.name in FURNITURE:
            furniture.append(entry.name)
        elif OURS.fullmatch(entry.name):
            continue
        elif entry.name in PLACEHOLDERS and entry.kind == "file" and _is_placeholder(entry, read):
            placeholders.append(entry.name)
        else:
            foreign.append(entry)
    if foreign:
        raise TargetError(
            f"{path} is not empty: {_describe(foreign)}",
            hint="choose another place, or clear the folder by hand after keeping what is in it",
            entries=[e.name for e in foreign[:20]],
        )
    return Target(True, tuple(furniture), tuple(placeholders), fingerprint_of(entries))


def _is_placeholder(entry: Entry, read: Callable[[str], bytes]) -> bool:
    if entry.size_bytes > PLACEHOLDER_BYTES:
        return False
    return bool(PLACEHOLDER_WORDS.search(read(entry.name).decode("utf-8", "replace")))


def _describe(foreign: Sequence[Entry]) -> str:
    names = ", ".join(e.name + ("/" if e.kind == "folder" else "") for e in foreign[:6])
    more = f" and {len(foreign) - 6} more" if len(foreign) > 6 else ""
    looks = (
        "another application stands there"
        if any(APPLICATION_MARKS.search(e.name) for e in foreign)
        else "other files stand there"
    )
    return f"{looks} ({names}{more})"
