"""`highshelf operator …`, `highshelf session …`: who may sign in to the console, and which browsers did."""

from __future__ import annotations

from typing import Annotated

import typer

from highshelf.cli.common import (
    FAILED,
    Find,
    Json,
    Limit,
    Offset,
    Sort,
    client,
    facts,
    listed,
    out,
    part_of,
    show,
    table,
)
from highshelf.cli.words import Words

operators = typer.Typer(cls=Words, no_args_is_help=True, help="Operators: who may sign in to the console.")
records = typer.Typer(
    cls=Words, no_args_is_help=True, help="Records: who changed who may sign in, and where secrets go."
)
strongbox = typer.Typer(cls=Words, no_args_is_help=True, help="The strongbox: where secrets lie sealed.")
sessions = typer.Typer(cls=Words, no_args_is_help=True, help="Sessions: browsers that are signed in.")


@operators.command("list")
def listing(as_json: Json = False) -> None:
    """List the operators."""
    with client(as_json) as service:
        found = service.operator_list()
        rows = [
            [o.name, f"{o.created_at:%Y-%m-%d}", f"{o.signed_in_at:%Y-%m-%d %H:%M}" if o.signed_in_at else "never"]
            for o in found.items
        ]
        empty = "No operators yet: `highshelf operator invite NAME` makes a link for the first one."
        show(found, as_json, lambda: table(["name", "since", "signed in"], rows, empty))


@operators.command("invite")
def invite(
    name: Annotated[str, typer.Argument(help="Somebody new, or an operator who is to set a new password.")],
    as_json: Json = False,
) -> None:
    """Make a link that works once, for a day: whoever opens it sets the password."""
    with client(as_json) as service:
        made = service.operator_invite(name)
        pairs = [
            ("for", made.operator),
            ("link", made.link),
            ("until", f"{made.ends_at:%Y-%m-%d %H:%M} UTC, works once"),
        ]
        show(made, as_json, lambda: facts(pairs))


@operators.command("remove")
def remove(name: str, as_json: Json = False) -> None:
    """Forget an operator; the browsers are signed out at once."""
    with client(as_json) as service:
        service.operator_remove(name)
        if not as_json:
            out.print(f"operator {name} is forgotten", markup=False)


@sessions.command("list")
def session_listing(
    operator: Annotated[str, typer.Option(help="Only this operator's.")] = "", as_json: Json = False
) -> None:
    """List the browsers that are signed in, the latest use first."""
    with client(as_json) as service:
        found = service.session_list(operator)
        rows = [
            [s.id, s.operator, f"{s.created_at:%Y-%m-%d %H:%M}", f"{s.seen_at:%H:%M}", s.agent] for s in found.items
        ]
        show(
            found,
            as_json,
            lambda: table(["session", "operator", "since", "seen", "browser"], rows, "No browser is signed in."),
        )


@sessions.command("end")
def end(session: str, as_json: Json = False) -> None:
    """Sign a browser out."""
    with client(as_json) as service:
        service.session_end(session)
        if not as_json:
            out.print(f"session {session} is ended", markup=False)


@records.command("list")
def record_listing(
    about: Annotated[str, typer.Option(help="Only what is about this operator or account.")] = "",
    limit: Limit = 50,
    offset: Offset = 0,
    sort: Sort = "",
    find: Find = "",
    as_json: Json = False,
) -> None:
    """List what was done, the newest first."""
    with client(as_json) as service:
        found = service.record_list(about, part_of(limit, offset, sort, find))
        rows = [[f"{r.at:%Y-%m-%d %H:%M}", r.who, r.about, r.kind, r.text] for r in found.items]
        empty = "Nothing fits." if find or about else "Nothing was changed yet."
        show(found, as_json, lambda: listed(found, offset, ["when (UTC)", "who", "about", "kind", "what"], rows, empty))


@strongbox.command("verify")
def verify(as_json: Json = False) -> None:
    """Open every secret and show none: whether the key that is there is the right one for all of them."""
    with client(as_json) as service:
        found = service.strongbox_verify()

        def people() -> None:
            for ref in found.unopened:
                out.print(f"does not open: {ref}", markup=False)
            fine = found.secrets - len(found.unopened)
            out.print(f"{fine} of {found.secrets} secrets open", markup=False)

        show(found, as_json, people)
        if found.unopened:
            raise typer.Exit(FAILED)
