"""`highshelf dump …`: SQL dumps that lie with the service."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from highshelf.cli.common import (
    USAGE,
    Find,
    Json,
    Limit,
    Offset,
    Sort,
    Yes,
    amount,
    be_sure,
    client,
    facts,
    fail,
    listed,
    out,
    part_of,
    show,
)
from highshelf.cli.words import Words

if TYPE_CHECKING:
    from highshelf.schemas.databases import DumpOut

app = typer.Typer(
    cls=Words, no_args_is_help=True, help="SQL dumps that lie with the service: taken by `database export`, or brought."
)


@app.command("list")
def listing(
    account: Annotated[str, typer.Option(help="Only those taken on this account.")] = "",
    limit: Limit = 50,
    offset: Offset = 0,
    sort: Sort = "",
    find: Find = "",
    as_json: Json = False,
) -> None:
    """List dumps, the newest first."""
    with client(as_json) as service:
        found = service.dump_list(part_of(limit, offset, sort, find), account)
        rows = [
            [d.id, d.name, d.account, d.kind, amount(d.size_bytes), d.created_at.strftime("%Y-%m-%d %H:%M")]
            for d in found.items
        ]
        columns = ["dump", "name", "account", "kind", "size", "since"]
        empty = "No dump lies here: `highshelf database export ACCOUNT NAME --stay` takes one."
        show(found, as_json, lambda: listed(found, offset, columns, rows, empty))


@app.command("show")
def show_dump(dump: str, as_json: Json = False) -> None:
    """Show where a dump is from, for which server it is, and how large."""
    with client(as_json) as service:
        found = service.dump_show(dump)
        show(found, as_json, lambda: _print(found))


def _print(one: DumpOut) -> None:
    facts(
        [
            ("dump", one.id),
            ("name", one.name),
            ("account", one.account),
            ("database", one.database),
            ("taken by", f"job {one.job}" if one.job else "nobody here: it was brought"),
            ("for", one.kind or "nothing in it says for which server"),
            ("size", amount(one.size_bytes) + (f", {amount(one.unpacked_bytes)} unpacked" if one.packed else "")),
            ("insists on", one.insists and f"a database {one.insists}; that is left out when it is imported"),
            ("SHA-256", one.sha256),
        ]
    )


@app.command("bring")
def bring(
    file: Annotated[Path, typer.Argument(help="An SQL dump, plain or packed with gz, bz2, xz or zst.")],
    as_json: Json = False,
) -> None:
    """Bring a dump to the service; `database import ACCOUNT NAME --dump NUMBER` fills a database from it."""
    if not file.is_file():
        fail("input", f"there is no file {file}", "give the path of the dump", as_json, USAGE)
    with client(as_json) as service:
        found = service.dump_bring(file)
        show(found, as_json, lambda: _print(found))


@app.command("fetch")
def fetch(
    dump: str,
    to: Annotated[
        Path | None, typer.Option("--to", help="The file to write; the dump's own name when left out.")
    ] = None,
    as_json: Json = False,
) -> None:
    """Write a dump into a file that only you may read. The asking is recorded."""
    with client(as_json) as service:
        found = service.dump_show(dump)
        target = to or Path(Path(found.name).name)
        if target.exists():
            fail("input", f"{target} is there already", "name another file with --to", as_json, USAGE)
        service.dump_fetch(dump, target)
        show(found, as_json, lambda: out.print(f"{amount(found.size_bytes)} written to {target}", markup=False))


@app.command("remove")
def remove(dump: str, yes: Yes = False, as_json: Json = False) -> None:
    """Remove a dump for good; refused while a job needs it."""
    with client(as_json) as service:
        found = service.dump_show(dump)
        be_sure(f"Remove the dump {found.name} ({amount(found.size_bytes)}) for good?", yes, as_json)
        service.dump_remove(dump)
        if as_json:
            print(json.dumps({"removed": dump}))
        else:
            out.print(f"the dump {dump} is removed", markup=False)
