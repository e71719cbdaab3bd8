"""Letting PHP write where the installer needs it: as far as works, noted before it is done, and closed again afterwards."""

from __future__ import annotations

import posixpath
from typing import Any

from highshelf.core.errors import TransferError
from highshelf.core.legs.job import Job
from highshelf.core.pages.page import Page
from highshelf.core.walk.moves import OPENED, Open, Turn, signature_of
from highshelf.core.walk.opening import MOST_PLACES, mark_of

# What each step adds to the modes of a folder and of a file: for their owner, their group, everybody.
STEPS = {1: (0o700, 0o600), 2: (0o070, 0o060), 3: (0o007, 0o006)}
WHOM = {1: "its owner", 2: "its group", 3: "everybody"}
USUAL_FOLDER, USUAL_FILE = 0o755, 0o644


def most_open(job: Job) -> int:
    """How far places may be opened: where PHP is the login's own user, nobody else has to write."""
    return 1 if job.values.get("host.other_user") == "no" else 3


def opens_writable(job: Job, state: dict[str, Any]) -> Open | None:
    """The places that the release is known to write to, where PHP is another user: the next step of opening them, or None."""
    places = (
        tuple(p for p in job.findings.writable if p)[:MOST_PLACES] if job.values.get("host.other_user") == "yes" else ()
    )
    for step in range(1, most_open(job) + 1):
        if left := tuple(p for p in places if mark_of(p, step) not in state.get("tried", [])):
            return Open(left, (), step, "the release writes there")
    return None


def open_places(job: Job, move: Open, page: Page, state: dict[str, Any]) -> tuple[dict[str, Any], bool]:
    """Open them one step further.

    Returns:
        the conversation's state with what was opened, and whether anything has changed on the host.
    """
    tried = sorted({*state.get("tried", []), *(mark_of(p, move.step) for p in move.paths)})
    opened: dict[str, dict[str, Any]] = dict(state.get("opened", {}))
    if move.step == 0:
        return _for_a_while(job, move, {**state, "tried": tried}), False
    orders: list[tuple[str, int]] = []
    made: list[str] = []
    for inside in move.paths:
        path = job.place.path(inside)
        there = job.files().stat(path)
        if there is None:
            made.append(inside)
        is_file = there is not None and there.kind == "file"
        usual = USUAL_FILE if is_file else USUAL_FOLDER
        was = usual if there is None or there.mode is None else there.mode
        # A step that did not help is not kept beside the next one.
        first = opened.get(inside, {}).get("was", was)
        wanted = first | STEPS[1][is_file] | STEPS[move.step][is_file]
        if wanted != was or there is None:
            orders.append((inside, wanted))
            opened.setdefault(inside, {"was": was, "passing": inside in move.passing})
    turn = Turn(signature_of("open", move.step, *move.paths), OPENED + ", ".join(move.paths), page.title)
    state = {**state, "tried": tried, "opened": opened}
    if not orders:
        return state, False
    job.journal.intend("walk", "converse", state)
    try:
        for inside in made:
            job.files().make_folder(job.place.path(inside))
        for inside, mode in orders:
            job.files().chmod(job.place.path(inside), mode)
    except TransferError as fault:
        job.say(f"modes cannot be changed here: {fault.message}")
        return state, False
    names = ", ".join(f"{inside or 'the folder of the installation'} ({mode:o})" for inside, mode in orders)
    job.say(f"the installer may not write there ({move.why}): {names} opened for {WHOM[move.step]}")
    return {**state, "history": [*state.get("history", []), turn.__dict__]}, True


def _for_a_while(job: Job, move: Open, state: dict[str, Any]) -> dict[str, Any]:
    """What was opened as far as it goes and did not help as far as the page shows: tidying closes it again."""
    opened: dict[str, dict[str, Any]] = state.get("opened", {})
    vain = {inside: {**fact, "passing": True} for inside, fact in opened.items() if inside in move.paths}
    if vain:
        names = ", ".join(inside or "the folder of the installation" for inside in vain)
        job.say(f"the check stays red though {names} is open for {WHOM[most_open(job)]}: closed again when tidying")
    return {**state, "opened": opened | vain}


def close_places(job: Job, facts: dict[str, Any]) -> None:
    """Give everything that was opened the mode that it had, as far as it is still there."""
    for inside, fact in facts.get("opened", {}).items():
        if job.files().stat(job.place.path(inside)) is not None:
            close(job, inside, fact["was"])


def close(job: Job, inside: str, mode: int) -> None:
    """Give a place its mode back, and look whether it has it: a system takes the bit that hands the group on (setgid) away from a
    folder of a group that the login is not in, whenever its mode is changed (chmod(2)), and nobody but the host can give it back."""
    path = job.place.path(inside).rstrip("/")
    job.files().chmod(path, mode)
    there = job.files().stat(path)
    if there is not None and there.mode is not None and there.mode != mode:
        job.say(
            f"{path} had the mode {mode:o} and has {there.mode:o} now: the host gives this login no other; ask it to set {mode:o}"
        )


def passing_places(facts: dict[str, Any]) -> dict[str, int]:
    """What was opened only for the installer to write a file there: path inside -> the mode it had."""
    return {inside: fact["was"] for inside, fact in facts.get("opened", {}).items() if fact["passing"]}


def staying_places(facts: dict[str, Any]) -> list[str]:
    return [posixpath.normpath(inside) for inside, fact in facts.get("opened", {}).items() if not fact["passing"]]
