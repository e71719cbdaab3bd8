"""What the books have of databases: those that High Shelf made or was told of, and those of installations."""

from __future__ import annotations

from typing import Any

from highshelf.core.database.diagnosing import with_addition
from highshelf.core.errors import NotFoundError
from highshelf.core.nearest import meant
from highshelf.core.plan import Plan
from highshelf.store.store import Store
from highshelf.store.tables import DatabaseRow, DumpRow, InstallationRow, JobRow, PlanRow


def known_database(store: Store, job_id: str, plan: Plan) -> dict[str, str]:
    """Of the database that a job is about: name, user, password, host, port, kind.

    Raises:
        NotFoundError: it is in the books no more.
    """
    what, _, number = plan.books.partition("/")
    if what == "database":
        row = store.get(DatabaseRow, number, "database")
        password = store.secret(f"database/{number}/password")
        return {n: str(getattr(row, n)) for n in ("name", "user", "host", "port", "kind")} | {"password": password}
    if what == "installation":
        return of_installation(store, store.get(InstallationRow, number, "installation"))
    # One that is filed by this very job: as it was given.
    names = ("name", "user", "host", "port")
    given = {n: plan.settings.get(f"database.{n}", "") for n in names}
    password = store.values(job_id).get("database.password") or ""
    return given | {"password": password, "kind": plan.database}


def of_installation(store: Store, row: InstallationRow) -> dict[str, str]:
    """As `known_database`, of an installation's."""
    values = store.values(row.job_id)
    found = {n: values.get(f"database.{n}") or "" for n in ("host", "port")}
    return found | {
        "name": row.database,
        "user": row.database_user,
        "password": store.secret(f"installation/{row.id}/database"),
        "kind": kind_of_installation(store, row),
    }


def kind_of_installation(store: Store, row: InstallationRow) -> str:
    job = store.get(JobRow, row.job_id, "job")
    return str(store.get(PlanRow, job.plan_id, "plan").body["database"])


def find_database(store: Store, account: str, name: str) -> DatabaseRow | InstallationRow:
    """A database of an account whose login is known, by its name or its number.

    Raises:
        NotFoundError: there is none.
    """
    rows = store.databases(account)
    standing = [row for row in store.standing(account) if row.database]
    for row in rows:
        if name in (row.id, row.name):
            return row
    for one in standing:
        if name == one.database:
            return one
    names = [row.name for row in rows] + [one.database for one in standing]
    longer = with_addition(name, names)
    near = f"did you mean {longer}? " if longer else meant(name, names)
    raise NotFoundError(
        f"no login is known for a database {name} of {account}",
        hint=f"{near}`highshelf database list {account}` shows those there are, `highshelf database add` files the login of another",
    )


def taken_dump(store: Store, job_id: str, plan: Plan, facts: dict[str, Any]) -> DumpRow:
    """The row of a dump that a job has taken."""
    name = known_database(store, job_id, plan)["name"]
    return DumpRow(
        id=plan.dump,
        name=f"{name}.sql.gz",
        account=plan.account,
        database=name,
        job=job_id,
        kind=plan.database,
        packed="gz",
        size_bytes=facts["bytes"],
        unpacked_bytes=facts["unpacked"],
        sha256=facts["sha256"],
    )
