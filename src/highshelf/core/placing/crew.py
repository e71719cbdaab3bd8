"""Many small things at once over the lanes that an account allows."""

from __future__ import annotations

import posixpath
import threading
from collections import deque
from collections.abc import Callable, Iterable, Sequence
from itertools import groupby
from typing import TypeVar

from highshelf.core.errors import HighShelfError, LineDroppedError, MissingFileError
from highshelf.core.ports import CancelToken, Entry, HostFiles, Order

T = TypeVar("T")
# Cancelling is looked at between so many small orders.
BULK = 256


def spread(
    lanes: Sequence[HostFiles],
    items: Iterable[T],
    work: Callable[[HostFiles, T], None],
    cancel: CancelToken,
    *,
    both_ends: bool = False,
    repeats: bool = False,
) -> None:
    """Do all items, each lane one at a time; returns when every lane is idle.

    Args:
        repeats: `work` may be done twice on an item. A lane that is a connection of its own does so once after its line broke:
            drivers open it anew, and the other lanes need not stop. One connection for all of them is all of them.
        both_ends: a quarter of the lanes begins with the first items, the others with the last. With the largest files first, those
            fill the line while the others wait for answers about small ones.

    Raises:
        whatever `work` raised first; no lane begins another item then. CancelledError.
    """
    queue, turn = deque(items), threading.Lock()
    faults: list[BaseException] = []

    def do(lane: HostFiles, item: T) -> None:
        try:
            work(lane, item)
        except LineDroppedError:
            if not repeats or lane.capabilities.parallel:
                raise
            cancel.check()
            work(lane, item)

    def toil(number: int, lane: HostFiles) -> None:
        from_end = both_ends and number % 4 != 0
        while not faults:
            try:
                with turn:
                    item = queue.pop() if from_end else queue.popleft()
            except IndexError:
                return
            try:
                cancel.check()
                do(lane, item)
            except BaseException as fault:
                faults.append(fault)
                return

    if len(lanes) == 1:
        toil(0, lanes[0])
    else:
        threads = [threading.Thread(target=toil, args=one, name="lane", daemon=True) for one in enumerate(lanes)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    if faults:
        raise faults[0]


def do_all(lanes: Sequence[HostFiles], orders: Sequence[Order], cancel: CancelToken) -> list[HighShelfError | None]:
    """Small orders that do not wait for one another but may for those before them in the list, as quickly as the way allows.

    Returns:
        what was refused, in the order's place.

    Raises:
        LineDroppedError, CancelledError.
    """
    if lanes[0].capabilities.bulk:
        found: list[HighShelfError | None] = []
        for start in range(0, len(orders), BULK):
            cancel.check()
            found += lanes[0].bulk(orders[start : start + BULK])
        return found
    said: dict[int, HighShelfError | None] = {}
    for _, group in groupby(enumerate(orders), key=lambda one: (one[1].what, one[1].path.count("/"))):

        def work(lane: HostFiles, one: tuple[int, Order]) -> None:
            said[one[0]] = lane.bulk([one[1]])[0]

        spread(lanes, group, work, cancel)
    return [said[number] for number in range(len(orders))]


def _listed(
    lanes: Sequence[HostFiles], base: str, folders: Sequence[str], cancel: CancelToken
) -> dict[str, list[Entry]]:
    """The listings of folders below the base; those that are not there are left out."""
    found: dict[str, list[Entry]] = {}

    def look(lane: HostFiles, folder: str) -> None:
        try:
            found[folder] = lane.entries(posixpath.join(base, folder) if folder else base)
        except MissingFileError:
            return

    spread(lanes, folders, look, cancel, repeats=True)
    return found


def list_tree(
    lanes: Sequence[HostFiles], base: str, cancel: CancelToken, *, at_once: bool = True, expected: Iterable[str] = ()
) -> tuple[dict[str, tuple[int, int | None]], dict[str, int | None]]:
    """Path below the base -> size and mode of every file there; and path -> mode of every folder, the base itself as "".

    The arguments are those of `look_through`.
    """
    files, folders = look_through(lanes, base, cancel, at_once=at_once, expected=expected)
    return {path: (entry.size_bytes, entry.mode) for path, entry in files.items()}, folders


def look_through(
    lanes: Sequence[HostFiles], base: str, cancel: CancelToken, *, at_once: bool = True, expected: Iterable[str] = ()
) -> tuple[dict[str, Entry], dict[str, int | None]]:
    """Path below the base -> its entry, for every file there; and path -> mode of every folder, the base itself as "".

    Args:
        expected: folders below the base that should be there: asked for all together, not level by level.
        at_once: whether one deep listing may tell of many folders, where the server has it; those it leaves out are asked for.
    """
    found: dict[str, Entry] = {}
    top = lanes[0].stat(base)
    folders: dict[str, int | None] = {"": top.mode if top is not None else None}
    level, lock = [""], threading.Lock()
    known = (lanes[0].tree(base) or {}) if at_once else {}
    if not known:
        known = _listed(lanes, base, ["", *expected], cancel)
    while level:
        below: list[str] = []

        def look(lane: HostFiles, folder: str, below: list[str] = below) -> None:
            entries = known.get(folder)
            if entries is None:
                entries = lane.entries(posixpath.join(base, folder) if folder else base)
            with lock:
                for entry in entries:
                    path = posixpath.join(folder, entry.name)
                    if entry.kind == "folder":
                        below.append(path)
                        folders[path] = entry.mode
                    else:
                        found[path] = entry

        spread(lanes, level, look, cancel, repeats=True)
        level = below
    return found, folders
