"""Settings that the finished application itself asks to have changed: looked up in the file that it names, changed, seen to help.

Rules:
1. Only where the site does not answer as it should, and its page, or the installer's last one, names both the file and the setting.
2. The mode stays; a locked file is unlocked for the moment of the change alone.
3. What did not help is put back, byte for byte.
"""

from __future__ import annotations

import re

from highshelf.core.config.filling import Filling, read
from highshelf.core.config.formats import format_of
from highshelf.core.config.literals import put
from highshelf.core.config.writing import written
from highshelf.core.errors import ConfigurationError, HighShelfError, TransferError
from highshelf.core.legs.job import Job
from highshelf.core.legs.timed import TimedFetch
from highshelf.core.legs.trees import write_unlocked
from highshelf.core.pages.files import FILE_NAME
from highshelf.core.pages.page import Page
from highshelf.core.ports import Fetch
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.offers import place_of

MOST_BYTES = 200_000
# A host's cache of compiled sources looks at a file again after a while.
TRIES, PAUSE_SECONDS = 5, 1.0


def edit_what_is_asked(job: Job, fetch: Fetch | TimedFetch, know: Knowledge, pages: list[Page]) -> bool:
    """Change what the pages name.

    Returns:
        whether something was changed and the site answers now.
    """
    said = " ".join(p.text for p in pages)
    for name in dict.fromkeys(n for p in pages for n in FILE_NAME.findall(p.text)):
        inside = place_of(name, know)
        if inside and _changed(job, fetch, know, inside, said):
            return True
    return False


def _changed(job: Job, fetch: Fetch | TimedFetch, know: Knowledge, inside: str, said: str) -> bool:
    path = job.place.path(inside)
    there = job.files().stat(path)
    if there is None or there.kind != "file" or there.size_bytes > MOST_BYTES:
        return False
    old = job.files().read(path, MOST_BYTES)
    try:
        form = format_of(inside, old)
        named = [f for f in read(form.literals(old)).fillings if _is_named(f, said)]
        texts = [(f, text) for f in named if (text := written(f, know.values)) is not None]
        changes = [(f.literal, text) for f, text in texts if text != f.literal.value]
        new = put(form, old, changes)
    except ConfigurationError as fault:
        job.say(f"{inside} is left as it is: {fault.message}")
        return False
    if not changes or not _written(job, path, new, there.mode):
        return False
    keys = ", ".join(literal.name for literal, _ in changes)
    if _answers(job, fetch):
        job.say(f"{keys} in {inside} changed, as the application asks: the site answers now")
        return True
    _written(job, path, old, there.mode)
    job.say(f"{keys} in {inside} changed and put back: the site did not answer any better")
    return False


def _is_named(filling: Filling, said: str) -> bool:
    """Whether a page speaks of the setting by its key; what the installer entered itself is not touched."""
    key = filling.literal.path[-1].lstrip("$")
    if len(key) < 4 or filling.value != "site.address":
        return False
    return re.search(rf"(?<![\w-]){re.escape(key)}(?![\w-])", said) is not None


def _written(job: Job, path: str, content: bytes, mode: int | None) -> bool:
    try:
        write_unlocked(job.files(), path, content, mode)
    except TransferError as fault:
        job.say(f"{path} cannot be changed over the file transfer: {fault.message}")
        return False
    return True


def _answers(job: Job, fetch: Fetch | TimedFetch) -> bool:
    for _ in range(TRIES):
        try:
            if fetch.get(job.place.address).status < 400:
                return True
        except HighShelfError:
            pass
        job.cancel.rest(PAUSE_SECONDS)
    return False
