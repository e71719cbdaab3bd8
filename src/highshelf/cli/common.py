"""What all commands share: the client, output for people and as JSON, exit codes.

Exit codes: 0 done, 1 failed, 2 usage, 3 waiting for an answer, 130 left with Ctrl-C (the job goes on).
"""

from __future__ import annotations

import json
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, NoReturn

import typer
from rich.console import Console

from highshelf.cli.everywhere import SAID
from highshelf.client.environment import operator_token, service_url, token_file

if TYPE_CHECKING:
    from pydantic import BaseModel

    from highshelf.client import Client, Part
    from highshelf.schemas.models import Listing

DONE, FAILED, USAGE, WAITING = 0, 1, 2, 3
# As shells tell of Ctrl-C (128 + SIGINT).
LEFT = 130
# In a pipe a table is for other programs: it is not folded to a terminal that is not there.
PIPE_COLUMNS = 240
out = Console(highlight=False, soft_wrap=True, width=None if sys.stdout.isatty() else PIPE_COLUMNS)
err = Console(stderr=True, highlight=False, soft_wrap=True)
Json = Annotated[bool, typer.Option("--json", help="Print JSON for programs instead of text for people.")]
# Faults of what the operator typed; everything else failed on the way.
USAGE_CODES = {"input", "not-found"}


Limit = Annotated[int, typer.Option(min=1, max=500, help="How many at the most.")]
Offset = Annotated[int, typer.Option(min=0, help="How many to pass over.")]
Sort = Annotated[str, typer.Option(help="The column to sort by; -column turns the order round.")]
Find = Annotated[str, typer.Option(help="Only what holds this text.")]


def part_of(limit: int, offset: int, sort: str, find: str) -> Part:
    from highshelf.client import Part

    return Part(limit=limit, offset=offset, sort=sort, q=find)


def tell_rest(shown: int, offset: int, total: int) -> None:
    """Say so when the list goes on."""
    if offset + shown < total:
        # In a pipe it is not among what the next program reads.
        where = out if sys.stdout.isatty() else err
        where.print(
            f"{offset + 1} to {offset + shown} of {total}; --offset {offset + shown} shows the next", markup=False
        )


@contextmanager
def client(as_json: bool = False) -> Iterator[Client]:
    """A client on the service; its errors become one message and an exit code."""
    from highshelf.client import Client, ServiceError

    try:
        url, token = service_url(), operator_token()
    except ValueError as fault:
        fail("no-profile", str(fault), "`highshelf profile list` shows them", as_json, USAGE)
    except OSError:
        fail(
            "no-token",
            f"there is no operator's token at {token_file()}",
            "start the service once with `highshelf serve`, or set HIGHSHELF_DATA, HIGHSHELF_TOKEN_FILE or HIGHSHELF_TOKEN",
            as_json,
        )
    with Client(url, token) as found:
        try:
            yield found
        except ServiceError as fault:
            code = USAGE if fault.fault.code in USAGE_CODES else FAILED
            fail(fault.fault.code, fault.fault.message, fault.fault.hint, as_json, code)


Yes = Annotated[bool, typer.Option("--yes", help="Do not ask; a script has to say it.")]


def be_sure(question: str, yes: bool, as_json: bool) -> None:
    """Ask before what cannot be taken back: on a terminal a person, in a script its `--yes`. Ends the command otherwise."""
    if yes:
        return
    if as_json or not sys.stdin.isatty():
        fail("input", question, "say --yes when it is meant", as_json, USAGE)
    if not typer.confirm(question):
        raise typer.Exit(FAILED)


def fail(code: str, message: str, hint: str = "", as_json: bool = False, exit_code: int = FAILED) -> NoReturn:
    if as_json:
        # Not among what a program reads as the answer.
        print(json.dumps({"error": {"code": code, "message": message, "hint": hint}}), file=sys.stderr)
    else:
        err.print(f"[bold red]{code}[/]: ", end="")
        err.print(message, markup=False)
        if hint:
            err.print("  → ", end="")
            err.print(hint, markup=False)
    raise typer.Exit(exit_code)


def show(model: BaseModel, as_json: bool, people: Callable[[], None]) -> None:
    if as_json and SAID.lines:
        # A list is told an entry a line, anything else in one.
        entries = getattr(model, "items", None)
        for one in entries if isinstance(entries, list) else [model]:
            print(one.model_dump_json())
    elif as_json:
        print(model.model_dump_json(indent=2))
    else:
        people()


def table(columns: list[str], rows: list[list[str]], empty: str) -> None:
    """A plain table, or a sentence that says what to do when there is nothing. In a pipe: a line a row, tabs between the cells, no head."""
    if not rows:
        (out if sys.stdout.isatty() else err).print(empty, markup=False)
        return
    if not sys.stdout.isatty():
        if not out.quiet:
            for row in rows:
                print("\t".join(" ".join(printable(cell).split()) for cell in row))
        return
    from rich.table import Table

    grid = Table(box=None, header_style="bold", pad_edge=False, padding=(0, 2, 0, 0))
    for name in columns:
        grid.add_column(name, overflow="fold")
    for row in rows:
        grid.add_row(*[_plain(cell) for cell in row])
    out.print(grid, soft_wrap=False)


def listed(found: Listing[Any], offset: int, columns: list[str], rows: list[list[str]], empty: str) -> None:
    """A table of a part of a list, and how it goes on."""
    table(columns, rows, empty)
    tell_rest(len(rows), offset, found.total)


def facts(pairs: list[tuple[str, Any]]) -> None:
    """Name and value, line by line; empty values are left out."""
    shown = [(n, str(v)) for n, v in pairs if v not in (None, "", [])]
    width = max((len(n) for n, _ in shown), default=0)
    for name, value in shown:
        out.print(f"[bold]{name.ljust(width)}[/]  ", end="")
        out.print(value, markup=False)


def printable(text: str) -> str:
    """A text of somebody else's without what a terminal would obey."""
    return "".join(c if c in "\n\t" or c.isprintable() else "?" for c in text)


def _plain(text: str) -> str:
    return text.replace("[", "\\[")


def secret_from(file: Path | None, what: str, *, ask: bool = True) -> str:
    """A secret from a file (`-` is standard input), or asked for without echo on a terminal."""
    if file is not None:
        text = sys.stdin.read() if str(file) == "-" else file.read_text()
        return text.strip("\r\n")
    if ask and sys.stdin.isatty():
        return str(typer.prompt(what, hide_input=True))
    return ""


def amount(count: int) -> str:
    """So many bytes, for people: 812 bytes, 15.7 kB, 10.4 MB, 2.1 GB."""
    if count < 1000:
        return f"{count} bytes"
    for unit, size in (("kB", 1e3), ("MB", 1e6)):
        if count < size * 999.95:
            return f"{count / size:.1f} {unit}"
    return f"{count / 1e9:.1f} GB"
