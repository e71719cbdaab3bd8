"""How the conversation begins: where the installer is, and what has to be there before it says anything."""

from __future__ import annotations

import posixpath
from collections.abc import Sequence
from typing import Any

from highshelf.core.errors import WalkError
from highshelf.core.legs.bringing import bring_in
from highshelf.core.legs.browsing import begin_there
from highshelf.core.legs.configuring import fill_samples
from highshelf.core.legs.conversing import arrived, installer_url, knowledge, see
from highshelf.core.legs.ending import finish
from highshelf.core.legs.job import Ask, Job, More, Result
from highshelf.core.legs.looking import CACHED_SECONDS, LINK_SECONDS
from highshelf.core.legs.opening import open_places, opens_writable
from highshelf.core.legs.switching import switch_on
from highshelf.core.legs.timed import TimedFetch
from highshelf.core.legs.witnessing import mark_logs, php_log, strange_files
from highshelf.core.pages.judgement import judge
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.release.names import real_name
from highshelf.core.walk.beginning import begins, installing, told_addresses
from highshelf.core.walk.decide import decide
from highshelf.core.walk.ending import said_first
from highshelf.core.walk.importing import wanted_import
from highshelf.core.walk.moves import (
    Finished,
    Move,
    Stuck,
)
from highshelf.core.walk.switching import switched
from highshelf.core.walk.witness import Witness

CONFIGURED = "configure"
# Addresses at which an installer is looked for, and from which on a page tells why it does not begin.
MOST_STARTS, TELLS = 12, 2


def begin(job: Job, fetch: TimedFetch, state: dict[str, Any]) -> Result:
    """Find the installer: the primer's address, the site's own (which often leads there), what the release has, what pages tell."""
    routes = () if job.primer and job.primer.installer else job.findings.installer_routes
    starts = (
        [job.primer.installer]
        if job.primer and job.primer.installer
        else ["", *job.findings.installers, *job.findings.setting_up]
    )
    files = [job.place.url(installer_url(start)) for start in starts]
    urls = list(dict.fromkeys([*files, *(job.place.route(installer_url(r)) for r in routes)]))
    if not state:
        mark_logs(job)
        # Before anything is asked: some installers make files at the first look.
        see(job, "stood")
    seen: list[tuple[Page, Move, Snapshot]] = []
    for url in urls:
        snapshot = fetch.get(url)
        page = read(snapshot)
        move = decide(page, knowledge(job, {}), [])
        if begins(page, move):
            by_hand = bool(job.journal.facts("database", "create-database").get("by_hand"))
            see(job, "first", tables=by_hand)
            return arrived(job, fetch, snapshot, {"history": [], **state, "pending": None, "start": url})
        seen.append((page, move, snapshot))
        urls += [told for told in told_addresses(page) if told not in urls and told.startswith(job.place.address)][:3]
        if len(seen) > MOST_STARTS:
            break
    return _not_begun(job, fetch, seen, state)


def _configured_first(
    job: Job, fetch: TimedFetch, seen: Sequence[tuple[Page, Move, Snapshot]], state: dict[str, Any]
) -> Result | None:
    """Applications that say nothing, or little, until a configuration is there, or the tables: both are brought, once, and all is asked again.

    What a page, or PHP's log behind it, names is filled; where nothing is named, the sample, if there is no installer to wait for.
    """
    tried = state.get("tried", [])
    # An installer that answers is walked, or tells why not: a configuration would only shut it.
    answers = any(installing(p) and p.status < 400 and (p.forms or p.checks or p.needs_script) for p, _, _ in seen)
    if CONFIGURED not in tried and job.findings.samples and not job.plan.configure and not answers:
        said = " ".join((*(p.text for p, _, _ in seen), *(f for p, _, _ in seen for f in p.php_faults), *php_log(job)))
        real = {real_name(s): s for s in job.findings.samples}
        named = [r for r, s in real.items() if posixpath.basename(r) in said or posixpath.basename(s) in said]
        state = {**state, "tried": [*tried, CONFIGURED]}
        if named or not (job.findings.installers or job.findings.installer_routes):
            made = fill_samples(job, named)
            used = sorted({*state.get("used", []), *(value for m in made for value in m["filled"])})
            if made:
                job.journal.keep("walk", "converse", {**state, "made": [m["file"] for m in made], "used": used})
                return More()
    front = seen[0][0]
    logged = php_log(job) if front.status >= 500 or not front.text else ()
    move = wanted_import(front, knowledge(job, state, Witness(log=logged)), blocked=True)
    if move is not None:
        return bring_in(job, fetch, move, front, {"history": [], **state, "pending": None})
    ready = front.status < 400 and front.text and not front.fatal and not front.complaints() and not front.needs_script
    if (job.plan.configure or state.get("made")) and ready and judge(front).outcome != "failure":
        return finish(
            job,
            fetch,
            Finished("the application answers with the configuration that was made"),
            {"history": [], **state},
        )
    return None


def _not_begun(
    job: Job, fetch: TimedFetch, seen: Sequence[tuple[Page, Move, Snapshot]], state: dict[str, Any]
) -> Result:
    """No page leads on: the one that says most of why is kept and told."""
    if (waits := _old_code(job, seen[0][0], state)) is not None:
        return waits
    if (there := begin_there(job, seen, state)) is not None:
        return there
    if (mended := _configured_first(job, fetch, seen, state)) is not None:
        return mended
    if (missed := _missed(job, seen, state)) is not None:
        return missed
    if (opens := opens_writable(job, state)) is not None:
        # What says nothing at all may only lack the places that its own sources write to.
        state, _ = open_places(job, opens, seen[0][0], state)
        job.journal.keep("walk", "converse", state)
        return More()
    page, move, snapshot = max(seen, key=lambda one: _tells(*one[:2]))
    job.evidence("walk-begin", snapshot)
    why = move.why if isinstance(move, Stuck) else page.title or said_first(page) or "an empty page"
    logged = php_log(job) if not page.text or page.status >= 500 else ()
    log = f" (PHP's error log: {logged[-1][:300]})" if logged else ""
    if page.fatal:
        raise WalkError(why, hint="does the release fit this PHP version?", page=page.url)
    if isinstance(move, Finished) or (isinstance(move, Stuck) and _tells(page, move) >= TELLS):
        raise WalkError(
            f"the installer does not begin: {why}{log}",
            hint="mend what the page says, and install again",
            page=page.url,
        )
    raise WalkError(
        f"no installer was found (last look: {page.url}: status {page.status}, {page.title or 'no title'}){log}",
        hint="give its address in a primer (installer: …), or walk through it by hand",
    )


def _missed(job: Job, seen: Sequence[tuple[Page, Move, Snapshot]], state: dict[str, Any]) -> Result | None:
    """PHP stopped at something that an extension brings, and the panel may have a switch for it."""
    front = seen[0][0]
    log = php_log(job) if front.status >= 500 or not front.text else ()
    know = knowledge(job, state, Witness(log=log))
    move = next((m for page, _, _ in seen if (m := switched(page, know)) is not None), None)
    if move is None:
        return None
    answer = switch_on(job, move, front, state)
    if isinstance(answer, Ask):
        return answer
    job.journal.keep("walk", "converse", answer[0])
    return More()


def _old_code(job: Job, front: Page, state: dict[str, Any]) -> Result | None:
    """PHP may still hold the code of what stood at this address before: it is asked again, longer where its log names such a file."""
    if front.status < 500 and (front.text or front.status >= 400):
        return None
    waited: float = state.get("waited", 0.0)
    foreign = strange_files(job)
    # Once its log has named such a file, a log that cannot be read for a moment says nothing else.
    named_once = bool(foreign or state.get("foreign"))
    if waited >= (LINK_SECONDS if named_once else CACHED_SECONDS):
        return None
    if not waited:
        why = f" of {foreign[0]}, which is none of this release" if foreign else ""
        job.say(f"the first page is broken; PHP may still hold old code{why}: asking again")
    job.cancel.rest(CACHED_SECONDS)
    job.journal.keep("walk", "converse", {**state, "waited": waited + CACHED_SECONDS, "foreign": named_once})
    return More()


def _tells(page: Page, move: Move) -> int:
    """How much a page says of why the installer does not begin."""
    judged = judge(page)
    if page.fatal:
        return 4
    if isinstance(move, Stuck) and judged.against and page.status < 404:
        return 3
    return TELLS if installing(page) and page.text and page.status < 404 else 0
