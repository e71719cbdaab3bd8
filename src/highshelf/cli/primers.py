"""`highshelf primer …`: what is special about applications and panels."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from highshelf.cli.common import FAILED, USAGE, Json, client, fail, out, printable, show, table

app = typer.Typer(no_args_is_help=True, help="Primers: what pages and archives do not say themselves. Most need none.")


@app.command("list")
def listing(as_json: Json = False) -> None:
    """List the primers that ship and your own."""
    with client(as_json) as service:
        found = service.primer_list()
        rows = [
            [
                p.name,
                p.kind,
                "own" if p.own else "ships",
                ", ".join(p.recognise),
                f"{len(p.faults)} faults" if p.faults else "holds",
            ]
            for p in found.items
        ]
        show(found, as_json, lambda: table(["name", "of", "", "recognised by", ""], rows, "There is no primer."))


@app.command("show")
def show_primer(name: Annotated[str, typer.Argument(help="A primer's name.")], as_json: Json = False) -> None:
    """Show a primer's text."""
    with client(as_json) as service:
        found = service.primer_show(name)
        show(found, as_json, lambda: out.print(printable(found.text), markup=False, highlight=False, soft_wrap=True))


@app.command("check")
def check(
    file: Annotated[Path, typer.Argument(help="A primer's YAML; - is standard input.")], as_json: Json = False
) -> None:
    """Check a primer before you put it into the data folder: all faults at once, each with its line."""
    try:
        text = sys.stdin.read() if str(file) == "-" else file.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as fault:
        fail("input", f"{file} cannot be read: {fault}", "give the path of a text file", as_json, USAGE)
    with client(as_json) as service:
        found = service.primer_check(text)

        def tell() -> None:
            for one in found.faults:
                out.print(f"{file}: {one}", markup=False, highlight=False, soft_wrap=True)
            if not found.faults:
                out.print(
                    f"{file} holds: the {found.kind} {found.name}, recognised by {', '.join(found.recognise)}",
                    markup=False,
                )

        show(found, as_json, tell)
        if found.faults:
            raise typer.Exit(FAILED)
