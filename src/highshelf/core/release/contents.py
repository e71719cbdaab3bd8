"""The list of files of a release, with sizes and hashes, as it must stand on the host."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterable
from dataclasses import dataclass

from highshelf.core.errors import ArchiveError


@dataclass(frozen=True)
class Member:
    """One file of an archive. `path` is as the archive says it; `link` is where a link points, or ""."""

    path: str
    size_bytes: int
    sha256: str
    link: str = ""


@dataclass(frozen=True)
class Contents:
    """A release's files with paths as they will stand below the target, and the wrapper that was around them."""

    wrapper: str
    files: tuple[Member, ...]

    @property
    def unpacked_bytes(self) -> int:
        return sum(f.size_bytes for f in self.files)

    def paths(self) -> dict[str, Member]:
        return {f.path: f for f in self.files}

    def top_names(self) -> list[str]:
        return sorted({f.path.split("/", 1)[0] for f in self.files})


def contents_of(members: Iterable[Member]) -> Contents:
    """Check every name, find the wrapper, strip it.

    Raises:
        ArchiveError: nothing inside, or names that could leave the target or collide; all of them are told.
    """
    found = list(members)
    if not found:
        raise ArchiveError("the archive holds no files")
    faults = [f"{m.path}: {why}" for m in found if (why := danger(m))]
    lower: dict[str, str] = {}
    for m in found:
        key = m.path.casefold()
        if key in lower and lower[key] != m.path:
            faults.append(f"{m.path}: differs from {lower[key]} by letter case only")
        lower[key] = m.path
    if faults:
        shown = "; ".join(faults[:8]) + (f"; and {len(faults) - 8} more" if len(faults) > 8 else "")
        raise ArchiveError(
            f"the archive is not safe to unpack: {shown}",
            hint="get the release from its maker again, or mend the archive by hand",
        )
    wrapper = wrapper_of([m.path for m in found])
    cut = len(wrapper) + 1 if wrapper else 0
    return Contents(
        wrapper, tuple(sorted((Member(m.path[cut:], m.size_bytes, m.sha256) for m in found), key=lambda m: m.path))
    )


def danger(member: Member) -> str:
    """Why a member may not be unpacked, or ""."""
    path = member.path
    if member.link:
        return f"a link (to {member.link}), which this version does not place"
    if path.startswith("/") or re.match(r"^[A-Za-z]:", path):
        return "an absolute path"
    if "\\" in path:
        return "a backslash"
    if ".." in path.split("/"):
        return "leads out of the folder"
    if any(ord(c) < 32 or ord(c) == 127 for c in path):
        return "a control character"
    if len(path.encode()) > 1024 or any(len(part.encode()) > 255 for part in path.split("/")):
        return "an over-long name"
    return ""


def wrapper_of(paths: list[str]) -> str:
    """The folder around everything, nested ones included, or ""."""
    wrapper = ""
    while True:
        tops = {p[len(wrapper) :].lstrip("/").split("/", 1)[0] for p in paths}
        if len(tops) != 1 or any(posixpath.dirname(p[len(wrapper) :].lstrip("/")) == "" for p in paths):
            return wrapper
        wrapper = posixpath.join(wrapper, tops.pop())
