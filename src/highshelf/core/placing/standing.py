"""How the files of an installation stood when it was proven, and what has become of them since: who undoes it is to know."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from highshelf.core.placing.crew import look_through
from highshelf.core.ports import CancelToken, Entry, HostFiles

# Files by where they lie: size in bytes, when it was changed in the server's own words, and the mode (-1 where nobody tells it).
# Folders end in a slash, and have nothing but their mode. Tables of the database stand beside them, with their count of rows and a checksum.
Stand = Mapping[str, tuple[int, str, int]]
# No file system has this character in a name.
TABLE = "\0table "
# What every look at a site writes.
VISITED = re.compile(r"(?:^|_)(?:sess(?:ion)?s?|caches?)(?:_|$)", re.I)


@dataclass(frozen=True)
class Since:
    """Paths that came, went and were changed since; `unseen`: why something could not be compared, "" when everything was."""

    come: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    changed: tuple[str, ...] = ()
    unseen: str = ""

    def __bool__(self) -> bool:
        return bool(self.come or self.gone or self.changed or self.unseen)

    @property
    def told(self) -> str:
        """For people: counts, and some of each."""
        parts = (("new", self.come), ("changed", self.changed), ("gone", self.gone))
        told = [f"{len(paths)} {what} ({_some(paths)})" for what, paths in parts if paths]
        return "; ".join([*told, self.unseen] if self.unseen else told)


def _some(paths: Sequence[str]) -> str:
    return ", ".join(p.removeprefix("\0") for p in paths[:3]) + (", …" if len(paths) > 3 else "")


def stand_of(lanes: Sequence[HostFiles], folders: Mapping[str, Sequence[str]], cancel: CancelToken) -> Stand:
    """What stands in these folders now.

    Args:
        folders: path of each, as the transfer login sees it -> names in it that are somebody else's. A path may be a file, too.

    Returns:
        by whole path. What is ours for the moment (its name begins with `.hs-`) does not count.
    """
    found: dict[str, tuple[int, str, int]] = {}
    for base, strange in folders.items():
        if (there := lanes[0].stat(base)) is None:
            continue
        if there.kind != "folder":
            found[base] = _stand(there)
            continue
        # One deep listing tells times only in the server's short form, and by the minute: folder by folder they are whole.
        files, modes = look_through(lanes, base, cancel, at_once=False)

        def ours(path: str, strange: Sequence[str] = strange) -> bool:
            top = path.split("/", 1)[0]
            return top not in strange and not top.startswith(".hs-")

        for path, entry in files.items():
            if ours(path):
                found[posixpath.join(base, path)] = _stand(entry)
        for path, bits in modes.items():
            if ours(path) and bits is not None:
                found[posixpath.join(base, path).rstrip("/") + "/"] = (0, "", bits)
    return found


def _stand(entry: Entry) -> tuple[int, str, int]:
    return entry.size_bytes, entry.changed, -1 if entry.mode is None else entry.mode


def files_of(stand: Stand) -> Stand:
    """Its files alone."""
    return {path: one for path, one in stand.items() if not path.endswith("/") and not path.startswith(TABLE)}


def tables_of(rows: Mapping[str, Sequence[object]]) -> Stand:
    """Tables as a part of a stand.

    Args:
        rows: by name: how many rows, and a checksum of them.
    """
    return {TABLE + name: (int(str(count)), str(checksum), -1) for name, (count, checksum) in rows.items()}


def since(then: Stand, now: Stand) -> Since:
    """Compare the files, and the tables where both have them; modes and folders are not."""
    then, now = _compared(then), _compared(now)
    changed = [p for p, one in now.items() if p in then and _differs(then[p], one)]
    return Since(tuple(sorted(set(now) - set(then))), tuple(sorted(set(then) - set(now))), tuple(sorted(changed)))


def _compared(stand: Stand) -> Stand:
    tables = {p: o for p, o in stand.items() if p.startswith(TABLE) and not VISITED.search(p.removeprefix(TABLE))}
    return {**files_of(stand), **tables}


def _differs(then: tuple[int, str, int], now: tuple[int, str, int]) -> bool:
    """By size; by time where both are told in the same form: lists of servers tell an old file's year in place of its minute."""
    alike = _form(then[1]) == _form(now[1])
    return then[0] != now[0] or (alike and then[1] != now[1])


def _form(told: str) -> str:
    return re.sub(r"\d+", "0", re.sub(r"[^\W\d]+", "a", told))
