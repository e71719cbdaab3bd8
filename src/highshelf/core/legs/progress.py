"""How far each leg of a job is, told from its journal."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Literal

from highshelf.core.jobs.kinds import kind_of

LegState = Literal[
    "to-come", "running", "resting", "waiting", "done", "failed", "cut-off", "undone", "not-reached", "not-needed"
]
ENDED = ("done", "failed", "cancelled")


@dataclass(frozen=True)
class LegProgress:
    """One leg: its state, and how many of its acts are done."""

    name: str
    state: LegState
    acts_done: int
    acts: int


def progress_of(
    states: Mapping[tuple[str, str], str],
    *,
    job: str,
    failed_in: str = "",
    asks_in: str = "",
    database: bool = True,
    plan: Collection[str] = (),
    kind: str = "install",
) -> list[LegProgress]:
    """The legs of its kind in order.

    `states` are the journal's, by leg and act; `job` is the job's state; `failed_in` and `asks_in` name a leg or are "";
    `plan` names what its plan has: other jobs' acts do not count.
    """
    found, what = [], kind_of(kind)
    for leg in what.legs:
        own = [states.get((leg, act.name), "") for act in what.acts[leg] if not act.when or act.when in plan]
        state = _state(leg, own, job, failed_in, asks_in)
        if leg == "database" and not database and state != "failed":
            state = "not-needed"
        found.append(LegProgress(leg, state, own.count("done"), len(own)))
    return found


def _state(leg: str, own: list[str], job: str, failed_in: str, asks_in: str) -> LegState:
    if leg == failed_in:
        return "failed"
    begun = [s for s in own if s]
    if any(s.startswith("undo") for s in begun):
        return "undone"
    if len(begun) == len(own) and all(s == "done" for s in own):
        return "done"
    if job in ENDED or failed_in:
        # Begun and not ended: cut off when the other leg failed, or left as it is because somebody said so.
        return "cut-off" if begun else "not-reached"
    if leg == asks_in:
        return "waiting"
    if job == "paused" and begun:
        return "resting"
    return "running" if begun else "to-come"
