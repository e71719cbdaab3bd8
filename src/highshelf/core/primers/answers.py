"""Places in an answer of a panel that is called: `order.store.name`, `stores[].name`, `stores[label=tides].name`. Pure.

Rules:
1. A place that is not there gives nothing; it is never an error here.
2. Only texts and numbers are values: what is a list or a group of things is none.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import Any

# A key, or what stands in brackets behind one; keys may have anything in them but dots and brackets.
PART = re.compile(r"(?P<key>[^.\[\]]+)|\[(?P<at>[^\[\]]*)\]|(?P<dot>\.)")
# Keys under which answers say why not, the most telling first.
SAYING = ("message", "detail", "error_description", "why", "reason", "error", "errors", "title", "description", "msg")
MOST_SAID = 300


def why_no_place(place: str) -> str:
    """Why this can be no place in an answer, or ""."""
    if not place:
        return "it is empty"
    if "".join(found[0] for found in PART.finditer(place)) != place:
        return "a bracket is not closed"
    if place.startswith(".") or place.endswith(".") or ".." in place or ".[" in place:
        return "there is a dot too many"
    return ""


def found_at(answer: Any, place: str) -> list[str]:
    """The values at this place, as texts, in the answer's order."""
    return [text for one in _walk(answer, place) if (text := _text(one)) is not None]


def _walk(answer: Any, place: str) -> Iterator[Any]:
    here = [answer]
    for part in PART.finditer(place):
        if part["key"] is not None:
            here = [one[part["key"]] for one in here if isinstance(one, dict) and part["key"] in one]
        elif part["at"] is not None:
            here = [inner for one in here for inner in _chosen(one, part["at"])]
    yield from here


def _chosen(one: Any, which: str) -> list[Any]:
    entries = list(one.values()) if isinstance(one, dict) else one if isinstance(one, list) else []
    key, equals, wanted = which.partition("=")
    if equals:
        return [entry for entry in entries if isinstance(entry, dict) and _text(entry.get(key)) == wanted]
    if not which:
        return entries
    return entries[int(which) : int(which) + 1] if which.isdigit() else []


def _text(value: Any) -> str | None:
    if isinstance(value, bool):
        return "true" if value else "false"
    return str(value) if isinstance(value, str | int | float) else None


def said_in(answer: Any, *, inside: bool = False) -> str:
    """Why a panel says no, in its answer's own words; "" when it does not say. `inside` what is known to be a complaint, every key tells."""
    if isinstance(answer, str):
        return answer[:MOST_SAID]
    if isinstance(answer, list):
        return _together(said_in(one, inside=inside) for one in answer[:4])
    if not isinstance(answer, dict):
        return ""
    for key in SAYING:
        if said := said_in(answer.get(key), inside=True):
            return said
    if not inside:
        # Some put the complaint into an envelope of their own.
        return next((said for one in answer.values() if isinstance(one, dict) and (said := said_in(one))), "")
    return _together(f"{key}: {said}" for key, one in list(answer.items())[:4] if (said := said_in(one, inside=True)))


def _together(said: Iterable[str]) -> str:
    return "; ".join(dict.fromkeys(one for one in said if one))[:MOST_SAID]
