"""What the dress of a button says: those who write pages call its class, its number and its name by what it does, mostly in English."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Literal

from highshelf.core.pages.lexicon import lexicon


def looks_of(attributes: Mapping[str, str | None]) -> Literal["on", "off", ""]:
    """Whether a button is dressed as the one that leads on; one that is pressed without a look at the fields leads back, or out."""
    if "formnovalidate" in attributes:
        return "off"
    said = {
        word
        for name in ("class", "id", "name", "value", "data-action", "rel")
        for word in re.findall(r"[a-z]+", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", attributes.get(name) or "").lower())
    }
    lists = lexicon().lists
    on, off = said.intersection(lists["dressed_on"]), said.intersection(lists["dressed_off"])
    return "on" if on and not off else "off" if off and not on else ""
