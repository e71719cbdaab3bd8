"""Filling a form by what a primer names: fields by label or name, the button by its words. Pure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from highshelf.core.errors import InputError
from highshelf.core.pages.lexicon import fold
from highshelf.core.pages.page import Button, Field, Form, Page


def is_called(field: Field, wanted: str) -> bool:
    """Whether a field's label or name is this word."""
    return fold(wanted) in (fold(field.label), fold(field.name))


def find_form(page: Page, fields: Sequence[str], press: str | None) -> tuple[Form | None, Button | None]:
    """The first form that has all the fields and the button."""
    for form in page.forms:
        button = (
            next((b for b in form.buttons if fold(press) in (fold(b.label), fold(b.value))), None) if press else None
        )
        if press and button is None:
            continue
        if all(any(is_called(f, w) for f in form.fields) for w in fields):
            return form, button
    return None, None


def filled(
    form: Form,
    button: Button | None,
    texts: Mapping[str, str],
    *,
    tick: str | None = None,
    untick: str | None = None,
    only: Sequence[str] = (),
) -> list[tuple[str, str]]:
    """What is sent: the form as it stands, with these texts filled in and these boxes ticked, or not ticked.

    Raises:
        InputError: a list does not offer the text.
    """
    sent = [pair for field in form.fields for pair in _pairs(field, texts, tick, untick, only)]
    if button is not None and button.name:
        sent.append((button.name, button.value))
    return sent


def _pairs(
    field: Field, texts: Mapping[str, str], tick: str | None, untick: str | None, only: Sequence[str]
) -> list[tuple[str, str]]:
    if field.disabled or field.kind == "file":
        return []
    if field.kind in ("checkbox", "radio"):
        meant = not only or field.value in only
        ticked = tick is not None and is_called(field, tick) and meant
        cleared = untick is not None and is_called(field, untick) and meant
        return [(field.name, field.value)] if ticked or (field.checked and not cleared) else []
    given = next((text for name, text in texts.items() if is_called(field, name)), None)
    if field.kind == "select" and given is not None:
        option = next((o.value for o in field.options if given in (o.value, o.label)), None)
        if option is None:
            raise InputError(
                f"{given} is not offered under “{field.label or field.name}”", hint="look at the page by hand"
            )
        return [(field.name, option)]
    return [(field.name, field.value if given is None else given)]


def bare_login(form: Form) -> bool:
    """Whether a form takes one name and one password and nothing else: where an application stands, one signs in there in any language."""
    kinds = sorted(f.kind for f in form.fields if f.typed and f.kind != "checkbox")
    return form.method == "post" and kinds in (["password", "text"], ["email", "password"])
