"""`highshelf account check`, `account survey`: what is known of an account, line by line."""

from __future__ import annotations

import time
from itertools import groupby
from typing import TYPE_CHECKING, Annotated

import typer

from highshelf.cli.common import FAILED, USAGE, Json, client, err, fail, listed, out, show, table

if TYPE_CHECKING:
    from rich.table import Table

    from highshelf.client import Client
    from highshelf.schemas.surveys import Located, SurveyLine, SurveyOut

POLL_SECONDS = 0.3
MOST_AT_ONCE = 500
MARKS = {"fine": " ", "heed": "[magenta]![/]", "bad": "[bold red]x[/]", "unknown": "[dim]?[/]"}


def add_to(app: typer.Typer) -> None:
    app.command("check")(check)
    app.command("survey")(survey)
    app.command("locate")(locate)
    app.command("make-root")(make_root)
    app.command("helper-text")(helper_text)


def check(
    names: Annotated[list[str] | None, typer.Argument(metavar="NAME...", help="One account, or several.")] = None,
    all: Annotated[bool, typer.Option("--all", help="Every account that is kept.")] = False,
    accept_identity: Annotated[bool, typer.Option(help="Pin the server's identity anew. Ask the host first.")] = False,
    as_json: Json = False,
) -> None:
    """Find out everything about accounts: logins, roots, limits, neighbours. Nothing is left behind. Of several, a line each is told."""
    if all == bool(names):
        fail("input", "say which accounts, or --all", "`highshelf account list` shows them", as_json, USAGE)
    if all and accept_identity:
        fail("input", "an identity is accepted for one account at a time", "name it", as_json, USAGE)
    with client(as_json) as service:
        wanted = _every(service) if all else list(dict.fromkeys(names or []))
        begun = [service.account_check(name, accept_identity=accept_identity, wait_seconds=0) for name in wanted]
        found = [_follow(service, one, quiet=as_json or len(begun) > 1) for one in begun]
        if len(found) == 1 and not all:
            _tell(found[0], as_json)
            return
        _tell_each(found, as_json)


def _every(service: Client) -> list[str]:
    """The names of all accounts."""
    from highshelf.client import Part

    names: list[str] = []
    while True:
        page = service.account_list(Part(limit=MOST_AT_ONCE, offset=len(names)))
        names += [account.name for account in page.items]
        if not page.items or len(names) >= page.total:
            return names


def _tell_each(found: list[SurveyOut], as_json: bool) -> None:
    from highshelf.schemas.models import Listing
    from highshelf.schemas.surveys import SurveyOut

    rows = [[one.account, one.state, _count(one), one.fault.message if one.fault else ""] for one in found]
    every = Listing[SurveyOut](items=found, total=len(found))
    show(every, as_json, lambda: table(["account", "state", "lines", "fault"], rows, "There are no accounts."))
    if any(one.state == "failed" for one in found):
        raise typer.Exit(FAILED)


def survey(
    name: str,
    id: Annotated[str, typer.Option(help="An older survey; --all lists them.")] = "",
    all: Annotated[bool, typer.Option("--all", help="List the surveys that are kept.")] = False,
    as_json: Json = False,
) -> None:
    """Show what the last check found, without contacting the host."""
    with client(as_json) as service:
        if all:
            found = service.account_surveys(name)
            rows = [
                [s.id, f"{s.started_at:%Y-%m-%d %H:%M}", s.state, _count(s), s.fault.message if s.fault else ""]
                for s in found.items
            ]
            columns = ["survey", "started", "state", "lines", "fault"]
            show(found, as_json, lambda: listed(found, 0, columns, rows, f"{name} was never checked."))
            return
        _tell(service.account_survey(name, id), as_json, exits=False)


def _count(found: SurveyOut) -> str:
    bad, heed = (sum(line.state == state for line in found.lines) for state in ("bad", "heed"))
    parts = [f"{len(found.lines)} lines", f"{bad} stop jobs" if bad else "", f"{heed} to heed" if heed else ""]
    return ", ".join(p for p in parts if p)


def _follow(service: Client, begun: SurveyOut, *, quiet: bool) -> SurveyOut:
    """Wait for the end, saying on a terminal what is being looked at."""
    found = begun
    if quiet or not err.is_terminal:
        while found.finished_at is None:
            time.sleep(POLL_SECONDS)
            found = service.account_survey(begun.account, begun.id)
        return found
    with err.status("waiting for its turn") as status:
        while found.finished_at is None:
            time.sleep(POLL_SECONDS)
            found = service.account_survey(begun.account, begun.id)
            if found.lines:
                status.update(f"looking: {found.lines[-1].group.lower()} ({len(found.lines)} lines)")
    return found


def _tell(found: SurveyOut, as_json: bool, *, exits: bool = True) -> None:
    show(found, as_json, lambda: print_survey(found))
    if exits and found.state == "failed":
        raise typer.Exit(FAILED)


def print_survey(found: SurveyOut) -> None:
    when = found.finished_at or found.started_at
    out.print(f"[bold]{found.account}[/], {found.state}, {when:%Y-%m-%d %H:%M:%S} UTC")
    for group, lines in groupby(found.lines, key=lambda line: line.group):
        out.print(f"\n[bold]{group}[/]")
        out.print(_grid(list(lines)), soft_wrap=False)
    if found.lines and found.finished_at is not None:
        out.print(f"\n{_count(found)}  [dim](! wants attention, x stops jobs, ? could not be found out)[/]")
    if found.left:
        out.print("\n[bold red]Still on the host[/], to be taken away when it can be reached:")
        for path in found.left:
            out.print(f"  {path}", markup=False)
    if found.fault is not None:
        out.print(f"\n[bold red]{found.fault.code}[/]: ", end="")
        out.print(found.fault.message, markup=False)
        if found.fault.hint:
            out.print(f"  → {found.fault.hint}", markup=False)


def _grid(lines: list[SurveyLine]) -> Table:
    """All groups with the same columns, so that the table reads as one."""
    from rich.table import Table

    grid = Table(box=None, show_header=False, pad_edge=False, padding=(0, 2, 0, 0))
    room = max(60, out.width - 1 - 22 - 8)
    how = min(70, room * 2 // 5)
    for width in (1, 22, room - how, how):
        grid.add_column(width=width, overflow="fold")
    for line in lines:
        text = _plain(line.text) if line.state in ("fine", "unknown") else f"[bold]{_plain(line.text)}[/]"
        grid.add_row(MARKS[line.state], line.title, text, f"[dim]{_plain(line.how)}[/]")
    return grid


def _plain(text: str) -> str:
    return text.replace("[", "\\[")


def locate(
    name: str,
    what: Annotated[str, typer.Argument(help="A path as any side writes it, or an address.")],
    as_json: Json = False,
) -> None:
    """Where a path or address is in every view; when it is not there, which part is not and what answers instead."""
    with client(as_json) as service:
        found = service.account_locate(name, what)
        show(found, as_json, lambda: _print_located(found))
        if not found.there:
            raise typer.Exit(FAILED)


def _print_located(found: Located) -> None:
    from rich.table import Table

    grid = Table(box=None, show_header=False, pad_edge=False, padding=(0, 2, 0, 0))
    for view in found.views:
        grid.add_row(f"[bold]{view.view}[/]", _plain(view.path), f"[dim]{_plain(view.how)}[/]")
    out.print(grid, soft_wrap=False)
    for line in found.told:
        out.print(f"  {line}", markup=False)


def make_root(
    name: str,
    root: Annotated[str, typer.Option(help="The folder; the account's own root when left out.")] = "",
    as_json: Json = False,
) -> None:
    """Make a document root that does not exist yet, and see whether the address shows it."""
    with client(as_json) as service:
        said = service.account_make_root(name, root)
        show(said, as_json, lambda: out.print(said.text, markup=False))


def helper_text(name: str, as_json: Json = False) -> None:
    """Print the text for the host's support that says what the helper is."""
    with client(as_json) as service:
        said = service.account_helper_text(name)
        show(said, as_json, lambda: out.print(said.text, markup=False))
