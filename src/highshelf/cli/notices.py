"""`highshelf notice …`: who is told when a job asks, fails or is done, and when something that stood changes for the worse."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

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
    Yes,
    be_sure,
    client,
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
    from highshelf.schemas.notices import PlaceMade, PlaceOut

app = typer.Typer(
    cls=Words,
    no_args_is_help=True,
    help="Notices to people who do not look: by a call of a web address, or by mail.",
)
WHATS = ("question", "failed", "done", "wrong")
What = Annotated[
    list[str] | None,
    typer.Option("--what", help="question, failed, done or wrong; repeat it. All but done when it is left out."),
]
Only = Annotated[str, typer.Option("--account", help="Only of this account.")]
Place = Annotated[str, typer.Argument(help="The place: its number, as `notice list` shows it.")]


@app.command("list")
def listing(as_json: Json = False) -> None:
    """List where notices go, and how the last one went."""
    with client(as_json) as service:
        found = service.notice_list()
        rows = [[p.id, p.kind, p.target, ", ".join(p.what), p.account or "all", _last(p)] for p in found.items]
        columns = ["place", "kind", "to", "what", "accounts", "last"]
        empty = (
            "Nobody is told anything: `highshelf notice webhook ADDRESS` or `highshelf notice mail TO` changes that."
        )
        show(found, as_json, lambda: table(columns, rows, empty))


def _last(one: PlaceOut) -> str:
    if one.silent:
        return "silent"
    if not one.last_state:
        return "none yet"
    at = f" {one.last_at:%Y-%m-%d %H:%M}" if one.last_at else ""
    return one.last_state + at + (f": {one.last_error}" if one.last_error else "")


@app.command("webhook")
def webhook(
    address: Annotated[
        str, typer.Argument(help="What is called with JSON, such as https://chat.saltmarsh.example/in.")
    ],
    what: What = None,
    account: Only = "",
    key_file: Annotated[
        Path | None,
        typer.Option(help="A file with the key that calls are sealed with; - reads it. Made up when left out."),
    ] = None,
    as_json: Json = False,
) -> None:
    """Have a web address called. The key that was made up is shown this once: the receiver checks with it that calls are ours."""
    fields: dict[str, Any] = {"address": address, "account": account, **_what(what, as_json)}
    if key_file is not None:
        fields["key"] = secret_from(key_file, "Key", ask=False)
    with client(as_json) as service:
        from highshelf.schemas.notices import WebhookNew

        made = service.notice_webhook(WebhookNew.model_validate(fields))
        show(made, as_json, lambda: _print_made(made))


def _print_made(made: PlaceMade) -> None:
    out.print(f"{made.target} is called from now on ({', '.join(made.what)})", markup=False)
    if made.key:
        out.print(f"the key, told this once: {made.key}", markup=False)
    out.print(f"  → `highshelf notice try {made.id}` calls it now", markup=False)


@app.command("mail")
def mail(
    to: Annotated[str, typer.Argument(help="The mailbox that is written to.")],
    server: Annotated[str, typer.Option("--server", help="The mail server, as HOST or HOST:PORT.")],
    sender: Annotated[str, typer.Option("--sender", help="Whom letters are from.")],
    login: Annotated[str, typer.Option("--login", help="The login at the mail server, where it wants one.")] = "",
    password_file: Annotated[
        Path | None, typer.Option(help="A file with its password; - reads it. Asked for when a login is given.")
    ] = None,
    security: Annotated[
        str, typer.Option("--security", help="tls (port 465), starttls (587), or none in your own network (25).")
    ] = "tls",
    what: What = None,
    account: Only = "",
    as_json: Json = False,
) -> None:
    """Have letters sent to a mailbox, by a mail server of yours."""
    ports = {"tls": 465, "starttls": 587, "none": 25}
    if security not in ports:
        fail("input", f"{security} is no kind of encryption", ", ".join(ports), as_json, USAGE)
    host, _, port = server.partition(":") if not server.startswith("[") else (server, "", "")
    if port and not port.isdigit():
        fail("input", f"{port} is no port", "give the server as HOST:PORT", as_json, USAGE)
    fields: dict[str, Any] = {"to": to, "sender": sender, "host": host, "port": int(port or ports[security])}
    fields |= {"security": security, "login": login, "account": account, **_what(what, as_json)}
    if login or password_file is not None:
        fields["password"] = secret_from(password_file, f"Password of {login}")
    with client(as_json) as service:
        from highshelf.schemas.notices import MailNew

        made = service.notice_mail(MailNew.model_validate(fields))
        told = f"{made.target} is written to from now on ({', '.join(made.what)})\n  → `highshelf notice try {made.id}` writes now"
        show(made, as_json, lambda: out.print(told, markup=False))


def _what(what: list[str] | None, as_json: bool) -> dict[str, list[str]]:
    for one in what or []:
        if one not in WHATS:
            fail("input", f"there are no notices called {one}", ", ".join(WHATS), as_json, USAGE)
    return {"what": what} if what else {}


@app.command("change")
def change(
    place: Place,
    what: What = None,
    account: Annotated[str | None, typer.Option("--account", help="Only of this account; empty is all.")] = None,
    silent: Annotated[
        bool | None, typer.Option("--silent/--loud", help="Whether nothing is sent there for now.")
    ] = None,
    as_json: Json = False,
) -> None:
    """Change which notices go to a place, or silence it."""
    fields: dict[str, Any] = {**_what(what, as_json), "account": account, "silent": silent}
    if all(value is None for value in fields.values()):
        fail("input", "nothing was said to change", "--what, --account, --silent or --loud", as_json, USAGE)
    with client(as_json) as service:
        from highshelf.schemas.notices import PlaceChange

        found = service.notice_change(place, PlaceChange.model_validate(fields))
        state = "silent" if found.silent else ", ".join(found.what)
        show(
            found,
            as_json,
            lambda: out.print(f"{found.target}: {state}, {found.account or 'all accounts'}", markup=False),
        )


@app.command("try")
def attempt(place: Place, as_json: Json = False) -> None:
    """Send a trial there now. Exit code 1 when it does not arrive."""
    with client(as_json) as service:
        found = service.notice_try(place)
        told = "it was taken" if found.arrived else f"it did not arrive: {found.error}"
        show(found, as_json, lambda: out.print(told, markup=False))
    raise typer.Exit(DONE if found.arrived else FAILED)


@app.command("remove")
def remove(place: Place, yes: Yes = False, as_json: Json = False) -> None:
    """Send nothing there any more. What is on its way there goes too."""
    with client(as_json) as service:
        be_sure(f"Send nothing to {place} any more, and drop what is on its way there?", yes, as_json)
        service.notice_remove(place)
        if as_json:
            print(json.dumps({"removed": place}))
        else:
            out.print(f"nothing goes to {place} any more", markup=False)


@app.command("sent")
def sent(
    limit: Limit = 50,
    offset: Offset = 0,
    sort: Sort = "",
    find: Find = "",
    place: Annotated[str, typer.Option("--place", help="Only those of this place.")] = "",
    as_json: Json = False,
) -> None:
    """List notices that were sent, are on their way, or were given up."""
    with client(as_json) as service:
        found = service.notice_sent(part_of(limit, offset, sort, find), place)
        rows = [
            [n.id, n.what, n.title, n.state, str(n.tries), n.error, n.created_at.strftime("%Y-%m-%d %H:%M")]
            for n in found.items
        ]
        columns = ["notice", "what", "title", "state", "tries", "error", "at"]
        show(found, as_json, lambda: listed(found, offset, columns, rows, "Nobody was told anything yet."))
