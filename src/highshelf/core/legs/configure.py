"""Configure: the installer writes the configuration itself; before it does, the database login is tried from the host."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from highshelf.core.database.diagnosing import Tried, diagnose
from highshelf.core.errors import HelperRefusedError, HighShelfError
from highshelf.core.legs.job import Act, Done, Job, Result
from highshelf.core.values import generate_name, generate_password, generate_prefix

HELPER_REFUSED = "host.helper_refused"


class DatabaseLoginError(HighShelfError):
    code = "database-login"


def fill_values(job: Job) -> Result:
    """Give every value that nobody gave its default; an address without a default is asked for when a page wants it."""
    defaults = {
        "site.title": job.account.title,
        "site.address": job.place.address,
        "site.language": "en",
        "site.timezone": "UTC",
        "admin.name": generate_name(),
        "admin.fullname": job.account.title,
        "database.kind": job.plan.database,
        "database.prefix": generate_prefix(),
    }
    if job.account.email:
        defaults |= {"admin.email": job.account.email, "site.email": job.account.email}
    for name, value in defaults.items():
        if job.values.get(name) is None and job.plan.settings.get(name) != "?":
            job.values.set(name, value)
    if job.values.get("admin.password") is None and job.plan.settings.get("admin.password") != "?":
        job.values.set("admin.password", generate_password(), secret=True)
    return Done("values are ready: administrator's name and password generated")


def database_login(job: Job, *, write: bool = False, **more: Any) -> dict[str, Any] | None:
    """Log in to the job's database from the host itself; `write` also makes and drops a table, `more` are statements to run.

    Returns:
        what came of it; None where nobody on the host can be asked.
    """
    return _asked_php(job, lambda: job.php().database_login({**_login(job), "write": write, **more}))


def database_slice(job: Job, cursor: Any) -> dict[str, Any] | None:
    """The next slice of a copy of the job's database, after `cursor`; None where nobody on the host can be asked."""
    return _asked_php(job, lambda: job.php().database_dump({**_login(job), "cursor": cursor}))


def _login(job: Job) -> dict[str, Any]:
    return {
        "host": job.values.get("database.host"),
        "port": int(job.values.get("database.port") or 3306),
        "name": job.values.get("database.name"),
        "user": job.values.get("database.user"),
        "password": job.values.get("database.password"),
        "kind": job.values.get("database.kind") or job.plan.database,
    }


def _asked_php(job: Job, ask: Callable[[], dict[str, Any]]) -> dict[str, Any] | None:
    if not _can_ask_php(job):
        return None
    try:
        return ask()
    except HelperRefusedError as fault:
        # Some hosts' scanners take exception to such a file: the job needs it for nothing.
        job.say(f"going on without the helper: {fault.message}")
        job.values.set(HELPER_REFUSED, "yes")
        return None


def refused_login(job: Job, error: str, databases: Sequence[str] = (), users: Sequence[str] = ()) -> DatabaseLoginError:
    """What is to be told of a login that does not work.

    Args:
        databases, users: whole names that the panel lists.
    """
    known = {name: job.values.get(f"database.{name}") or "" for name in ("name", "user", "host", "port")}
    found = diagnose(Tried(error, **known, databases=databases, users=users))
    told = f"{found.told} ({error})" if found.told else error
    return DatabaseLoginError(
        f"the database login does not work from the host: {told}", hint=found.repair, diagnosis=found.code
    )


def _can_ask_php(job: Job) -> bool:
    """Whether PHP on the host can be asked to log in somewhere: over the shell, or through the helper as the login's own user."""
    own_user = job.values.get("host.other_user") != "yes"
    by_helper = job.account.helper and own_user and job.values.get(HELPER_REFUSED) != "yes"
    return by_helper or job.way.name.startswith("shell")


def try_database(job: Job) -> Result:
    if job.plan.database == "none":
        return Done("no database was planned")
    answer = database_login(job, write=True)
    if answer is None:
        return Done("database login not tried: nobody on this host can be asked to; the installer will say")
    if not answer["ok"]:
        raise refused_login(job, str(answer["error"]))
    job.values.set("database.version", str(answer["version"]))
    return Done(f"database login works from the host (server {answer['version']})", {"version": answer["version"]})


ACTS = (Act("values", fill_values), Act("try-database", try_database))
