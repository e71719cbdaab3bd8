"""What the host says of what an installer did. Pure: it compares what was seen there before and after.

Rules:
1. A witness who was not asked is None, and proves nothing in either direction.
2. A configuration, a lock, tables are work. Sessions, caches and logs are what any visit leaves.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

# What any look at a page may leave behind.
VISIT = re.compile(
    r"(?:^|/)\.?(?:caches?|te?mp|sess(?:ions?)?|sess_\w+|logs?|compiled?|templates_c|views)(?:/|$)|\.(?:log|tmp|cache)$|(?:^|/)error_log$",
    re.I,
)


@dataclass(frozen=True)
class Sight:
    """What was there at one moment.

    Attributes:
        files: path in the installation -> (bytes, mode) of what was looked at; None when nobody could look.
        tables: how many the job's database has; None when nobody could ask.
    """

    files: Mapping[str, tuple[int, int | None]] | None = None
    tables: int | None = None


@dataclass(frozen=True)
class Witness:
    """What came about: since the walk began, and (`now`) since its last move; `log`: what PHP has written since, newest last."""

    wrote: tuple[str, ...] | None = None
    wrote_now: tuple[str, ...] | None = None
    tables: int | None = None
    tables_now: int | None = None
    log: tuple[str, ...] = ()

    @property
    def made(self) -> bool | None:
        """Whether the installer has made something that lasts; None where nobody can say."""
        return _made(self.wrote, self.tables)

    @property
    def made_now(self) -> bool | None:
        return _made(self.wrote_now, self.tables_now)

    def told(self) -> str:
        """`it wrote config.php and made 32 tables`, or ""."""
        parts = []
        if self.wrote:
            more = f" and {len(self.wrote) - 3} more" if len(self.wrote) > 3 else ""
            parts.append("wrote " + ", ".join(self.wrote[:3]) + more)
        if self.tables:
            parts.append(f"made {self.tables} table{'s' if self.tables != 1 else ''}")
        return "it " + " and ".join(parts) if parts else ""


def compare(before: Sight, last: Sight, now: Sight, log: tuple[str, ...] = ()) -> Witness:
    """What three looks tell: at the beginning, before the last move, and now."""
    return Witness(
        _written(before, now),
        _written(last, now),
        _grown(before.tables, now.tables),
        _grown(last.tables, now.tables),
        log,
    )


def _written(before: Sight, now: Sight) -> tuple[str, ...] | None:
    if before.files is None or now.files is None:
        return None
    return tuple(
        sorted(p for p, what in now.files.items() if not VISIT.search(p) and _differs(before.files.get(p), what))
    )


def _differs(before: tuple[int, int | None] | None, now: tuple[int, int | None]) -> bool:
    """Whether a file is new or of another length; a mode alone is nothing that was written."""
    return before is None or before[0] != now[0]


def _grown(before: int | None, now: int | None) -> int | None:
    return None if now is None else max(now - (before or 0), 0)


def _made(wrote: tuple[str, ...] | None, tables: int | None) -> bool | None:
    if wrote or tables:
        return True
    return False if wrote is not None and tables is not None else None
