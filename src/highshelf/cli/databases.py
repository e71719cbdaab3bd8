"""`highshelf database …`: databases of an account, with or without an application."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from highshelf.cli.common import (
    USAGE,
    Json,
    Yes,
    amount,
    be_sure,
    client,
    err,
    facts,
    fail,
    out,
    secret_from,
    show,
    table,
)
from highshelf.cli.jobs import followed, leave, print_plan, tell_job
from highshelf.cli.words import Words

if TYPE_CHECKING:
    from highshelf.client import Client
    from highshelf.schemas.databases import DatabaseOut, DatabasesOut, DumpOut
    from highshelf.schemas.models import JobOut

app = typer.Typer(
    cls=Words,
    no_args_is_help=True,
    help="Databases of an account: made, tried from the host, filled from a dump, copied, dropped.",
)
Account = Annotated[str, typer.Argument(help="The account.")]
Name = Annotated[str, typer.Argument(help="The database: its whole name, as `database list` shows it.")]
Kind = Annotated[str, typer.Option("--kind", help="mariadb or postgresql.")]
SERVERS = ("mariadb", "postgresql")


@app.command("list")
def listing(
    account: Account,
    ask: Annotated[bool, typer.Option("--ask/--no-ask", help="Whether the account's panel is asked too.")] = True,
    as_json: Json = False,
) -> None:
    """List an account's databases: those whose login is known, and those that its panel lists."""
    with client(as_json) as service:
        found = service.database_list(account, ask=ask)
        show(found, as_json, lambda: _print_list(account, found))


def _print_list(account: str, found: DatabasesOut) -> None:
    if found.items:
        rows = [[d.name, d.kind, d.user, _server(d), _whose(d), _tried(d)] for d in found.items]
        table(["database", "kind", "user", "server", "of", "login"], rows, "")
    else:
        out.print(f"No database is known on {account}: `highshelf database make {account}` makes one.", markup=False)
    if found.unasked:
        out.print(f"only those of the books: {found.unasked}", markup=False)


def _server(one: DatabaseOut) -> str:
    return f"{one.host}:{one.port}" if one.host else ""


def _whose(one: DatabaseOut) -> str:
    if one.installation:
        what = f"{one.application} ({one.installation})"
    elif one.number:
        what = "made here" if one.made_here else "filed here"
    else:
        what = "nobody here knows its login"
    return what + ("; the panel does not list it" if one.there is False else "")


def _tried(one: DatabaseOut) -> str:
    if not one.number:
        return ""
    if not one.proven or one.tried_at is None:
        return "not proven"
    return f"worked {one.tried_at:%Y-%m-%d %H:%M}"


@app.command("make")
def make(
    account: Account,
    name: Annotated[str, typer.Option("--name", help="Before the panel adds to it; made up when it is left out.")] = "",
    user: Annotated[str, typer.Option("--user", help="The user's name, likewise.")] = "",
    kind: Kind = "mariadb",
    as_json: Json = False,
) -> None:
    """Make a database, a user with a generated password, attach it, and prove it from the host."""
    server = _kind(kind, as_json)
    with client(as_json) as service:
        from highshelf.schemas.databases import DatabaseNew

        before = {d.number for d in service.database_list(account, ask=False).items}
        job = service.database_make(account, DatabaseNew.model_validate({"kind": server, "name": name, "user": user}))
        _ended(service, job, as_json)
        made = next(d for d in service.database_list(account, ask=False).items if d.number not in before)
        show(made, as_json, lambda: _print_made(account, made))


def _print_made(account: str, one: DatabaseOut) -> None:
    out.print()
    facts(
        [
            ("database", one.name),
            ("user", one.user),
            ("server", _server(one)),
            ("kind", one.kind),
            ("password", f"highshelf database reveal {account} {one.name}"),
        ]
    )


def _kind(kind: str, as_json: bool) -> str:
    if kind not in SERVERS:
        fail("input", f"{kind} is no kind of server", "mariadb or postgresql", as_json, USAGE)
    return kind


@app.command("add")
def add(
    account: Account,
    name: Name,
    user: Annotated[str, typer.Option("--user", help="The whole name of its user.")],
    password_file: Annotated[
        Path | None,
        typer.Option("--password-file", help="A file with the password; - reads it. Asked for when left out."),
    ] = None,
    host: Annotated[
        str, typer.Option("--host", help="The server as PHP there sees it; the account's when left out.")
    ] = "",
    port: Annotated[str, typer.Option("--port", help="The usual one when left out.")] = "",
    kind: Kind = "mariadb",
    as_json: Json = False,
) -> None:
    """File the login of a database that is there, after it was tried from the host. Such a one is never dropped from here."""
    server = _kind(kind, as_json)
    password = secret_from(password_file, f"Password of {user}")
    if not password:
        fail("input", "no password was given", "give it with --password-file FILE, or - to read it", as_json, USAGE)
    with client(as_json) as service:
        from pydantic import SecretStr

        from highshelf.schemas.databases import DatabaseKnown

        given = {"name": name, "user": user, "host": host, "port": port, "kind": server}
        job = service.database_add(account, DatabaseKnown.model_validate({**given, "password": SecretStr(password)}))
        tell_job(service, job.id, as_json)


@app.command("try")
def try_login(account: Account, name: Name, as_json: Json = False) -> None:
    """Log in from the host, make a table, write, read and drop it. What does not work is named, with what mends it."""
    with client(as_json) as service:
        tell_job(service, service.database_try(account, name).id, as_json)


@app.command("import")
def bring_in(
    account: Account,
    name: Name,
    file: Annotated[Path | None, typer.Argument(help="An SQL dump, plain or packed with gz, bz2, xz or zst.")] = None,
    dump: Annotated[str, typer.Option("--dump", help="One that lies with the service already: its number.")] = "",
    as_json: Json = False,
) -> None:
    """Fill an empty database from a dump. A failure leaves it empty; an import that was cut off goes on where it was."""
    if (file is None) == (not dump):
        fail(
            "input",
            "give the dump: its file, or --dump NUMBER",
            "`highshelf dump list` shows those here",
            as_json,
            USAGE,
        )
    if file is not None and not file.is_file():
        fail("input", f"there is no file {file}", "give the path of the dump", as_json, USAGE)
    with client(as_json) as service:
        brought = _bring(service, file, as_json) if file is not None else service.dump_show(dump)
        if not as_json:
            out.print(_about(brought), markup=False)
        # What was brought for this alone goes when it is done.
        began = service.database_import(account, name, brought.id, keep=file is None)
        job = followed(service, began.id, as_json)
        if job.state in ("failed", "cancelled") and not as_json:
            err.print(
                f"the dump lies here as {brought.id}; `highshelf dump remove {brought.id}` removes it", markup=False
            )
        leave(service, job, as_json)


def _bring(service: Client, file: Path, as_json: bool) -> DumpOut:
    from highshelf.client import calls

    size = file.stat().st_size
    terminal = err.is_terminal and not as_json

    def sent(count: int) -> None:
        if terminal:
            over = count == size
            err.print(
                f"\r{file.name}: {amount(count)} of {amount(size)}" + (", reading it" if over else ""), end="\n" * over
            )

    return service.send(calls.dump_bring(file), sent)


def _about(one: DumpOut) -> str:
    kind = f", for {one.kind}" if one.kind else ""
    unpacked = f", {amount(one.unpacked_bytes)} unpacked" if one.packed else ""
    return f"{one.name}: {amount(one.size_bytes)}{unpacked}{kind}"


@app.command("export")
def export(
    account: Account,
    name: Name,
    to: Annotated[
        Path | None,
        typer.Option("--to", help="The file to write, packed with gz; NAME-DATE.sql.gz here when left out."),
    ] = None,
    stay: Annotated[
        bool, typer.Option("--stay", help="Leave it with the service (`dump list`), and write no file.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Take a copy of a database as SQL, into a file that only you may read. It holds whatever the database holds."""
    target = to or Path(f"{name}-{date.today():%Y-%m-%d}.sql.gz")
    if target.exists() and not stay:
        fail("input", f"{target} is there already", "name another file with --to", as_json, USAGE)
    with client(as_json) as service:
        job = _ended(service, service.database_export(account, name), as_json)
        taken = next(d for d in service.dump_list(account=account).items if d.job == job.id)
        if not stay:
            service.dump_fetch(taken.id, target)
            service.dump_remove(taken.id)
        told = f"it lies with the service as {taken.id}" if stay else f"written to {target}"
        show(taken, as_json, lambda: out.print(f"\n{_about(taken)}: {told}", markup=False))


@app.command("drop")
def drop(
    account: Account,
    name: Name,
    plan_only: Annotated[bool, typer.Option("--plan", help="Only tell what would be done.")] = False,
    yes: Yes = False,
    as_json: Json = False,
) -> None:
    """Drop a database that High Shelf made, with its user and all that is in it. What was there before is never dropped."""
    with client(as_json) as service:
        plan = service.database_drop(account, name)
        if plan_only or not as_json:
            show(plan, as_json, lambda: print_plan(plan))
        if plan_only:
            return
        be_sure(f"Drop the database {name} of {account}, with everything in it?", yes, as_json)
        tell_job(service, service.job_start(plan.id).id, as_json)


@app.command("forget")
def forget(account: Account, name: Name, yes: Yes = False, as_json: Json = False) -> None:
    """Let a database out of the books. Nothing on the host is touched; its password leaves the strongbox for good."""
    with client(as_json) as service:
        be_sure(f"Forget the database {name} of {account}, and drop its password? It stays as it is", yes, as_json)
        done = service.database_forget(account, name)
        told = f"{name} is forgotten; {done.secrets} secret{'s' * (done.secrets != 1)} left the strongbox"
        show(done, as_json, lambda: out.print(told, markup=False))


@app.command("reveal")
def reveal(account: Account, name: Name, as_json: Json = False) -> None:
    """Show a database's password. The asking is recorded."""
    with client(as_json) as service:
        found = service.database_reveal(account, name)
        show(found, as_json, lambda: out.print(found.secrets["database"], markup=False))


def _ended(service: Client, job: JobOut, as_json: bool) -> JobOut:
    """A job that is done; leaves when it ended otherwise, or asks."""
    found = followed(service, job.id, as_json)
    if found.state != "done":
        leave(service, found, as_json)
    return found
