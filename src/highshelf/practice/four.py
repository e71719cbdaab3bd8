"""The demo's other three applications: each on another customer's account, side by side; what cannot be done is told with its reason."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from pydantic import SecretStr

from highshelf.client import Client
from highshelf.practice.moorings.build import MODULE_FOLDER, build_module, make_key
from highshelf.practice.moorings.build import build_archive as build_moorings
from highshelf.practice.seedledger.build import build_archive as build_seedledger
from highshelf.schemas.models import JobOut, PlanNew
from highshelf.schemas.shelf import LicenceNew

# Whose account, and where there: implicit TLS; no shell; PHP as another user. `choir` keeps its root for what people try.
PLACES = {"quaystore": ("regatta", "/"), "seedledger": ("choir", "/ledger"), "moorings": ("yard", "/")}
MOST_QUESTIONS = 5


@dataclass(frozen=True)
class Ended:
    """How one of them ended: its address, or why it is not there."""

    release: str
    account: str
    address: str
    fault: str = ""


def check_in(client: Client, folder: Path) -> dict[str, str]:
    """Name -> SHA-256 of the two that are not on the shelf yet; Moorings out of its two archives, with a licence key for its customer."""
    seedledger = client.release_check_in(build_seedledger(folder))
    parts = [(build_moorings(folder), ""), (build_module(folder), MODULE_FOLDER)]
    moorings = client.release_join([(client.release_check_in(path).sha256, place) for path, place in parts])
    client.licence_add(LicenceNew(release=moorings.sha256, account=PLACES["moorings"][0], key=SecretStr(make_key(1))))
    return {"seedledger": seedledger.sha256, "moorings": moorings.sha256}


def install(client: Client, releases: dict[str, str]) -> Iterator[Ended]:
    """All at once: they have nothing to do with one another."""
    begun = {}
    for release, sha256 in releases.items():
        account, at = PLACES[release]
        plan = client.plan_make(PlanNew(account=account, release=sha256, at=at))
        begun[release] = client.job_start(plan.id).id
    for release, job in begun.items():
        ended = _answered(client, job)
        address = client.installation_show(ended.installation).address if ended.installation else ""
        fault = "" if ended.state == "done" else str((ended.error or {}).get("message") or ended.state)
        yield Ended(release, PLACES[release][0], address, fault)


def _answered(client: Client, job: str) -> JobOut:
    """Its end. Whether a licence is agreed to is a person's to say: here, where all is made up, it is said for them."""
    seen = 0
    for _ in range(MOST_QUESTIONS):
        for event in client.job_events(job, seen):
            seen = event.id
            if event.kind == "question":
                break
        shown = client.job_show(job)
        if shown.state != "waiting" or shown.question is None or not shown.question.value.startswith("accept."):
            return shown
        client.job_answer(job, shown.question.id, "yes")
    return shown
