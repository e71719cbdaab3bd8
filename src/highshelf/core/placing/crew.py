"""Many small things at once over the lanes that an account allows."""

from __future__ import annotations

import posixpath
import threading
from collections.abc import Callable, Iterable, Sequence
from typing import TypeVar

from highshelf.core.ports import CancelToken, HostFiles

T = TypeVar("T")


def spread(
    lanes: Sequence[HostFiles],
    items: Iterable[T],
    work: Callable[[HostFiles, T], None],
    cancel: CancelToken,
) -> None:
    """Do all items, each lane one at a time; returns when every lane is idle.

    Raises:
        whatever `work` raised first; no lane begins another item then. CancelledError.
    """
    queue, turn = iter(items), threading.Lock()
    faults: list[BaseException] = []

    def toil(lane: HostFiles) -> None:
        while not faults:
            try:
                with turn:
                    item = next(queue)
                cancel.check()
                work(lane, item)
            except StopIteration:
                return
            except BaseException as fault:
                faults.append(fault)
                return

    if len(lanes) == 1:
        toil(lanes[0])
    else:
        threads = [threading.Thread(target=toil, args=(lane,), name="lane", daemon=True) for lane in lanes]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    if faults:
        raise faults[0]


def list_tree(
    lanes: Sequence[HostFiles], base: str, cancel: CancelToken
) -> tuple[dict[str, tuple[int, int | None]], dict[str, int | None]]:
    """Path below the base -> size and mode of every file there; and path -> mode of every folder, the base itself as ""."""
    found: dict[str, tuple[int, int | None]] = {}
    top = lanes[0].stat(base)
    folders: dict[str, int | None] = {"": top.mode if top is not None else None}
    level, lock = [""], threading.Lock()
    while level:
        below: list[str] = []

        def look(lane: HostFiles, folder: str, below: list[str] = below) -> None:
            entries = lane.entries(posixpath.join(base, folder) if folder else base)
            with lock:
                for entry in entries:
                    path = posixpath.join(folder, entry.name)
                    if entry.kind == "folder":
                        below.append(path)
                        folders[path] = entry.mode
                    else:
                        found[path] = (entry.size_bytes, entry.mode)

        spread(lanes, level, look, cancel)
        level = below
    return found, folders
