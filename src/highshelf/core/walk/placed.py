"""Fields of a database that words do not tell: known by their presets, by what stands beside them, by what is left."""

from __future__ import annotations

from collections.abc import Callable

from highshelf.core.pages.groups import FOREIGN, group_of
from highshelf.core.pages.page import Field, Form
from highshelf.core.walk.assignment import ENOUGH, Assignment, right_before
from highshelf.core.walk.clusters import PREFIX, is_secret

# What stands in a field for a server on the same machine.
HERE = ("localhost", "127.0.0.1", "::1")
Called = Callable[[str], bool]


def database_by_place(form: Form, groups: list[str], found: list[Assignment], called: Called) -> list[Assignment]:
    """Fields of a database's group whose words nobody knows. `called`: whether a heading asks what the database is called."""
    taken = {id(a.field) for a in found}
    have = {a.value for a in found}
    rest = [
        f
        for f, group in zip(form.fields, groups, strict=True)
        if group == "database"
        and f.kind == "text"
        and f.typed
        and id(f) not in taken
        and group_of(f"{f.label} {f.near}") not in FOREIGN
    ]
    made: list[Assignment] = []

    def take(field: Field | None, value: str) -> None:
        if field is not None and value not in have:
            made.append(Assignment(field, value, ENOUGH))
            have.add(value)
            rest.remove(field)

    take(next((f for f in rest if f.value in HERE), None), "database.host")
    take(next((f for f in rest if f.value in ("3306", "5432")), None), "database.port")
    take(next((f for f in rest if PREFIX.fullmatch(f.value)), None), "database.prefix")
    empty = [f for f in rest if not f.value]
    password = next((a.field for a in found if a.value == "database.password"), None)
    take(right_before(password, empty, form), "database.user")
    # What else is empty there and has to be said is the name: no form asks for less. What stands under a heading of its own is more.
    left = [f for f in empty if f in rest]
    left = left if len(left) < 2 or password is None else [f for f in left if f.near == password.near]
    take(left[0] if password is not None and len(left) == 1 else None, "database.name")
    if password is None and (one := _lone_name(form, [*found, *made], rest, called)) is not None:
        made.append(Assignment(one, "database.name", ENOUGH))
    if password is not None and "database.name" not in have:
        among = _among(form, [*found, *made], password)
        if len(among) == 1:
            made.append(Assignment(among[0], "database.name", ENOUGH))
    return made


def _lone_name(form: Form, found: list[Assignment], rest: list[Field], called: Called) -> Field | None:
    """Where the login is asked for on another page: the one thing that has to be said beside a server or under "What is it called?"."""
    have = {a.value for a in found}
    wanted = [f for f in rest if f.required and not f.value]
    if have & {"database.name", "database.user"} or any(is_secret(f) for f in form.fields) or len(wanted) != 1:
        return None
    return wanted[0] if called(wanted[0].near) or "database.host" in have else None


def _among(form: Form, found: list[Assignment], password: Field) -> list[Field]:
    """Empty fields that stand between those of the database, under the same heading, and are nobody's yet."""
    typed = [f for f in form.fields if f.typed]
    taken = {id(a.field): a.value for a in found}
    at = [n for n, f in enumerate(typed) if taken.get(id(f), "").startswith("database.")]
    between = typed[min(at) : max(at) + 1] if at else []
    return [f for f in between if id(f) not in taken and f.kind == "text" and not f.value and f.near == password.near]
