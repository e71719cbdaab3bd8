"""Database: a database, a user with a generated password, the user attached; and the login tried from the host."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal, TypeVar

from highshelf.core.errors import ConflictError, PanelError
from highshelf.core.legs.job import Act, Ask, Done, Job, Result
from highshelf.core.ports import Made, Panel
from highshelf.core.primers.models import is_read
from highshelf.core.values import ASK, generate_password, name_from

T = TypeVar("T")

ATTEMPTS = 5
# Seconds before the look at what may have been done.
UNSURE_SECONDS = 3.0
USUAL_PORT = {"mariadb": "3306", "postgresql": "5432"}
# What a person is asked for where the panel's page for it was not found.
ATTACHED = "database.attached"
# Whether a person was asked for the user, since reading did not get one made.
USER_ASKED = "database.user.asked"
# What panels put before or after a name is rarely longer; a name with fewer letters is easily taken.
USUAL_ADDITION = 7
LEAST_NAME = 4


def _choose(job: Job, what: Literal["database", "user"], taken: list[str]) -> tuple[str, str]:
    """The name and the whole name to create.

    Raises:
        ConflictError: the operator's name is taken.
    """
    panel = job.panel()
    given = job.plan.settings.get("database.name" if what == "database" else "database.user")
    if given:
        whole = panel.full_name(given, what)
        # Where the panel chooses the whole name, what stands there is only found under the given one.
        if whole in taken or panel.standing(given, what):
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
    """Whether a person makes databases here: no panel is known, or reading it came to nothing."""
    known = bool(job.account.panel and job.account.panel_primer)
    return not known or bool(job.journal.facts("database", "create-database").get("by_hand"))


def _is_read(job: Job) -> bool:
    return is_read(job.account.panel_primer, job.plan.database)


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
    tried = job.journal.facts("database", "create-database").get("tried", "")
    return Done(f"database {name}, made by hand", {"by_hand": True, "whole": name, "tried": tried})


def _set_server(job: Job) -> None:
    """The database server as PHP there sees it: as the operator says, else as the panel's primer does."""
    job.values.set("database.host", job.plan.settings.get("database.host") or job.account.database_host)
    job.values.set("database.port", job.plan.settings.get("database.port") or USUAL_PORT[job.plan.database])


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
    # The password is in the strongbox before the panel hears it: after a crash it is still the right one.
    job.values.set("database.password", job.values.get("database.password") or generate_password(), secret=True)
    try:
        facts = _intended(job, "database", panel.databases())
        made = _settled(job, lambda: _made(job, panel, facts))
    except PanelError as fault:
        if not _is_read(job):
            raise
        # Where reading stops a person is asked, as with a panel that nobody knows.
        job.say(f"reading the panel came to nothing: {fault.message}")
        # What was tried may show up late: its name stays in the journal, and an undo looks for it.
        tried = job.journal.facts("database", "create-database").get("name", "")
        job.journal.keep("database", "create-database", {"by_hand": True, "whole": "", "tried": tried})
        return _database_by_hand(job)
    job.values.set("database.name", made.database)
    _set_server(job)
    if made.server and not job.plan.settings.get("database.host"):
        _set_told_server(job, made.server)
    if made.user:
        job.values.set("database.user", made.user)
        job.values.set("database.password", made.password, secret=True)
    return Done(f"database {made.database}", {**facts, "whole": made.database, "user": made.user})


def _settled(job: Job, make: Callable[[], T]) -> T:
    """What the panel did not answer properly may have been done all the same: it is looked for, and asked for once more only if it is not there."""
    try:
        return make()
    except PanelError as fault:
        if not fault.context.get("unsure"):
            raise
        job.say(f"{fault.message}; looking whether it was done")
        job.cancel.rest(UNSURE_SECONDS)
        return make()


def _made(job: Job, panel: Panel, facts: dict[str, Any]) -> Made:
    """The database, with its user where the panel makes both in one go; made once, whatever happened in between."""
    there = panel.standing(facts["name"], "database")
    if there and panel.tells_password:
        # Its password was in an answer that never came; under this job's own name it is this job's to make anew.
        job.say(f"{there} was made, but its password was not heard: it is made anew")
        panel.drop_database(there)
        there = ""
    if there:
        user = panel.standing(facts["user_name"], "user") if facts.get("user_name") else ""
        return Made(there, user, job.values.get("database.password") or "" if user else "")
    user = job.plan.settings.get("database.user") or name_from(job.findings.name, min(panel.longest("user"), 12))
    job.journal.intend("database", "create-database", {**facts, "user_name": user if _is_read(job) else ""})
    try:
        return panel.create_database(facts["name"], user, job.values.get("database.password") or "")
    except PanelError as fault:
        longest = fault.context.get("longest")
        if not isinstance(longest, int) or job.plan.settings.get("database.name"):
            raise
        shorter = name_from("", max(LEAST_NAME, longest - USUAL_ADDITION))
        job.journal.intend(
            "database",
            "create-database",
            {**facts, "name": shorter, "whole": shorter, "user_name": user[: len(shorter)]},
        )
        return panel.create_database(shorter, user[: len(shorter)], job.values.get("database.password") or "")


def _set_told_server(job: Job, server: str) -> None:
    """The server that the panel tells with a new database, with its port where it says one."""
    host, _, port = server.partition(":")
    job.values.set("database.host", host)
    if port.isdigit() and not job.plan.settings.get("database.port"):
        job.values.set("database.port", port)


def drop_database(job: Job, facts: dict[str, Any]) -> None:
    if facts.get("by_hand"):
        if facts.get("tried") and (late := job.panel().standing(facts["tried"], "database")):
            job.panel().drop_database(late)
        if facts.get("whole"):
            job.say(
                f"the database {facts['whole']} was made by hand and stays, with whatever tables the installer made in it"
            )
        return
    panel = job.panel()
    if facts["whole"] in panel.databases():
        panel.drop_database(facts["whole"])
    elif there := panel.standing(facts["name"], "database"):
        panel.drop_database(there)
    # Where both are made in one go, most panels take both away in one go too.
    user = facts.get("user") or facts.get("user_name") or job.values.get("database.user.left")
    if user and panel.standing(user, "user"):
        panel.drop_user(user)


def create_user(job: Job) -> Result:
    if by_hand(job):
        return _user_by_hand(job)
    if made := job.journal.facts("database", "create-database").get("user"):
        return Done(f"database user {made}, made together with the database", {"together": True, "whole": made})
    if job.values.get(USER_ASKED):
        return _user_in_place(job)
    panel = job.panel()
    try:
        there = panel.users()
        facts = _intended(job, "user", there)
        password, database = job.values.get("database.password") or "", job.values.get("database.name") or ""
        whole = _settled(
            job,
            lambda: panel.standing(facts["name"], "user") or panel.create_user(facts["name"], password, database),
        )
    except PanelError as fault:
        if not _is_read(job):
            raise
        job.say(f"reading the panel came to nothing: {fault.message}")
        # What was generated for a user that nobody made is no password of anything.
        job.values.set(USER_ASKED, "yes")
        job.values.set("database.password", "", secret=True)
        return _user_in_place(job)
    job.values.set("database.user", whole)
    return Done(f"database user {whole}, its password generated", {**facts, "whole": whole})


def _user_in_place(job: Job) -> Result:
    """A person's user in place of one that reading did not get made; the name that was tried stays in the journal for an undo."""
    result = _user_by_hand(job)
    tried = job.journal.facts("database", "create-user")
    return Done(result.told, tried) if isinstance(result, Done) else result


def drop_user(job: Job, facts: dict[str, Any]) -> None:
    if facts.get("together") or not facts.get("whole"):
        return
    panel = job.panel()
    whole = panel.standing(facts["name"], "user") if _is_read(job) else facts["whole"]
    if not whole or (whole not in panel.users() and not _is_read(job)):
        return
    try:
        panel.drop_user(whole)
    except PanelError:
        if not _is_read(job):
            raise
        # Some panels let a user go only with its database, which comes next; it is looked for again then.
        job.values.set("database.user.left", whole)


def attach(job: Job) -> Result:
    if by_hand(job):
        return Done("whether the user may use the database is tried from the host")
    if job.journal.facts("database", "create-database").get("user"):
        return Done("the panel made the user for this database")
    if job.values.get(ATTACHED):
        return Done("attached by hand; whether the user may use the database is tried from the host")
    name, user = job.values.get("database.name") or "", job.values.get("database.user") or ""
    try:
        _settled(job, lambda: job.panel().attach(name, user))
    except PanelError as fault:
        if not _is_read(job):
            raise
        job.say(f"reading the panel came to nothing: {fault.message}")
        return Ask(
            ATTACHED,
            f"Please let {user} use the database {name} in the panel, with every right. Is it done?",
            ("it is done",),
        )
    return Done(f"{user} may use {name} (all privileges the panel offers)")


ACTS = (
    Act("create-database", create_database, drop_database),
    Act("create-user", create_user, drop_user),
    Act("attach", attach),
)
