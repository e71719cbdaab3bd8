"""Building every model at once: a service needs all of them, while a command builds what it uses (`Public`)."""

from __future__ import annotations

from highshelf.schemas import models, seen, shelf, surveys

ROOMS = (models, seen, shelf, surveys)


def build_all() -> int:
    """Build what was put off, and put nothing off any more. Returns how many there are."""
    found = [m for room in ROOMS for m in vars(room).values() if isinstance(m, type) and issubclass(m, models.Public)]
    for model in found:
        # What is made of a model takes its configuration over.
        model.model_config.pop("defer_build", None)
        model.model_rebuild()
    return len(found)
