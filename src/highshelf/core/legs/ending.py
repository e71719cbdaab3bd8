"""How the conversation ends: the site is looked at once more, and the login that works is written down."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any
from urllib.parse import urljoin, urlsplit

from highshelf.core.legs.conversing import arrived, installer_url, knowledge
from highshelf.core.legs.editing import edit_what_is_asked
from highshelf.core.legs.job import Done, Job, More, Result
from highshelf.core.legs.opening import open_places
from highshelf.core.legs.timed import TimedFetch
from highshelf.core.pages.page import Page
from highshelf.core.pages.purposes import says_login
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.tidy.asked import wishes
from highshelf.core.values import ASK, left_over
from highshelf.core.walk.beginning import installing
from highshelf.core.walk.decide import decide
from highshelf.core.walk.moves import (
    Finished,
    Open,
    Submit,
    Turn,
)


def last_page(job: Job) -> Page | None:
    """The page at which the conversation stands; None for an application that never showed one of an installer."""
    kept = job.values.get("walk.page")
    return read(Snapshot.from_json(kept)) if kept else None


def finish(job: Job, fetch: TimedFetch, move: Finished, state: dict[str, Any]) -> Result:
    """Look at the site once more: some installers go on there (an update of the schema, a second part)."""
    stood = last_page(job)
    snapshot = fetch.get(job.place.address)
    page = read(snapshot)
    if page.status >= 400 and edit_what_is_asked(
        job, fetch, knowledge(job, state), [page, *([stood] if stood else [])]
    ):
        snapshot = fetch.get(job.place.address)
        page = read(snapshot)
    following = decide(page, knowledge(job, state), [Turn(**t) for t in state["history"]])
    if isinstance(following, Open):
        # The application itself says where it cannot write: the next look is at the same page, in another step.
        state, _ = open_places(job, following, page, state)
        job.journal.keep("walk", "converse", state)
        return More()
    goes_on = isinstance(following, Submit) and installing(page) and says_login(page) is None
    inside = any(
        urlsplit(snapshot.url).path.startswith(urlsplit(urljoin(job.place.address, installer_url(p))).path)
        for p in job.findings.installers
    )
    if goes_on and not inside and page.status < 400:
        return arrived(job, fetch, snapshot, state)
    if (
        "admin.password" not in state.get("used", [])
        and not job.values.get("published.password")
        and job.findings.published_login
    ):
        # No page told one, and none was asked for: what the release's own texts tell everybody is all there can be.
        name, word = job.findings.published_login
        job.values.set("published.name", name)
        job.values.set("published.password", word, secret=True)
    if job.values.get("published.password") and "admin.password" not in state.get("used", []):
        job.values.set("admin.name", job.values.get("published.name") or "")
        job.values.set("admin.password", job.values.get("published.password") or "", secret=True)
        job.values.set("admin.published", "yes")
    if (made := job.values.get("told.password")) and "admin.password" not in state.get("used", []):
        job.values.set("admin.password", made, secret=True)
    asked = wishes(
        (*state.get("praised", []), *(stood.told if stood else ()), *page.told),
        frozenset(job.contents.paths()),
        job.findings.installer_entries(),
    )
    state = {**state, "wishes": asdict(asked)}
    job.values.set("walk.ended", urlsplit(job.values.get("walk.url") or "")._replace(query="").geturl())
    for name in (
        "walk.cookies",
        "walk.page",
        "walk.url",
        "walk.sight-first",
        "walk.sight-before",
        "walk.sight-stood",
        "walk.sight-now",
        "walk.logs",
    ):
        job.values.set(name, "", secret=True)
    _tell_left_over(job, state)
    turns = len(state["history"])
    return Done(f"walked through {turns} page{'s' if turns != 1 else ''}: {move.why}", {**state, "pending": None})


def _tell_left_over(job: Job, state: dict[str, Any]) -> None:
    """Say which values of the operator's nobody asked for: they stand nowhere."""
    fields = [name for name, value in job.values.all().items() if name.startswith("field.") and value]
    given = [name for name, value in job.plan.settings.items() if value not in ("", ASK)]
    filled = job.journal.facts("configure", "fill-samples").get("made", [])
    used = {*state.get("used", []), *(value for made in filled for value in made["filled"])}
    if left := left_over({*given, *fields}, used):
        job.say(f"given, but nothing here asked for it: {', '.join(left)}")
