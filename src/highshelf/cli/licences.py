"""`highshelf licence …`: keys that belong to one application and one customer."""

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
    client,
    fail,
    listed,
    out,
    part_of,
    secret_from,
    show,
)
from highshelf.cli.words import Words

if TYPE_CHECKING:
    from highshelf.schemas.shelf import LicenceOut

app = typer.Typer(
    cls=Words,
    no_args_is_help=True,
    help="Licence keys: sealed, for one customer's account, and never used for two installations unless said.",
)


@app.command("add")
def add(
    release: Annotated[str, typer.Argument(help="A release of the application.")],
    account: Annotated[str, typer.Argument(help="The customer's account.")],
    key_file: Annotated[
        Path | None, typer.Option(help="A file with the key; - reads it. Asked for when left out.")
    ] = None,
    several: Annotated[bool, typer.Option("--several", help="It may be used for more than one installation.")] = False,
    as_json: Json = False,
) -> None:
    """File a licence key. A job of this application on this account takes it by itself."""
    key = secret_from(key_file, "Licence key").strip()
    if not key:
        fail("input", "no licence key was given", "give it with --key-file FILE, or - to read it", as_json, USAGE)
    from pydantic import SecretStr

    from highshelf.schemas.shelf import LicenceNew

    new = LicenceNew(release=release, account=account, key=SecretStr(key), several=several)
    with client(as_json) as service:
        found = service.licence_add(new)
        show(found, as_json, lambda: out.print(_told(found), markup=False))


def _told(one: LicenceOut) -> str:
    times = "for several installations" if one.several else "for one installation"
    users = f", used by {', '.join(one.used_by)}" if one.used_by else ""
    return f"licence {one.id}: the key {one.ending} of {one.application} for {one.account}, {times}{users}"


@app.command("list")
def listing(
    limit: Limit = 50,
    offset: Offset = 0,
    sort: Sort = "",
    find: Find = "",
    account: Annotated[str, typer.Option(help="Only those of this account.")] = "",
    as_json: Json = False,
) -> None:
    """List whose keys there are and who uses them; never the keys."""
    with client(as_json) as service:
        found = service.licence_list(part_of(limit, offset, sort, find), account)
        rows = [
            [x.id, x.application, x.account, x.ending, "yes" if x.several else "no", ", ".join(x.used_by) or "nobody"]
            for x in found.items
        ]
        columns = ["licence", "application", "account", "key", "several", "used by"]
        empty = "No licence key is filed: `highshelf licence add RELEASE ACCOUNT`."
        show(found, as_json, lambda: listed(found, offset, columns, rows, empty))


@app.command("change")
def change(
    licence: str,
    several: Annotated[bool | None, typer.Option(help="Whether it may be used for more than one installation.")] = None,
    free: Annotated[bool, typer.Option("--free", help="Nobody uses it any more.")] = False,
    as_json: Json = False,
) -> None:
    """Say whether a key may be used several times, or that it is free again."""
    if several is None and not free:
        fail("input", "nothing was said to change", "--several, --no-several or --free", as_json, USAGE)
    with client(as_json) as service:
        from highshelf.schemas.shelf import LicenceChange

        found = service.licence_change(licence, LicenceChange(several=several, free=free))
        show(found, as_json, lambda: out.print(_told(found), markup=False))


@app.command("reveal")
def reveal(licence: str, as_json: Json = False) -> None:
    """Show a key. The asking is recorded."""
    with client(as_json) as service:
        found = service.licence_reveal(licence)
        show(found, as_json, lambda: out.print(found.secrets["licence"], markup=False))


@app.command("remove")
def remove(licence: str, as_json: Json = False) -> None:
    """Forget a key; refused while a job has it."""
    with client(as_json) as service:
        service.licence_remove(licence)
        if not as_json:
            out.print(f"the licence {licence} is forgotten", markup=False)
        else:
            print(json.dumps({"removed": licence}))
