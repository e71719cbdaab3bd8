"""A page behind the door that lets nobody on who has not chosen a new password: told from a mere offer, and filled in. Pure.

Rules:
1. It is met right after signing in, and a form for a new password is the only one on it; whoever may go on has other things to do there.
2. The new password is asked for twice, or once in words of a new one. A current one may be asked for beside it, and nothing else that is empty.
3. Who is who is told by words and by what browsers are told (autocomplete); without either, of three passwords the first is the current one.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Button, Field, Form, Page
from highshelf.core.pages.purposes import lexicon_group, says_login, searches

CURRENT_NAME = re.compile(
    r"(?i)(?:^|[^a-z])(?:old|cur(?:r(?:ent)?)?|existing|actual|alt|prev(?:ious)?)(?:[^a-z]|_?p|$)"
)
NEW_NAME = re.compile(r"(?i)(?:^|[^a-z])(?:new|neu|nuev|nouv|nuov|nov)")


@dataclass(frozen=True)
class Wanted:
    """The form, its button, and which of its fields is what."""

    form: Form
    button: Button | None
    current: tuple[str, ...]
    new: tuple[str, ...]


def wants_new(page: Page) -> Wanted | None:
    """What a page wants filled in before it lets anybody on, or None where it wants nothing of that kind."""
    forms = [f for f in page.real_forms if any(field.typed for field in f.fields) and not searches(f)]
    if len(forms) != 1 or says_login(page) is not None or page.status >= 400:
        return None
    form = forms[0]
    typed = [f for f in form.fields if f.typed]
    passwords = [f for f in typed if f.kind == "password"]
    rest = [f for f in typed if f.kind not in ("password", "checkbox", "select", "radio") and not f.value]
    if rest or not passwords or len(passwords) > 3:
        return None
    current = [f for f in passwords if _is_current(f)]
    if not current and len(passwords) == 3:
        current = passwords[:1]
    new = [f for f in passwords if f not in current]
    if len(current) > 1 or not new or (len(new) == 1 and not _says_new(page, new[0])):
        return None
    return Wanted(form, _button(form), tuple(f.name for f in current), tuple(f.name for f in new))


def answer(wanted: Wanted, old: str, new: str) -> list[tuple[str, str]]:
    """The fields to be sent."""
    found: list[tuple[str, str]] = []
    for field in wanted.form.fields:
        if field.disabled or field.kind == "file" or (field.kind in ("checkbox", "radio") and not field.checked):
            continue
        value = old if field.name in wanted.current else new if field.name in wanted.new else field.value
        found.append((field.name, value))
    if wanted.button is not None and wanted.button.name:
        found.append((wanted.button.name, wanted.button.value))
    return found


def _is_current(field: Field) -> bool:
    if field.autocomplete == "current-password" or lexicon_group("current", field):
        return True
    # A name is only believed where the words say nothing of a new one.
    return bool(CURRENT_NAME.search(field.name)) and not NEW_NAME.search(field.name)


def _says_new(page: Page, field: Field) -> bool:
    said = " ".join([page.title, *page.headings, field.label, field.placeholder])
    return field.autocomplete == "new-password" or lexicon().says("new-password", said)


def _button(form: Form) -> Button | None:
    open_ones = [b for b in form.buttons if not b.disabled]
    onward = [b for b in open_ones if not any(lexicon().says(t, b.label) for t in ("logout", "decoy", "destroying"))]
    return next(iter(onward or open_ones), None)
