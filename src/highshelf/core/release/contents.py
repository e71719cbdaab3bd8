"""The list of files of a release, with sizes and hashes, as it must stand on the host."""

from __future__ import annotations

import json
import posixpath
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from highshelf.core.errors import ArchiveError


@dataclass(frozen=True, slots=True)
class Member:
    """One file of an archive. `path` is as the archive says it; `link` is where a link points, or "".

    `hard`: a hard link, whose target is said from the archive's root and not from the link's own folder.
    """

    path: str
    size_bytes: int
    sha256: str
    link: str = ""
    hard: bool = False

    def at(self, path: str) -> Member:
        """The same file at another path; itself when it is there already: releases have tens of thousands of them."""
        return self if path == self.path else replace(self, path=path)


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


Places = Sequence[tuple[str, ...]]
"""Per number of an archive's member (folders not counted) the paths that it goes to: usually one, none, or a link's copies."""


@dataclass(frozen=True)
class Laid:
    """The contents, and where each member of the archive (by its number) goes; `told` is what was done by a word."""

    contents: Contents
    places: Places = ()
    told: tuple[tuple[str, str], ...] = ()

    @property
    def altered(self) -> bool:
        """Whether what is placed is not simply what the archive unpacks to."""
        return bool(self.told)


def wrapper_of(paths: list[str]) -> str:
    """The folder around everything, nested ones included, or ""."""
    if not paths:
        return ""
    # What the first and the last in order share, all between them share; the slash keeps `a-b` from standing between `a` and `a/c`.
    first, last = min(map(_folder_of, paths)), max(map(_folder_of, paths))
    shared = posixpath.commonpath([first, last])
    return "" if shared == "." else shared


def _folder_of(path: str) -> str:
    return (posixpath.dirname(path) or ".") + "/"


def to_lines(contents: Contents) -> Iterator[str]:
    """The form in which a list of contents is kept: the wrapper in the first line, then a file a line."""
    yield json.dumps({"wrapper": contents.wrapper}) + "\n"
    for f in contents.files:
        yield json.dumps([f.path, f.size_bytes, f.sha256]) + "\n"


def from_lines(lines: Iterable[str]) -> Contents:
    """What `to_lines` made. Raises ArchiveError when it is damaged."""
    rest = iter(lines)
    try:
        wrapper = json.loads(next(rest))["wrapper"]
        return Contents(wrapper, tuple(Member(*json.loads(line)) for line in rest))
    except (StopIteration, ValueError, KeyError, TypeError):
        raise ArchiveError("a release's list of contents is damaged", hint="check the release in again") from None
