"""Of ninety commands a call needs one: the signatures of the others are not looked at, which is half of the time that a call takes."""

from __future__ import annotations

from collections.abc import Sequence

from typer import Typer


def leave_out_what_is_not_asked(app: Typer, words: Sequence[str]) -> None:
    """Take the commands out that these words cannot mean. Names of groups stay: they are listed, and proposed when one was mistyped."""
    first = next((word for word in words if not word.startswith("-")), "")
    if first in ("help", "manual"):
        # They explain any of them.
        return
    groups = {g.name or g.typer_instance.info.name: g.typer_instance for g in app.registered_groups if g.typer_instance}
    for name, group in groups.items():
        if name != first:
            group.registered_commands, group.registered_groups = [], []
    named = [command for command in app.registered_commands if _name_of(command) == first]
    if named or first in groups:
        app.registered_commands = named


def _name_of(command: object) -> str:
    name, callback = getattr(command, "name", None), getattr(command, "callback", None)
    return str(name or getattr(callback, "__name__", "").replace("_", "-"))
