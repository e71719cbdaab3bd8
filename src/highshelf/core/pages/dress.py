"""What the dress of a button says: those who write pages call its class, its number and its name by what it does, mostly in English."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Literal

ON = frozenset(
    """primary success next continue forward proceed submit go confirm main cta install finish ok
    weiter suivant siguiente avanti""".split()
)
OFF = frozenset(
    """secondary back prev previous cancel reset danger link outline light ghost skip close muted tertiary abort help toggle
    zurueck retour atras indietro""".split()
)


def looks_of(attributes: Mapping[str, str | None]) -> Literal["on", "off", ""]:
    """Whether a button is dressed as the one that leads on; one that is pressed without a look at the fields leads back, or out."""
    if "formnovalidate" in attributes:
        return "off"
    said = {
        word
        for name in ("class", "id", "name", "value", "data-action", "rel")
        for word in re.findall(r"[a-z]+", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", attributes.get(name) or "").lower())
    }
    on, off = said & ON, said & OFF
    return "on" if on and not off else "off" if off and not on else ""
