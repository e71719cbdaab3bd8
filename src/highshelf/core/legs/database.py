"""Database: a database, a user with a generated password, the user attached; and the login tried from the host."""

from __future__ import annotations

from typing import Any, Literal

from highshelf.core.errors import ConflictError
from highshelf.core.legs.job import Act, Ask, Done, Job, Result
from highshelf.core.values import ASK, generate_password, name_from

ATTEMPTS = 5


def _choose(job: Job, what: Literal["database", "user"], taken: list[str]) -> tuple[str, str]:
    """The name and the whole name to create.

    Raises:
        ConflictError: the operator's name is taken.
    """
    panel = job.panel()
    given = job.plan.settings.get("database.name" if what == "database" else "database.user")
    if given:
        whole = panel.full_name(given, what)
        if whole in taken:
            kind = "database" if what == "database" else "database user"
            raise ConflictError(
                f"the {kind} {whole} exists already",
                hint=f"choose another {'database.name' if what == 'database' else 'database.user'}, or leave it out: a free one is made up",
            )
        return given, whole
    for _ in range(ATTEMPTS):
        name = name_from(job.findings.name, min(panel.longest(what), 12))
        if (whole := panel.full_name(name, what)) not in taken:
            return name, whole
    raise ConflictError(f"no free name was found for a {what}", hint="give a database.name of your own")


def _intended(job: Job, what: Literal["database", "user"], there: list[str]) -> dict[str, Any]:
    """The name chosen for this job, in the journal before the panel is asked to make it."""
    act = f"create-{what}"
    facts = job.journal.facts("database", act)
    if not facts:
        name, whole = _choose(job, what, there)
        facts = {"name": name, "whole": whole}
        job.journal.intend("database", act, facts)
    return facts


def by_hand(job: Job) -> bool:
    """Whether no panel that High Shelf knows makes databases here: then an operator does, and is asked."""
    return not (job.account.panel and job.account.panel_primer)


def _ask(job: Job, name: str, text: str, *, secret: bool = False) -> str | Ask:
    known = job.values.get(name) or job.plan.settings.get(name)
    if not known or known == ASK:
        return Ask(name, text, secret=secret)
    job.values.set(name, known)
    return known


def _database_by_hand(job: Job) -> Result:
    where = f" in the panel at {job.account.panel}" if job.account.panel else ""
    name = _ask(job, "database.name", f"Make a {job.plan.database} database{where}. What is its whole name?")
    if isinstance(name, Ask):
        return name
    _set_server(job)
    return Done(f"database {name}, made by hand", {"by_hand": True, "whole": name})


def _set_server(job: Job) -> None:
    """The database server as PHP there sees it: as the operator says, else as the panel's primer does."""
    job.values.set("database.host", job.plan.settings.get("database.host") or job.account.database_host)
    job.values.set("database.port", job.plan.settings.get("database.port") or "3306")


def _user_by_hand(job: Job) -> Result:
    name = _ask(job, "database.user", "What is the whole name of the database user that may use it?")
    if isinstance(name, Ask):
        return name
    password = _ask(job, "database.password", f"What is the password of the database user {name}?", secret=True)
    return password if isinstance(password, Ask) else Done(f"database user {name}, made by hand")


def create_database(job: Job) -> Result:
    if by_hand(job):
        return _database_by_hand(job)
    panel = job.panel()
    there = panel.databases()
    facts = _intended(job, "database", there)
    if facts["whole"] not in there:
        panel.create_database(facts["name"])
    job.values.set("database.name", facts["whole"])
    _set_server(job)
    return Done(f"database {facts['whole']}", facts)


def drop_database(job: Job, facts: dict[str, Any]) -> None:
    if facts.get("by_hand"):
        job.say(
            f"the database {facts['whole']} was made by hand and stays, with whatever tables the installer made in it"
        )
    elif facts["whole"] in job.panel().databases():
        job.panel().drop_database(facts["whole"])


def create_user(job: Job) -> Result:
    if by_hand(job):
        return _user_by_hand(job)
    panel = job.panel()
    there = panel.users()
    # The password is in the strongbox before the panel hears it: after a crash it is still the right one.
    job.values.set("database.password", job.values.get("database.password") or generate_password(), secret=True)
    facts = _intended(job, "user", there)
    if facts["whole"] not in there:
        panel.create_user(facts["name"], job.values.get("database.password") or "")
    job.values.set("database.user", facts["whole"])
    return Done(f"database user {facts['whole']}, its password generated", facts)


def drop_user(job: Job, facts: dict[str, Any]) -> None:
    if facts["whole"] in job.panel().users():
        job.panel().drop_user(facts["whole"])


def attach(job: Job) -> Result:
    if by_hand(job):
        return Done("whether the user may use the database is tried from the host")
    name, user = job.values.get("database.name") or "", job.values.get("database.user") or ""
    job.panel().attach(name, user)
    return Done(f"{user} may use {name} (all privileges the panel offers)")


ACTS = (
    Act("create-database", create_database, drop_database),
    Act("create-user", create_user, drop_user),
    Act("attach", attach),
)
