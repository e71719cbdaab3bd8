"""Which acts make up which leg, and in which order legs run."""

from __future__ import annotations

from highshelf.core.legs import configure, configuring, database, place, prove, survey, tidy, walk
from highshelf.core.legs.job import Act

ORDER = ("survey", "place", "database", "configure", "walk", "tidy", "prove")
ACTS: dict[str, tuple[Act, ...]] = {
    "survey": survey.ACTS,
    "place": place.ACTS,
    "database": database.ACTS,
    "configure": (*configure.ACTS, configuring.FILL),
    "walk": walk.ACTS,
    "tidy": tidy.ACTS,
    "prove": prove.ACTS,
}


def act_of(leg: str, name: str) -> Act | None:
    return next((a for a in ACTS[leg] if a.name == name), None)
