"""Groups of commands: a word that was mistyped, and those that are like it. What shows secrets is never offered in its place."""

from __future__ import annotations

from difflib import get_close_matches
from typing import Any

from typer.core import TyperGroup

# Whoever means these says so in full.
NEVER_OFFERED = ("reveal", "reveals")


class Words(TyperGroup):
    """A group whose suggestions leave out what shows secrets."""

    def resolve_command(self, ctx: Any, args: list[str]) -> Any:
        self.suggest_commands = False
        try:
            return super().resolve_command(ctx, args)
        except Exception as fault:
            offered = [name for name, one in self.commands.items() if name not in NEVER_OFFERED and not one.hidden]
            if (
                isinstance(getattr(fault, "message", None), str)
                and args
                and (near := get_close_matches(args[0], offered))
            ):
                fault.message = f"{fault.message.rstrip('.')}. Did you mean {' or '.join(near)}?"  # type: ignore[attr-defined]
            raise
