"""The kinds of jobs: each a list of legs, and their acts. One workflow runs any of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from highshelf.core.legs import databases, rechecking, restoring, undoing
from highshelf.core.legs.job import Act
from highshelf.core.legs.registry import ACTS


@dataclass(frozen=True)
class Kind:
    """A kind of job.

    Attributes:
        groups: its legs in order; those of one group run side by side.
        takes_back: whether what it did is taken back when it fails. One that takes back another's acts stays where it stopped, and is
            begun again.
    """

    name: str
    groups: tuple[tuple[str, ...], ...]
    acts: Mapping[str, tuple[Act, ...]]
    takes_back: bool = True

    @property
    def legs(self) -> tuple[str, ...]:
        return tuple(leg for group in self.groups for leg in group)

    def act(self, leg: str, name: str) -> Act | None:
        return next((a for a in self.acts.get(leg, ()) if a.name == name), None)


INSTALL = Kind("install", (("survey",), ("place", "database"), ("configure",), ("walk",), ("tidy",), ("prove",)), ACTS)
UNDO = Kind("undo", (("survey",), ("undo",)), {"survey": undoing.SURVEY, "undo": undoing.UNDO}, takes_back=False)
REMOVE = Kind("remove", (("undo",),), {"undo": undoing.REMOVE}, takes_back=False)
RESTORE = Kind(
    "restore",
    (("survey",), ("place",), ("prove",)),
    {"survey": restoring.SURVEY, "place": restoring.PLACE, "prove": rechecking.RECHECK},
    takes_back=False,
)
RECHECK = Kind("recheck", (("prove",),), {"prove": rechecking.RECHECK}, takes_back=False)
_PROVEN: tuple[tuple[str, ...], ...] = (("database",), ("prove",))
DATABASE_KINDS = (
    Kind("make-database", _PROVEN, databases.MAKE),
    Kind("add-database", _PROVEN, databases.ADD),
    Kind("try-database", _PROVEN, databases.TRY),
    Kind("import", (("database",),), databases.IMPORT),
    Kind("export", (("database",),), databases.EXPORT),
    Kind("drop-database", (("database",),), databases.DROP, takes_back=False),
)
KINDS = {kind.name: kind for kind in (INSTALL, UNDO, REMOVE, RESTORE, RECHECK, *DATABASE_KINDS)}
# Every name that a leg of some kind has.
ALL_LEGS = tuple(dict.fromkeys(leg for kind in KINDS.values() for leg in kind.legs))


def kind_of(name: str) -> Kind:
    return KINDS[name]
