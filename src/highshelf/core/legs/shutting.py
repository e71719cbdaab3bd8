"""Tidy: what lies about and can be fetched by anybody is shut, by rules in its own folder, and looked at again."""

from __future__ import annotations

import posixpath
from collections.abc import Sequence
from typing import Any

from highshelf.core.errors import TransferError
from highshelf.core.legs.job import Done, Job, Result
from highshelf.core.legs.looking import listing, works
from highshelf.core.legs.trees import strange_names
from highshelf.core.pages.reader import read
from highshelf.core.placing.furniture import FURNITURE, PLACEHOLDERS
from highshelf.core.prove.again import folders_to_list, gives_away, is_listing
from highshelf.core.tidy.shutting import LISTS, by_folder, nobodys_business, told, with_rule, without_rule

RULES, USUAL_MODE = ".htaccess", 0o644
HEAD_BYTES, MOST_RULES_BYTES, MOST_LISTED = 400, 200_000, 6


def shut(job: Job) -> Result:
    """Shut what can be fetched and should not; a rule that does nothing, or harms the site, is taken back at once."""
    facts = job.journal.facts("tidy", "shut-away")
    if not facts:
        there = _files(job)
        shown = _shown(job, nobodys_business(there, job.findings.readmes, job.contents.paths()))
        folders = by_folder(shown, there)
        if _listed(job, there):
            shown, folders = [*shown, LISTS], {**folders, "": [*folders.get("", []), LISTS]}
        folders = {folder: names for folder, names in folders.items() if not _is_shared(job, folder)}
        folders = {} if works(job) else folders
        # Where rules stood already is in the journal first: after a crash the others are taken away whole.
        facts = {"shown": shown, "shut": folders, "had": [f for f in folders if _mode(job, f) is not None]}
        job.journal.intend("tidy", "shut-away", facts)
    held = {f: _held(job, f, names, had=f in facts["had"]) for f, names in facts["shut"].items()}
    held = {f: names for f, names in held.items() if names}
    closed = {n if n == LISTS else posixpath.join(f, n) for f, names in held.items() for n in names}
    left = [p for p in facts["shown"] if p not in closed]
    job.values.set("tidy.shown", "\n".join(left))
    job.values.set("tidy.rules", "\n".join(posixpath.join(f, RULES) for f in held))
    return Done(told(held, left), {**facts, "held": list(held)})


def rules_back(job: Job, facts: dict[str, Any]) -> None:
    for folder, names in facts["shut"].items():
        for some in _tries(names):
            _put_back(job, folder, some, had=folder in facts["had"])


def _files(job: Job) -> list[str]:
    """Files of the release that stand there, and what was made beside them."""
    gone = [e.rstrip("/") for e in job.findings.installer_entries()]
    own = [p for p in job.contents.paths() if not any(p == e or p.startswith(e + "/") for e in gone)]
    strange = set(strange_names(job))
    made = [
        p
        for p in listing(job)
        if job.place.path(p).removeprefix(job.place.target + "/").split("/", 1)[0] not in strange
    ]
    return sorted({*own, *made})


def _is_shared(job: Job, folder: str) -> bool:
    """Whether a rule in this folder would reach what is somebody else's: it is good for all that stands below."""
    strange, shown = strange_names(job), job.place.path(folder).rstrip("/")
    if shown != job.place.target.rstrip("/"):
        return shown.removeprefix(job.place.target + "/").split("/", 1)[0] in strange
    # The host's own furniture has no use for what the application keeps to itself.
    return RULES in strange or any(n not in FURNITURE and n not in PLACEHOLDERS for n in strange)


def _shown(job: Job, paths: Sequence[str]) -> list[str]:
    fetch, secrets = job.fetch(fresh=True), [s for s in job.values.secrets() if len(s) > 7]
    found = []
    for path in paths:
        snapshot = fetch.get(job.place.url(path))
        head = _head(job, path) if snapshot.status == 200 else ""
        if gives_away(path, snapshot.status, snapshot.html, head, secrets):
            found.append(path)
    return found


def _head(job: Job, path: str) -> str:
    try:
        return job.files().read(job.place.path(path), HEAD_BYTES).decode("utf-8", "replace")
    except TransferError:
        return ""


def _path(job: Job, folder: str) -> str:
    return job.place.path(posixpath.join(folder, RULES))


def _mode(job: Job, folder: str) -> int | None:
    """The mode of the rules that stand there; None where there are none."""
    entry = job.files().stat(_path(job, folder))
    return None if entry is None else entry.mode or USUAL_MODE


def _listed(job: Job, there: Sequence[str]) -> bool:
    """Whether the server shows what is in a folder that has no front page."""
    fetch = job.fetch(fresh=True)
    folders = ["", *folders_to_list(dict.fromkeys(there, (0, "", 0)), most=MOST_LISTED)]
    # Of a release whose root is shown too, that one has no front page either.
    addresses = [job.place.url(f"{folder}/" if folder else "./") for folder in folders]
    return any(is_listing(read(fetch.get(address))) for address in addresses)


def _tries(names: Sequence[str]) -> list[list[str]]:
    """All of it; and where a host lets nobody say how folders are listed, the rest."""
    rest = [n for n in names if n != LISTS]
    return [list(names), *([rest] if rest and LISTS in names else [])]


def _held(job: Job, folder: str, names: Sequence[str], *, had: bool) -> list[str]:
    """What of it is shut now."""
    return next((some for some in _tries(names) if _shut_in(job, folder, some, had=had)), [])


def _shut_in(job: Job, folder: str, names: Sequence[str], *, had: bool) -> bool:
    """Whether the rule stands, shuts what it names, and the site is as it was."""
    path, mode = _path(job, folder), _mode(job, folder)
    try:
        before = job.files().read(path, MOST_RULES_BYTES) if mode is not None else b""
        if len(before) >= MOST_RULES_BYTES:
            # What was not read whole is not written.
            return False
        # Written already, by a run of this act that was broken off.
        before = without_rule(before, names)
        job.files().write(path, with_rule(before, names), mode or USUAL_MODE)
    except TransferError:
        return False
    files = [posixpath.join(folder, n) for n in names if n != LISTS]
    if not works(job) and not _shown(job, files) and not (LISTS in names and _listed(job, _files(job))):
        return True
    _put_back(job, folder, names, had=had)
    return False


def _put_back(job: Job, folder: str, names: Sequence[str], *, had: bool) -> None:
    path, mode = _path(job, folder), _mode(job, folder)
    if mode is None:
        return
    now = job.files().read(path, MOST_RULES_BYTES)
    before = without_rule(now, names)
    if before == now or len(now) >= MOST_RULES_BYTES:
        return
    if had or before.strip():
        job.files().write(path, before, mode)
    else:
        job.files().remove(path)
