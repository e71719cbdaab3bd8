"""The conversation moves into a browser where pages are nothing without their scripts, and stays there to its end."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from highshelf.core.errors import BrowserError, FetchError
from highshelf.core.legs.conversing import arrived, knowledge, see
from highshelf.core.legs.job import Job, More, Result
from highshelf.core.legs.timed import TimedFetch
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.beginning import begins
from highshelf.core.walk.browsing import SEEMS_OVER, looks_left, wants_browser
from highshelf.core.walk.decide import decide
from highshelf.core.walk.moves import Move, Stuck

# A page that goes on changing is looked at again so often in all.
MOST_CHANGES = 300


def line_of(job: Job, state: dict[str, Any]) -> TimedFetch:
    """What asks for pages: the browser once the conversation has moved there."""
    fetch = TimedFetch(job.browser() if state.get("browser") else job.fetch())
    fetch.restore(job.values.get("walk.cookies") or "")
    return fetch


def over_http(job: Job, fetch: TimedFetch) -> TimedFetch:
    """The same conversation without a browser, for what is only to be fetched."""
    plain = TimedFetch(job.fetch())
    plain.restore(fetch.cookies())
    return plain


def lost(job: Job, state: dict[str, Any]) -> bool:
    """Whether the browser's page went away since the last step: a restart, or a person who took their time."""
    return bool(state.get("browser") and state.get("start") and not job.browser().live)


def enter(job: Job, page: Page, move: Move, state: dict[str, Any]) -> Result | None:
    """Go on with this page in a browser where that may help; None where it may not, or there is none."""
    why = "" if state.get("browser") else wants_browser(page, move)
    if not why or job.browser().missing:
        return None
    job.say(f"{why}: going on in a browser")
    state = {**state, "browser": True}
    talk = line_of(job, state)
    return arrived(job, talk, talk.get(page.url), state)


def begin_there(
    job: Job, seen: Sequence[tuple[Page, Move, Snapshot]], state: dict[str, Any]
) -> Result | None:  # fmt: skip
    """The first of these addresses at which an installer begins once its scripts run."""
    if state.get("browser") is not None:
        return None
    wanted = [page for page, move, _ in seen if wants_browser(page, move)]
    if not wanted or job.browser().missing:
        return None
    there = {**state, "browser": True}
    talk = line_of(job, there)
    for page in {p.url: p for p in wanted}.values():
        try:
            snapshot = talk.get(page.url)
        except (BrowserError, FetchError) as fault:
            job.say(f"the browser cannot show {page.url}: {fault.message}")
            continue
        shown = read(snapshot)
        for _ in range(SEEMS_OVER):
            if begins(shown, decide(shown, knowledge(job, {}), [])):
                break
            # Its script may still be at work.
            job.cancel.rest(1.0)
            snapshot = talk.look()
            shown = read(snapshot)
        if begins(shown, decide(shown, knowledge(job, {}), [])):
            job.say(f"{wants_browser(page, Stuck('')) or 'its scripts are needed'}: going on in a browser")
            see(job, "first", tables=bool(job.journal.facts("database", "create-database").get("by_hand")))
            return arrived(job, talk, snapshot, {"history": [], **there, "pending": None, "start": page.url})
    job.browser().leave()
    job.journal.keep("walk", "converse", {**state, "browser": False})
    return None


def look_again(job: Job, talk: TimedFetch, page: Page, move: Move, state: dict[str, Any]) -> Result | None:
    """A page in a browser may go on by itself: it is looked at again for a while before it counts as the end."""
    looks, changes = state.get("looks", 0), state.get("changes", 0)
    if not state.get("browser") or changes >= MOST_CHANGES or not looks_left(page, move, looks):
        return None
    job.cancel.rest(1.0)
    snapshot = talk.look()
    if snapshot.html == Snapshot.from_json(job.values.get("walk.page") or "{}").html:
        job.journal.keep("walk", "converse", {**state, "looks": looks + 1})
        return More()
    return arrived(job, talk, snapshot, {**state, "looks": 0, "changes": changes + 1, "looked": -1})
