"""Walk: the conversation with the installer, one move a step, each of them journalled before it is made."""

from __future__ import annotations

import posixpath
import time
from collections.abc import Sequence
from dataclasses import asdict, replace
from typing import Any
from urllib.parse import urlencode, urljoin, urlsplit

from highshelf.core.errors import ImportFailedError, WalkError
from highshelf.core.legs.configuring import fill_samples
from highshelf.core.legs.editing import edit_what_is_asked
from highshelf.core.legs.importing import import_dumps, told_import
from highshelf.core.legs.job import Act, Ask, Done, Job, More, Result
from highshelf.core.legs.opening import close_places, most_open, open_places, opens_writable
from highshelf.core.legs.timed import TimedFetch
from highshelf.core.legs.tuning import await_settings, take_settings_away, tune
from highshelf.core.legs.witnessing import count_tables, from_text, look, mark_logs, php_log, to_text
from highshelf.core.pages.judgement import judge
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read, says_login
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.release.names import real_name
from highshelf.core.values import ASK, CATALOGUE, generate_password, in_form
from highshelf.core.walk.beginning import begins, installing, told_addresses
from highshelf.core.walk.decide import decide
from highshelf.core.walk.ending import said_first, said_here
from highshelf.core.walk.finds import published_login, shown_once, told_to_remove
from highshelf.core.walk.importing import TRIED, wanted_import
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import (
    IMPORTED,
    PLACED,
    Adapt,
    AskFor,
    Finished,
    Follow,
    Import,
    Move,
    Open,
    PlaceFile,
    Stuck,
    Submit,
    Tune,
    Turn,
    signature_of,
)
from highshelf.core.walk.offers import added, is_page
from highshelf.core.walk.witness import Witness, compare

MAX_TURNS = 60
EDITED, CONFIGURED = "edit", "configure"
# What an operator is asked for where the host cannot be.
BY_HAND = "import.by-hand"
# Addresses at which an installer is looked for, and from which on a page tells why it does not begin.
MOST_STARTS, TELLS = 12, 2


def converse(job: Job) -> Result:
    """Make the next move."""
    state = job.journal.facts("walk", "converse")
    fetch = TimedFetch(job.fetch())
    fetch.restore(job.values.get("walk.cookies") or "")
    if state.get("by_hand") and job.values.get(BY_HAND):
        return _brought_by_hand(job, fetch, state)
    if state.get("tuning") is not None:
        url = job.values.get("walk.url") or state["start"]
        if (waits := await_settings(job, fetch, url, state)) is not None:
            return waits
        return _arrived(job, fetch, fetch.get(url), {**state, "tuning": None})
    if not state.get("start"):
        return _begin(job, fetch, state)
    if state.get("pending"):
        # Cut off between sending and noting the answer. The page where we stood tells whether the move took effect:
        # when it offers the same move again it did not, or asking again does no harm.
        job.say("the last move was cut off; looking at the page again")
        _see(job, "now")
        return _arrived(
            job,
            fetch,
            fetch.get(job.values.get("walk.url") or state["start"]),
            {**state, "pending": None, "resumed": True},
        )
    history = [Turn(**t) for t in state["history"]]
    if len(history) > MAX_TURNS:
        raise WalkError(
            f"the installer has not ended after {MAX_TURNS} pages",
            hint="walk through it by hand; the files and the database are ready",
        )
    page = read(Snapshot.from_json(job.values.get("walk.page") or ""))
    _keep_finds(job, page, state)
    witness = _witness(job)
    move = decide(page, _knowledge(job, state, witness), history)
    if isinstance(move, Finished | Stuck) and history:
        # The end is near: now the host is asked whatever it can say.
        if state.get("looked") != len(history):
            _see_what_came(job)
        witness = _witness(job, tables=True, log=isinstance(move, Stuck) and (page.status >= 500 or not page.text))
        move = decide(page, _knowledge(job, state, witness), history)
    _remark(job, page, move, _knowledge(job, state, witness), state)
    return _make(job, fetch, move, page, state)


def _remark(job: Job, page: Page, move: Move, know: Knowledge, state: dict[str, Any]) -> None:
    """Keep with the page how it was judged, what is done on it and what the host has seen; names of values, never values."""
    number = len(state["history"])
    judged = judge(page, know.is_new)
    facts = {
        "topic": judged.topic,
        "state": judged.state,
        "outcome": judged.outcome,
        "confidence": round(judged.confidence, 2),
        "speaks_for": [s[:200] for s in judged.speaks_for[:5]],
        "against": [s[:200] for s in judged.against[:5]],
        "did": _in_words(move),
        "filled": list(move.filled) if isinstance(move, Submit) else [],
        "witness": know.witness.told(),
        "answered_seconds": state.get("answered", 0.0),
        "arrived": state.get("arrived", 0.0),
    }
    job.remark(f"walk-{number:02d}", facts)


def _in_words(move: Move) -> str:
    match move:
        case Submit():
            return f"pressed {move.button or 'Enter'}"
        case Follow():
            return f"followed {move.label or move.url}"
        case AskFor():
            return f"asked for {move.value}" if not move.make else f"made up {move.value}"
        case Adapt():
            return f"gave {move.value} in another form ({move.how.split()[0]}): {move.why}"
        case PlaceFile():
            return f"put {move.name} there"
        case Open():
            return (
                f"let PHP write to {', '.join(p or 'the root' for p in move.paths)} (step {move.step} of 3): {move.why}"
            )
        case Tune():
            return f"set {', '.join(name for name, _ in move.settings)} of PHP: {move.why}"
        case Import():
            return f"brought {', '.join(move.paths)} into the database: {move.why}"
        case Finished():
            return f"ended: {move.why}"
        case Stuck():
            return f"stuck: {move.why}"


def _witness(job: Job, *, tables: bool = False, log: bool = False) -> Witness:
    """What came about since the walk began and since its last move."""
    before, last, now = (from_text(job.values.get(f"walk.sight-{when}") or "") for when in ("first", "before", "now"))
    if tables:
        now = replace(now, tables=count_tables(job))
    return compare(before, last, now, php_log(job) if log else ())


def _begin(job: Job, fetch: TimedFetch, state: dict[str, Any]) -> Result:
    """Find the installer: the primer's address, the site's own (which often leads there), what the release has, what pages tell."""
    starts = (
        [job.primer.installer]
        if job.primer and job.primer.installer
        else ["", *job.findings.installers, *job.findings.installer_routes]
    )
    urls = [job.place.url(_installer_url(start)) for start in starts]
    if not state:
        mark_logs(job)
        # Before anything is asked: some installers make files at the first look.
        _see(job, "stood")
    seen: list[tuple[Page, Move, Snapshot]] = []
    for url in urls:
        snapshot = fetch.get(url)
        page = read(snapshot)
        move = decide(page, _knowledge(job, {}), [])
        if begins(page, move):
            by_hand = bool(job.journal.facts("database", "create-database").get("by_hand"))
            _see(job, "first", tables=by_hand)
            return _arrived(job, fetch, snapshot, {"history": [], **state, "pending": None, "start": url})
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
            if made:
                job.journal.keep("walk", "converse", {**state, "made": [m["file"] for m in made]})
                return More()
    front = seen[0][0]
    logged = php_log(job) if front.status >= 500 or not front.text else ()
    move = wanted_import(front, _knowledge(job, state, Witness(log=logged)), blocked=True)
    if move is not None:
        return _bring_in(job, fetch, move, front, {"history": [], **state, "pending": None})
    ready = front.status < 400 and front.text and not front.fatal and not front.complaints() and not front.needs_script
    if (job.plan.configure or state.get("made")) and ready and judge(front).outcome != "failure":
        return _finish(
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
    if (mended := _configured_first(job, fetch, seen, state)) is not None:
        return mended
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


def _tells(page: Page, move: Move) -> int:
    """How much a page says of why the installer does not begin."""
    judged = judge(page)
    if page.fatal:
        return 4
    if isinstance(move, Stuck) and judged.against and page.status < 404:
        return 3
    return TELLS if installing(page) and page.text and page.status < 404 else 0


def _installer_url(path: str) -> str:
    return path.removesuffix("index.php") if path.endswith("/index.php") else path


def _knowledge(job: Job, state: dict[str, Any], witness: Witness | None = None) -> Knowledge:
    names = ("site.", "admin.", "database.", "licence.", "setup.", "field.", "accept.")
    values = {n: v for n, v in job.values.all().items() if n.startswith(names)}
    asks = frozenset(n for n, v in job.plan.settings.items() if v == ASK)
    accepted = frozenset(n for n, v in values.items() if n.startswith("accept.") and v == "yes")
    presses = tuple(job.primer.presses) if job.primer else ()
    paths = tuple(urlsplit(job.place.url(_installer_url(p))).path for p in job.findings.installers)
    kinds = {d.where.rpartition(":")[0] or d.where: d.value for d in job.findings.details if d.what == "dump-kind"}
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
        dumps={path: kinds.get(path, "") for path in job.findings.dumps},
    )


def _up(folder: str) -> list[str]:
    """A folder of the release and those above it, "" last."""
    parts = folder.split("/") if folder else []
    return ["/".join(parts[:n]) for n in range(len(parts), -1, -1)]


def _see_what_came(job: Job) -> None:
    """Look anew; what was seen before is what the last move is compared with."""
    last = job.values.get("walk.sight-now") or job.values.get("walk.sight-first") or ""
    job.values.set("walk.sight-before", last, secret=True)
    _see(job, "now")


def _count_as_old(job: Job, inside: str) -> None:
    first, there = from_text(job.values.get("walk.sight-first") or ""), job.files().stat(job.place.path(inside))
    if first.files is not None and there is not None:
        files = {**first.files, inside: (there.size_bytes, there.mode)}
        job.values.set("walk.sight-first", to_text(replace(first, files=files)), secret=True)


def _see(job: Job, when: str, *, tables: bool = False) -> None:
    """Keep what the host shows at this moment."""
    sight = look(job)
    if tables:
        sight = replace(sight, tables=count_tables(job))
    job.values.set(f"walk.sight-{when}", to_text(sight), secret=True)


def _make(job: Job, fetch: TimedFetch, move: Move, page: Page, state: dict[str, Any]) -> Result:
    match move:
        case Submit():
            turn = Turn(move.signature, move.button, page.title, move.form, bool(move.filled))
            _intend(job, state, turn)
            given = _told([v for _, v in move.filled])
            job.say(f"“{page.title or page.url}”: press {move.button or 'Enter'}" + (f" with {given}" if given else ""))
            if move.method == "post":
                snapshot = fetch.post(move.url, move.fields, multipart=move.multipart)
            else:
                snapshot = fetch.get(urlsplit(move.url)._replace(query=urlencode(move.fields)).geturl())
            if move.filled:
                _see_what_came(job)
                state = {**state, "looked": len(state["history"]) + 1}
            state = {**state, "stood": sorted({*state.get("stood", []), *map(signature_of, said_here(page))})}
            used = sorted(set(state.get("used", [])) | {v for _, v in move.filled})
            return _arrived(job, fetch, snapshot, {**state, "history": [*state["history"], asdict(turn)], "used": used})
        case Follow():
            turn = Turn(move.signature, move.label, page.title)
            _intend(job, state, turn)
            state = {**state, "stood": sorted({*state.get("stood", []), *map(signature_of, said_here(page))})}
            if move.wait_seconds:
                job.cancel.rest(move.wait_seconds)
            job.say(f"“{page.title or page.url}”: follow {move.label or move.url}")
            return _arrived(job, fetch, fetch.get(move.url), {**state, "history": [*state["history"], asdict(turn)]})
        case Adapt():
            current = job.values.get(move.value) or ""
            mail, port = job.values.get("admin.email") or "", job.values.get("database.port") or ""
            given = in_form(move.how, current, mail=mail, port=port)
            job.values.set(move.value, given, secret=CATALOGUE[move.value].secret)
            job.say(f"the installer refuses {move.value} (“{move.why}”): given in another form ({move.how.split()[0]})")
            job.journal.keep(
                "walk", "converse", {**state, "tried": [*state.get("tried", []), f"{move.value} {move.how}"]}
            )
            return More()
        case AskFor() if move.again and move.again not in state.get("tried", []):
            job.journal.keep("walk", "converse", {**state, "tried": [*state.get("tried", []), move.again]})
            job.values.set(move.value, "", secret=move.secret)
            return Ask(move.value, move.text, move.options, move.secret)
        case AskFor() if move.make:
            # It opens the installer and is of no use afterwards; the sheet has it all the same.
            job.values.set(move.value, generate_password(), secret=True)
            job.say(f"the installer wants a word of its own ({move.value}): made up and kept in the strongbox")
            return More()
        case AskFor():
            return Ask(move.value, move.text, move.options, move.secret)
        case PlaceFile():
            return _place_file(job, fetch, move, page, state)
        case Open():
            state, changed = open_places(job, move, page, state)
            if changed:
                return _arrived(job, fetch, fetch.get(page.url), state)
            job.journal.keep("walk", "converse", state)
            return More()
        case Tune():
            state, changed = tune(job, move, page, state)
            if changed:
                # What was written by us is none of the installer's making.
                _count_as_old(job, state["tuned"]["file"])
            job.journal.keep("walk", "converse", state)
            return More()
        case Import():
            return _bring_in(job, fetch, move, page, state)
        case Finished():
            return _finish(job, fetch, move, state)
        case Stuck() if state.get("resumed") and state["history"]:
            # A wizard with one address for all its steps shows its first one to whoever comes back.
            job.say("the installer does not go on from here after the interruption; starting it again")
            return _arrived(job, fetch, fetch.get(state["start"]), {**state, "history": [], "resumed": False})
        case Stuck() if page.status >= 400 and EDITED not in state.get("tried", []):
            # The application may only want one of its settings changed, and says which.
            state = {**state, "tried": [*state.get("tried", []), EDITED]}
            if edit_what_is_asked(job, fetch, _knowledge(job, state), [page]):
                return _arrived(job, fetch, fetch.get(page.url), state)
            job.journal.keep("walk", "converse", state)
            return More()
        case Stuck():
            job.evidence("walk-stuck", Snapshot.from_json(job.values.get("walk.page") or ""))
            blamed = f" (this seems to be about {', '.join(move.blame)})" if move.blame else ""
            raise WalkError(
                move.why + blamed, hint="the page is kept with the job; everything placed was taken back", page=page.url
            )


def _intend(job: Job, state: dict[str, Any], turn: Turn) -> None:
    job.journal.intend("walk", "converse", {**state, "pending": asdict(turn)})


def _arrived(job: Job, fetch: TimedFetch, snapshot: Snapshot, state: dict[str, Any]) -> Result:
    state = {**state, "answered": round(fetch.seconds, 4), "arrived": round(time.time(), 4)}
    state["paths"] = sorted({*state.get("paths", []), urlsplit(snapshot.url).path})
    job.values.set("walk.cookies", fetch.cookies(), secret=True)
    job.values.set("walk.page", snapshot.to_json(), secret=True)
    # An address may carry what a form sent by GET: into the journal go signatures and titles only.
    job.values.set("walk.url", snapshot.url, secret=True)
    page = read(snapshot)
    _keep_finds(job, page, state)
    state["to_remove"] = sorted({*state.get("to_remove", []), *told_to_remove(page, job.findings.installer_entries())})
    job.evidence(f"walk-{len(state['history']):02d}", snapshot)
    job.journal.keep("walk", "converse", {**state, "pending": None})
    odd = snapshot.status >= 400
    return More(f"page “{page.title or snapshot.url}” with status {snapshot.status}" if odd else "")


def _told(values: list[str]) -> str:
    """`database (host, name), admin (name)` for the values' names."""
    groups: dict[str, list[str]] = {}
    for value in dict.fromkeys(values):
        group, _, name = value.partition(".")
        groups.setdefault(group, []).append(name)
    return ", ".join(f"{group} ({', '.join(names)})" for group, names in groups.items())


def _keep_finds(job: Job, page: Page, state: dict[str, Any]) -> None:
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


def _place_file(job: Job, fetch: TimedFetch, move: PlaceFile, page: Page, state: dict[str, Any]) -> Result:
    """The installer could not write its configuration: put the text it shows where it belongs, readable by its owner alone."""
    name = posixpath.normpath(move.name).lstrip("/")
    if name.startswith(".."):
        raise WalkError(f"the installer names a file outside the installation: {move.name}")
    content = move.content
    if move.source:
        snapshot = fetch.get(move.source)
        content = snapshot.html
        if snapshot.status >= 400 or not content.strip() or is_page(content):
            raise WalkError(
                f"the installer offers {name}, but its address answers with {'a page' if is_page(content) else f'status {snapshot.status}'}",
                hint="make the file by hand, and install again",
            )
    stood = from_text(job.values.get("walk.sight-stood") or "").files or {}
    if name in stood and name not in job.contents.paths():
        # What was there before the walk is neither the release's nor the installer's.
        raise WalkError(
            f"the installer wants {name} written, and a file of this name stood there before",
            hint="move it away, or install into a folder of its own",
        )
    turn = Turn(move.signature, PLACED + name, page.title)
    _intend(job, state, turn)
    path = job.place.path(name)
    # Bytes of any character set come back as they were.
    there = "" if job.files().stat(path) is None else job.files().read(path).decode(errors="surrogateescape")
    content = added(there, content)
    # PHP that runs as another user can read no file that is its owner's alone.
    mode = 0o644 if job.values.get("host.other_user") == "yes" else 0o600
    job.files().write(path, content.encode(errors="surrogateescape"), mode)
    job.say(f"the installer could not write {name}; it was put there over the file transfer")
    return _arrived(job, fetch, fetch.get(page.url), {**state, "history": [*state["history"], asdict(turn)]})


def _bring_in(job: Job, fetch: TimedFetch, move: Import, page: Page, state: dict[str, Any]) -> Result:
    """Import the dumps; the page is asked again, and what they made is none of the installer's making."""
    state = {**state, "tried": sorted({*state.get("tried", []), TRIED})}
    try:
        came = import_dumps(job, move.paths)
    except ImportFailedError as fault:
        job.say(f"{fault.message}; going on without")
        job.journal.keep("walk", "converse", state)
        return More()
    if came is None:
        job.journal.keep("walk", "converse", {**state, "by_hand": list(move.paths)})
        return Ask(BY_HAND, _told_by_hand(job, move.paths), ("it is imported",))
    if not state.get("start"):
        job.journal.keep("walk", "converse", state)
        job.say(told_import(came, move.why))
        return More()
    job.say(told_import(came, move.why))
    first = from_text(job.values.get("walk.sight-first") or "")
    job.values.set("walk.sight-first", to_text(replace(first, tables=came["tables"])), secret=True)
    turn = Turn(signature_of("import", *move.paths), IMPORTED + ", ".join(move.paths), page.title)
    return _arrived(
        job,
        fetch,
        fetch.get(page.url),
        {**state, "history": [*state.get("history", []), asdict(turn)], "imported": list(move.paths)},
    )


def _told_by_hand(job: Job, paths: Sequence[str]) -> str:
    """What a person has to do where nobody on the host can be asked to import."""
    name = job.values.get("database.name") or ""
    insists = [d for d in job.findings.dump_databases if d != name]
    change = f" It chooses a database called {insists[0]}: put {name} in its place." if insists else ""
    return (
        f"The application wants its tables first, and nobody on this host can be asked to import them. Please import {', '.join(paths)} "
        f"into the database {name}, in the panel or from your own machine.{change} Is it done?"
    )


def _brought_by_hand(job: Job, fetch: TimedFetch, state: dict[str, Any]) -> Result:
    """An operator says that the tables are there: the page is asked again."""
    paths = state["by_hand"]
    state = {**state, "by_hand": None}
    if not state.get("start"):
        job.journal.keep("walk", "converse", state)
        return More()
    turn = Turn(signature_of("import", *paths), IMPORTED + ", ".join(paths), "")
    snapshot = fetch.get(job.values.get("walk.url") or state["start"])
    return _arrived(job, fetch, snapshot, {**state, "history": [*state["history"], asdict(turn)]})


def _finish(job: Job, fetch: TimedFetch, move: Finished, state: dict[str, Any]) -> Result:
    """Look at the site once more: some installers go on there (an update of the schema, a second part)."""
    snapshot = fetch.get(job.place.address)
    page = read(snapshot)
    if page.status >= 400:
        last = read(Snapshot.from_json(job.values.get("walk.page") or ""))
        if edit_what_is_asked(job, fetch, _knowledge(job, state), [page, last]):
            snapshot = fetch.get(job.place.address)
            page = read(snapshot)
    following = decide(page, _knowledge(job, state), [Turn(**t) for t in state["history"]])
    if isinstance(following, Open):
        # The application itself says where it cannot write: the next look is at the same page, in another step.
        state, _ = open_places(job, following, page, state)
        job.journal.keep("walk", "converse", state)
        return More()
    goes_on = isinstance(following, Submit) and installing(page) and says_login(page) is None
    inside = any(
        urlsplit(snapshot.url).path.startswith(urlsplit(urljoin(job.place.address, _installer_url(p))).path)
        for p in job.findings.installers
    )
    if goes_on and not inside and page.status < 400:
        return _arrived(job, fetch, snapshot, state)
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
    turns = len(state["history"])
    return Done(f"walked through {turns} page{'s' if turns != 1 else ''}: {move.why}", {**state, "pending": None})


def take_back(job: Job, facts: dict[str, Any]) -> None:
    """What the conversation let be done on the host beside the installer's own doing."""
    close_places(job, facts)
    take_settings_away(job, facts)


ACTS = (Act("converse", converse, take_back),)
