"""`highshelf installation …`: what stands where, and how to get in."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Annotated

import typer

from highshelf.cli.common import Find, Json, Limit, Offset, Sort, client, facts, listed, out, part_of, show

app = typer.Typer(no_args_is_help=True, help="Installations: what stands where, its secrets, its handover sheet.")


@app.command("list")
def listing(
    account: Annotated[str, typer.Option(help="Only this account's.")] = "",
    limit: Limit = 50,
    offset: Offset = 0,
    sort: Sort = "",
    find: Find = "",
    as_json: Json = False,
) -> None:
    """List installations, the newest first."""
    with client(as_json) as service:
        found = service.installation_list(account, part_of(limit, offset, sort, find))
        rows = [
            [i.id, f"{i.application} {i.version}", i.account, i.address, i.created_at.strftime("%Y-%m-%d %H:%M")]
            for i in found.items
        ]
        show(
            found,
            as_json,
            lambda: listed(
                found,
                offset,
                ["installation", "application", "account", "address", "since"],
                rows,
                "No installation fits." if find or account else "Nothing is installed yet.",
            ),
        )


@app.command("show")
def show_installation(installation: str, as_json: Json = False) -> None:
    """Show an installation, without secrets."""
    with client(as_json) as service:
        found = service.installation_show(installation)

        def people() -> None:
            facts(
                [
                    ("installation", found.id),
                    ("application", f"{found.application} {found.version}"),
                    ("site", found.address),
                    ("administration", found.login_address),
                    ("on the host", f"{found.target} on {found.account}"),
                    ("administrator", found.admin_name),
                    ("database", f"{found.database} (user {found.database_user})" if found.database else "none"),
                    ("secrets", ", ".join(found.credentials) + f"  (highshelf installation reveal {found.id} NAME)"),
                ]
            )

        show(found, as_json, people)


@app.command("reveal")
def reveal(
    installation: str,
    credential: Annotated[str, typer.Argument(help="One of the installation's secrets, or all.")] = "all",
    as_json: Json = False,
) -> None:
    """Show secrets. That you asked is recorded."""
    with client(as_json) as service:
        found = service.installation_reveal(installation, credential)
        show(found, as_json, lambda: facts(list(found.secrets.items())))


@app.command("reveals")
def reveals(
    installation: str, limit: Limit = 50, offset: Offset = 0, sort: Sort = "", find: Find = "", as_json: Json = False
) -> None:
    """List who saw which of its secrets, and when."""
    with client(as_json) as service:
        found = service.installation_reveals(installation, part_of(limit, offset, sort, find))
        rows = [[r.at.strftime("%Y-%m-%d %H:%M:%S"), r.who, r.what] for r in found.items]
        show(
            found,
            as_json,
            lambda: listed(
                found, offset, ["when (UTC)", "who", "secret"], rows, "Nobody asked to see its secrets yet."
            ),
        )


@app.command("sheet")
def sheet(
    installation: str,
    to: Annotated[
        Path | None, typer.Option(help="The file to write; handover-INSTALLATION.html when left out.")
    ] = None,
    reveal_secrets: Annotated[
        bool,
        typer.Option(
            "--reveal", help="With the passwords in clear; that is recorded, and the file is readable by you alone."
        ),
    ] = False,
    as_json: Json = False,
) -> None:
    """Write the handover sheet as an HTML file that prints on A4."""
    path = to or Path(f"handover-{installation}.html")
    with client(as_json) as service:
        text = service.installation_sheet(installation, reveal=reveal_secrets)
    path.unlink(missing_ok=True)
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600 if reveal_secrets else 0o644)
    with os.fdopen(handle, "w", encoding="utf-8") as file:
        file.write(text)
    if as_json:
        print(f'{{"sheet": "{path}", "revealed": {str(reveal_secrets).lower()}}}')
    else:
        out.print(
            f"sheet written to {path}" + (" with passwords: keep it safe" if reveal_secrets else ""), markup=False
        )
