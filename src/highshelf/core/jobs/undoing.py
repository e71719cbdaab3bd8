"""What undoing an installation would do, act by act, from the journal of the job that made it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from highshelf.core.legs.job import Noted
from highshelf.core.legs.registry import act_of
from highshelf.core.plan import Plan, PlannedAct

# What a person would do in place of an inverse, by act; what is not here is told by the act's own words.
BY_HAND = {
    "swap": "remove the application's files, put back what was renamed out of its way",
    "create-database": "delete the database in the panel",
    "create-user": "delete the database user in the panel",
    "converse": "set modes, PHP's settings and extensions back to what they were",
    "hold": "remove the folder that the files waited in",
}


def planned_undo(plan: Plan, acts: Sequence[Noted], *, keeps_copy: bool) -> tuple[PlannedAct, ...]:
    """In the order in which it would be done.

    Args:
        acts: what the job did, the newest first.
    """
    found = [PlannedAct("survey", "look once more what has changed since the proof", "compare with your notes")]
    for noted in acts:
        act = act_of(noted.leg, noted.name)
        if act is None or act.undo is None or not noted.facts or noted.name not in BY_HAND:
            continue
        if (keeps_copy and noted.leg == "database") or (noted.name == "converse" and not _touched(noted.facts)):
            continue
        found.append(PlannedAct("undo", _what(plan, noted.name, noted.facts, keeps_copy), BY_HAND[noted.name]))
    if keeps_copy:
        found.append(PlannedAct("undo", "leave the database and its user as they are", "nothing"))
    return (
        *found,
        PlannedAct("undo", "look whether it is gone", "open the address, look through the folder and the panel"),
    )


def _touched(facts: dict[str, Any]) -> bool:
    """Whether anything was opened, set or switched for the installer."""
    return bool(facts.get("opened") or (facts.get("tuned") or {}).get("new") or facts.get("switched"))


def _what(plan: Plan, name: str, facts: dict[str, Any], keeps_copy: bool) -> str:
    if name == "swap":
        back = "; what stood there before comes back" if facts.get("aside") or facts.get("old_whole") else ""
        done = "move the files aside, and keep them" if keeps_copy else "take the files out"
        return f"{done}: {plan.target}{back}"
    if name in ("create-database", "create-user"):
        whole = facts.get("whole", "")
        if name == "create-user":
            return f"drop the database user {whole}"
        if facts.get("by_hand"):
            return f"leave the database {whole}, made by hand"
        return f"drop the database {whole}: nothing was written into it since the proof"
    if name == "converse":
        return "set back what was changed for the installer: modes, settings, extensions"
    return "remove the holding folder"


def planned_removal(copy: str, database: str) -> tuple[PlannedAct, ...]:
    """What removing a copy would do."""
    found = [PlannedAct("undo", f"remove the files kept in {copy}, for good", f"delete {copy}")]
    if database:
        found.append(
            PlannedAct("undo", f"drop the database {database} and its user, for good", BY_HAND["create-database"])
        )
    return (*found, PlannedAct("undo", "look whether it is gone", "look through the folder and the panel"))


def planned_restore(target: str, kept_in: str, database: str, switched: Sequence[str]) -> tuple[PlannedAct, ...]:
    """What bringing a kept one back would do."""
    place = target or "the document root"
    acts = [
        PlannedAct("survey", "look whether all of it is there, and nothing in its way", "look through the folder"),
        PlannedAct("place", f"move the files from {kept_in} back to {place}", "move them, hidden ones too"),
    ]
    if switched:
        names = ", ".join(switched)
        acts.append(PlannedAct("place", f"switch PHP's {names} on again", "switch it on in the panel"))
    return (*acts, *planned_recheck(database=bool(database)))


def planned_recheck(*, database: bool) -> tuple[PlannedAct, ...]:
    """What looking at an installation once more would look at."""
    looks = [
        ("open the front page, and a page that is not there", "open both with a browser"),
        ("sign in as the administrator, and be refused with a wrong password", "sign in and out"),
        *([("count the tables of the database", "look into it in the panel")] if database else []),
        ("compare every file with how it stood when it was proven", "compare listings, or a fresh copy of the release"),
        ("fetch what nobody should be able to fetch, ask for lists of folders", "try such addresses with a browser"),
    ]
    return tuple(PlannedAct("prove", what, by_hand) for what, by_hand in looks)
