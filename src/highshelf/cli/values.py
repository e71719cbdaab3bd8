"""`highshelf value …`: what can be set with `--set`."""

from __future__ import annotations

import typer

from highshelf.cli.common import Json, client, show, table
from highshelf.cli.words import Words

app = typer.Typer(cls=Words, no_args_is_help=True, help="Values that a plan may set.")


@app.callback()
def group() -> None:
    """One command so far; without this it would stand in for the group."""


@app.command("list")
def listing(as_json: Json = False) -> None:
    """List the values that `--set` takes, with their defaults."""
    with client(as_json) as service:
        found = service.value_list()
        rows = [[v.name, v.kind, v.about] for v in found.items]
        show(found, as_json, lambda: table(["value", "kind", "about"], rows, "None."))
