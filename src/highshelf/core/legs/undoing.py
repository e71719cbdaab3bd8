"""Undo of a finished installation: the inverses of the job that made it, newest first; what changed since is kept, never thrown away.

Rules:
1. What was planned is looked at again: more that has changed since than the plan told ends the job before anything is touched.
2. One inverse a step, journalled with the job that made it: whatever is cut off goes on where it was, also in another job.
3. Where anything changed since the proof, or somebody wants it kept, the files go aside as they stand (with their modes, rules and without
   the installer) and the database stays, until somebody says `remove` or brings it back.
4. An inverse that fails is told and does not hold up the others, but for that of the swap, which ends the job; the job fails at its
   end, and another one tries it again.
5. Said to be gone is what was looked for and not found.
"""

from __future__ import annotations

import posixpath
from typing import Any

from highshelf.core.errors import CancelledError, HighShelfError, NoRoomError, PausedError, SupersededError, TargetError
from highshelf.core.legs.job import Act, Done, Job, More, Result
from highshelf.core.legs.registry import act_of
from highshelf.core.legs.standing import changes
from highshelf.core.legs.trees import entries_or_none, holding_folder, remove_tree

# What an inverse takes back, for people.
WORDS = {
    "installer-aside": "the installer's way out",
    "converse": "what was opened and set for the installer",
    "swap": "the files at their place",
    "carry": "the archive",
    "hold": "the holding folder",
    "packages": "the packages that were brought",
    "create-user": "the database user",
    "create-database": "the database",
}
# The journal's words for an act.
UNDONE, RESISTS = "undone", "undo-failed"


def copy_folder(job: Job) -> str:
    """Where the files of an installation wait that was taken down after it had changed: as its holding folder, of another name."""
    above, name = posixpath.split(holding_folder(job))
    return posixpath.join(above, name.replace(".hs-hold-", ".hs-copy-"))


def compare(job: Job) -> Result:
    """What changed since the proof, once more."""
    if any(noted.state == UNDONE for noted in job.earlier_acts()):
        return Done("an earlier undo went part of the way: this one goes on where it stopped")
    with job.earlier("survey") as made:
        now = changes(made)
    if now is None:
        return Done("nobody wrote down how it stood when it was proven: its files and its database are kept")
    if now and not job.plan.keeps_copy:
        raise TargetError(
            f"it has changed since the plan was made: {now.told}",
            hint="make a new plan with `--changed-too`: its files and its database are kept then",
        )
    return Done(f"changed since the proof: {now.told}" if now else "everything stands as it was proven")


def take_back(job: Job) -> Result:
    """The next inverse."""
    for noted in job.earlier_acts():
        if noted.state == UNDONE or noted.name in _failed(job):
            continue
        if job.plan.keeps_copy and noted.leg in ("database", "tidy"):
            continue
        if job.plan.kind == "remove" and noted.leg != "database":
            # Its files are gone, and what these did was done to them.
            with job.earlier(noted.leg) as made:
                made.journal.mark(noted.leg, noted.name, UNDONE)
            continue
        act = act_of(noted.leg, noted.name)
        if act is None or act.undo is None or not noted.facts:
            with job.earlier(noted.leg) as made:
                made.journal.mark(noted.leg, noted.name, UNDONE)
            continue
        return _take_back(job, act, noted.leg, dict(noted.facts))
    if failed := _failed(job):
        raise TargetError(
            f"{len(failed)} could not be taken back: {', '.join(failed)}",
            hint="the log says why; mend it, and undo the installation again",
        )
    return Done("everything that the installation did is taken back" + _kept_told(job))


def _failed(job: Job) -> dict[str, str]:
    found: dict[str, str] = job.journal.facts("undo", "take-back").get("failed", {})
    return found


def _kept_told(job: Job) -> str:
    return ", but for the database, which stays with its user" if job.plan.keeps_copy else ""


def _take_back(job: Job, act: Act, leg: str, facts: dict[str, Any]) -> Result:
    assert act.undo is not None
    try:
        with job.earlier(leg) as made:
            if act.name == "converse" and job.plan.keeps_copy:
                facts = _outside_the_files(made, facts)
            act.undo(made, facts)
            if act.name == "swap" and job.plan.keeps_copy:
                _put_by(job, made)
            made.journal.mark(leg, act.name, UNDONE)
    except (NoRoomError, SupersededError, CancelledError, PausedError):
        raise
    except HighShelfError as fault:
        # What comes after it would take away what waits to be put back, or to be kept.
        if fault.retryable or act.name == "swap":
            raise
        failed = {**_failed(job), act.name: fault.message}
        job.journal.keep("undo", "take-back", {"failed": failed})
        return More(f"could not take back {WORDS.get(act.name, act.name)}: {fault.message}")
    return More(f"taken back: {WORDS.get(act.name, act.name)}")


def _outside_the_files(made: Job, facts: dict[str, Any]) -> dict[str, Any]:
    """What was set for the installer elsewhere than in the files that are kept as they stand: in the panel, at a folder that stays."""
    stays = not made.journal.facts("place", "swap").get("whole")
    opened = {i: f for i, f in facts.get("opened", {}).items() if stays and posixpath.normpath(i or ".") == "."}
    there = made.files().stat(made.place.target) if opened else None
    if there is not None and there.mode is not None and "root_mode" not in facts:
        made.journal.keep("walk", "converse", {**facts, "root_mode": there.mode})
    return {"opened": opened, "switched": facts.get("switched", [])}


def _put_by(job: Job, made: Job) -> None:
    """The holding folder, with everything that was taken out in it, becomes the copy; the inverse of holding finds none then."""
    hold, copy = holding_folder(made), copy_folder(made)
    if made.files().stat(copy) is None and made.files().stat(hold) is not None:
        made.files().rename(hold, copy)
    job.say(f"its files are kept in {copy}")


def gone(job: Job) -> Result:
    """Look whether it is gone, and write it down."""
    with job.earlier("survey") as made:
        left = [*_files_left(made), *([] if job.plan.keeps_copy else _databases_left(made))]
        copy = copy_folder(made) if made.files().stat(copy_folder(made)) is not None else ""
    job.taken_back({"left": left, "kept_in": copy})
    if copy:
        told = f"taken down; its files are kept in {copy}, its database stays"
    else:
        told = "looked for and not found any more: " + ", ".join(_wanted(made)) if not left else "not all of it is gone"
    return Done(told + (f"; left: {', '.join(left)}" if left else ""), {"left": left, "kept_in": copy})


def _wanted(made: Job) -> list[str]:
    """What was looked for."""
    database = str(made.journal.facts("database", "create-database").get("whole", ""))
    return [
        f"its files in {made.place.target or 'the document root'}",
        *([f"the database {database}"] if database else []),
    ]


def _files_left(made: Job) -> list[str]:
    """What still stands of it: its folder, or names in the document root that came with it."""
    facts, place = made.journal.facts("place", "swap"), made.place
    if not facts:
        return []
    if facts["whole"]:
        there = made.files().stat(place.target) is not None
        return [place.target] if there and not facts["old_whole"] else []
    before = set(facts["before"].get("", []))
    names = {e.name for e in entries_or_none(made.files(), place.target) or []}
    came = {path.split("/", 1)[0] for path in facts["come"]} - before
    return [posixpath.join(place.target, n) for n in sorted(names & came)]


def _databases_left(made: Job) -> list[str]:
    database = made.journal.facts("database", "create-database")
    if database.get("by_hand"):
        return [f"the database {database['whole']}, which was made by hand"]
    whole = str(database.get("whole", ""))
    return [f"the database {whole}"] if whole and whole in made.panel().databases() else []


def drop_copy(job: Job) -> Result:
    """The files that were kept go for good."""
    with job.earlier("place") as made:
        copy, hold = copy_folder(made), holding_folder(made)
        if made.files().stat(copy) is None and made.files().stat(hold) is not None:
            raise TargetError(
                f"it was brought back part of the way: the rest waits in {hold}",
                hint="bring it back whole first (`highshelf installation restore`), then undo it",
            )
        if made.files().stat(copy) is None:
            return Done("no files of it are kept on the host any more")
        remove_tree(made, copy)
        if made.files().stat(copy) is not None:
            raise TargetError(f"{copy} is still there after it was removed", hint="remove it by hand, and try again")
    return Done(f"{copy} is removed")


SURVEY = (Act("compare", compare),)
UNDO = (Act("take-back", take_back), Act("gone", gone))
REMOVE = (Act("drop-copy", drop_copy), *UNDO)
