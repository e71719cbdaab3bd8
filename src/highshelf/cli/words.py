"""Groups of commands: a word that was mistyped, and those that are like it; names that a shell completes.

What shows secrets is never offered in place of another word.
"""

from __future__ import annotations

import os
from difflib import get_close_matches
from typing import Any

from typer.core import TyperGroup

# Whoever means these says so in full.
NEVER_OFFERED = ("reveal", "reveals")


class Words(TyperGroup):
    """A group whose suggestions leave out what shows secrets."""

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        found = super().get_command(ctx, cmd_name)
        if found is not None and any(name.endswith("_COMPLETE") for name in os.environ):
            self._complete_names(found)
        return found

    def _complete_names(self, command: Any) -> None:
        """Where a shell asks, the service is asked for the names it knows; nobody else waits for that to load."""
        from highshelf.cli.completing import names_for

        for param in command.params:
            if names := names_for(str(self.name), param.name):
                param._custom_shell_complete = names

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
