"""Recheck: everything that was proven is looked at once more, and what has changed since is told. Nothing is changed on the host."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from highshelf.core.errors import CancelledError, HighShelfError, NoRoomError, PausedError, SupersededError
from highshelf.core.legs.configure import database_login
from highshelf.core.legs.job import Act, Done, Job, Result
from highshelf.core.legs.looking import behind, installing_page
from highshelf.core.legs.standing import asking, stands
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.placing.standing import TABLE, Stand, since
from highshelf.core.prove import again
from highshelf.core.prove.again import Seen, some
from highshelf.core.prove.login import Door, front_faults, login_form, sign_in
from highshelf.core.prove.pages import insecure, seen_behind, seen_insecure
from highshelf.core.values import generate_password

MOST_FETCHED = 24
HEAD_BYTES = 64
RULES_BYTES = 1 << 16


def _noted(name: str, look: Callable[[Job, Job], list[Seen]]) -> Act:
    """An act that looks; what it cannot see is told as not seen, and holds up nothing."""

    def act(job: Job) -> Result:
        with job.earlier("prove") as made:
            try:
                found = look(job, made)
            except (NoRoomError, SupersededError, CancelledError, PausedError):
                raise
            except HighShelfError as fault:
                found = [Seen(name.replace("-", " "), "unknown", fault.message)]
            found = [replace(one, told=job.redact(one.told)) for one in found]
        # What was seen is told at the end and kept with the installation: done here is the looking.
        return Done(
            f"looked at: {', '.join(s.name for s in found)}" if found else "", {"seen": [s.facts() for s in found]}
        )

    return Act(name, act)


def _front(job: Job, made: Job) -> list[Seen]:
    address, title = made.place.address, str(job.installed().get("title", ""))
    try:
        snapshot = made.fetch(fresh=True).get(address)
    except (CancelledError, PausedError):
        raise
    except HighShelfError as fault:
        return [Seen("front page", "wrong", fault.message)]
    page = read(snapshot)
    found = [again.seen_front(page, front_faults(page, installing_page), address, title)]
    if found[0].state == "right":
        found += _behind(made, page, snapshot)
    missing = read(made.fetch(fresh=True).get(made.place.url(f"hs-{secrets.token_hex(6)}")))
    if missing.php_faults:
        found.append(
            Seen("faults", "wrong", f"a page that is not there shows PHP's own words: {missing.php_faults[0][:160]}")
        )
    return found


def _behind(made: Job, page: Page, snapshot: Snapshot) -> list[Seen]:
    then = made.journal.facts("prove", "front")
    if "behind" not in then:
        # Proven before anybody looked there.
        return []
    faults, looked = behind(made, page)
    found = [seen_behind(faults, looked, then["behind"])]
    if snapshot.url.startswith("https:"):
        found.append(seen_insecure(insecure(snapshot.html, snapshot.url), then["insecure"]))
    return found


def _login(job: Job, made: Job) -> list[Seen]:
    known = job.installed()
    name, url = str(known["admin_name"]), str(known["login_address"])
    if not name or not url:
        return [Seen("login", "right", "this application has no administrator of its own")]
    found = []
    attempt = sign_in(made.fetch(fresh=True), Door(url, ""), name, job.secret("admin"))
    state: again.State = "right" if attempt.inside else "wrong"
    found.append(Seen("administrator's login", state, f"{name}: {attempt.told}"))
    word = made.values.get("published.password") or ""
    tries = {"a wrong password": generate_password()}
    if word and word != job.secret("admin"):
        tries["the login that its maker publishes"] = word
    for what, password in tries.items():
        attempt = sign_in(made.fetch(fresh=True), Door(url, ""), name, password)
        if attempt.inside:
            found.append(Seen(what, "wrong", f"{what} is let in"))
        elif login_form(attempt.page) is None:
            # Nobody was refused where nobody could ask.
            found.append(Seen(what, "unknown", attempt.told))
        else:
            found.append(Seen(what, "right", f"refused: {attempt.told}"))
    return found


def _files(job: Job, made: Job) -> list[Seen]:
    then, now = made.stand(), stands(made)
    if then is None:
        return [Seen("files", "unknown", "nobody wrote down how they stood when it was proven")]
    inside, before = _released(made, now), _released(made, then)
    differs = since(before, inside)
    configured = _configured(job, made)
    changed, gone = again.changed_files(differs, made.contents.paths(), configured)
    changed = [p for p in changed if _is_other(made, p)]
    programs = again.new_programs(differs, before, configured)
    back = [p for p in differs.come if any(_is_below(p, e) for e in made.findings.installer_entries())]
    places = [p for p in (made.values.get("places.open") or "").split("\n") if p]
    rules = {p: _text(made, p) for p in (*differs.come, *differs.changed) if again.RULES.search(p)}
    loose = again.opened(before, inside, places)
    wrong = [
        ("files of the application", changed, "changed since the proof"),
        ("files of the application", gone, "gone since the proof"),
        ("installer", back, "back since it was tidied away"),
        ("programs", [p for p in programs if p not in back], "came since the proof, where no program belongs"),
        ("settings", again.lost_settings(differs, configured), "gone since the proof"),
        ("rules", again.rules_that_run(rules), "changed since the proof, and makes the server run what it would not"),
        ("modes", loose, "may be written by everybody on the host"),
    ]
    found = [Seen(name, "wrong", f"{some(paths)} {what}") for name, paths, what in wrong if paths]
    used = (
        f"; in use: {len(differs.come)} files new, {len(differs.changed)} changed, {len(differs.gone)} gone"
        if differs
        else ""
    )
    return found or [Seen("files", "right", f"nothing of the application differs from its proof{used}")]


def _configured(job: Job, made: Job) -> list[str]:
    """Files with settings, and those that were changed with our own command since."""
    known = (made.values.get("configuration.files") or "").split("\n")
    return [p for p in (*known, *job.installed().get("changed_files", ())) if p]


def _text(made: Job, path: str) -> str:
    return made.files().read(made.place.path(path), RULES_BYTES).decode("utf-8", "replace")


def _is_other(made: Job, path: str) -> bool:
    """Whether a file of the release really differs from it: a backup that was put back has another time and the same bytes."""
    member = made.contents.paths()[path]
    content = made.files().read(made.place.path(path), member.size_bytes + 1)
    return member.sha256 != hashlib.sha256(content).hexdigest()


def _released(made: Job, stand: Stand) -> dict[str, tuple[int, str, int]]:
    """By path as it lies in the release; what only leads there (links in the document root) is left out."""
    found = {}
    for path, one in stand.items():
        if path.startswith(TABLE):
            continue
        inside = made.place.inside(path)
        if inside is not None:
            found[inside + ("/" if path.endswith("/") and inside else "")] = one
    return found


def _is_below(path: str, entry: str) -> bool:
    return path == entry or path.startswith(entry.rstrip("/") + "/")


def _served(job: Job, made: Job) -> list[Seen]:
    """What lies about and should not be fetched; folders that list what is in them."""
    now, fetch = _released(made, stands(made)), made.fetch(fresh=True)
    words = [s for s in made.values.secrets() if len(s) > 7]
    shown = []
    looked = again.lying_about(now, MOST_FETCHED)
    for path in looked:
        snapshot = fetch.get(made.place.url(path))
        head = made.files().read(made.place.path(path), HEAD_BYTES).decode("utf-8", "replace")
        if why := again.gives_away(path, snapshot.status, snapshot.html, head, words):
            shown.append(why)
    lists = [f + "/" for f in again.folders_to_list(now) if again.is_listing(read(fetch.get(made.place.url(f + "/"))))]
    found = [
        Seen(
            "served",
            "wrong" if shown else "right",
            some(shown) or f"{len(looked)} files that are nobody's business: none is shown",
        )
    ]
    found.append(
        Seen(
            "lists of folders", "wrong" if lists else "right", f"shown for {some(lists)}" if lists else "none is shown"
        )
    )
    return found


def _database(job: Job, made: Job) -> list[Seen]:
    if made.plan.database == "none":
        return []
    with asking(made):
        answer = database_login(made)
    if answer is None:
        return [Seen("database", "unknown", "nobody on this host can be asked")]
    then = int(made.journal.facts("tidy", "count-tables").get("tables", 0))
    if not answer["ok"]:
        return [Seen("database", "wrong", f"its login is refused: {answer.get('error', '')}")]
    count = len(answer["tables"])
    return [Seen("database", "wrong" if count < then else "right", f"{count} tables, {then} when it was proven")]


def written(job: Job) -> Result:
    """Write down what was seen."""
    seen: list[Mapping[str, Any]] = [
        one for act in LOOKS for one in job.journal.facts("prove", act.name).get("seen", ())
    ]
    wrong = [one for one in seen if one["state"] == "wrong"]
    unknown = [one for one in seen if one["state"] == "unknown"]
    job.rechecked({"seen": list(seen)})
    told = f"{len(wrong)} of {len(seen)} are wrong" if wrong else f"all {len(seen) - len(unknown)} are right"
    return Done(told + (f", {len(unknown)} could not be seen" if unknown else ""), {"wrong": len(wrong)})


LOOKS = (
    _noted("front-page", _front),
    _noted("login", _login),
    _noted("database", _database),
    _noted("files", _files),
    _noted("served", _served),
)
RECHECK = (*LOOKS, Act("written", written))
