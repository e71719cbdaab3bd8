"""One release out of several archives: each laid into the folder where it belongs."""

from __future__ import annotations

import posixpath
from dataclasses import dataclass, replace

from highshelf.core.errors import ArchiveError
from highshelf.core.release.clues import Clue
from highshelf.core.release.contents import Contents, Laid, Member, Places
from highshelf.core.release.safety import danger


@dataclass(frozen=True)
class Part:
    """One archive: its name, the folder below the release's root that its contents go to ("" for the root)."""

    file_name: str
    folder: str
    laid: Laid
    clues: tuple[Clue, ...]


@dataclass(frozen=True)
class Joined:
    """The whole: contents, and per part where its members go (`Laid.places`)."""

    contents: Contents
    places: list[Places]
    clues: list[Clue]
    folders: list[str]

    def path_of(self, part: int, path: str) -> str:
        return posixpath.join(self.folders[part], path)


def check_folder(folder: str) -> str:
    """A folder below the release's root, without slashes around it. Raises ArchiveError when it leads elsewhere."""
    bare = folder.strip().strip("/")
    if bare and (found := danger(bare)):
        raise ArchiveError(
            f"the folder {folder!r} cannot take an archive: {found.why}", hint="give one such as addons/tides"
        )
    return bare


def join(parts: list[Part]) -> Joined:
    """Lay all parts together.

    Raises:
        ArchiveError: two of them hold different files of one path.
    """
    files: dict[str, Member] = {}
    places: list[Places] = []
    clues: list[Clue] = []
    faults: list[str] = []
    for part in parts:
        check_folder(part.folder)
        prefix = part.folder + "/" if part.folder else ""
        mine = {prefix + f.path: f.at(prefix + f.path) for f in part.laid.contents.files}
        faults += [f"{p} (in {part.file_name})" for p, f in mine.items() if p in files and files[p].sha256 != f.sha256]
        taken = set(files)
        places.append(
            [tuple(prefix + p for p in paths if prefix + p not in taken) for paths in part.laid.places]
            if prefix or taken
            else part.laid.places
        )
        files |= mine
        clues += _moved(part, parts[0], prefix)
    if faults:
        raise ArchiveError(
            "the archives hold different files of the same path: " + ", ".join(faults[:8]),
            hint="give each archive the folder that its makers say it belongs in",
        )
    contents = Contents(parts[0].laid.contents.wrapper, tuple(files[p] for p in sorted(files)))
    return Joined(contents, places, clues, [p.folder for p in parts])


def _moved(part: Part, first: Part, prefix: str) -> list[Clue]:
    """Clues of a further part stand where it is laid, as if they had been in the first archive."""
    if part is first:
        return list(part.clues)
    wrapper = part.laid.contents.wrapper
    cut = len(wrapper) + 1 if wrapper else 0
    base = first.laid.contents.wrapper + "/" if first.laid.contents.wrapper else ""
    moved = [replace(c, path=base + prefix + c.path[cut:]) for c in part.clues]
    # What a component is called, and its version, is not the application's.
    return [c for c in moved if c.what not in ("name", "title", "version")]
