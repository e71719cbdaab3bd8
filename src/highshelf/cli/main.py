"""The client commands, put together."""

from __future__ import annotations

from difflib import get_close_matches
from typing import Annotated, Any

import typer

from highshelf.cli import (
    accounts,
    databases,
    dumps,
    fetches,
    installations,
    jobs,
    licences,
    notices,
    operators,
    primers,
    profiles,
    releases,
    seen,
    sites,
    values,
)
from highshelf.cli.common import DONE, USAGE, Json, client, facts, fail, show
from highshelf.cli.everywhere import Lines, Profile, Quiet, TokenFile, Url
from highshelf.cli.manual import manual
from highshelf.cli.words import NEVER_OFFERED, Words

app = typer.Typer(
    cls=Words,
    no_args_is_help=True,
    context_settings={"help_option_names": ["-h", "--help"]},
    rich_markup_mode=None,
    help="Installs PHP applications on shared hosting accounts. Exit codes: 0 done, 1 failed, 2 usage, 3 waiting for an answer, "
    "130 left with Ctrl-C while the job goes on.",
)
app.add_typer(accounts.app, name="account")
app.add_typer(sites.app, name="site")
fetches.add_to(releases.app)
app.add_typer(releases.app, name="release")
app.add_typer(licences.app, name="licence")
app.add_typer(databases.app, name="database")
app.add_typer(dumps.app, name="dump")
app.add_typer(primers.app, name="primer")
app.command("plan")(jobs.plan)
app.command("install")(jobs.install)
seen.add_to(jobs.app)
app.add_typer(jobs.app, name="job")
app.command("watch")(jobs.watch)
app.add_typer(installations.app, name="installation")
app.add_typer(notices.app, name="notice")
app.add_typer(values.app, name="value")
app.add_typer(profiles.app, name="profile")
app.add_typer(operators.operators, name="operator")
app.add_typer(operators.sessions, name="session")
app.add_typer(operators.records, name="record")
app.add_typer(operators.strongbox, name="strongbox")


def _version(wanted: bool) -> None:
    if wanted:
        from importlib.metadata import version

        print(f"highshelf {version('highshelf')}")
        raise typer.Exit(DONE)


@app.callback()
def main(
    # Taken before this is reached (`everywhere.take`); here for the help.
    _url: Url = "",
    _token_file: TokenFile = "",
    _profile: Profile = "",
    _quiet: Quiet = False,
    _lines: Lines = False,
    _shown: Annotated[
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Print the version and leave.")
    ] = False,
) -> None:
    pass


@app.command("help")
def help_of(
    ctx: typer.Context,
    words: Annotated[list[str] | None, typer.Argument(metavar="COMMAND", help="The command to explain.")] = None,
) -> None:
    """Explain a command, as its --help does; without one, list them all."""
    root = ctx.find_root()
    command: Any = root.command
    around = root
    for word in words or []:
        inner = command.get_command(around, word) if hasattr(command, "get_command") else None
        if inner is None:
            names = command.list_commands(around) if hasattr(command, "list_commands") else []
            like = get_close_matches(word, [n for n in names if n not in NEVER_OFFERED], 1)
            hint = f"did you mean {like[0]}?" if like else "`highshelf help` lists them"
            fail("input", f"there is no command {' '.join(words or [])}", hint, exit_code=USAGE)
        around = type(root)(inner, info_name=word, parent=around)
        command = inner
    print(command.get_help(around))


app.command("manual")(manual)


@app.command("health")
def health(as_json: Json = False) -> None:
    """Say whether the service answers."""
    with client(as_json) as service:
        found = service.health()
        show(
            found,
            as_json,
            lambda: facts(
                [
                    ("service", service.url),
                    ("version", found.version),
                    ("open jobs", found.jobs_open),
                    ("read only", found.read_only),
                ]
            ),
        )
