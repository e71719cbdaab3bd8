"""Database: a database, a user with a generated password, the user attached; and the login tried from the host."""

from __future__ import annotations

from typing import Any, Literal

from highshelf.core.errors import ConflictError
from highshelf.core.legs.job import Act, Done, Job, Result
from highshelf.core.values import generate_password, name_from

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
                hint=f"choose another with --set {'database.name' if what == 'database' else 'database.user'}=…, or leave it out",
            )
        return given, whole
    for _ in range(ATTEMPTS):
        name = name_from(job.findings.name, min(panel.longest(what), 12))
        if (whole := panel.full_name(name, what)) not in taken:
            return name, whole
    raise ConflictError(f"no free name was found for a {what}", hint="give one with --set database.name=…")


def create_database(job: Job) -> Result:
    panel = job.panel()
    facts = job.journal.facts("database", "create-database")
    there = panel.databases()
    if not facts:
        name, whole = _choose(job, "database", there)
        facts = {"name": name, "whole": whole}
        job.journal.intend("database", "create-database", facts)
    if facts["whole"] not in there:
        panel.create_database(facts["name"])
    job.values.set("database.name", facts["whole"])
    job.values.set("database.host", job.account.database_host)
    job.values.set("database.port", "3306")
    return Done(f"database {facts['whole']}", facts)


def drop_database(job: Job, facts: dict[str, Any]) -> None:
    if facts["whole"] in job.panel().databases():
        job.panel().drop_database(facts["whole"])


def create_user(job: Job) -> Result:
    panel = job.panel()
    facts = job.journal.facts("database", "create-user")
    there = panel.users()
    if not facts:
        name, whole = _choose(job, "user", there)
        facts = {"name": name, "whole": whole}
        # The password is in the strongbox before the panel hears it: after a crash it is still the right one.
        job.values.set("database.password", job.values.get("database.password") or generate_password(), secret=True)
        job.journal.intend("database", "create-user", facts)
    if facts["whole"] not in there:
        panel.create_user(facts["name"], job.values.get("database.password") or "")
    job.values.set("database.user", facts["whole"])
    return Done(f"database user {facts['whole']}, its password generated", facts)


def drop_user(job: Job, facts: dict[str, Any]) -> None:
    if facts["whole"] in job.panel().users():
        job.panel().drop_user(facts["whole"])


def attach(job: Job) -> Result:
    name, user = job.values.get("database.name") or "", job.values.get("database.user") or ""
    job.panel().attach(name, user)
    return Done(f"{user} may use {name} (all privileges the panel offers)")


ACTS = (
    Act("create-database", create_database, drop_database),
    Act("create-user", create_user, drop_user),
    Act("attach", attach),
)
