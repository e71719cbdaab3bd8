"""Databases for themselves, without an application: made, filed, tried, filled from a dump, taken a copy of, dropped."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from highshelf.core.database.statements import Server, StatementError
from highshelf.core.errors import ConflictError, HighShelfError, ImportFailedError, PanelError, TargetError
from highshelf.core.legs import database
from highshelf.core.legs.configure import database_login, database_slice, refused_login
from highshelf.core.legs.importing import Course, bring
from highshelf.core.legs.job import Act, Done, Job, Result
from highshelf.core.legs.standing import asking
from highshelf.core.sizes import counted, size_text

NOBODY = "nobody on this host can be asked: it has no shell with PHP, and the helper is not allowed there or runs as another user"
# A slice is said aloud this often at the most.
TELL_SECONDS = 5.0
MOST_NAMED = 8


def known(job: Job) -> Result:
    """What the books have of the database, for the acts that follow."""
    found = job.known_database()
    for name, value in found.items():
        job.values.set(f"database.{name}", value, secret=name == "password")
    return Done(f"database {found['name']}, user {found['user']}")


def made(job: Job) -> Result:
    """The database was made a moment ago: whether it works from the host, and into the books with it."""
    answer = _asked(job, write=True, about=True)
    if answer is not None and not answer["ok"]:
        raise _refused(job, answer)
    told = f"its login works from the host: {_server(answer)}" if answer else f"its login is not proven: {NOBODY}"
    return Done(told, _facts(answer))


def tried(job: Job) -> Result:
    """Log in from the host, make a table, write and read in it, drop it."""
    answer = _asked(job, write=True, about=True, rows=True)
    if answer is None:
        raise TargetError(
            f"the login was not tried: {NOBODY}",
            hint="allow the helper with `highshelf account change`, or try it in the panel's own page for databases",
        )
    if not answer["ok"]:
        raise _refused(job, answer)
    tables = answer["tables"]
    shown = ", ".join(sorted(tables)[:MOST_NAMED]) + (" …" if len(tables) > MOST_NAMED else "")
    told = f"logged in from the host; a table was made, written, read and dropped: {_server(answer)}, {counted(len(tables), 'table')}"
    job.note_database(_facts(answer))
    return Done(told + (f" ({shown})" if shown else ""), _facts(answer))


def booked(job: Job) -> Result:
    number = job.book_database(job.journal.facts("prove", "login"))
    return Done(f"in the books as {number}, its password in the strongbox", {"number": number})


def looked(job: Job) -> Result:
    """Nothing is imported into a database in which something is."""
    answer = _needed(job, _asked(job, others=True))
    if answer["tables"] or answer["others"]:
        what = [counted(len(answer["tables"]), "table")] if answer["tables"] else []
        what += [f"{len(answer['others'])} views, routines or types"] if answer["others"] else []
        raise ConflictError(
            f"the database {job.values.get('database.name')} is not empty ({', '.join(what)}): nothing is imported into it",
            hint="make a new one with `highshelf database make`, and import there",
        )
    return Done("the database is empty")


def filled(job: Job) -> Result:
    """Import the dump; cut off, it goes on after the last statement that the host has noted."""
    cursor = job.journal.facts("database", "import")
    dump = job.dump()
    course = Course(dump.name, int(cursor.get("done", 0)))
    if course.done:
        job.say(f"{dump.name}: going on after {course.done:,} statements")

    def kept(now: Course) -> None:
        job.journal.keep("database", "import", {"done": now.done})

    job.journal.keep("database", "import", {"done": course.done})
    server: Server = "postgresql" if job.plan.database == "postgresql" else "mariadb"
    try:
        with asking(job):
            bring(job, course, job.dump_lines(dump), server, dump.insists, mark=mark_of(job), kept=kept)
            _needed(job, database_login(job, mark=mark_of(job), unmark=True))
    except StatementError as fault:
        raise ImportFailedError(
            f"{dump.name}: {fault}", hint="the database is made empty again; look at that line of the dump"
        ) from fault
    left = ", ".join(f"{n:,} left out ({reason})" for reason, n in course.left_out.items())
    return Done(
        f"{dump.name} imported: {counted(course.done, 'statement')}, {counted(course.tables, 'table')}"
        + (f"; {left}" if left else ""),
        {"done": course.done, "tables": course.tables, "left_out": course.left_out},
    )


def emptied(job: Job, facts: dict[str, Any]) -> None:
    """What an import that came to nothing has made goes again: the database was empty before."""
    if not facts:
        return
    answer = _asked(job, clear=True, mark=mark_of(job), unmark=True)
    if answer is None or not answer["ok"]:
        why = answer["error"] if answer else NOBODY
        raise TargetError(
            f"the database {job.values.get('database.name')} could not be made empty again: {why}",
            hint="drop its tables in the panel",
        )
    job.say(f"the database {job.values.get('database.name')} is empty again")


def looked_through(job: Job) -> Result:
    """What is there after an import."""
    answer = _needed(job, _asked(job, rows=True))
    rows = dict(answer["rows"] or {})
    uncounted = len(answer["tables"]) - len(rows)
    job.note_database(_facts(answer))
    if not job.plan.keeps_dump:
        job.drop_dump()
    told = (
        counted(len(answer["tables"]), "table") + " with " + counted(sum(int(one[0]) for one in rows.values()), "row")
    )
    return Done(told + (f", {uncounted} too large to be counted in time" if uncounted else ""), _facts(answer))


def taken(job: Job) -> Result:
    """Take a copy of the database as SQL; cut off, it begins anew."""
    cursor: Any = None
    slices = rows = unpacked = 0
    began = told_at = time.monotonic()
    with asking(job), job.dump_writer() as out:
        while True:
            job.cancel.check()
            answer = _needed(job, database_slice(job, cursor))
            out.write(answer["text"])
            slices, rows, cursor = slices + 1, rows + int(answer["rows"]), answer["cursor"]
            unpacked += int(answer["unpacked"])
            if answer["done"]:
                break
            if time.monotonic() - told_at > TELL_SECONDS:
                told_at = time.monotonic()
                job.say(f"{counted(rows, 'row')} so far, {size_text(out.size_bytes)} packed", bytes=out.size_bytes)
    facts = {"rows": rows, "bytes": out.size_bytes, "slices": slices, "unpacked": unpacked, "sha256": out.sha256}
    job.keep_dump(facts)
    told = f"{counted(rows, 'row')} taken, {size_text(out.size_bytes)} packed"
    if slices > 1:
        told += f"; in {slices} slices over {time.monotonic() - began:.0f} s: what was written in that time may be in it by halves"
    return Done(told, facts)


def not_taken(job: Job, facts: dict[str, Any]) -> None:
    job.drop_dump()


def dropped(job: Job) -> Result:
    """The inverses of what made it, the newest first."""
    done = []
    for noted in job.earlier_acts():
        inverse = DROPS.get(noted.name)
        if noted.leg != "database" or inverse is None or not noted.facts:
            continue
        with job.earlier("database") as maker:
            inverse(maker, dict(noted.facts))
        done.append(noted.name)
    return Done("asked the panel to drop it, and its user", {"acts": done})


def gone(job: Job) -> Result:
    """Look whether it is gone, then out of the books."""
    with job.earlier("database") as maker:
        names = {
            noted.name: str(noted.facts.get("whole", "")) for noted in job.earlier_acts() if noted.leg == "database"
        }
        panel = maker.panel()
        left = [one for one in (names.get("create-database", ""),) if one and one in panel.databases()]
        left += [one for one in (names.get("create-user", ""),) if one and _has_user(panel, one)]
    if left:
        raise TargetError(f"the panel still lists {', '.join(left)}", hint="drop it in the panel, then forget it here")
    secrets = job.unbook_database()
    return Done(f"the panel lists it no more; out of the books, with {secrets} password", {"secrets": secrets})


def _has_user(panel: Any, name: str) -> bool:
    try:
        return name in panel.users()
    except PanelError:
        # A panel that makes both in one go may have no list of users.
        return False


def mark_of(job: Job) -> str:
    """The table in which the host notes how far an import is."""
    return f"hs_import_{job.id[:8]}"


def _asked(job: Job, **more: Any) -> dict[str, Any] | None:
    with asking(job):
        return database_login(job, **more)


def _needed(job: Job, answer: dict[str, Any] | None) -> dict[str, Any]:
    if answer is None:
        raise TargetError(NOBODY[0].upper() + NOBODY[1:], hint="allow the helper with `highshelf account change`")
    if not answer["ok"]:
        raise _refused(job, answer)
    return answer


def _refused(job: Job, answer: dict[str, Any]) -> HighShelfError:
    """With what the panel lists, where it can be asked: a name that lacks its addition is told so."""
    lists: list[list[str]] = [[], []]
    if job.account.panel and job.account.panel_primer:
        looks: tuple[Callable[[], list[str]], ...] = (lambda: job.panel().databases(), lambda: job.panel().users())
        for number, look in enumerate(looks):
            try:
                lists[number] = look()
            except PanelError as fault:
                job.say(f"the panel's list could not be had: {fault.message}")
    return refused_login(job, str(answer["error"]), *lists)


def _server(answer: dict[str, Any]) -> str:
    return f"server {answer['version']}" + (f", {answer['about']}" if answer.get("about") else "")


def _facts(answer: dict[str, Any] | None) -> dict[str, Any]:
    if answer is None:
        return {"proven": False}
    rows = {table: int(one[0]) for table, one in dict(answer.get("rows") or {}).items()}
    facts = {"proven": True, "version": answer["version"], "tables": sorted(answer["tables"]), "rows": rows}
    return facts | ({"charset": answer["about"]} if answer.get("about") else {})


DROPS: dict[str, Callable[[Job, dict[str, Any]], None]] = {
    "create-user": database.drop_user,
    "create-database": database.drop_database,
}
MAKE: dict[str, tuple[Act, ...]] = {
    "database": database.ACTS,
    "prove": (Act("login", made), Act("book", booked)),
}
ADD: dict[str, tuple[Act, ...]] = {
    "database": (Act("known", known),),
    "prove": (Act("login", tried), Act("book", booked)),
}
TRY: dict[str, tuple[Act, ...]] = {"database": (Act("known", known),), "prove": (Act("login", tried),)}
IMPORT: dict[str, tuple[Act, ...]] = {
    "database": (Act("known", known), Act("look", looked), Act("import", filled, emptied), Act("count", looked_through))
}
EXPORT: dict[str, tuple[Act, ...]] = {"database": (Act("known", known), Act("take", taken, not_taken))}
DROP: dict[str, tuple[Act, ...]] = {"database": (Act("drop", dropped), Act("gone", gone))}
