"""`highshelf release …`: the shelf."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer

from highshelf.cli.common import (
    USAGE,
    Find,
    Json,
    Limit,
    Offset,
    Sort,
    client,
    err,
    facts,
    fail,
    listed,
    out,
    part_of,
    show,
)
from highshelf.client import calls
from highshelf.schemas.models import ReleaseOut

app = typer.Typer(no_args_is_help=True, help="Releases on the shelf: archives checked in once, used often.")


def _print(release: ReleaseOut) -> None:
    found = release.findings
    facts(
        [
            ("release", f"{release.name} {release.version}"),
            ("sha-256", release.sha256),
            (
                "archive",
                f"{release.file_name}, {release.size_bytes / 1e6:.1f} MB packed, {release.unpacked_bytes / 1e6:.1f} MB in {release.files} files",
            ),
            ("wrapper", release.wrapper or "none: the files lie at the top"),
            ("database", ", ".join(found.get("databases", [])) or "nothing connects to one"),
            ("installer", ", ".join(found.get("installers", [])[:4]) or "none found by name"),
            ("samples", ", ".join(found.get("samples", [])[:4])),
            ("dotfiles", ", ".join(found.get("dotfiles", [])[:6])),
        ]
    )


@app.command("check-in")
def check_in(
    archive: Annotated[Path, typer.Argument(help="zip, tar, tar.gz, tar.bz2 or tar.xz.")], as_json: Json = False
) -> None:
    """Check in a release's archive: hashed, read, kept. The same bytes twice are one release."""
    if not archive.is_file():
        fail("input", f"there is no file {archive}", "give the path of the release's archive", as_json, USAGE)
    size = archive.stat().st_size
    terminal = sys.stderr.isatty() and not as_json

    def sent(count: int) -> None:
        if terminal:
            err.print(f"\r{count / 1e6:.1f} of {size / 1e6:.1f} MB", end="\n" if count == size else "")

    with client(as_json) as service:
        release = service.send(calls.release_check_in(archive), sent)
        show(release, as_json, lambda: _print(release))


@app.command("list")
def listing(limit: Limit = 50, offset: Offset = 0, sort: Sort = "", find: Find = "", as_json: Json = False) -> None:
    """List what stands on the shelf, the newest first."""
    with client(as_json) as service:
        found = service.release_list(part_of(limit, offset, sort, find))
        rows = [
            [
                r.name,
                r.version,
                r.sha256[:12],
                f"{r.size_bytes / 1e6:.1f} MB",
                str(r.files),
                r.checked_in_at.strftime("%Y-%m-%d %H:%M"),
            ]
            for r in found.items
        ]
        show(
            found,
            as_json,
            lambda: listed(
                found,
                offset,
                ["name", "version", "sha-256", "packed", "files", "checked in"],
                rows,
                "No release fits."
                if find
                else "The shelf is empty: `highshelf release check-in FILE` puts the first release there.",
            ),
        )


@app.command("show")
def show_release(
    ref: Annotated[str, typer.Argument(help="Name, name-version or the start of the SHA-256.")], as_json: Json = False
) -> None:
    """Show what was read out of a release."""
    with client(as_json) as service:
        release = service.release_show(ref)
        show(release, as_json, lambda: _print(release))


@app.command("files")
def files(
    ref: Annotated[str, typer.Argument(help="Name, name-version or the start of the SHA-256.")],
    limit: Limit = 100,
    offset: Offset = 0,
    sort: Sort = "",
    find: Find = "",
    as_json: Json = False,
) -> None:
    """List a release's files as they will stand on the host."""
    with client(as_json) as service:
        found = service.release_files(ref, part_of(limit, offset, sort, find))
        rows = [[f.path, str(f.size_bytes), f.sha256[:16]] for f in found.items]
        show(found, as_json, lambda: listed(found, offset, ["path", "bytes", "sha-256"], rows, "No file fits."))


@app.command("remove")
def remove(
    ref: Annotated[str, typer.Argument(help="Name, name-version or the start of the SHA-256.")], as_json: Json = False
) -> None:
    """Take a release off the shelf; refused while an installation or a running job needs it."""
    with client(as_json) as service:
        release = service.release_show(ref)
        service.release_remove(release.sha256)
        show(release, as_json, lambda: out.print(f"{release.name} {release.version} is off the shelf", markup=False))
