"""Where the files of an installation stand, of all that stands around them, and what its database holds."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace

from highshelf.core.errors import CancelledError, HighShelfError, PausedError, SupersededError
from highshelf.core.legs.configure import database_login
from highshelf.core.legs.job import Done, Job, Result
from highshelf.core.legs.tidy import ensure_holding
from highshelf.core.legs.trees import REMOVAL_LANES, holding_folder, remove_tree, strange_names
from highshelf.core.placing.standing import TABLE, Since, Stand, files_of, since, stand_of, tables_of
from highshelf.core.ports import helper_traces

# What lies in a holding folder while a database is asked.
OURS = {"login.json", "slice.gz", ".htaccess"}


def folders_of(job: Job) -> dict[str, list[str]]:
    """The folders in which the job's own stands, as the transfer login sees them -> names in each that are somebody else's."""
    place, facts = job.place, job.journal.facts("place", "swap")
    found = {place.target: strange_names(job)}
    if place.apart:
        found[place.apart] = []
    for name in facts.get("beside") or []:
        found[posixpath.join(place.beside_root, name)] = []
    return found


def stands(job: Job) -> Stand:
    """Every file of the installation that the job made, now; without the helper that looks at the database meanwhile."""
    there = stand_of(job.lanes(REMOVAL_LANES), folders_of(job), job.cancel)
    helpers = {trace for path in job.leftovers() for trace in helper_traces(path)}
    return {path: one for path, one in there.items() if path not in helpers}


@contextmanager
def asking(job: Job) -> Iterator[None]:
    """Has a holding folder meanwhile: the helper that is asked about the database reads the login from a file in it."""
    folder = holding_folder(job)
    if job.way.name.startswith("shell") or (job.files().stat(folder) is not None and not _left_behind(job, folder)):
        yield
        return
    job.outstanding(folder)
    try:
        ensure_holding(job)
        yield
    finally:
        remove_tree(job, folder)
        job.gone(folder)


def _left_behind(job: Job, folder: str) -> bool:
    """Whether the folder is one that an asking left that was cut off, with nothing of anybody's in it."""
    return folder in job.leftovers() and {entry.name for entry in job.files().entries(folder)} <= OURS


def tables(job: Job) -> Stand | None:
    """What the tables of its database hold now; None where nobody could look into all of them."""
    if job.plan.database == "none":
        return {}
    with asking(job):
        answer = database_login(job, rows=True)
    if answer is None or not answer["ok"]:
        return None
    # PHP writes an empty list where a dictionary is empty.
    rows = dict(answer.get("rows") or {})
    return tables_of(rows) if set(rows) == set(answer["tables"]) else None


def note_stand(job: Job) -> Result:
    """Write down how everything stands now that it is proven: whoever undoes it later is told what has changed since."""
    try:
        there, held = stands(job), tables(job)
    except (CancelledError, PausedError, SupersededError):
        raise
    except HighShelfError as fault:
        if fault.retryable:
            raise
        # It stands and is proven: that nobody can compare it later takes nothing from it.
        return Done(f"how it stands was not written down, and an undo will keep its files: {fault.message}")
    job.keep_stand({**there, **(held or {})})
    counted = f", and what is in {len(held)} tables" if held else ""
    return Done(f"written down how {len(files_of(there))} files stand{counted}")


def changes(job: Job) -> Since | None:
    """What has changed since it was proven; None when nobody wrote down how it stood."""
    then = job.stand()
    if then is None:
        return None
    held = tables(job)
    had = any(path.startswith(TABLE) for path in then)
    if job.plan.database == "none" or (had and held is not None):
        return since(then, {**stands(job), **(held or {})})
    why = "nobody on this host could be asked" if held is None else "its tables were not looked at when it was proven"
    files = since(files_of(then), stands(job))
    return replace(files, unseen=f"whether anything was written into its database cannot be told ({why})")
