"""Tidy: the installer steps aside, the application is seen to work without it, then it goes; modes are tightened."""

from __future__ import annotations

import posixpath
import secrets
from collections.abc import Iterable
from typing import Any
from urllib.parse import urlsplit

from highshelf.core.errors import ProofError, TransferError
from highshelf.core.legs.asked import names_back, rename_as_asked, take_as_asked, texts_back
from highshelf.core.legs.configure import database_login
from highshelf.core.legs.forced import change_as_asked
from highshelf.core.legs.job import Act, Done, Job, Result
from highshelf.core.legs.looking import CACHED_SECONDS, listing, works, works_soon
from highshelf.core.legs.opening import close, passing_places, staying_places
from highshelf.core.legs.shutting import rules_back, shut
from highshelf.core.legs.swapping import DENY
from highshelf.core.legs.trees import clear_leftovers, holding_folder, remove_tree
from highshelf.core.pages.reader import read
from highshelf.core.ports import HostFiles
from highshelf.core.prove.login import find_doors, make_login_change, sign_in
from highshelf.core.tidy.modes import (
    MAY_HOLD,
    MOST_HOLDING_BYTES,
    MOST_LOOKED_AT,
    TIGHTEST_FIRST,
    configurations,
    holds,
)
from highshelf.core.values import generate_password
from highshelf.core.walk.beginning import installing

USUAL_OPEN = 0o777


def installer_aside(job: Job) -> Result:
    """Move the installer into the holding folder, under a name nobody guesses."""
    files = job.files()
    facts = job.journal.facts("tidy", "installer-aside")
    if not facts:
        tail = secrets.token_hex(6)
        known, strange = _installers(job)
        wanted = [*known, *(job.primer.remove if job.primer else [])]
        # A folder takes what is in it along.
        tops = [e for e in wanted if not any(e != o and e.startswith(o + "/") for o in wanted)]
        moves = {e: f"installer-{i}-{tail}" for i, e in enumerate(tops) if files.stat(job.place.path(e)) is not None}
        facts = {"moves": moves, "before": works(job), "strange": strange}
        job.journal.intend("tidy", "installer-aside", facts)
    for entry, name in facts["moves"].items():
        inside, aside = job.place.path(entry), posixpath.join(holding_folder(job), name)
        if files.stat(aside) is None:
            files.rename(inside, aside)
    moved, strange = ", ".join(facts["moves"]), facts.get("strange", [])
    told = f"installer out of the way: {moved}" if moved else "there is no installer to move away"
    if strange:
        told += f"; {', '.join(strange)} is called like one, was not walked and answers like none: it stays"
    return Done(told, facts)


def _installers(job: Job) -> tuple[list[str], list[str]]:
    """What is called like an installer: that which is one (walked, named by its own last page, or answering like one), and the rest."""
    walked = job.journal.facts("walk", "converse")
    entries = job.findings.installer_entries()
    sure = [e for e in entries if e in walked.get("to_remove", []) or _was_walked(job, e, walked.get("paths", []))]
    sure += [f for f in job.findings.setting_up if _sets_up_no_more(job, f, entries, walked.get("paths", []))]
    left = [e for e in entries if e not in sure]
    answering = [e for e in left if _answers_like_one(job, e)]
    return [*sure, *answering], [e for e in left if e not in answering]


def _sets_up_no_more(job: Job, file: str, entries: Iterable[str], paths: Iterable[str]) -> bool:
    """Whether a file that takes a database's login was walked and is nothing but an installer: now it shows no page of the application."""
    if any(file == e or file.startswith(e + "/") for e in entries) or not _was_walked(job, file, paths):
        return False
    own, front = urlsplit(job.place.url(file)).path, urlsplit(job.place.address).path
    if own.removesuffix("index.php") == front:
        return False
    page = read(job.fetch(fresh=True).get(job.place.url(file)))
    return urlsplit(page.url).path in (own, own.removesuffix("index.php")) and not page.real_forms


def _was_walked(job: Job, entry: str, paths: Iterable[str]) -> bool:
    own = urlsplit(job.place.url(entry)).path.rstrip("/")
    return any(path == own or path.startswith(own + "/") or path == own.removesuffix("index.php") for path in paths)


def _answers_like_one(job: Job, entry: str) -> bool:
    page = read(job.fetch(fresh=True).get(job.place.url(entry)))
    return page.status < 400 and installing(page) and any(f.typed for form in page.forms for f in form.fields)


def installer_back(job: Job, facts: dict[str, Any]) -> None:
    """Put the installer back where it was, as long as it is kept."""
    files = job.files()
    for entry, name in facts["moves"].items():
        inside, aside = job.place.path(entry), posixpath.join(holding_folder(job), name)
        if (
            files.stat(aside) is not None
            and files.stat(inside) is None
            and files.stat(posixpath.dirname(inside)) is not None
        ):
            files.rename(aside, inside)


def look_without(job: Job) -> Result:
    """See that the application works without its installer; when it worked only with it, the installer goes back."""
    facts = job.journal.facts("tidy", "installer-aside")
    if facts["moves"]:
        # A page that needs what was moved is made from PHP's cache for a moment: that it works then says nothing.
        job.cancel.rest(CACHED_SECONDS)
    faults = works_soon(job)
    if not faults:
        return Done("the application works without its installer")
    if not facts["before"] and facts["moves"]:
        installer_back(job, facts)
        job.values.set("tidy.kept", ", ".join(facts["moves"]))
        return Done(f"the application needs its installer ({faults[0]}); it was put back and is named on the sheet")
    return Done(f"the front page is not right yet: {faults[0]}; the prove leg looks again")


def remove_installer(job: Job) -> Result:
    facts = job.journal.facts("tidy", "installer-aside")
    if job.values.get("tidy.kept"):
        return Done("the installer stays, since the application needs it")
    if not facts["moves"]:
        return Done("there was no installer to remove")
    for name in facts["moves"].values():
        path = posixpath.join(holding_folder(job), name)
        entry = job.files().stat(path)
        if entry is not None and entry.kind == "folder":
            remove_tree(job, path)
        elif entry is not None:
            job.files().remove(path)
    _remove_dangling(job, facts["moves"])
    return Done("installer removed", {"removed": list(facts["moves"])})


def _remove_dangling(job: Job, removed: Iterable[str]) -> None:
    """What showed an installer by a link of its own shows nothing any more."""
    for entry in removed:
        folder, name = posixpath.split(entry)
        shown = posixpath.join(job.place.target, name)
        there = job.files().stat(shown) if job.place.apart and folder == job.place.web else None
        if there is not None and there.kind == "link":
            job.files().remove(shown)


def close_again(job: Job) -> Result:
    """What was opened only for the installer's file is closed again, as long as the application works without."""
    walked = job.journal.facts("walk", "converse")
    places, files = passing_places(walked), job.files()
    staying = staying_places(walked)
    told = [f"PHP goes on writing to {', '.join(staying)}"] if staying else []
    if places:
        before = works(job)
        now = {inside: entry.mode for inside in places if (entry := files.stat(job.place.path(inside))) is not None}
        for inside, mode in places.items():
            if inside in now:
                close(job, inside, mode)
        faults = works_soon(job)
        if faults and not before:
            for inside, there in now.items():
                files.chmod(job.place.path(inside), USUAL_OPEN if there is None else there)
            staying = [*staying, *(p or "." for p in places)]
            told.append(f"the application needs what the installer needed open ({faults[0]}); it stays so")
        else:
            told.append("closed again: " + ", ".join(p or "the folder of the installation" for p in places))
    job.values.set("places.open", "\n".join(staying))
    return Done("; ".join(told))


def take_proofs(job: Job) -> Result:
    """Files that a page of the installer asked for, as a proof or a key, go again where the application works without.

    One that was wanted last of all stays: it locks something, or the application goes on reading it.
    """
    walked = job.journal.facts("walk", "converse")
    asked, after = walked.get("asked_files", {}), len(walked.get("history", [])) - 1
    facts = job.journal.facts("tidy", "take-proofs")
    if not facts:
        passed = [n for n in asked if asked[n] < after and job.files().stat(job.place.path(n)) is not None]
        # The names aside are in the journal first: after a crash what is missed can still be put back.
        facts = {"aside": {n: f"asked-{secrets.token_hex(6)}" for n in passed}, "before": works(job) if passed else []}
        job.journal.intend("tidy", "take-proofs", facts)
    told = [_without(job, name, aside, facts["before"]) for name, aside in facts["aside"].items()]
    kept = [n for n in asked if job.files().stat(job.place.path(n)) is not None]
    told += [f"{n}, which the installer wanted last, stays" for n in kept if n not in facts["aside"]]
    job.values.set("proofs.kept", "\n".join(kept))
    return Done("; ".join(told), facts)


def _without(job: Job, name: str, aside: str, before: list[str]) -> str:
    """Take a file of ours away, look, and put it back where it is missed. What became of it, for people."""
    files = job.files()
    inside, away = job.place.path(name), posixpath.join(holding_folder(job), aside)
    if files.stat(away) is None and files.stat(inside) is not None:
        files.rename(inside, away)
    if not before and works(job) and works_soon(job):
        files.rename(away, inside)
        return f"{name}, which the installer asked for, is needed by the application and stays"
    if files.stat(away) is not None:
        files.remove(away)
    return f"{name}, which the installer asked for, was taken away again"


def tighten(job: Job) -> Result:
    """Give configuration files the tightest mode with which the front page still works."""
    files = job.files()
    known = job.contents.paths()
    made = {p: m for p, m in listing(job).items() if p not in known}
    named = job.primer.configuration if job.primer else []
    modes: dict[str, str] = {}
    for path in configurations(made, [*named, *_holding(job, made)]):
        modes[path] = _tightest(job, path)
    loose = {p: m for p, m in listing(job).items() if m is not None and m & 0o002}
    foreign = [p for p in loose if not _changed(files, job.place.path(p), 0o644)]
    told = ", ".join(f"{p} {m}" for p, m in modes.items()) or "no configuration file was made"
    job.values.set("configuration.files", "\n".join(modes))
    closed = len(loose) - len(foreign)
    more = f"; {closed} files were writable for everybody and are not any more" if closed else ""
    more += f"; writable for everybody, and PHP's own to change: {', '.join(foreign[:5])}" if foreign else ""
    return Done(f"modes: {told}{more}", {"modes": modes})


def _holding(job: Job, made: Iterable[str]) -> list[str]:
    """Files that the installer made with the database's password in them."""
    secret, files = job.values.get("database.password") or "", job.files()
    found = list[str]()
    for path in [p for p in sorted(made) if secret and MAY_HOLD.search(p)][:MOST_LOOKED_AT]:
        try:
            if holds(files.read(job.place.path(path), MOST_HOLDING_BYTES), [secret]):
                found.append(path)
        except TransferError:
            # PHP's own user made it, for itself alone.
            continue
    return found


def _tightest(job: Job, path: str) -> str:
    """The mode that a configuration file has now, for people."""
    for mode in TIGHTEST_FIRST:
        if not _changed(job.files(), job.place.path(path), mode):
            # What PHP made as another user is that user's to change, not the transfer login's.
            return "as PHP made it"
        if not works(job):
            return f"{mode:o}"
    return "644"


def _changed(files: HostFiles, path: str, mode: int) -> bool:
    try:
        files.chmod(path, mode)
    except TransferError:
        return False
    return True


def change_login(job: Job) -> Result:
    """Turn a login that the application's maker publishes into the job's own, as the primer describes."""
    if job.values.get("admin.published") != "yes":
        return Done("")
    if job.primer is None or not job.primer.change_login:
        return change_as_asked(job)
    name, old = job.values.get("admin.name") or "", job.values.get("published.password") or ""
    new = job.journal.facts("tidy", "change-login").get("prepared") and job.values.get("changed.password")
    if not new:
        job.values.set("changed.password", new := generate_password(), secret=True)
        job.journal.intend("tidy", "change-login", {"prepared": True})
    known = [job.place.route(job.primer.login_address)] if job.primer.login_address else []
    for door in find_doors(job.fetch(fresh=True), job.place.address, known):
        if sign_in(job.fetch(fresh=True), door, name, new).inside:
            break
        fetch = job.fetch(fresh=True)
        if sign_in(fetch, door, name, old).inside:
            make_login_change(
                fetch,
                job.place.address,
                job.primer.change_login,
                {"admin.name": name, "old.password": old, "new.password": new},
            )
            break
    else:
        raise ProofError(
            f"the published login {name} does not work, so it cannot be changed", hint="look at the login page by hand"
        )
    job.values.set("admin.password", new, secret=True)
    job.values.set("admin.published", "changed")
    return Done("the login its maker publishes was changed to a password of the job's own")


def count_tables(job: Job) -> Result:
    if job.plan.database == "none":
        return Done("no database to look at")
    answer = database_login(job, write=False)
    if answer is None:
        return Done("tables not counted: nobody on this host can be asked to")
    if not answer["ok"] or not answer["tables"]:
        raise ProofError(
            f"the database {job.values.get('database.name')} has no tables: {answer.get('error', 'it is empty')}"
        )
    return Done(f"the database has {len(answer['tables'])} tables", {"tables": len(answer["tables"])})


def clear(job: Job) -> Result:
    """Take away the holding folder and whatever an interrupted step left, and see that they are gone."""
    clear_leftovers(job)
    folder = holding_folder(job)
    remove_tree(job, folder)
    if job.files().stat(folder) is not None:
        raise TransferError(f"the holding folder {folder} is still there after it was removed")
    return Done("nothing of ours is left on the host: archive, holding folder and helper are gone")


def ensure_holding(job: Job) -> Result:
    """The holding folder may have been tidied by the host; the installer needs it for a moment."""
    folder = holding_folder(job)
    if job.files().stat(folder) is None:
        job.files().make_folder(folder)
        if not job.plan.holding_beside:
            job.files().write(posixpath.join(folder, ".htaccess"), DENY, 0o644)
    return Done("")


ACTS = (
    Act("ensure-holding", ensure_holding),
    # While the installer stands: without tables there is nothing to tidy for.
    Act("count-tables", count_tables),
    Act("installer-aside", installer_aside, installer_back),
    Act("look-without", look_without),
    Act("remove-installer", remove_installer),
    Act("take-proofs", take_proofs),
    Act("rename-as-asked", rename_as_asked, names_back),
    Act("take-as-asked", take_as_asked, texts_back),
    Act("close-again", close_again),
    Act("tighten", tighten),
    Act("shut-away", shut, rules_back),
    Act("change-login", change_login),
    Act("clear", clear),
)
