"""`highshelf release fetch`: releases from where their makers publish them."""

from __future__ import annotations

import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from highshelf.cli.common import (
    FAILED,
    USAGE,
    Find,
    Json,
    Limit,
    Offset,
    Sort,
    amount,
    client,
    err,
    fail,
    listed,
    out,
    part_of,
    show,
)
from highshelf.cli.releases import Accept, print_release

if TYPE_CHECKING:
    from pydantic import SecretStr

    from highshelf.client import Client
    from highshelf.schemas.shelf import FetchOut

POLL_SECONDS = 0.25
FINAL = ("done", "failed", "cancelled")


def add_to(app: typer.Typer) -> None:
    app.command("fetch")(fetch)
    app.command("fetches")(fetches)
    app.command("fetch-show")(fetch_show)
    app.command("fetch-cancel")(fetch_cancel)


def fetch(
    address: Annotated[str, typer.Argument(help="The https address of the archive.")],
    checksum: Annotated[str, typer.Option(help="What its makers publish beside it: SHA-256 or SHA-512.")] = "",
    checksum_address: Annotated[str, typer.Option(help="The address of their checksum file.")] = "",
    signature_address: Annotated[str, typer.Option(help="The address of their OpenPGP signature (.asc, .sig).")] = "",
    key_file: Annotated[Path | None, typer.Option(exists=True, help="Their public key, for the signature.")] = None,
    key_address: Annotated[str, typer.Option(help="Where their public key is published.")] = "",
    sign_in: Annotated[
        Path | None,
        typer.Option(
            help="A file of headers that sign in, a line each: `Cookie: pass=…` or `Authorization: Bearer …`; - reads them."
        ),
    ] = None,
    accept: Accept = None,
    wait: Annotated[bool, typer.Option(help="Wait for the end; without it the service fetches on by itself.")] = True,
    as_json: Json = False,
) -> None:
    """Fetch a release over https and check it in. Goes on by itself after a broken line or a restart of the service."""
    from highshelf.schemas.shelf import FetchNew

    new = FetchNew(
        address=address,
        checksum=checksum,
        checksum_address=checksum_address,
        signature_address=signature_address,
        key=key_file.read_text() if key_file else "",
        key_address=key_address,
        headers=_headers(sign_in, as_json),
        accept=accept or [],
    )
    with client(as_json) as service:
        begun = service.release_fetch(new)
        _tell(service, _follow(service, begun, quiet=as_json) if wait else begun, as_json)


def _headers(file: Path | None, as_json: bool) -> dict[str, SecretStr]:
    if file is None:
        return {}
    from pydantic import SecretStr

    text = sys.stdin.read() if str(file) == "-" else file.read_text()
    found = {}
    for number, line in enumerate(text.splitlines(), 1):
        name, colon, value = line.partition(":")
        if not line.strip():
            continue
        if not colon or not value.strip():
            hint = "a line each, such as `Cookie: pass=…` or `Authorization: Bearer …`"
            fail("input", f"line {number} of the sign-in is no header", hint, as_json, exit_code=USAGE)
        found[name.strip()] = SecretStr(value.strip())
    return found


def _follow(service: Client, begun: FetchOut, *, quiet: bool) -> FetchOut:
    """Wait for the end, with a bar on a terminal."""
    from rich.progress import BarColumn, DownloadColumn, Progress, TextColumn, TransferSpeedColumn

    found = begun
    columns = (TextColumn("{task.description}"), BarColumn(), DownloadColumn(), TransferSpeedColumn())
    with Progress(*columns, console=err, transient=True, disable=quiet or not err.is_terminal) as progress:
        task = progress.add_task(found.file_name, total=None)
        while found.state not in FINAL:
            time.sleep(POLL_SECONDS)
            found = service.release_fetch_show(begun.id)
            said = found.note or ("reading and hashing" if found.state == "reading" else found.file_name)
            progress.update(task, completed=found.done_bytes, total=found.total_bytes, description=said)
    return found


def _tell(service: Client, found: FetchOut, as_json: bool) -> None:
    if as_json:
        print(found.model_dump_json(indent=2))
    elif found.state == "done":
        print_release(service.release_show(found.release))
    elif found.fault is not None:
        fail(found.fault.code, found.fault.message, found.fault.hint)
    else:
        how = f"`highshelf release fetch-show {found.id}` says how far it is"
        out.print(f"fetch {found.id}: {found.state}, {_amount(found)}; {how}", markup=False)
    if found.state in ("failed", "cancelled"):
        raise typer.Exit(FAILED)


def fetches(
    limit: Limit = 50,
    offset: Offset = 0,
    sort: Sort = "",
    find: Find = "",
    unfinished: Annotated[bool, typer.Option(help="Only those under way.")] = False,
    as_json: Json = False,
) -> None:
    """List what was fetched and what is being fetched, the newest first."""
    with client(as_json) as service:
        found = service.release_fetches(part_of(limit, offset, sort, find), unfinished=unfinished)
        rows = [[f.id, f"{f.created_at:%Y-%m-%d %H:%M}", f.state, _amount(f), f.address] for f in found.items]
        columns = ["fetch", "started", "state", "came over", "address"]
        empty = "Nothing was fetched yet: `highshelf release fetch ADDRESS`."
        show(found, as_json, lambda: listed(found, offset, columns, rows, empty))


def _amount(one: FetchOut) -> str:
    whole = f" of {amount(one.total_bytes)}" if one.total_bytes and one.total_bytes != one.done_bytes else ""
    return amount(one.done_bytes) + whole


def fetch_show(fetch: str, as_json: Json = False) -> None:
    """Say how far a fetch is, or what it brought."""
    with client(as_json) as service:
        _tell(service, service.release_fetch_show(fetch), as_json)


def fetch_cancel(fetch: str, as_json: Json = False) -> None:
    """Stop a fetch; what came over is thrown away."""
    with client(as_json) as service:
        found = service.release_fetch_cancel(fetch)
        show(found, as_json, lambda: out.print(f"the fetch {found.id} stops", markup=False))
