"""A job that waits for an answer gives its place back: others of its account go first, unless they would be in its way."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from highshelf.schemas.models import JobOut, PlanNew
from tests.support import Hosting, Service, until

GOES_FIRST = "other jobs of ferry may go first while it waits"


@pytest.fixture
def service(tmp_path: Path) -> Iterator[Service]:
    """As everywhere, but a question keeps the account for a second only."""
    running = Service(tmp_path / "data", options=("--patience", "1"))
    running.start()
    yield running
    running.kill()


@pytest.fixture
def ready(clean: Hosting, service: Service, tidebook: Path) -> Service:
    service.client.account_add(clean.new_account("ferry"))
    service.client.release_check_in(tidebook)
    return service


def begin(service: Service, at: str, **settings: str) -> JobOut:
    with service.client as client:
        plan = client.plan_make(PlanNew(account="ferry", release="tidebook", at=at, settings=settings))
        return client.job_start(plan.id)


def parked(service: Service, job: JobOut) -> JobOut:
    """The job once it waits, and others may go first."""

    def given_back() -> bool:
        return any(e.text == GOES_FIRST for e in service.client.job_log(job.id).items)

    until(given_back, "it keeps its place", 60)
    return service.client.job_show(job.id)


def answer(service: Service, job: JobOut, text: str) -> JobOut:
    with service.client as client:
        question = client.job_show(job.id).question
        assert question is not None
        client.job_answer(job.id, question.id, text)
        return service.wait(job.id)


def test_another_job_is_done_while_one_waits_and_that_goes_on_afterwards(clean: Hosting, ready: Service) -> None:
    first = begin(ready, "/one", **{"site.title": "?"})
    assert parked(ready, first).state == "waiting"
    second = ready.wait(begin(ready, "/two").id)
    assert second.state == "done", second.error
    assert ready.client.job_show(first.id).state == "waiting"
    ended = answer(ready, first, "Tides and times")
    assert ended.state == "done", ended.error
    assert "Tides and times" in clean.fetch("ferry").get(clean.customer("ferry")["address"] + "one/").html
    assert len(clean.databases()[0]) == 2 and clean.leftovers() == []


def test_killed_while_it_waits_it_waits_on(clean: Hosting, ready: Service) -> None:
    first = begin(ready, "/one", **{"site.title": "?"})
    parked(ready, first)
    ready.kill()
    ready.start()
    assert ready.client.job_show(first.id).state == "waiting"
    second = ready.wait(begin(ready, "/two").id)
    assert second.state == "done", second.error
    assert answer(ready, first, "Tides and times").state == "done"


def test_a_job_that_would_be_in_its_way_is_refused_before_it_does_anything(clean: Hosting, ready: Service) -> None:
    before = clean.picture("ferry")
    first = begin(ready, "/one", **{"site.title": "?"})
    parked(ready, first)
    with ready.client as client:
        plan = client.plan_make(PlanNew(account="ferry", release="tidebook", at="/one", if_there="replace"))
        second = ready.wait(client.job_start(plan.id).id)
    assert second.state == "failed" and second.error is not None
    assert f"the job {first.id} waits in the middle of its work" in second.error["message"]
    assert ready.client.job_show(first.id).state == "waiting"
    with ready.client as client:
        client.job_cancel(first.id)
    assert ready.wait(first.id).state == "cancelled"
    assert clean.picture("ferry") == before


def test_a_job_that_rests_gives_its_place_back_too(clean: Hosting, ready: Service) -> None:
    first = begin(ready, "/one", **{"site.title": "?"})
    parked(ready, first)
    with ready.client as client:
        client.job_pause(first.id)
    assert ready.wait(begin(ready, "/two").id).state == "done"
    with ready.client as client:
        client.job_resume(first.id)
    assert answer(ready, first, "Tides and times").state == "done"
