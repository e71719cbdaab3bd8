"""Dumps brought into the job's database, by PHP on the host; a failure leaves the database as empty as it was."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

from highshelf.core.database.dumps import in_order
from highshelf.core.database.statements import Server, Statement, StatementError, statements
from highshelf.core.errors import HighShelfError, ImportFailedError, MissingFileError
from highshelf.core.legs.configure import database_login
from highshelf.core.legs.job import Job
from highshelf.core.sizes import counted

# What goes over in one call: little enough for the time and the memory of any host's PHP.
MOST_STATEMENTS, MOST_BYTES = 5_000, 1_000_000
TELL_EACH = 50_000
# The connection was lost, a lock was waited for too long, two waited for each other: it may go better in a moment.
PASSING = (1205, 1213, 2006, 2013, 4031)
TRIES, PASSING_SECONDS = 4, 3.0
MOST_DUMP_BYTES = 64 << 20


def import_dumps(job: Job, paths: Sequence[str]) -> dict[str, Any] | None:
    """Bring them in, one after the other.

    Returns:
        `tables` (how many are there now), `statements`, `left_out` (what was not sent, as reasons with their number); None where
        nobody on the host can be asked to.

    Raises:
        ImportFailedError: what the server said, with file and line; the database is empty again then.
    """
    before = database_login(job, others=True)
    if before is None:
        return None
    if not before["ok"]:
        raise ImportFailedError(f"the database cannot be reached: {before['error']}", hint="compare it with the panel")
    if before["tables"]:
        raise ImportFailedError(
            f"the database is not empty ({counted(len(before['tables']), 'table')}): nothing is imported into it",
            hint="use a database of its own",
        )
    sent, left_out, tables = 0, dict[str, int](), 0
    texts = {path: _read(job, path) for path in paths}
    paths = in_order(texts)
    server: Server = "postgresql" if job.values.get("database.kind") == "postgresql" else "mariadb"
    insisted = next(iter(job.findings.dump_databases), "") if len(job.findings.dump_databases) == 1 else ""
    try:
        for path in paths:
            course = Course(path)
            bring(job, course, texts[path].splitlines(keepends=True), server, insisted)
            job.say(f"{path}: {counted(course.done, 'statement')}, {counted(course.tables, 'table')}")
            sent, tables = sent + course.done, course.tables
            for reason, count in course.left_out.items():
                left_out[reason] = left_out.get(reason, 0) + count
    except (ImportFailedError, StatementError) as fault:
        database_login(job, clear=True, keep=before["others"])
        message = fault.message if isinstance(fault, HighShelfError) else f"{path}: {fault}"
        raise ImportFailedError(message, hint="the database is empty again; see the line in the file") from fault
    return {"dumps": list(paths), "statements": sent, "tables": tables, "left_out": left_out}


def dumps_in_order(job: Job, paths: Sequence[str]) -> list[str]:
    """As a person has to import them."""
    return in_order({path: _read(job, path) for path in paths}) if len(paths) > 1 else list(paths)


def told_import(came: dict[str, Any], why: str) -> str:
    """What an import did, for the people who watch."""
    left = ", ".join(f"{n} left out ({reason})" for reason, n in came["left_out"].items())
    return (
        f"{', '.join(came['dumps'])} imported ({why}): {counted(came['statements'], 'statement')}, {counted(came['tables'], 'table')}"
        + (f"; {left}" if left else "")
    )


@dataclass
class Course:
    """How far an import is.

    Attributes:
        name: what is imported, for people.
        done: how many statements have run, counted without those that are left out.
        tables: how many are there.
        left_out: reasons, with how many statements each.
    """

    name: str
    done: int = 0
    tables: int = 0
    left_out: dict[str, int] = field(default_factory=dict)


def bring(
    job: Job,
    course: Course,
    lines: Iterable[str],
    server: Server,
    insisted: str = "",
    *,
    mark: str = "",
    kept: Callable[[Course], None] = lambda course: None,
) -> None:
    """Send a dump's statements, from where the course stands.

    Args:
        lines: with their ends; bytes that are no text as `surrogateescape` has them.
        insisted: the name of a database that the dump insists on.
        mark: the table in which the host notes what has run; "" for none, and then nothing can be gone on with.
        kept: called after each call that the host answered.

    Raises:
        ImportFailedError: what the server said, with the line. StatementError.
    """
    passed = course.done
    session: list[str | list[str]] = []
    number = told_at = 0
    course.left_out.clear()
    for batch in _batches(statements(lines, server, insisted), course.left_out):
        skipped = min(max(passed - number, 0), len(batch))
        session += [_carried(s.text) for s in batch[:skipped] if s.of_session]
        number += len(batch)
        batch = batch[skipped:]
        while batch:
            job.cancel.check()
            ran = _sent(job, course, batch, session, mark)
            session += [_carried(s.text) for s in batch[:ran] if s.of_session]
            course.done += ran
            batch = batch[ran:]
            kept(course)
            if course.done - told_at >= TELL_EACH:
                told_at = course.done
                job.say(f"{course.name}: {course.done:,} statements, {course.tables} tables so far")


def _sent(job: Job, course: Course, batch: list[Statement], session: list[str | list[str]], mark: str) -> int:
    """Have the first of these run, as many as there is time for; how many that were."""
    texts = [_carried(s.text) for s in batch]
    sending: dict[str, Any] = {"session": session, "statements": texts, "mark": mark, "from": course.done}
    told: dict[str, Any] = {}
    for attempt in range(1, TRIES + 1):
        answer = database_login(job, **sending)
        if answer is None:
            raise ImportFailedError("PHP on the host cannot be asked any more", hint="try again")
        if answer["ok"]:
            course.tables = len(answer["tables"])
            return max(int(answer["ran"]), 1)
        told = answer
        # What a transaction was, the server has taken back: it begins where the mark says.
        if not mark or told.get("number") not in PASSING or attempt == TRIES:
            break
        job.say(f"the server broke off ({told['error'][:120]}); going on from there")
        job.cancel.rest(PASSING_SECONDS)
    line = batch[min(int(told.get("ran", 0)), len(batch) - 1)].line
    raise ImportFailedError(f"{course.name}, line {line}: {told['error']}")


def _carried(text: str) -> str | list[str]:
    """As JSON takes it: bytes that are no text as hexadecimal digits."""
    try:
        text.encode()
    except UnicodeEncodeError:
        return [text.encode(errors="surrogateescape").hex()]
    return text


def _read(job: Job, path: str) -> str:
    try:
        data = job.files().read(job.place.path(path), MOST_DUMP_BYTES)
    except MissingFileError as fault:
        raise ImportFailedError(f"{path} is not there any more", hint="install again") from fault
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _batches(found: Iterator[Statement], left_out: dict[str, int]) -> Iterator[list[Statement]]:
    batch: list[Statement] = []
    size = 0
    for one in found:
        if one.left_out:
            left_out[one.left_out] = left_out.get(one.left_out, 0) + 1
            continue
        length = len(one.text)
        if batch and (len(batch) >= MOST_STATEMENTS or size + length > MOST_BYTES):
            yield batch
            batch, size = [], 0
        batch.append(one)
        size += length
    if batch:
        yield batch
