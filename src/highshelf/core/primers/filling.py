"""`{names}` in a primer's texts, and the values that stand for them. Pure."""

from __future__ import annotations

import re
from collections.abc import Mapping

from highshelf.core.errors import PanelError

HOLE = re.compile(r"\{([a-z][a-z.-]*)\}")


def holes(text: str) -> set[str]:
    """The names that a text asks for."""
    return set(HOLE.findall(text))


def filled_in(text: str, values: Mapping[str, str]) -> str:
    """The text with its values. Raises PanelError: the task has none of that name."""

    def put(found: re.Match[str]) -> str:
        if found[1] not in values:
            raise PanelError(f"the primer asks for {found[0]}, which this task does not have", hint="mend the primer")
        return values[found[1]]

    return HOLE.sub(put, text)
