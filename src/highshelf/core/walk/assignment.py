"""A field and the value that it asks for, and what the rooms that find them share. Pure."""

from __future__ import annotations

from dataclasses import dataclass

from highshelf.core.pages.page import Field, Form

# From here on a field is filled.
ENOUGH = 6.0


@dataclass(frozen=True)
class Assignment:
    """A field and the value it asks for; `again` marks the second field of a repeated password or address."""

    field: Field
    value: str
    score: float
    again: bool = False


def right_before(password: Field | None, among: list[Field], form: Form) -> Field | None:
    """The field right before a password, when it is one of these."""
    typed = [f for f in form.fields if f.typed]
    at = next((n for n, f in enumerate(typed) if f is password), 0)
    return next((f for f in among if at and f is typed[at - 1]), None)
