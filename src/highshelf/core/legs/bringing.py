"""Dumps that the conversation asks for: imported here, or by a person where nobody on the host can be asked to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, replace
from typing import Any

from highshelf.core.errors import ImportFailedError
from highshelf.core.legs.conversing import arrived
from highshelf.core.legs.importing import dumps_in_order, import_dumps, told_import
from highshelf.core.legs.job import Ask, Job, More, Result
from highshelf.core.legs.timed import TimedFetch
from highshelf.core.legs.witnessing import from_text, to_text
from highshelf.core.pages.page import Page
from highshelf.core.walk.importing import TRIED
from highshelf.core.walk.moves import (
    IMPORTED,
    Import,
    Turn,
    signature_of,
)

# What an operator is asked for where the host cannot be.
BY_HAND = "import.by-hand"


def bring_in(job: Job, fetch: TimedFetch, move: Import, page: Page, state: dict[str, Any]) -> Result:
    """Import the dumps; the page is asked again, and what they made is none of the installer's making."""
    state = {**state, "tried": sorted({*state.get("tried", []), TRIED})}
    try:
        came = import_dumps(job, move.paths)
    except ImportFailedError as fault:
        job.say(f"{fault.message}; going on without")
        job.journal.keep("walk", "converse", state)
        return More()
    if came is None:
        job.journal.keep("walk", "converse", {**state, "by_hand": list(move.paths)})
        return Ask(BY_HAND, _told_by_hand(job, dumps_in_order(job, move.paths)), ("it is imported",))
    if not state.get("start"):
        job.journal.keep("walk", "converse", state)
        job.say(told_import(came, move.why))
        return More()
    job.say(told_import(came, move.why))
    first = from_text(job.values.get("walk.sight-first") or "")
    job.values.set("walk.sight-first", to_text(replace(first, tables=came["tables"])), secret=True)
    turn = Turn(signature_of("import", *move.paths), IMPORTED + ", ".join(move.paths), page.title)
    return arrived(
        job,
        fetch,
        fetch.get(page.url),
        {**state, "history": [*state.get("history", []), asdict(turn)], "imported": list(move.paths)},
    )


def _told_by_hand(job: Job, paths: Sequence[str]) -> str:
    """What a person has to do where nobody on the host can be asked to import."""
    name = job.values.get("database.name") or ""
    insists = [d for d in job.findings.dump_databases if d != name]
    change = f" It chooses a database called {insists[0]}: put {name} in its place." if insists else ""
    return (
        f"The application wants its tables first, and nobody on this host can be asked to import them. Please import {', then '.join(paths)} "
        f"into the database {name}, in the panel or from your own machine.{change} Is it done?"
    )


def brought_by_hand(job: Job, fetch: TimedFetch, state: dict[str, Any]) -> Result:
    """An operator says that the tables are there: the page is asked again."""
    paths = state["by_hand"]
    state = {**state, "by_hand": None}
    if not state.get("start"):
        job.journal.keep("walk", "converse", state)
        return More()
    turn = Turn(signature_of("import", *paths), IMPORTED + ", ".join(paths), "")
    snapshot = fetch.get(job.values.get("walk.url") or state["start"])
    return arrived(job, fetch, snapshot, {**state, "history": [*state["history"], asdict(turn)]})
