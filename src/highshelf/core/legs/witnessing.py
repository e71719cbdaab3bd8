"""Asking the host what the installer did: files by the transfer login, tables by whoever may log in there.

Rules:
1. Nothing here ends a walk: who cannot be asked says nothing, and the walk knows that.
2. Listings are bounded: the installation's root, folders that the release wants written, and those that are called like settings or data.
3. Tables are asked for at the beginning and where an end is near, never at each page.
"""

from __future__ import annotations

import json
import posixpath
import re

from highshelf.core.errors import HighShelfError
from highshelf.core.legs.configure import database_login
from highshelf.core.legs.job import Job
from highshelf.core.legs.trees import below
from highshelf.core.walk.witness import Sight

MOST_FOLDERS = 16
SETTINGS = re.compile(
    r"conf|config|configuration|settings?|data|database|db|etc|inc|includes?|var|local|storage|app|private|files|sites|writable|share|install|setup",
    re.I,
)


def watched_folders(job: Job) -> list[str]:
    """The folders of the installation in which an installer may leave something."""
    paths = job.contents.paths()
    folders = {posixpath.dirname(p) for p in paths}
    folders |= {posixpath.dirname(f) for f in folders}
    samples = {posixpath.dirname(s) for s in job.findings.samples}
    wanted = {w.rstrip("/") for w in job.findings.writable if w.rstrip("/") in folders}
    called = {f for f in folders if f.count("/") < 2 and SETTINGS.fullmatch(posixpath.basename(f).lstrip("."))}
    rest = sorted(called - samples - wanted, key=lambda f: (f.count("/"), f))
    return list(dict.fromkeys(["", *sorted(samples), *sorted(wanted), *rest]))[:MOST_FOLDERS]


def look(job: Job) -> Sight:
    """What lies there now; without tables."""
    found: dict[str, tuple[int, int | None]] = {}
    try:
        for folder in watched_folders(job):
            for entry in below(job, folder):
                if entry.kind == "file" and not entry.name.startswith(".hs-"):
                    found[posixpath.join(folder, entry.name)] = (entry.size_bytes, entry.mode)
    except HighShelfError:
        return Sight()
    return Sight(files=found)


def count_tables(job: Job) -> int | None:
    """How many tables the job's database has; None where there is none, or nobody can be asked."""
    if job.plan.database == "none":
        return None
    try:
        answer = database_login(job, write=False)
    except HighShelfError:
        return None
    return len(answer["tables"]) if answer is not None and answer["ok"] else None


def to_text(sight: Sight) -> str:
    return json.dumps({"files": sight.files, "tables": sight.tables})


def from_text(text: str) -> Sight:
    """What `to_text` wrote; nothing was seen where it is empty."""
    if not text:
        return Sight()
    kept = json.loads(text)
    files = None if kept["files"] is None else {p: (size, mode) for p, (size, mode) in kept["files"].items()}
    return Sight(files, kept["tables"])
