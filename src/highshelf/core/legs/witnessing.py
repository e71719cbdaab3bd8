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
from highshelf.core.legs.trees import below, entries_or_none
from highshelf.core.placing.furniture import OURS
from highshelf.core.walk.witness import Sight

MOST_FOLDERS = 16
LOG_NAME = re.compile(r"^(?:php[\w.-]*\.log|error[\w.-]*\.log|error_log|php_errorlog)$", re.I)
FATAL_LINE = re.compile(r"PHP (?:Fatal|Parse) error|Uncaught", re.I)
# A log that is larger is not read: its end would be beyond what one call brings.
LOG_BYTES = 1 << 20
SETTINGS = re.compile(
    r"conf|config|configuration|settings?|data|database|db|etc|inc|includes?|var|local|storage|app|private|files|sites|writable|share|install|setup",
    re.I,
)

LOGGED_FILE = re.compile(r" in (/[^:\n]+?\.\w+)(?::\d+| on line)")


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
                # Our own, the helper above all, is nothing that an installer made.
                if entry.kind == "file" and not entry.name.startswith(".hs-") and not OURS.fullmatch(entry.name):
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


def php_log(job: Job) -> tuple[str, ...]:
    """Lines of PHP's error log that tell of an end, since the walk began; from where one lies in reach of the transfer login.

    It lies beside the script that failed, or in a folder of logs beside the document root, as hosts have it. Secrets are masked.
    """
    before: dict[str, int] = json.loads(job.values.get("walk.logs") or "{}")
    try:
        grown = [path for path, size in _logs(job).items() if size > before.get(path, 0)]
        return next((told for path in grown if (told := _ends_in(job, path, before.get(path, 0)))), ())
    except HighShelfError:
        return ()


def strange_files(job: Job) -> list[str]:
    """Files that the end of PHP's log names and that are none of the release: PHP may still run what stood there before."""
    named = LOGGED_FILE.findall(" ".join(php_log(job)[-3:]))
    return [path for path in named if not any(path.endswith("/" + inside) for inside in job.contents.paths())]


def mark_logs(job: Job) -> None:
    """Remember how long the logs are before the walk begins: what stands in them already is about something else."""
    try:
        job.values.set("walk.logs", json.dumps(_logs(job)))
    except HighShelfError:
        job.values.set("walk.logs", "{}")


def _logs(job: Job) -> dict[str, int]:
    """Logs in reach, with their bytes."""
    here = {
        posixpath.join(job.place.target, folder)
        for folder in ("", *(posixpath.dirname(i) for i in job.findings.installers))
    }
    above = [job.place.beside_root, posixpath.dirname(job.place.beside_root)]
    beside = {posixpath.join(folder, name) for folder in above for name in ("logs", "log")}
    return {
        posixpath.join(folder, entry.name): entry.size_bytes
        for folder in (*sorted(here), *sorted(beside))
        for entry in entries_or_none(job.files(), folder) or []
        if entry.kind == "file" and LOG_NAME.search(entry.name)
    }


def _ends_in(job: Job, path: str, since: int) -> tuple[str, ...]:
    text = job.files().read(path, LOG_BYTES)[since:].decode(errors="replace")
    for secret in job.values.secrets():
        text = text.replace(secret, "…")
    return tuple(line.strip()[:500] for line in text.splitlines() if FATAL_LINE.search(line))[-3:]


def to_text(sight: Sight) -> str:
    return json.dumps({"files": sight.files, "tables": sight.tables})


def from_text(text: str) -> Sight:
    """What `to_text` wrote; nothing was seen where it is empty."""
    if not text:
        return Sight()
    kept = json.loads(text)
    files = None if kept["files"] is None else {p: (size, mode) for p, (size, mode) in kept["files"].items()}
    return Sight(files, kept["tables"])
