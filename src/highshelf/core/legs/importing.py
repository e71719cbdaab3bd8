"""Dumps of a release brought into the job's database, by PHP on the host; a failure leaves the database as empty as it was."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from highshelf.core.database.dumps import in_order
from highshelf.core.database.statements import Server, Statement, StatementError, statements
from highshelf.core.errors import HighShelfError, ImportFailedError, MissingFileError
from highshelf.core.legs.configure import database_login
from highshelf.core.legs.job import Job

# What goes over in one call: little enough for the time and the memory of any host's PHP.
MOST_STATEMENTS, MOST_BYTES = 5_000, 1_000_000
MOST_DUMP_BYTES = 64 << 20


def import_dumps(job: Job, paths: Sequence[str]) -> dict[str, Any] | None:
    """Bring them in, one after the other.

    Returns:
        `tables` (how many are there now), `statements`, `left_out` (what was not sent, as reasons with their number); None where
        nobody on the host can be asked to.

    Raises:
        ImportFailedError: what the server said, with file and line; the database is empty again then.
    """
    before = database_login(job)
    if before is None:
        return None
    if not before["ok"]:
        raise ImportFailedError(f"the database cannot be reached: {before['error']}", hint="compare it with the panel")
    if before["tables"]:
        raise ImportFailedError(
            f"the database is not empty ({len(before['tables'])} tables): nothing is imported into it",
            hint="use a database of its own",
        )
    sent, left_out, tables = 0, dict[str, int](), 0
    texts = {path: _read(job, path) for path in paths}
    paths = in_order(texts)
    try:
        for path in paths:
            answer, count = _import(job, path, texts[path], left_out)
            sent, tables = sent + count, answer
    except (ImportFailedError, StatementError) as fault:
        database_login(job, clear=True)
        message = fault.message if isinstance(fault, HighShelfError) else f"{path}: {fault}"
        raise ImportFailedError(message, hint="the database is empty again; see the line in the file") from fault
    return {"dumps": list(paths), "statements": sent, "tables": tables, "left_out": left_out}


def dumps_in_order(job: Job, paths: Sequence[str]) -> list[str]:
    """As a person has to import them."""
    return in_order({path: _read(job, path) for path in paths}) if len(paths) > 1 else list(paths)


def told_import(came: dict[str, Any], why: str) -> str:
    """What an import did, for the people who watch."""
    left = ", ".join(f"{n} left out ({reason})" for reason, n in came["left_out"].items())
    return f"{', '.join(came['dumps'])} imported ({why}): {came['statements']} statements, {came['tables']} tables" + (
        f"; {left}" if left else ""
    )


def _import(job: Job, path: str, text: str, left_out: dict[str, int]) -> tuple[int, int]:
    """One dump: how many tables are there after it, and how many statements were sent."""
    server: Server = "postgresql" if job.values.get("database.kind") == "postgresql" else "mariadb"
    insisted = next(iter(job.findings.dump_databases), "") if len(job.findings.dump_databases) == 1 else ""
    session: list[str] = []
    tables = sent = 0
    for batch in _batches(statements(text.splitlines(keepends=True), server, insisted), left_out):
        done = 0
        while done < len(batch):
            job.cancel.check()
            answer = database_login(job, session=session, statements=[s.text for s in batch[done:]])
            if answer is None:
                raise ImportFailedError("PHP on the host cannot be asked any more", hint="try again")
            if not answer["ok"]:
                line = batch[min(done + int(answer.get("ran", 0)), len(batch) - 1)].line
                raise ImportFailedError(f"{path}, line {line}: {answer['error']}")
            session += [s.text for s in batch[done : done + answer["ran"]] if s.of_session]
            done += max(int(answer["ran"]), 1)
            tables = len(answer["tables"])
        sent += len(batch)
        job.say(f"{path}: {sent} statements, {tables} tables so far")
    return tables, sent


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
