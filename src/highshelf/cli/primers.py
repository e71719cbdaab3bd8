"""`highshelf primer …`: what is special about applications and panels."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from highshelf.cli.common import FAILED, USAGE, Json, client, fail, out, printable, show, table
from highshelf.cli.words import Words

app = typer.Typer(
    cls=Words, no_args_is_help=True, help="Primers: what pages and archives do not say themselves. Most need none."
)


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
    with client(as_json) as service:
        found = service.primer_check(_text_of(file, as_json))

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


@app.command("try")
def try_out(
    account: Annotated[str, typer.Argument(help="The account whose panel is looked at, with its own login.")],
    file: Annotated[Path | None, typer.Option(help="A primer that is not in use yet; - is standard input.")] = None,
    as_json: Json = False,
) -> None:
    """Sign in to an account's panel as its primer says, and do what only looks: nothing there is changed.

    Ends with 1 when something is refused or missing.
    """
    with client(as_json) as service:
        found = service.primer_try(account, _text_of(file, as_json) if file else "")

        def tell() -> None:
            out.print(f"{found.panel} by the primer {found.primer}:", markup=False)
            table(["task", "", ""], [[one.task, one.verdict, one.told] for one in found.tasks], "It has no tasks.")

        show(found, as_json, tell)
        if any(one.verdict in ("refused", "missing") for one in found.tasks):
            raise typer.Exit(FAILED)


def _text_of(file: Path, as_json: bool) -> str:
    try:
        return sys.stdin.read() if str(file) == "-" else file.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as fault:
        fail("input", f"{file} cannot be read: {fault}", "give the path of a text file", as_json, USAGE)
