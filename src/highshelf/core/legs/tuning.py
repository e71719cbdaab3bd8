"""PHP settings of the site, in the file that PHP reads in its folder, and the time until PHP looks at it."""

from __future__ import annotations

import posixpath
import time
from dataclasses import asdict
from typing import Any

from highshelf.core.errors import TransferError
from highshelf.core.legs.job import Job, More, Result
from highshelf.core.legs.timed import TimedFetch
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import OPENED, Tune, Turn, signature_of
from highshelf.core.walk.tuning import mark_of, tuned

FILE = ".user.ini"
# PHP keeps what it found in a folder for `user_ini.cache_ttl`, 300 s by default, in each of its processes; idle ones end, and new ones look.
PAUSES_SECONDS = (1.0, 3.0, 25.0, 45.0, 60.0, 90.0, 90.0)
# After this none of them can still hold what stood there before (`user_ini.cache_ttl`, and a margin).
HELD_SECONDS = 330.0


def tune(job: Job, move: Tune, page: Page, state: dict[str, Any]) -> tuple[dict[str, Any], bool]:
    """Write the settings.

    Returns:
        the conversation's state, and whether they were written.
    """
    state = {**state, "tried": sorted({*state.get("tried", []), *(mark_of(name) for name, _ in move.settings)})}
    inside = posixpath.join(job.findings.web_folder, FILE) if job.findings.web_folder else FILE
    path = job.place.path(inside)
    there = job.files().stat(path)
    ours = state.get("tuned", {}).get("file") == inside or inside in job.contents.paths()
    if there is not None and not ours:
        job.say(f"{path} is somebody else's and stays as it is; these PHP settings are wanted: {_in_words(move)}")
        return state, False
    text = job.files().read(path).decode(errors="surrogateescape") if there is not None else ""
    lines = "".join(f"{name} = {value}\n" for name, value in move.settings)
    made = {
        "file": inside,
        "new": there is None or state.get("tuned", {}).get("new", False),
        "names": sorted({*state.get("tuned", {}).get("names", []), *(name for name, _ in move.settings)}),
        "at": round(time.time(), 1),
    }
    state = {**state, "tuned": made}
    job.journal.intend("walk", "converse", state)
    try:
        content = text + ("" if not text or text.endswith("\n") else "\n") + lines
        job.files().write(path, content.encode(errors="surrogateescape"), 0o644)
    except TransferError as fault:
        job.say(f"PHP settings cannot be made here: {fault.message}")
        return state, False
    job.say(f"PHP settings for this site, in {path}: {_in_words(move)}")
    turn = Turn(signature_of("tune", *move.settings), OPENED + "PHP settings", page.title)
    return {**state, "history": [*state.get("history", []), asdict(turn)], "tuning": 0}, True


def _in_words(move: Tune) -> str:
    return ", ".join(f"{name} = {value}" for name, value in move.settings)


def await_settings(job: Job, fetch: TimedFetch, url: str, state: dict[str, Any]) -> Result | None:
    """Look whether PHP has taken them; None when it has, or will not any more."""
    turn = int(state["tuning"])
    if turn >= len(PAUSES_SECONDS):
        job.say("PHP has not taken the settings: this host may not read such files")
        return None
    job.cancel.rest(PAUSES_SECONDS[turn])
    page = read(fetch.get(url))
    asked = tuned(page, Knowledge(job.values.all(), job.place.address))
    if asked is None:
        return None
    if turn == 2:
        job.say("PHP looks at its settings again within five minutes: waiting")
    job.journal.keep("walk", "converse", {**state, "tuning": turn + 1})
    return More()


def await_once_more(job: Job, page: Page, state: dict[str, Any]) -> Result | None:
    """What was seen to be taken is too low again: another of PHP's processes has answered, and holds what it found before. None when not."""
    made = state.get("tuned") or {}
    asked = tuned(page, Knowledge(job.values.all(), job.place.address)) if made.get("taken") else None
    if asked is None or not {name for name, _ in asked.settings} <= set(made["names"]):
        return None
    if time.time() - made["at"] > HELD_SECONDS:
        return None
    job.journal.keep("walk", "converse", {**state, "tuning": 1})
    return More("another of PHP's processes still goes by the old settings: asking again")


def take_settings_away(job: Job, facts: dict[str, Any]) -> None:
    """The file goes where it was made for this; what the release brought is the placing's to take back."""
    made = facts.get("tuned") or {}
    if made.get("new") and job.files().stat(job.place.path(made["file"])) is not None:
        job.files().remove(job.place.path(made["file"]))
