"""`highshelf account …`: hosting accounts."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from highshelf.cli import surveys
from highshelf.cli.common import (
    USAGE,
    Find,
    Json,
    Limit,
    Offset,
    Sort,
    client,
    facts,
    fail,
    listed,
    out,
    part_of,
    secret_from,
    show,
    table,
)
from highshelf.cli.words import Words

if TYPE_CHECKING:
    from highshelf.schemas.models import AccountOut, LetterOut
    from highshelf.schemas.surveys import ImportOut

app = typer.Typer(cls=Words, no_args_is_help=True, help="Hosting accounts: how to reach them, checked and kept.")
surveys.add_to(app)
Transfer = Annotated[
    str,
    typer.Option(
        help="sftp://login@host:22, ftps://login@host:21, ftps-implicit://login@host:990 or ftp://login@host:21."
    ),
]
Fingerprint = Annotated[
    str,
    typer.Option(
        help="The transfer server's identity, as the host's letter has it; compared before the password goes."
    ),
]
PasswordFile = Annotated[
    Path | None, typer.Option(help="File with the transfer password (- for standard input); asked for otherwise.")
]


def _print(account: AccountOut) -> None:
    facts(
        [
            ("account", f"{account.name} ({account.title})"),
            ("transfer", account.transfer),
            ("document root", account.root or "not known yet: `highshelf account check` looks for it"),
            ("address", account.address + (f"  reached at {account.reach}" if account.reach else "")),
            ("panel", account.panel + (f"  (login {account.panel_login})" if account.panel_login else "")),
            ("identity", account.fingerprint or ("not known; wants a yes first" if account.confirm_server else "")),
            ("certificate", f"pinned where it is reached: {account.certificate}" if account.certificate else ""),
            ("database host", account.database_host),
            ("SSH agent", "opens the login" if account.agent else ""),
            ("helper", "allowed" if account.helper else "not allowed"),
            (
                "checked",
                account.checked_at.strftime("%Y-%m-%d %H:%M UTC")
                if account.checked_at
                else f"never: `highshelf account check {account.name}` does it",
            ),
            *((f"root for {view}", found["path"]) for view, found in account.places.items()),
            ("limits", ", ".join(f"{n} {v}" for n, v in account.limits.items() if n != "told")),
        ]
    )


@app.command("add")
def add(
    name: Annotated[str, typer.Argument(help="A short name of your own.")],
    transfer: Transfer,
    address: Annotated[str, typer.Option(help="The site's address, such as https://ferry.saltmarsh.example/.")],
    root: Annotated[str, typer.Option(help="The document root as the login sees it; looked for when left out.")] = "",
    title: Annotated[str, typer.Option(help="Whose account it is; becomes the title of sites.")] = "",
    password_file: PasswordFile = None,
    key_file: Annotated[Path | None, typer.Option(help="Private key for SFTP instead of a password.")] = None,
    passphrase_file: Annotated[Path | None, typer.Option(help="File with the passphrase of that key.")] = None,
    agent: Annotated[bool, typer.Option("--agent", help="The service's own SSH agent opens the login.")] = False,
    reach: Annotated[str, typer.Option(help="host:port to connect to while the site's name leads elsewhere.")] = "",
    panel: Annotated[str, typer.Option(help="The control panel's address.")] = "",
    panel_login: Annotated[str, typer.Option(help="The login there; the transfer login when left out.")] = "",
    panel_password_file: Annotated[
        Path | None, typer.Option(help="File with the panel's password, when it is another one.")
    ] = None,
    panel_primer: Annotated[
        str, typer.Option(help="The primer that describes the panel; `read`: its pages are read.")
    ] = "",
    database_host: Annotated[
        str, typer.Option(help="How PHP there calls the database server, with :port if need be.")
    ] = "localhost",
    email: Annotated[str, typer.Option(help="Where applications write to their administrator.")] = "",
    helper: Annotated[
        bool, typer.Option("--helper/--no-helper", help="Whether a small PHP file may help on hosts without a shell.")
    ] = True,
    fingerprint: Fingerprint = "",
    confirm_server: Annotated[
        bool, typer.Option("--confirm-server", help="Show a server that is not known, and wait for a yes.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Keep a hosting account. Nothing is contacted until it is checked."""
    from pydantic import SecretStr, ValidationError

    from highshelf.schemas.models import AccountNew

    key = key_file.read_text() if key_file is not None else ""
    password = secret_from(password_file, f"Password of {transfer}", ask=not (key or agent))
    passphrase = secret_from(passphrase_file, "Passphrase of the key", ask="ENCRYPTED" in key)
    try:
        new = AccountNew(
            name=name,
            title=title,
            transfer=transfer,
            password=SecretStr(password),
            key=SecretStr(key),
            passphrase=SecretStr(passphrase),
            agent=agent,
            root=root,
            address=address,
            reach=reach,
            panel=panel,
            panel_login=panel_login,
            panel_password=SecretStr(secret_from(panel_password_file, "Panel password", ask=False)),
            panel_primer=panel_primer,
            database_host=database_host,
            email=email,
            helper=helper,
            fingerprint=fingerprint,
            confirm_server=confirm_server,
        )
    except ValidationError as fault:
        fail("input", "; ".join(f"{e['loc'][0]}: {e['msg']}" for e in fault.errors()), as_json=as_json, exit_code=USAGE)
    with client(as_json) as service:
        account = service.account_add(new)
        show(account, as_json, lambda: _print(account))


@app.command("letter")
def letter(
    file: Annotated[
        Path, typer.Argument(help="The letter: text, HTML, a mail as it was kept, or a PDF; - reads standard input.")
    ] = Path("-"),
    keep: Annotated[
        str, typer.Option(help="Keep what was found as an account of this name. Look at it first, without this.")
    ] = "",
    which: Annotated[int, typer.Option(min=1, help="Of a letter that opens several accounts: which of them.")] = 1,
    confirm: Annotated[
        list[str] | None,
        typer.Option(
            help="With --keep: a value that is not sure and is right all the same, by its name. May be repeated."
        ),
    ] = None,
    reveal: Annotated[
        bool, typer.Option("--reveal", help="Show passwords beside the words they were found in.")
    ] = False,
    email: Annotated[str, typer.Option(help="Where applications write to their administrator.")] = "",
    as_json: Json = False,
) -> None:
    """Read the letter a host sends when an account is opened. Nothing is kept unless --keep says so."""
    try:
        data = sys.stdin.buffer.read() if str(file) == "-" else file.read_bytes()
    except OSError as fault:
        fail("input", f"{file} cannot be read: {fault.strerror}", "give the path of a file", as_json, USAGE)
    with client(as_json) as service:
        read = service.account_letter(data)
        all_of_them = [read, *read.more]
        if which > len(all_of_them):
            fail("input", f"the letter opens {len(all_of_them)} account(s)", "give a lower --which", as_json, USAGE)
        if not keep:
            show(read, as_json, lambda: _print_letters(all_of_them, file, reveal=reveal))
            return
        found = all_of_them[which - 1]
        if found.missing:
            told = ", ".join(found.missing)
            fail("input", f"the letter does not say {told}", "add it with `highshelf account add`", as_json, USAGE)
        if unsure := [n for n in found.unsure if n not in (confirm or [])]:
            named = " ".join(f"--confirm {n}" for n in unsure)
            fail("input", f"not sure: {', '.join(unsure)}", f"look at it, then say {named}", as_json, USAGE)
        given = {n: v for n, v in found.account.model_dump().items() if n != "name"}
        from highshelf.schemas.models import AccountNew

        account = service.account_add(AccountNew(**{**given, "name": keep, "email": email}))
        show(account, as_json, lambda: _print(account))


def _print_letters(found: list[LetterOut], file: Path, *, reveal: bool) -> None:
    for number, one in enumerate(found, 1):
        if len(found) > 1:
            out.print(f"\naccount {number} of {len(found)}", style="bold")
        _print_letter(one, file, f" --which {number}" if len(found) > 1 else "", reveal=reveal)


def _print_letter(found: LetterOut, file: Path, which: str, *, reveal: bool) -> None:
    rows = [
        [
            s.name,
            "•" * 8 if s.secret and not reveal else s.text,
            f"{s.sure:.0%}" + (", please confirm" if s.name in found.unsure else ""),
            str(s.line),
            s.where,
        ]
        for s in found.found
    ]
    table(["value", "found", "how sure", "line", "where it stands"], rows, "Nothing was found.")
    if found.account.fingerprint:
        out.print(
            f"  identity of the server, compared before the password goes: {found.account.fingerprint}", markup=False
        )
    for doubt in found.doubts:
        out.print("  [magenta]note[/]  ", end="")
        out.print(doubt, markup=False)
    if found.missing:
        out.print(
            f"\nThe letter does not say {', '.join(found.missing)}: `highshelf account add` takes it.", markup=False
        )
    else:
        name = found.account.name or "NAME"
        sure = "".join(f" --confirm {n}" for n in found.unsure)
        out.print(
            f"\nIs that right? Then `highshelf account letter {file}{which} --keep {name}{sure}` keeps it.",
            markup=False,
        )


@app.command("change")
def change(
    name: str,
    transfer: Annotated[str | None, typer.Option()] = None,
    root: Annotated[str | None, typer.Option()] = None,
    address: Annotated[str | None, typer.Option()] = None,
    title: Annotated[str | None, typer.Option()] = None,
    password_file: PasswordFile = None,
    key_file: Annotated[Path | None, typer.Option()] = None,
    passphrase_file: Annotated[Path | None, typer.Option()] = None,
    agent: Annotated[bool | None, typer.Option("--agent/--no-agent")] = None,
    reach: Annotated[str | None, typer.Option()] = None,
    panel: Annotated[str | None, typer.Option()] = None,
    panel_login: Annotated[str | None, typer.Option()] = None,
    panel_password_file: Annotated[Path | None, typer.Option()] = None,
    panel_primer: Annotated[
        str | None, typer.Option(help="The primer that describes the panel; `read`: its pages are read.")
    ] = None,
    database_host: Annotated[str | None, typer.Option()] = None,
    email: Annotated[str | None, typer.Option()] = None,
    helper: Annotated[bool | None, typer.Option("--helper/--no-helper")] = None,
    fingerprint: Annotated[str | None, typer.Option()] = None,
    confirm_server: Annotated[bool | None, typer.Option("--confirm-server/--trust-first")] = None,
    pace_kb: Annotated[
        int | None, typer.Option(min=0, help="The most that may go up to this host in a second, kB; 0 is no limit.")
    ] = None,
    as_json: Json = False,
) -> None:
    """Change what is given; the rest stays. The options are those of `add`.

    Another server or panel is sent no password that was given for the one before: give it in the same change.
    """
    from pydantic import SecretStr

    from highshelf.schemas.models import AccountChange

    given = {
        "transfer": transfer,
        "root": root,
        "address": address,
        "title": title,
        "reach": reach,
        "panel": panel,
        "panel_login": panel_login,
        "panel_primer": panel_primer,
        "email": email,
        "helper": helper,
        "pace_kb": pace_kb,
        "database_host": database_host,
        "agent": agent,
        "fingerprint": fingerprint,
        "confirm_server": confirm_server,
        "panel_password": SecretStr(secret_from(panel_password_file, "", ask=False)) if panel_password_file else None,
        "password": SecretStr(secret_from(password_file, "", ask=False)) if password_file else None,
        "key": SecretStr(key_file.read_text()) if key_file else None,
        "passphrase": SecretStr(secret_from(passphrase_file, "", ask=False)) if passphrase_file else None,
    }
    new = AccountChange.model_validate({k: v for k, v in given.items() if v is not None})
    with client(as_json) as service:
        account = service.account_change(name, new)
        show(account, as_json, lambda: _print(account))


@app.command("list")
def listing(limit: Limit = 50, offset: Offset = 0, sort: Sort = "", find: Find = "", as_json: Json = False) -> None:
    """List the accounts."""
    with client(as_json) as service:
        found = service.account_list(part_of(limit, offset, sort, find))
        rows = [
            [
                a.name,
                a.title,
                a.transfer,
                a.address,
                a.checked_at.strftime("%Y-%m-%d %H:%M") if a.checked_at else "never",
            ]
            for a in found.items
        ]
        show(
            found,
            as_json,
            lambda: listed(
                found,
                offset,
                ["name", "title", "transfer", "address", "checked"],
                rows,
                "No account fits." if find else "No accounts yet: `highshelf account add` keeps the first one.",
            ),
        )


@app.command("show")
def show_account(name: str, as_json: Json = False) -> None:
    """Show what is known of an account."""
    with client(as_json) as service:
        account = service.account_show(name)
        show(account, as_json, lambda: _print(account))


@app.command("remove")
def remove(name: str, as_json: Json = False) -> None:
    """Forget an account and its secrets; nothing on the host is touched."""
    with client(as_json) as service:
        service.account_remove(name)
        if not as_json:
            out.print(f"account {name} is forgotten", markup=False)


@app.command("import")
def take(
    file: Annotated[Path, typer.Argument(help="The CSV file; - reads standard input.")],
    keep: Annotated[bool, typer.Option("--keep", help="Keep the accounts. Look at what is found first.")] = False,
    as_json: Json = False,
) -> None:
    """Take many accounts from a CSV file. All faults are told at once, and nothing is kept while there is one.

    The heading line names the columns: name, transfer and address are needed, with password or key; the others are
    the options of `add` (title, root, reach, panel, panel_login, database_host, email, helper, …).
    """
    try:
        text = sys.stdin.read() if str(file) == "-" else file.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as fault:
        fail("input", f"{file} cannot be read: {fault}", "give the path of a CSV file in UTF-8", as_json, USAGE)
    with client(as_json) as service:
        found = service.account_import(text, keep=keep)
        show(found, as_json, lambda: _print_import(found, file))
        if found.faults:
            raise typer.Exit(USAGE)


def _print_import(found: ImportOut, file: Path) -> None:
    if found.faults:
        rows = [[str(f.line), f.column, f.message] for f in found.faults]
        table(["line", "column", "fault"], rows, "")
        out.print(f"\n{len(found.faults)} faults: nothing is kept. Mend them and read the file again.", markup=False)
        return
    table(
        ["line", "name", "title", "transfer", "address"],
        [[str(r.line), r.name, r.title, r.transfer, r.address] for r in found.rows],
        "",
    )
    count = f"{len(found.rows)} account{'s' if len(found.rows) != 1 else ''}"
    if found.kept:
        out.print(f"\n{count} kept. `highshelf account check NAME` looks whether each works.", markup=False)
    else:
        out.print(f"\n{count}, no faults. `highshelf account import {file} --keep` keeps them.", markup=False)
