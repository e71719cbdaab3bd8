"""What every part of the conversation needs: what is known, what the host shows, and a page that has arrived."""

from __future__ import annotations

import posixpath
import time
from dataclasses import asdict, replace
from typing import Any
from urllib.parse import urlsplit

from highshelf.core.legs.job import Job, More, Result
from highshelf.core.legs.opening import most_open
from highshelf.core.legs.switching import may_switch
from highshelf.core.legs.timed import TimedFetch
from highshelf.core.legs.witnessing import count_tables, from_text, look, php_log, to_text
from highshelf.core.pages.judgement import praises
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.values import ASK
from highshelf.core.walk.finds import shown_once, told_to_remove
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.logins import published_login, told_name, told_password
from highshelf.core.walk.moves import (
    Turn,
)
from highshelf.core.walk.witness import Witness, compare

MOST_SAID, MOST_SAID_BYTES = 20, 500


def knowledge(job: Job, state: dict[str, Any], witness: Witness | None = None) -> Knowledge:
    names = ("site.", "admin.", "database.", "licence.", "setup.", "field.", "accept.", "press.")
    values = {n: v for n, v in job.values.all().items() if n.startswith(names)}
    asks = frozenset(n for n, v in job.plan.settings.items() if v == ASK)
    accepted = frozenset(n for n, v in values.items() if n.startswith("accept.") and v == "yes")
    presses = tuple(job.primer.presses) if job.primer else ()
    starts = (*job.findings.installers, *job.findings.setting_up)
    paths = tuple(urlsplit(job.place.url(installer_url(p))).path for p in starts)
    kinds = job.findings.dump_kinds()
    return Knowledge(
        values,
        job.place.address,
        paths,
        accepted,
        presses,
        asks,
        frozenset(state.get("stood", [])),
        witness or Witness(),
        tried=frozenset(state.get("tried", [])),
        folders=frozenset(f for p in job.contents.paths() for f in _up(posixpath.dirname(p))),
        samples=job.findings.samples,
        root=job.place.base,
        files=frozenset(job.contents.paths()),
        most_open=most_open(job),
        tunes=job.plan.tunes,
        switches=may_switch(job),
        collations=tuple(dict.fromkeys(d.value for d in job.findings.details if d.what == "collation")),
        fills=tuple(p for p in job.contents.paths() if p.lower().endswith(".sql") and p not in job.findings.dumps),
        given=frozenset(job.plan.settings),
        taken={t.field: t for t in job.findings.fields},
        dumps={path: kinds.get(path, "") for path in job.findings.dumps},
    )


def _up(folder: str) -> list[str]:
    """A folder of the release and those above it, "" last."""
    parts = folder.split("/") if folder else []
    return ["/".join(parts[:n]) for n in range(len(parts), -1, -1)]


def installer_url(path: str) -> str:
    return path.removesuffix("index.php") if path.endswith("/index.php") else path


def witness_of(job: Job, *, tables: bool = False, log: bool = False) -> Witness:
    """What came about since the walk began and since its last move."""
    before, last, now = (from_text(job.values.get(f"walk.sight-{when}") or "") for when in ("first", "before", "now"))
    if tables:
        now = replace(now, tables=count_tables(job))
    return compare(before, last, now, php_log(job) if log else ())


def see(job: Job, when: str, *, tables: bool = False) -> None:
    """Keep what the host shows at this moment."""
    sight = look(job)
    if tables:
        sight = replace(sight, tables=count_tables(job))
    job.values.set(f"walk.sight-{when}", to_text(sight), secret=True)


def see_what_came(job: Job) -> None:
    """Look anew; what was seen before is what the last move is compared with."""
    last = job.values.get("walk.sight-now") or job.values.get("walk.sight-first") or ""
    job.values.set("walk.sight-before", last, secret=True)
    see(job, "now")


def count_as_old(job: Job, inside: str) -> None:
    first, there = from_text(job.values.get("walk.sight-first") or ""), job.files().stat(job.place.path(inside))
    if first.files is not None and there is not None:
        files = {**first.files, inside: (there.size_bytes, there.mode)}
        job.values.set("walk.sight-first", to_text(replace(first, files=files)), secret=True)


def intend(job: Job, state: dict[str, Any], turn: Turn) -> None:
    job.journal.intend("walk", "converse", {**state, "pending": asdict(turn)})


def arrived(job: Job, fetch: TimedFetch, snapshot: Snapshot, state: dict[str, Any]) -> Result:
    state = {**state, "answered": round(fetch.seconds, 4), "arrived": round(time.time(), 4)}
    state["paths"] = sorted({*state.get("paths", []), urlsplit(snapshot.url).path})
    job.values.set("walk.cookies", fetch.cookies(), secret=True)
    job.values.set("walk.page", snapshot.to_json(), secret=True)
    # An address may carry what a form sent by GET: into the journal go signatures and titles only.
    job.values.set("walk.url", snapshot.url, secret=True)
    page = read(snapshot)
    keep_finds(job, page, state)
    state["to_remove"] = sorted({*state.get("to_remove", []), *told_to_remove(page, job.findings.installer_entries())})
    if praises(page) and lexicon().says("removal", page.text):
        # What is asked for where all went well is done when tidying, wherever the conversation goes from here.
        state["praised"] = [t[:MOST_SAID_BYTES] for t in page.told if lexicon().says("removal", t)][:MOST_SAID]
    what = f"walk-{len(state['history']):02d}"
    job.evidence(what, snapshot)
    if state.get("browser"):
        job.picture(what)
    job.journal.keep("walk", "converse", {**state, "pending": None})
    odd = snapshot.status >= 400
    return More(f"page “{page.title or snapshot.url}” with status {snapshot.status}" if odd else "")


def keep_finds(job: Job, page: Page, state: dict[str, Any]) -> None:
    """Keep what is shown once, and a login the installer publishes, before anything else can go wrong."""
    for label, text in shown_once(page):
        if text not in job.values.secrets():
            number = 1 + sum(1 for n in job.values.all() if n.startswith("once."))
            job.values.set(f"once.{number}", text, secret=True)
            job.values.set(f"once-label.{number}", label)
            job.say(f"kept in the strongbox, since it is shown only once: {label}")
    if "admin.password" not in state.get("used", []) and (found := published_login(page)):
        job.values.set("published.name", found[0])
        job.values.set("published.password", found[1], secret=True)
    elif "admin.password" not in state.get("used", []) and (made := told_password(page)):
        job.values.set("told.password", made, secret=True)
        job.say("kept in the strongbox: the administrator's password that the installer made")
    if "admin.name" not in state.get("used", []) and (whose := told_name(page)):
        job.values.set("told.name", whose)
