"""Walk: the conversation with the installer, one move a step, each of them journalled before it is made."""

from __future__ import annotations

import posixpath
from dataclasses import asdict
from typing import Any
from urllib.parse import urlencode, urlsplit

from highshelf.core.errors import WalkError
from highshelf.core.legs.beginning import begin
from highshelf.core.legs.bringing import BY_HAND, bring_in, brought_by_hand
from highshelf.core.legs.browsing import enter, line_of, look_again, lost, over_http
from highshelf.core.legs.collating import collate
from highshelf.core.legs.conversing import (
    arrived,
    count_as_old,
    intend,
    keep_finds,
    knowledge,
    see,
    see_what_came,
    witness_of,
)
from highshelf.core.legs.editing import edit_what_is_asked
from highshelf.core.legs.ending import finish
from highshelf.core.legs.job import Act, Ask, Job, More, Result
from highshelf.core.legs.opening import close_places, open_places
from highshelf.core.legs.switching import await_switches, switch_back, switch_on
from highshelf.core.legs.timed import TimedFetch
from highshelf.core.legs.tuning import PAUSES_SECONDS, await_once_more, await_settings, take_settings_away, tune
from highshelf.core.legs.witnessing import from_text
from highshelf.core.pages.judgement import judge
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.values import CATALOGUE, generate_key, generate_password, in_form
from highshelf.core.walk.decide import decide
from highshelf.core.walk.ending import said_here
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import (
    PLACED,
    Adapt,
    AskFor,
    Collate,
    Finished,
    Follow,
    Import,
    Move,
    Open,
    PlaceFile,
    Stuck,
    Submit,
    Switch,
    Tune,
    Turn,
    signature_of,
)
from highshelf.core.walk.offers import added, is_page
from highshelf.core.walk.proving import word_in
from highshelf.core.walk.replay import in_words, known, saved

MAX_TURNS = 60
MOST_KEY_BYTES = 4096
EDITED, NEEDS_SCRIPT = "edit", "(needs-javascript)"


def converse(job: Job) -> Result:
    """Make the next move."""
    state = job.journal.facts("walk", "converse")
    fetch = line_of(job, state)
    if state.get("by_hand") and job.values.get(BY_HAND):
        return brought_by_hand(job, fetch, state)
    if state.get("tuning") is not None:
        url = job.values.get("walk.url") or state["start"]
        if (waits := await_settings(job, fetch, url, state)) is not None:
            return waits
        made = {**state["tuned"], "taken": state["tuning"] < len(PAUSES_SECONDS)}
        return arrived(job, fetch, fetch.get(url), {**state, "tuning": None, "tuned": made})
    if state.get("switching") is not None:
        url = job.values.get("walk.url") or job.place.address
        if (waits := await_switches(job, fetch, url, state)) is not None:
            return waits
        state = {**state, "switching": None}
        if state.get("start"):
            return arrived(job, fetch, fetch.get(url), state)
    if not state.get("start"):
        return begin(job, fetch, state)
    if lost(job, state):
        job.say("the browser's page is gone; asking for it again")
        see(job, "now")
        url = job.values.get("walk.url") or state["start"]
        return arrived(job, fetch, fetch.get(url), {**state, "pending": None, "resumed": True})
    if state.get("pending"):
        # Cut off between sending and noting the answer. The page where we stood tells whether the move took effect:
        # when it offers the same move again it did not, or asking again does no harm.
        job.say("the last move was cut off; looking at the page again")
        see(job, "now")
        return arrived(
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
    keep_finds(job, page, state)
    witness = witness_of(job)
    move = decide(page, knowledge(job, state, witness), history)
    if isinstance(move, Finished | Stuck) and history:
        # The end is near: now the host is asked whatever it can say.
        if state.get("looked") != len(history):
            see_what_came(job)
        witness = witness_of(job, tables=True, log=isinstance(move, Stuck) and (page.status >= 500 or not page.text))
        move = decide(page, knowledge(job, state, witness), history)
    if isinstance(move, Stuck) and (waits := await_once_more(job, page, state)) is not None:
        return waits
    if isinstance(move, Stuck | Finished) and (elsewhere := _elsewhere(job, fetch, page, move, state)) is not None:
        return elsewhere
    _remark(job, page, move, knowledge(job, state, witness), state)
    return _make(job, fetch, move, page, state)


def _elsewhere(job: Job, fetch: TimedFetch, page: Page, move: Stuck | Finished, state: dict[str, Any]) -> Result | None:
    """Where the page says nothing more over HTTP, a browser may; and one that has just been pressed may go on by itself."""
    return enter(job, page, move, state) or look_again(job, fetch, page, move, state)


def _remark(job: Job, page: Page, move: Move, know: Knowledge, state: dict[str, Any]) -> None:
    """Keep with the page how it was judged, what is done on it and what the host has seen, and what was known then.

    What was done is told in names of values; of what was known, secrets are stand-ins (`walk/replay.py`).
    """
    number = len(state["history"])
    judged = judge(page, know.is_new)
    facts = {
        "topic": judged.topic,
        "state": judged.state,
        "outcome": judged.outcome,
        "confidence": round(judged.confidence, 2),
        "speaks_for": [s[:200] for s in judged.speaks_for[:5]],
        "against": [s[:200] for s in judged.against[:5]],
        "did": in_words(move),
        "filled": list(move.filled) if isinstance(move, Submit) else [],
        "witness": know.witness.told(),
        "answered_seconds": state.get("answered", 0.0),
        "arrived": state.get("arrived", 0.0),
        "then": saved(know, [Turn(**t) for t in state["history"]], job.values.sealed_names()),
    }
    job.remark(f"walk-{number:02d}", facts)
    if not number:
        job.remark("known", known(know))


def _make(job: Job, fetch: TimedFetch, move: Move, page: Page, state: dict[str, Any]) -> Result:
    match move:
        case Submit():
            turn = Turn(move.signature, move.button, page.title, move.form, bool(move.filled), move.by)
            intend(job, state, turn)
            given = _told([v for _, v in move.filled])
            job.say(f"“{page.title or page.url}”: press {move.button or 'Enter'}" + (f" with {given}" if given else ""))
            if move.at and state.get("browser"):
                snapshot, pressed = fetch.press(move.at, move.fields)
                if not pressed:
                    job.say("filled in; the page wants more before that can be pressed")
                state = {**state, "looks": 0}
            elif move.method == "post":
                snapshot = fetch.post(move.url, move.fields, multipart=move.multipart)
            else:
                snapshot = fetch.get(urlsplit(move.url)._replace(query=urlencode(move.fields)).geturl())
            if move.filled:
                see_what_came(job)
                state = {**state, "looked": len(state["history"]) + 1}
            state = {**state, "stood": sorted({*state.get("stood", []), *map(signature_of, said_here(page))})}
            used = sorted(set(state.get("used", [])) | {v for _, v in move.filled})
            return arrived(job, fetch, snapshot, {**state, "history": [*state["history"], asdict(turn)], "used": used})
        case Follow():
            turn = Turn(move.signature, move.label, page.title)
            intend(job, state, turn)
            state = {**state, "stood": sorted({*state.get("stood", []), *map(signature_of, said_here(page))})}
            if move.wait_seconds:
                job.cancel.rest(move.wait_seconds)
            job.say(f"“{page.title or page.url}”: follow {move.label or move.url}")
            snapshot = fetch.press(move.at, ())[0] if move.at and state.get("browser") else fetch.get(move.url)
            return arrived(job, fetch, snapshot, {**state, "looks": 0, "history": [*state["history"], asdict(turn)]})
        case Adapt():
            current = job.values.get(move.value) or ""
            mail, port = job.values.get("admin.email") or "", job.values.get("database.port") or ""
            given = in_form(move.how, current, mail=mail, port=port)
            job.values.set(move.value, given, secret=CATALOGUE[move.value].secret)
            job.say(f"{move.value} is given in another form ({move.how.split()[0]}): “{move.why}”")
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
            made = generate_key(move.length) if move.length else generate_password()
            job.values.set(move.value, made, secret=True)
            job.say(f"the installer wants a word of its own ({move.value}): made up and kept in the strongbox")
            return More()
        case AskFor() if move.file and (word := _word_in_file(job, move.file)):
            job.values.set(move.value, word, secret=True)
            job.say(f"{move.value} was read from {move.file}, where the installer says it stands")
            return More()
        case AskFor():
            return Ask(move.value, move.text, move.options, move.secret)
        case PlaceFile():
            return _place_file(job, fetch, move, page, state)
        case Open():
            state, changed = open_places(job, move, page, state)
            if changed:
                return arrived(job, fetch, fetch.get(page.url), state)
            job.journal.keep("walk", "converse", state)
            return More()
        case Tune():
            state, changed = tune(job, move, page, state)
            if changed:
                # What was written by us is none of the installer's making.
                count_as_old(job, state["tuned"]["file"])
            job.journal.keep("walk", "converse", state)
            return More()
        case Switch():
            answer = switch_on(job, move, page, state)
            if isinstance(answer, Ask):
                return answer
            job.journal.keep("walk", "converse", answer[0])
            return More()
        case Collate():
            state, changed = collate(job, move, page, state)
            if changed:
                return arrived(job, fetch, fetch.get(page.url), state)
            job.journal.keep("walk", "converse", state)
            return More()
        case Import():
            return bring_in(job, fetch, move, page, state)
        case Finished():
            return finish(job, fetch, move, state)
        case Stuck() if state.get("resumed") and state["history"]:
            # A wizard with one address for all its steps shows its first one to whoever comes back.
            job.say("the installer does not go on from here after the interruption; starting it again")
            return arrived(job, fetch, fetch.get(state["start"]), {**state, "history": [], "resumed": False})
        case Stuck() if page.status >= 400 and EDITED not in state.get("tried", []):
            # The application may only want one of its settings changed, and says which.
            state = {**state, "tried": [*state.get("tried", []), EDITED]}
            if edit_what_is_asked(job, fetch, knowledge(job, state), [page]):
                return arrived(job, fetch, fetch.get(page.url), state)
            job.journal.keep("walk", "converse", state)
            return More()
        case Stuck():
            job.evidence("walk-stuck", Snapshot.from_json(job.values.get("walk.page") or ""))
            blamed = f" (this seems to be about {', '.join(move.blame)})" if move.blame else ""
            if move.why.endswith(NEEDS_SCRIPT) and (missing := job.browser().missing):
                blamed += f"; {missing}"
            raise WalkError(
                move.why + blamed, hint="the page is kept with the job; everything placed was taken back", page=page.url
            )


def _told(values: list[str]) -> str:
    """`database (host, name), admin (name)` for the values' names."""
    groups: dict[str, list[str]] = {}
    for value in dict.fromkeys(values):
        group, _, name = value.partition(".")
        groups.setdefault(group, []).append(name)
    return ", ".join(f"{group} ({', '.join(names)})" for group, names in groups.items())


def _word_in_file(job: Job, name: str) -> str:
    """What stands in a small file of the installation, or ""."""
    path = posixpath.normpath(name.lstrip("/"))
    for inside in (path, path.removeprefix("../")):
        if not inside.startswith("..") and job.files().stat(job.place.path(inside)) is not None:
            return word_in(job.files().read(job.place.path(inside), MOST_KEY_BYTES).decode("utf-8", "replace"))
    return ""


def _place_file(job: Job, fetch: TimedFetch, move: PlaceFile, page: Page, state: dict[str, Any]) -> Result:
    """The installer could not write its configuration: put the text it shows where it belongs, readable by its owner alone."""
    name = posixpath.normpath(move.name).lstrip("/")
    if name.startswith(".."):
        raise WalkError(f"the installer names a file outside the installation: {move.name}")
    content = move.content
    if move.source:
        snapshot = (over_http(job, fetch) if state.get("browser") else fetch).get(move.source)
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
    intend(job, state, turn)
    path = job.place.path(name)
    # Bytes of any character set come back as they were.
    there = "" if job.files().stat(path) is None else job.files().read(path).decode(errors="surrogateescape")
    content = added(there, content)
    # PHP that runs as another user can read no file that is its owner's alone.
    mode = 0o644 if job.values.get("host.other_user") == "yes" else 0o600
    job.files().write(path, content.encode(errors="surrogateescape"), mode)
    why = "asks for" if move.asked else "could not write"
    job.say(f"the installer {why} {name}; it was put there over the file transfer")
    if move.asked:
        # Tidying takes it away again, unless it was the last thing that the installer wanted.
        state = {**state, "asked_files": {**state.get("asked_files", {}), name: len(state["history"])}}
    return arrived(job, fetch, fetch.get(page.url), {**state, "history": [*state["history"], asdict(turn)]})


def take_back(job: Job, facts: dict[str, Any]) -> None:
    """What the conversation let be done on the host beside the installer's own doing."""
    close_places(job, facts)
    take_settings_away(job, facts)
    switch_back(job, facts)


ACTS = (Act("converse", converse, take_back),)
