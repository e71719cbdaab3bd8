"""Many small things at once over the lanes that an account allows."""

from __future__ import annotations

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
