"""`highshelf installation …`: what stands where, and how to get in."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Annotated

import typer

from highshelf.cli.common import (
    DONE,
    FAILED,
    USAGE,
    Find,
    Json,
    Limit,
    Offset,
    Sort,
    be_sure,
    client,
    facts,
    fail,
    listed,
    out,
    part_of,
    printable,
    show,
    table,
)
from highshelf.cli.given import settings_of

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
            [
                i.id,
                f"{i.application} {i.version}",
                i.account,
                f"{i.address} (replaced by {i.replaced_by})" if i.replaced_by else i.address,
                i.created_at.strftime("%Y-%m-%d %H:%M"),
            ]
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
                    ("replaced by", found.replaced_by and f"{found.replaced_by}: nothing of this one stands any more"),
                    ("site", found.address),
                    ("administration", found.login_address),
                    ("on the host", f"{found.target} on {found.account}"),
                    ("above it", found.facts.get("beside") and f"the rest of the release, in {found.facts['beside']}"),
                    ("administrator", found.admin_name or "none: this application has none of its own"),
                    ("database", f"{found.database} (user {found.database_user})" if found.database else "none"),
                    ("secrets", ", ".join(found.credentials) + f"  (highshelf installation reveal {found.id} NAME)"),
                ]
            )

        show(found, as_json, people)


@app.command("settings")
def settings(installation: str, as_json: Json = False) -> None:
    """Show the configuration files of an installation as they stand on the host. Secrets are left out."""
    with client(as_json) as service:
        found = service.installation_settings(installation)

        def people() -> None:
            for one in found.items:
                out.print(f"{one.path} ({one.format}{', mode ' + one.mode if one.mode else ''})", markup=False)
                rows = [[s.name, "(secret)" if s.secret else printable(s.value), str(s.line)] for s in one.settings]
                table(["setting", "value", "line"], rows, "It sets nothing that can be read.")
            if not found.items:
                out.print("No configuration file is known: the application keeps its settings elsewhere.", markup=False)

        show(found, as_json, people)


@app.command("change")
def change(
    installation: str,
    values: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="NAME=VALUE...",
            help="Settings and what they become; `installation settings` lists them. @FILE as the value reads it from a file, - from "
            "standard input; a secret is never given in clear.",
        ),
    ] = None,
    file: Annotated[str, typer.Option(help="The configuration file, where several have such a setting.")] = "",
    undo: Annotated[bool, typer.Option("--undo", help="Put back what the last change found.")] = False,
    as_json: Json = False,
) -> None:
    """Change settings on the host. Site and login are looked at before and after; when they break, everything is put back."""
    if undo == bool(values):
        fail(
            "input",
            "say what is to be changed, or --undo",
            "highshelf installation change ID NAME=VALUE",
            as_json,
            USAGE,
        )
    with client(as_json) as service:
        if undo:
            done = service.installation_change_undo(installation)
        else:
            done = service.installation_change(installation, settings_of(values or [], as_json), file)

        def people() -> None:
            what = "put back" if undo else "changed"
            named = ", ".join(done.names)
            out.print(f"{what}: {named} in {done.file}" if named else f"nothing changed in {done.file}", markup=False)
            for line in done.seen:
                out.print(f"  {line}", markup=False)

        show(done, as_json, people)


@app.command("forget")
def forget(
    installation: str,
    yes: Annotated[bool, typer.Option("--yes", help="Do not ask; a script has to say it.")] = False,
    as_json: Json = False,
) -> None:
    """Let an installation out of the books. Nothing on the host is touched; its secrets leave the strongbox for good."""
    with client(as_json) as service:
        found = service.installation_show(installation)
        be_sure(
            f"Forget {found.application} at {found.address}, and drop its passwords? The site stays as it is",
            yes,
            as_json,
        )
        done = service.installation_forget(found.id)

        def people() -> None:
            out.print(
                f"{found.application} at {found.address} is forgotten; {done.secrets} secrets have left the strongbox, "
                "the site stands as it was",
                markup=False,
            )

        show(done, as_json, people)


@app.command("inspect")
def inspect(
    installation: str,
    read: Annotated[
        bool, typer.Option("--read", help="Read every file back where nobody on the host makes hashes. Slow.")
    ] = False,
    shown: Annotated[int, typer.Option(min=0, help="How many of each list to tell.")] = 20,
    as_json: Json = False,
) -> None:
    """Compare what stands on the host with the release: changed, missing, extra files. Exit code 1 when something is not explained."""
    with client(as_json) as service:
        found = service.installation_inspect(installation, read=read, shown=shown)

        def people() -> None:
            unread = f", {found.unread} of them by size alone" if found.unread else ""
            facts([("compared by", found.how), ("as in the release", f"{found.same} files{unread}")])
            for what, count, some in (
                ("changed", found.changed_count, found.changed),
                ("missing", found.missing_count, found.missing),
                ("extra", found.extra_count, found.extra),
            ):
                out.print(f"\n[bold]{what}[/] {count}")
                for one in some:
                    mark = " " if one.why else "[magenta]![/]"
                    files = f" ({one.count} files)" if one.count > 1 else ""
                    out.print(f"  {mark} ", end="")
                    out.print(f"{one.path}{files}" + (f": {one.why}" if one.why else ""), markup=False)
                if count > len(some):
                    out.print(f"    and {count - len(some)} more (--shown)", markup=False)
            told = (
                f"{found.unexplained} differences are not explained" if found.unexplained else "nothing is unexplained"
            )
            out.print(f"\n{told}", markup=False)

        show(found, as_json, people)
    raise typer.Exit(FAILED if found.unexplained else DONE)


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
