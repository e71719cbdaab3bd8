"""Which way the release's files come to the host.

Rules:
1. A stream into the shell's tar, in the smallest form that is packed and that the host can unpack, comes first.
2. Then the archive as a file, unpacked by the shell; then by PHP through the helper, where what it makes is the login's own.
3. Then the panel's own upload and unpacking, where its primer knows how.
4. File by file is always open, and slow; it comes after all others, because nobody on the host compares hashes then.
5. Among those of the shell, and those of the helper, the quickest comes first, as estimated from sizes and what is known of the line.
6. A way that fails on the host gives place to the next one of the list: the plan holds them all.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Literal, get_args

from highshelf.core.errors import InputError
from highshelf.core.placing.estimate import Line, seconds_of
from highshelf.core.sizes import size_text

WayName = Literal[
    "shell-fetch",
    "shell-stream",
    "shell-unzip",
    "shell-tar",
    "shell-php",
    "helper-fetch",
    "helper-tar",
    "helper",
    "panel",
    "files",
]
WAYS: tuple[WayName, ...] = get_args(WayName)
# What unpacks a form, the smallest form first; the names are the shell's tools.
UNPACKERS = {"tar.xz": "xz", "tar.zst": "zstd", "tar.gz": "gzip"}


@dataclass(frozen=True)
class Way:
    """A way, why it is open, how long it would take.

    `archive` is what goes up: `original`, `zip`, one of UNPACKERS, or `zip` read file by file.
    """

    name: WayName
    archive: str
    reason: str
    seconds: float = 0.0

    @property
    def by_helper(self) -> bool:
        """Whether PHP on the host does the work, through the helper."""
        return self.name.startswith("helper")

    @property
    def by_hand(self) -> str:
        """How a person would do the same."""
        if self.name == "helper-fetch":
            return (
                "put a small script there that fetches the archive and unpacks it, open it in the browser, remove both"
            )
        if self.by_helper:
            return "bring the archive over, put a small unpacking script beside it, open it in the browser, remove both"
        if self.name == "panel":
            return "bring the archive over in the panel's file pages, unpack it there, remove the archive"
        if self.name == "files":
            return "unpack the archive at home and bring every file over, hidden ones too"
        if self.name == "shell-fetch":
            return "log in by SSH, fetch the archive there with curl, compare its checksum, unpack it, remove it"
        if self.name == "shell-stream":
            return f"unpack the archive at home, then `tar c . | {UNPACKERS[self.archive]} | ssh … 'tar x'`"
        tool = {"shell-unzip": "unzip", "shell-tar": "tar xf", "shell-php": "php with ZipArchive"}[self.name]
        return f"bring the archive over, log in by SSH, run {tool}, remove the archive"


@dataclass(frozen=True)
class Ground:
    """What the choice goes by.

    Attributes:
        archive_format: `zip` or `tar`, as the release came; `archive_bytes` its size.
        tools: what the account's shell has; empty without a shell.
        helper: whether the account allows the helper.
        forms: form -> size in bytes, of those that are packed already.
        same_user, zip_there, zlib_there: whether PHP there runs as the login's user, has ZipArchive, has zlib; None when no survey told.
        files, unpacked_bytes: of the release.
        published: the address at which the very archive was fetched, "" for one that was brought.
        panel: the title of the panel that takes an archive and unpacks it, "" when none is known to.
        kind, connections, line: of the account's transfer login; 0 connections when it is not known how many it allows.
    """

    archive_format: str
    archive_bytes: int = 0
    tools: Collection[str] = ()
    helper: bool = True
    forms: Mapping[str, int] | None = None
    same_user: bool | None = None
    zip_there: bool | None = None
    zlib_there: bool | None = None
    files: int = 0
    unpacked_bytes: int = 0
    published: str = ""
    panel: str = ""
    kind: str = "sftp"
    connections: int = 0
    line: Line = field(default_factory=Line)


def form_for(facts: Mapping[str, Any], helper: bool) -> str:
    """The smallest packed form that an account can unpack, by what its survey found; "" when it can none, or nobody looked."""
    tools = facts.get("shell.tools") or ()
    streamed = next((form for form, tool in UNPACKERS.items() if tool in tools), "") if "tar" in tools else ""
    if streamed or not helper:
        return streamed
    extensions = [str(e).lower() for e in facts.get("php.extensions") or ()]
    foreign = (facts.get("php.user") or {}).get("same") is False
    return "tar.gz" if "zlib" in extensions and not foreign else ""


def open_ways(ground: Ground) -> list[Way]:
    """All ways that are open on this host, the best first; `files` is always among them."""
    tools, found = ground.tools, []
    forms = {f: n for f, n in (ground.forms or {}).items() if UNPACKERS.get(f, "-") in tools}
    if "tar" in tools and forms:
        best = min(forms, key=lambda f: forms[f])
        saved = f" instead of {size_text(ground.archive_bytes)}" if ground.archive_bytes > forms[best] else ""
        reason = f"the account has a shell with tar and {UNPACKERS[best]}: {size_text(forms[best])} as {best}{saved}, unpacked as it comes"
        found.append(Way("shell-stream", best, reason))
    fetcher = next((t for t in ("curl", "wget") if t in tools), "")
    if ground.published and fetcher and (("unzip" in tools) if ground.archive_format == "zip" else ("tar" in tools)):
        reason = f"the account has a shell with {fetcher}: the host fetches the archive itself from {ground.published}, compared by its hash"
        found.append(Way("shell-fetch", "zip" if ground.archive_format == "zip" else "original", reason))
    if ground.archive_format == "tar" and "tar" in tools:
        found.append(Way("shell-tar", "original", "the account has a shell with tar, and the release is a tar archive"))
    if "unzip" in tools:
        found.append(Way("shell-unzip", "zip", "the account has a shell with unzip"))
    if "php" in tools:
        found.append(Way("shell-php", "zip", "the account has a shell with PHP"))
    if ground.helper and ground.same_user is not False:
        found += _by_helper(ground)
    if ground.panel:
        found.append(Way("panel", "zip", f"the panel ({ground.panel}) takes the archive and unpacks it"))
    timed = [replace(way, seconds=_seconds(way, ground)) for way in found]
    # Where there is a shell, nothing of ours has to be put into what the web serves.
    timed.sort(key=lambda way: (way.name == "panel", way.by_helper, way.seconds))
    by_files = Way("files", "zip", _why_by_files(ground))
    return [*timed, replace(by_files, seconds=_seconds(by_files, ground))]


def _by_helper(ground: Ground) -> list[Way]:
    found, packed = [], (ground.forms or {}).get("tar.gz", 0)
    why = "" if ground.tools else "no shell there; "
    if packed and ground.zlib_there is not False:
        saved = f" instead of {size_text(ground.archive_bytes)}" if ground.archive_bytes > packed else ""
        reason = f"{why}PHP unpacks it as it comes, through the helper: {size_text(packed)} as tar.gz{saved}"
        found.append(Way("helper-tar", "tar.gz", reason))
    if ground.zip_there is not False:
        found.append(Way("helper", "zip", f"{why}PHP unpacks through the helper"))
        if ground.published and ground.archive_format == "zip":
            reason = (
                f"{why}PHP fetches the archive itself from {ground.published}, compared by its hash, and unpacks it"
            )
            found.append(Way("helper-fetch", "zip", reason))
    return found


def _seconds(way: Way, ground: Ground) -> float:
    up_bytes = (ground.forms or {}).get(way.archive, ground.archive_bytes)
    found = seconds_of(
        way.name,
        up_bytes=ground.unpacked_bytes if way.name == "files" else up_bytes,
        files=ground.files,
        kind=ground.kind,
        line=ground.line,
        connections=ground.connections,
    )
    return round(found, 1)


def _why_by_files(ground: Ground) -> str:
    if ground.tools:
        return "file by file over the file transfer"
    if not ground.helper:
        why = "the account has no shell, and the helper is not allowed"
    elif ground.same_user is False:
        why = "PHP there runs as another user: what it unpacked would not be the login's to change"
    else:
        why = "the account has no shell, and PHP there has neither zlib for the packed release nor the zip extension"
    return f"{why}; so every file goes over by itself, which takes long"


def choose_way(ground: Ground, wanted: str = "") -> Way:
    """The best way, or the one that is wanted.

    Raises:
        InputError: the wanted way is not open on this host.
    """
    return ordered_ways(ground, wanted)[0]


def _not_packed(ground: Ground, wanted: str) -> str:
    """Of a way that wants the release in a form that is not there yet, and that this host could take."""
    streams = "tar" in ground.tools and any(tool in ground.tools for tool in UNPACKERS.values())
    helped = ground.helper and ground.same_user is not False and ground.zlib_there is not False
    waits = (wanted == "shell-stream" and streams) or (
        wanted == "helper-tar" and helped and not (ground.forms or {}).get("tar.gz")
    )
    return "the release is packed for it after the account's first check: it may be open in a minute; " if waits else ""


def ordered_ways(ground: Ground, wanted: str = "") -> list[Way]:
    """All open ways, the one that is wanted first, the others in the order in which they would take its place.

    Raises:
        InputError: the wanted way is not open on this host.
    """
    ways = open_ways(ground)
    if not wanted:
        return ways
    for way in ways:
        if way.name == wanted:
            return [way, *(other for other in ways if other is not way)]
    raise InputError(
        f"the way {wanted} is not open on this account" if wanted in WAYS else f"there is no way {wanted}",
        hint=_not_packed(ground, wanted) + "open are " + ", ".join(w.name for w in ways),
    )
