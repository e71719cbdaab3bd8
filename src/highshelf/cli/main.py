"""The client commands, put together."""

from __future__ import annotations

import typer

from highshelf.cli import (
    accounts,
    fetches,
    installations,
    jobs,
    licences,
    operators,
    primers,
    releases,
    seen,
    sites,
    values,
)
from highshelf.cli.common import Json, client, facts, show

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    rich_markup_mode=None,
    help="Installs PHP applications on shared hosting accounts. Exit codes: 0 done, 1 failed, 2 usage, 3 waiting for an answer.",
)
app.add_typer(accounts.app, name="account")
app.add_typer(sites.app, name="site")
fetches.add_to(releases.app)
app.add_typer(releases.app, name="release")
app.add_typer(licences.app, name="licence")
app.add_typer(primers.app, name="primer")
app.command("plan")(jobs.plan)
app.command("install")(jobs.install)
seen.add_to(jobs.app)
app.add_typer(jobs.app, name="job")
app.command("watch")(jobs.watch)
app.add_typer(installations.app, name="installation")
app.add_typer(values.app, name="value")
app.add_typer(operators.operators, name="operator")
app.add_typer(operators.sessions, name="session")
app.add_typer(operators.records, name="record")
app.add_typer(operators.strongbox, name="strongbox")


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
