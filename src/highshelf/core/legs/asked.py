"""Tidy, as the installer's last page asks: a folder gets a name that nobody guesses, texts for people go."""

from __future__ import annotations

import posixpath
import secrets
from typing import Any

from highshelf.core.legs.job import Done, Job, Result
from highshelf.core.legs.looking import CACHED_SECONDS, works, works_soon
from highshelf.core.legs.trees import holding_folder
from highshelf.core.pages.reader import read


def rename_as_asked(job: Job) -> Result:
    """Give folders the last page names another name, where they answer under it and the front page still works."""
    facts = job.journal.facts("tidy", "rename-as-asked")
    if not facts:
        wanted = [
            p for p in _wished(job, "rename") if not job.plan.split and job.files().stat(job.place.path(p)) is not None
        ]
        facts = {"names": {p: f"{p}-{secrets.token_hex(5)}" for p in wanted}, "before": works(job) if wanted else []}
        job.journal.intend("tidy", "rename-as-asked", facts)
    told: list[str] = []
    kept: dict[str, str] = {}
    for old, new in facts["names"].items():
        fault = _renamed(job, old, new, facts["before"])
        told.append(
            f"{old} cannot be renamed as the installer asks ({fault}); it keeps its name"
            if fault
            else f"{old} is called {new} now, as the installer asks"
        )
        kept |= {} if fault else {old: new}
    job.values.set("tidy.renamed", "\n".join(f"{old}\t{new}" for old, new in kept.items()))
    return Done("; ".join(told), {**facts, "kept": kept})


def _renamed(job: Job, old: str, new: str, before: list[str]) -> str:
    """Rename and look; what is wrong under the new name, or ""."""
    files, place = job.files(), job.place
    if files.stat(place.path(new)) is None and files.stat(place.path(old)) is not None:
        files.rename(place.path(old), place.path(new))
    job.cancel.rest(CACHED_SECONDS)
    page = read(job.fetch(fresh=True).get(place.url(new + "/")))
    faults = [] if before else works_soon(job)
    if page.status < 400 and not page.fatal and not faults:
        return ""
    files.rename(place.path(new), place.path(old))
    return faults[0] if faults else page.fatal or f"it answers with status {page.status} then"


def names_back(job: Job, facts: dict[str, Any]) -> None:
    """Each folder under the name it came with."""
    files, place = job.files(), job.place
    for old, new in facts.get("names", {}).items():
        if files.stat(place.path(new)) is not None and files.stat(place.path(old)) is None:
            files.rename(place.path(new), place.path(old))


def take_as_asked(job: Job) -> Result:
    """Texts for people that the last page wants away, as long as the application works without."""
    facts = job.journal.facts("tidy", "take-as-asked")
    if not facts:
        wanted = [p for p in _wished(job, "remove") if job.files().stat(job.place.path(p)) is not None]
        facts = {"aside": {p: f"text-{secrets.token_hex(6)}" for p in wanted}, "before": works(job) if wanted else []}
        job.journal.intend("tidy", "take-as-asked", facts)
    files, aside = job.files(), facts["aside"]
    for inside, name in aside.items():
        away = posixpath.join(holding_folder(job), name)
        if files.stat(away) is None and files.stat(job.place.path(inside)) is not None:
            files.rename(job.place.path(inside), away)
    if aside and not facts["before"] and (faults := works_soon(job)):
        texts_back(job, facts)
        return Done(f"{', '.join(aside)} stay, although the installer wants them away: {faults[0]}", facts)
    return Done(f"taken away, as the installer asks: {', '.join(aside)}" if aside else "", facts)


def texts_back(job: Job, facts: dict[str, Any]) -> None:
    """Back to where they lay, as long as they are kept."""
    files = job.files()
    for inside, name in facts.get("aside", {}).items():
        away = posixpath.join(holding_folder(job), name)
        if files.stat(away) is not None and files.stat(job.place.path(inside)) is None:
            files.rename(away, job.place.path(inside))


def _wished(job: Job, what: str) -> list[str]:
    found: list[str] = job.journal.facts("walk", "converse").get("wishes", {}).get(what, [])
    return list(found)
