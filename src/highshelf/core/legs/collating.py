"""The job's own database, and the tables in it, changed to another character set and collation."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from highshelf.core.legs.configure import database_login
from highshelf.core.legs.job import Job
from highshelf.core.pages.page import Page
from highshelf.core.walk.collating import TRIED
from highshelf.core.walk.moves import OPENED, Collate, Turn, signature_of


def collate(job: Job, move: Collate, page: Page, state: dict[str, Any]) -> tuple[dict[str, Any], bool]:
    """Change them. A database that somebody else made is not touched.

    Returns:
        the conversation's state, and whether anything was changed.
    """
    state = {**state, "tried": sorted({*state.get("tried", []), TRIED})}
    made = job.journal.facts("database", "create-database")
    if not made or made.get("by_hand"):
        job.say(
            f"the installer wants the collation {move.collation}; the database was not made by this job and stays as it is"
        )
        return state, False
    there = database_login(job)
    if there is None or not there["ok"]:
        job.say(f"the installer wants the collation {move.collation}; nobody on this host can be asked to change it")
        return state, False
    charset = move.collation.partition("_")[0]
    how = f"CHARACTER SET {charset} COLLATE {move.collation}"
    orders = [f"ALTER DATABASE {_quoted(job.values.get('database.name') or '')} {how}"]
    orders += [f"ALTER TABLE {_quoted(table)} CONVERT TO {how}" for table in there["tables"]]
    done = 0
    while done < len(orders):
        job.cancel.check()
        answer = database_login(job, session=["SET FOREIGN_KEY_CHECKS = 0"], statements=orders[done:])
        if answer is None or not answer["ok"]:
            why = answer["error"] if answer else "nobody on the host can be asked any more"
            job.say(f"the collation {move.collation} could not be had: {why}")
            return state, done > 0
        done += max(int(answer["ran"]), 1)
    job.say(f"the database and its {len(orders) - 1} tables have the collation {move.collation} now (“{move.why}”)")
    turn = Turn(signature_of("collate", move.collation), OPENED + "the database", page.title)
    return {**state, "history": [*state.get("history", []), asdict(turn)]}, True


def _quoted(name: str) -> str:
    return "`" + name.replace("`", "``") + "`"
