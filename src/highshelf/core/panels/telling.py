"""The door of a panel, and what its pages tell in words: a length, names, a password. Pure."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import Literal

from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Form, Page
from highshelf.core.pages.purposes import says_login, searches
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.panels.reading import Found
from highshelf.core.panels.rows import labelled
from highshelf.core.panels.words import says


def longest_name(said: str) -> int | None:
    """How many characters the panel says that a name may have, with whatever it adds."""
    number = re.search(r"(?<!\d)(\d{1,3})(?!\d)", said)
    return int(number[1]) if number and lexicon().says("atmost", said) and lexicon().says("characters", said) else None


def makes_together(found: Found) -> Literal["", "own", "same"]:
    """Whether a form of a database makes its user too: with a name of its own, or by the same one."""
    if not found.has("password"):
        return ""
    return "own" if found.has("user") else "same"


def door_of(page: Page) -> Form | None:
    """The form of the door, or None; who can leave is inside. On some it asks for the name first and for the password behind it."""
    if any(says("leaving", link.label) for link in page.links) or any(
        says("leaving", b.label) for f in page.forms for b in f.buttons
    ):
        return None
    if (form := says_login(page)) is not None:
        return form
    said = " ".join([page.title, *page.headings])
    for form in page.forms:
        typed = [f for f in form.fields if f.typed and f.kind != "checkbox"]
        passwords = [f for f in typed if f.kind == "password"]
        entering = says("entering", f"{said} {' '.join(b.label for b in form.buttons)}")
        if (
            len(typed) == 1
            and form.method == "post"
            and entering
            and (
                typed[0].kind == "password"
                or says("user", f"{typed[0].label} {typed[0].name} {typed[0].placeholder}")
                or len(page.forms) == 1
            )
        ):
            return form
        if entering and form.method == "post" and len(passwords) == 1 and len(typed) == 2:
            return form
    return None


def front_door(page: Page) -> Form | None:
    """The door of a panel's own address, also in a language that nobody knows here: a name and a password, and nothing else to be typed."""
    if (door := door_of(page)) is not None:
        return door
    return _only(page, ["password", "text"])


def first_step(page: Page) -> Form | None:
    """A door that asks for the name, or for the password, on a page of its own."""
    return _only(page, ["text"]) or _only(page, ["password"])


def _only(page: Page, kinds: Sequence[str]) -> Form | None:
    """The page's only form that sends something, where just these are to be typed in it."""
    forms = [f for f in page.forms if f.method == "post" and not searches(f) and any(x.typed for x in f.fields)]
    if len(forms) != 1:
        return None
    typed = [f.kind for f in forms[0].fields if f.typed and f.kind not in ("checkbox", "radio", "select")]
    return forms[0] if sorted("text" if k == "email" else k for k in typed) == sorted(kinds) else None


def key_in(door: Form, login: str, password: str) -> list[tuple[str, str]]:
    sent = []
    for f in door.fields:
        if f.kind == "password":
            sent.append((f.name, password))
        elif f.typed and f.kind in ("text", "email", "tel", "number"):
            sent.append((f.name, login))
        elif f.kind == "checkbox":
            sent += [(f.name, f.value)] if f.checked else []
        elif f.kind not in ("submit", "button", "image", "reset", "file") and not f.disabled:
            sent.append((f.name, f.value))
    button = next((b for b in door.buttons if not b.disabled and b.name), None)
    return [*sent, *([(button.name, button.value)] if button is not None else [])]


def whole_name(name: str, named: Iterable[str]) -> str:
    """The shortest of the names that has this one in it."""
    return min((t for t in named if name and name in t), key=len, default="")


def told_values(snapshot: Snapshot) -> dict[str, str]:
    """Name, user, password and server, as a page says them."""
    found: dict[str, str] = {}
    for label, value in labelled(snapshot):
        if " " in value or len(value) > 120:
            continue
        what = (
            "password" if says("password", label) else
            "server" if says("server", label) and not says("naming", label) else
            "user" if says("user", label) else
            "database" if says("database", label) or says("naming", label) else
            ""
        )  # fmt: skip
        if what:
            found.setdefault(what, value)
    return found
