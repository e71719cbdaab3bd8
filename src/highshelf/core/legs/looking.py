"""A look at the front page, as every visitor has it."""

from __future__ import annotations

import posixpath

from highshelf.core.errors import CancelledError, HighShelfError, NoRoomError, PausedError, SupersededError
from highshelf.core.legs.job import Job
from highshelf.core.legs.trees import below
from highshelf.core.legs.witnessing import strange_files
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.prove.login import front_faults
from highshelf.core.prove.pages import faults_behind, pages_behind
from highshelf.core.walk.beginning import installing

# Deep enough for config/ and data/ folders, shallow enough to stay polite on hosts with slow listings.
LOOK_DEPTH = 2
# PHP looks at a file again after two seconds (opcache.revalidate_freq); hosts double that.
STALE_SECONDS = 4
# After this PHP looks whether a source has changed or gone: opcache.revalidate_freq is 2, counted in whole seconds of the
# clock, so that what was looked at late in second 10 is looked at again from second 13 on; and a margin.
CACHED_SECONDS = 3.2
# And where a link leads after two minutes (realpath_cache_ttl).
LINK_SECONDS = 130.0


def front_page(job: Job) -> Page:
    return read(job.fetch(fresh=True).get(job.place.address))


def behind(job: Job, page: Page) -> tuple[list[str], int]:
    """What speaks against a few pages that the front page links to, and how many were looked at."""
    fetch, faults = job.fetch(fresh=True), []
    urls = pages_behind(page, job.place.address)
    for url in urls:
        try:
            fault = faults_behind(read(fetch.get(url)))
        except (CancelledError, PausedError, SupersededError, NoRoomError):
            raise
        except HighShelfError as error:
            fault = f"{url} {error.message}"
        faults += [f"{url} {fault.removeprefix(url).strip()}"] if fault else []
    return faults, len(urls)


def works(job: Job) -> list[str]:
    """What is wrong with the front page now; empty when nothing is."""
    return front_faults(front_page(job), installing_page)


def works_soon(job: Job) -> list[str]:
    """The same, a few seconds later if need be: an opcode cache may still serve what stood at the same path before.

    Where PHP's log names a file that is none of this release, PHP still follows a link that was there: that takes two minutes.
    """
    looks_left, waited = STALE_SECONDS, 0.0
    while (faults := works(job)) and looks_left:
        job.cancel.rest(1.0)
        looks_left -= 1
    while faults and waited < LINK_SECONDS and _broken(front_page(job)) and (strange := strange_files(job)):
        if not waited:
            job.say(f"PHP still runs {strange[-1]}, which is none of this release: waiting until it looks again")
        job.cancel.rest(CACHED_SECONDS)
        waited += CACHED_SECONDS
        faults = works(job)
        if faults and waited >= LINK_SECONDS:
            # An opcode cache that never asks where a link leads goes on for as long as the old files stand there.
            return [
                f"{faults[0]}: PHP still runs {strange[-1]}, which is none of this release; its opcode cache has to be emptied"
            ]
    return faults


def _broken(page: Page) -> bool:
    return page.status >= 500 or not page.text


def installing_page(page: Page) -> bool:
    return installing(page) and any(f.typed and f.kind == "password" for form in page.forms for f in form.fields)


def listing(job: Job, inside: str = "", depth: int = LOOK_DEPTH) -> dict[str, int | None]:
    """Files below the target with their modes, `depth` folders deep; folders full of the release's own files are skipped."""
    found: dict[str, int | None] = {}
    for entry in below(job, inside):
        path = posixpath.join(inside, entry.name)
        if entry.kind == "file":
            found[path] = entry.mode
        elif entry.kind == "folder" and depth > 0 and not entry.name.startswith(".hs-hold-"):
            found |= listing(job, path, depth - 1)
    return found
