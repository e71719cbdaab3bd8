"""The epoch: a number that rises with each start of a service on a database. What an older start still does is refused.

The folder's lock keeps two processes apart on one machine. The epoch does so where a lock does not reach: a folder on a
network disk, a process that was frozen and woke up again, a copy of the folder that was put in its place.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy import Engine

from highshelf.core.errors import SupersededError
from highshelf.store.database import session_on, together
from highshelf.store.tables import EpochRow


def raise_epoch(engine: Engine) -> int:
    """The number of this start."""
    with together(engine) as session:
        row = session.get(EpochRow, 1) or EpochRow(number=0)
        row.number += 1
        session.add(row)
        return row.number


def check_epoch(session: Any, epoch: int) -> None:
    """Raises SupersededError when a service was started on this database later. 0 is no service, and is not checked."""
    if not epoch:
        return
    row = session.get(EpochRow, 1)
    if row is not None and row.number != epoch:
        raise SupersededError(
            "another service was started on this data folder", hint="this one stops; look which of them is to run"
        )


def check_now(engine: Engine, epoch: int) -> None:
    """Raises SupersededError."""
    with session_on(engine) as session:
        check_epoch(session, epoch)
