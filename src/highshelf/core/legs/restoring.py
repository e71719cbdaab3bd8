"""Bring back an installation whose files and database were kept when it was taken down.

Rules:
1. Nothing is overwritten: where anything stands that did not step aside for it before, it does not come back.
2. What moves is told by where it is now: a job that is cut off goes on where it was. What waits is somebody's site: it is never listed
   among what is left over, which others clear away.
3. What stepped aside for it steps aside again. Modes, rules and the installer's absence came along with the files, which were kept as they
   stood; what was switched in the panel is switched again.
4. Whether it works is for the looks that follow to say.
"""

from __future__ import annotations

import posixpath
from collections.abc import Iterator
from typing import Any

from highshelf.core.errors import HighShelfError, TargetError
from highshelf.core.legs.job import Act, Done, Job, Result
from highshelf.core.legs.swapping import aside_again, link_again, make_if_missing, make_kept_folder
from highshelf.core.legs.trees import entries_or_none, holding_folder, remove_tree
from highshelf.core.legs.undoing import UNDONE, copy_folder

DONE = "done"
BESIDE = "undone-beside"


def can_come_back(job: Job) -> Result:
    """Look whether all of it is there, and nothing in its way."""
    with job.earlier("place") as made:
        facts, files = made.journal.facts("place", "swap"), made.files()
        where = _waits_in(made)
        if not where:
            if all(noted.state != UNDONE for noted in job.earlier_acts()):
                return Done("an earlier job brought it back already: looking at it once more")
            raise TargetError(
                f"{copy_folder(made)} is not there any more: nothing can be brought back",
                hint="install it anew; its database, if it is there, can be taken with `--database`",
            )
        if taken := [p for p in _back(made, facts, where) if _in_the_way(made, facts, p)]:
            shown = ", ".join(sorted(taken)[:3]) + (", …" if len(taken) > 3 else "")
            raise TargetError(f"{shown} stands where it would come back", hint="it is not touched: move it away first")
        if facts["whole"] and not facts["old_whole"] and files.stat(made.place.target) is not None:
            raise TargetError(
                f"{made.place.target} stands where it would come back", hint="it is not touched: move it away first"
            )
    whole = str(job.earlier_facts("database", "create-database").get("whole", ""))
    with job.earlier("database") as made:
        if whole and whole not in made.panel().databases():
            raise TargetError(
                f"its database {whole} is not there any more", hint="without it the files would show an error"
            )
    return Done("its files and its database are there, and nothing stands in their way")


def _waits_in(made: Job) -> str:
    """The folder that its files wait in, "" when there is none: once it has begun, that is the holding folder."""
    for folder in (holding_folder(made), copy_folder(made)):
        if made.files().stat(folder) is not None:
            return folder
    return ""


def _back(made: Job, facts: dict[str, Any], where: str) -> Iterator[str]:
    """What comes back into a folder that was never ours alone, as paths below the target."""
    if facts["whole"]:
        return
    shared = set(facts["before"])
    for folder in sorted(shared, key=lambda f: (f.count("/") + bool(f), f)):
        for entry in entries_or_none(made.files(), posixpath.join(where, "undone", folder).rstrip("/")) or []:
            path = posixpath.join(folder, entry.name)
            if path not in shared:
                yield path


def _in_the_way(made: Job, facts: dict[str, Any], path: str) -> bool:
    stands = made.files().stat(posixpath.join(made.place.target, path)) is not None
    return stands and path not in facts["aside"]


def bring_back(job: Job) -> Result:
    """Everything to its place."""
    with job.earlier("place") as made:
        files, hold, copy = made.files(), holding_folder(made), copy_folder(made)
        if files.stat(hold) is None and files.stat(copy) is not None:
            files.rename(copy, hold)
        if files.stat(hold) is None:
            return Done("its files are back at their place already")
        facts = made.journal.facts("place", "swap")
        count = _whole_back(made, facts) if facts["whole"] else _each_back(made, facts)
        left = _left_in(made, facts)
        if left:
            raise TargetError(
                f"{', '.join(left[:5])} could not come back and waits in {hold}",
                hint="nothing is lost: look at it, and bring it back again",
            )
        remove_tree(made, hold)
    return Done(f"back at {made.place.target or 'the document root'}: {count}")


def _whole_back(made: Job, facts: dict[str, Any]) -> str:
    files, place, hold = made.files(), made.place, holding_folder(made)
    undone, apart = posixpath.join(hold, "undone"), posixpath.join(hold, "apart")
    waits = apart if place.apart else undone
    for parent in facts["made"]:
        make_if_missing(made, parent)
    if facts["old_whole"] and files.stat(waits) is not None and files.stat(place.target) is not None:
        make_kept_folder(made, facts["kept"])
        files.rename(place.target, posixpath.join(facts["kept"], "whole"))
    if place.apart:
        if files.stat(apart) is not None:
            files.rename(apart, place.apart)
        link_again(made, facts)
    elif files.stat(undone) is not None:
        files.rename(undone, place.target)
    return "its folder, in one move"


def _each_back(made: Job, facts: dict[str, Any]) -> str:
    files, place, hold = made.files(), made.place, holding_folder(made)
    aside_again(made, facts)
    for entry in entries_or_none(files, posixpath.join(hold, BESIDE)) or []:
        files.rename(posixpath.join(hold, BESIDE, entry.name), posixpath.join(place.beside_root, entry.name))
    count = 0
    for path in list(_back(made, facts, hold)):
        files.rename(posixpath.join(hold, "undone", path), posixpath.join(place.target, path))
        count += 1
    if place.apart:
        if files.stat(posixpath.join(hold, "apart")) is not None:
            files.rename(posixpath.join(hold, "apart"), place.apart)
        link_again(made, facts)
    return "1 entry" if count == 1 else f"{count} entries"


def _left_in(made: Job, facts: dict[str, Any]) -> list[str]:
    """What of the installation still waits."""
    hold, files = holding_folder(made), made.files()
    if facts["whole"]:
        return [n for n in ("undone", "apart") if files.stat(posixpath.join(hold, n)) is not None]
    beside = [e.name for e in entries_or_none(files, posixpath.join(hold, BESIDE)) or []]
    return [*_back(made, facts, hold), *beside]


def set_again(job: Job) -> Result:
    """What the panel and the folder itself were set to for it, and the journal's word that it stands."""
    told = []
    walked = job.earlier_facts("walk", "converse")
    with job.earlier("walk") as made:
        for name in walked.get("switched", []):
            try:
                if made.panel().extensions().get(name) is False:
                    made.panel().switch(name, on=True)
                    told.append(f"PHP's {name} switched on again")
            except HighShelfError as fault:
                job.say(f"PHP's {name} was not switched on again: {fault.message}")
        if (mode := walked.get("root_mode")) is not None:
            made.files().chmod(made.place.target, mode)
            told.append(f"{made.place.target} given the mode {mode:o} again")
        for noted in job.earlier_acts():
            if noted.state == UNDONE:
                made.journal.mark(noted.leg, noted.name, DONE)
    job.stands_again()
    return Done("; ".join(told) if told else "nothing else had been set for it")


SURVEY = (Act("can-come-back", can_come_back),)
PLACE = (Act("bring-back", bring_back), Act("set-again", set_again))
