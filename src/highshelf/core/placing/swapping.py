"""What steps aside and what comes in when a release is swapped into its place.

Rules:
1. Without a word from the administrator only the host's placeholder page steps aside, and nothing else may be in the way.
2. `beside`: what stands there stays; the release may not bring a name that is taken.
3. `merge`: folders are joined; a file that both have steps aside and is kept. `replace`: all but the host's own steps aside and is kept.
4. The host's own folders (such as `.well-known`) are joined in every case; a file in them is never replaced but by `merge`.
5. Front pages come in last: until then the place shows what it showed before, or nothing.
"""

from __future__ import annotations

import hashlib
import json
import posixpath
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from highshelf.core.errors import TargetError
from highshelf.core.placing.furniture import FURNITURE
from highshelf.core.ports import Entry

IfThere = Literal["", "beside", "merge", "replace"]
IF_THERE: tuple[IfThere, ...] = ("beside", "merge", "replace")
Listing = Callable[[str], list[Entry]]
"""The entries of a folder below the target, "" being the target itself."""
Tree = dict[str, Any]
SHOWN = 8


@dataclass(frozen=True)
class Swap:
    """Paths below the target, in the order in which they move.

    Attributes:
        aside: what steps aside; come: what comes in, each a file or a whole folder.
        before: every folder that is joined -> the names that stood in it; "" is the target.
        sizes: of the files that step aside, bytes, to tell whether something changed since.
    """

    aside: tuple[str, ...] = ()
    come: tuple[str, ...] = ()
    before: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    sizes: Mapping[str, int] = field(default_factory=dict)

    @property
    def fingerprint(self) -> str:
        """Of what lies below the target's own listing, "" when nothing there counts."""
        deeper = {f: names for f, names in self.before.items() if f}
        if not deeper and not self.sizes:
            return ""
        text = json.dumps([sorted(deeper.items()), sorted(self.sizes.items())])
        return hashlib.sha256(text.encode()).hexdigest()[:16]


def tree_of(paths: Iterable[str]) -> Tree:
    """Paths of files as nested folders; a file is None."""
    top: Tree = {}
    for path in paths:
        *folders, name = path.split("/")
        at = top
        for folder in folders:
            at = at.setdefault(folder, {})
        at[name] = None
    return top


def plan_swap(
    wanted: Tree, listing: Listing, placeholders: Iterable[str], if_there: IfThere, own: Iterable[str] = ()
) -> Swap:
    """What moves where.

    Args:
        own: names in the target that are ours and count as not there.

    Raises:
        TargetError: names that are taken, all of them told.
    """
    made = _Plan(listing, if_there)
    hidden = set(own)
    entries = {e.name: e for e in listing("") if e.name not in hidden}
    stands_aside = [n for n in placeholders if n in entries]
    if if_there == "replace":
        stands_aside += sorted(n for n in entries if n not in FURNITURE and n not in stands_aside)
    made.aside += stands_aside
    made.join("", wanted, {n: e for n, e in entries.items() if n not in stands_aside}, sorted(entries))
    if made.taken:
        made.taken.sort()
        raise TargetError(
            f"the release brings what is there already: {_some(made.taken)}",
            hint="merge (a file that both have steps aside and is kept) or replace, or choose another place",
            entries=made.taken[:200],
        )
    come = sorted(made.come, key=lambda p: ("/" not in p and p.startswith("index."), p))
    return Swap(tuple(made.aside), tuple(come), made.before, made.sizes)


class _Plan:
    def __init__(self, listing: Listing, if_there: IfThere) -> None:
        self._listing, self._if_there = listing, if_there
        self.aside: list[str] = []
        self.come: list[str] = []
        self.taken: list[str] = []
        self.before: dict[str, tuple[str, ...]] = {}
        self.sizes: dict[str, int] = {}

    def join(self, folder: str, wanted: Tree, there: Mapping[str, Entry], names: Iterable[str]) -> None:
        self.before[folder] = tuple(names)
        for name, inside in wanted.items():
            path, entry = posixpath.join(folder, name), there.get(name)
            if entry is None:
                self.come.append(path)
            elif inside is not None and entry.kind == "folder" and self._may_join(path):
                below = {e.name: e for e in self._listing(path)}
                self.join(path, inside, below, sorted(below))
            elif inside is None and entry.kind == "file" and self._if_there == "merge":
                self.aside.append(path)
                self.come.append(path)
                self.sizes[path] = entry.size_bytes
            else:
                self.taken.append(path)

    def _may_join(self, path: str) -> bool:
        return self._if_there == "merge" or path.split("/", 1)[0] in FURNITURE


def _some(paths: list[str]) -> str:
    more = f" and {len(paths) - SHOWN} more" if len(paths) > SHOWN else ""
    return ", ".join(paths[:SHOWN]) + more
