"""kill -9 in the middle of place, of walk, and while a question waits: the job finishes, once."""

from __future__ import annotations

import os
import shutil
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from highshelf.client.errors import ServiceUnreachableError
from highshelf.practice.quaystore import build as quaystore
from highshelf.schemas.models import EventOut, JobOut, PlanNew
from highshelf.service.app import SUPERSEDED_EXIT
from highshelf.store.store import Store
from tests.support import SOURCE, Hosting, Service, crossed, until


@pytest.fixture(scope="module")
def large(tidebook: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Tidebook with pictures that no compression makes smaller, so that bringing it takes a while."""
    path = tmp_path_factory.mktemp("large") / "tidebook-1.4.2.zip"
    shutil.copy(tidebook, path)
    with zipfile.ZipFile(path, "a") as archive:
        for number in range(12):
            archive.writestr(f"tidebook-1.4.2/pictures/{number}.bin", os.urandom(8_000_000))
    return path


def started(service: Service, hosting: Hosting, archive: Path, key: str, **settings: str) -> str:
    service.client.account_add(hosting.new_account(key))
    service.client.release_check_in(archive)
    plan = service.client.plan_make(PlanNew(account=key, release="tidebook", at="/diary", settings=settings))
    return service.client.job_start(plan.id).id


def kill_when(service: Service, job: str, holds: Callable[[EventOut], bool]) -> None:
    client = service.client
    until(lambda: any(holds(e) for e in client.job_log(job).items), "the moment to kill never came", 60)
    service.kill()


def assert_finished_once(hosting: Hosting, service: Service, job_id: str, key: str) -> JobOut:
    job = service.wait(job_id, ("done", "failed"))
    found = service.installed(job)
    names, people = hosting.databases()
    assert (len(names), len(people)) == (1, 1)
    prefix = found.facts["prefix"]
    assert sorted(r[0] for r in hosting.sql(f"SHOW TABLES IN `{names[0]}`")) == [
        f"{prefix}{t}" for t in ("entries", "facts", "keepers")
    ]
    assert hosting.sql(f"SELECT COUNT(*) FROM `{names[0]}`.{prefix}keepers") == [["1"]]
    assert hosting.leftovers() == [] and job.outstanding == []
    assert len(service.client.installation_list().items) == 1
    done = [(a.leg, a.name) for a in job.acts]
    assert len(done) == len(set(done)) and {a.state for a in job.acts} == {"done"}
    return job


@pytest.mark.parametrize(("key", "moment"), crossed(["ferry", "choir"], ["carry", "unpack", "swap"]))
def test_killed_in_the_middle_of_place(clean: Hosting, service: Service, large: Path, key: str, moment: str) -> None:
    def reached(event: EventOut) -> bool:
        if moment == "carry":
            return 0 < event.data.get("bytes", 0) < event.data.get("of", 0)
        return event.data.get("act") == {"unpack": "carry", "swap": "identity"}[moment]

    job = started(service, clean, large, key)
    kill_when(service, job, reached)
    service.start()
    assert_finished_once(clean, service, job, key)


@pytest.mark.parametrize(("key", "press"), crossed(["ferry", "seeds"], ["Begin", "Go on with", "Install Tidebook"]))
def test_killed_in_the_middle_of_walk(clean: Hosting, service: Service, tidebook: Path, key: str, press: str) -> None:
    job = started(service, clean, tidebook, key)
    kill_when(service, job, lambda e: e.leg == "walk" and f"press {press}" in e.text)
    service.start()
    assert_finished_once(clean, service, job, key)


@pytest.mark.parametrize("moment", ["press Test the connection", "press Build the shop"])
def test_killed_in_the_middle_of_a_walk_in_the_browser(
    clean: Hosting, service: Service, tmp_path: Path, moment: str
) -> None:
    """The page is gone with the process: the conversation begins anew from its address, and ends once."""
    service.client.account_add(clean.new_account("choir"))
    made = service.client.release_check_in(quaystore.build_archive(tmp_path))
    plan = service.client.plan_make(PlanNew(account="choir", release=made.sha256[:12], at="/shop"))
    job = service.client.job_start(plan.id).id
    asked = service.wait(job, ("waiting", "failed"))
    assert asked.question is not None, asked.error
    service.client.job_answer(job, asked.question.id, "yes")
    kill_when(service, job, lambda e: e.leg == "walk" and moment in e.text)
    service.start()
    ended = service.wait(job, ("done", "failed"))
    told = [e.text for e in service.client.job_log(job).items]
    assert ended.state == "done", (ended.error, told)
    assert len(service.client.installation_list().items) == 1 and clean.leftovers() == []


@pytest.mark.parametrize("leg", ["database", "tidy", "prove"])
def test_killed_in_other_legs(clean: Hosting, service: Service, tidebook: Path, leg: str) -> None:
    job = started(service, clean, tidebook, "choir")
    kill_when(service, job, lambda e: e.leg == leg and e.kind == "act")
    service.start()
    assert_finished_once(clean, service, job, "choir")


def test_killed_while_a_question_waits_and_upgraded_in_between(
    clean: Hosting, service: Service, tidebook: Path, tmp_path: Path
) -> None:
    copy = tmp_path / "src"
    shutil.copytree(SOURCE, copy, ignore=shutil.ignore_patterns("__pycache__"))
    service.stop()
    service.source = copy
    service.environment["PYTHONPATH"] = str(copy)
    service.start()
    job = started(service, clean, tidebook, "ferry", **{"site.title": "?"})
    service.wait(job, ("waiting",))
    service.kill()
    for name in ("engine/engine.py", "engine/steps.py", "core/legs/walk.py"):
        path = copy / "highshelf" / name
        path.write_text(path.read_text() + "\nUPGRADED = True\n")
    service.start()
    waiting = service.client.job_show(job)
    assert waiting.state == "waiting" and waiting.question is not None
    service.client.job_answer(job, waiting.question.id, "After the upgrade")
    ended = assert_finished_once(clean, service, job, "ferry")
    assert service.installed(ended).facts["title"] == "After the upgrade"


def test_a_job_killed_while_it_is_taken_back_is_taken_back(clean: Hosting, service: Service, large: Path) -> None:
    before = clean.picture("ferry")
    job = started(service, clean, large, "ferry", **{"site.title": "?"})
    service.wait(job, ("waiting",))
    service.client.job_cancel(job)
    kill_when(service, job, lambda e: e.kind == "undo")
    service.start()
    assert service.wait(job, ("cancelled",)).outstanding == []
    assert clean.picture("ferry") == before


PLUG = """
import os
from highshelf.engine.engine import Engine

def pulled(*_, **__):
    os._exit(9)

Engine.{name} = pulled
"""


def dies_before(service: Service, folder: Path, name: str) -> None:
    """From now on the service dies whenever it is about to tell the engine something of this kind."""
    service.stop()
    folder.mkdir()
    (folder / "sitecustomize.py").write_text(PLUG.format(name=name))
    service.environment["PYTHONPATH"] = f"{folder}:{SOURCE}"
    service.start()


def lives_again(service: Service) -> None:
    service.kill()
    service.environment["PYTHONPATH"] = str(SOURCE)
    service.start()


def test_a_job_whose_start_never_reached_the_engine_is_done_all_the_same(
    clean: Hosting, service: Service, tidebook: Path, tmp_path: Path
) -> None:
    service.client.account_add(clean.new_account("ferry"))
    service.client.release_check_in(tidebook)
    plan = service.client.plan_make(PlanNew(account="ferry", release="tidebook", at="/diary"))
    dies_before(service, tmp_path / "plug", "submit")
    with pytest.raises(ServiceUnreachableError):
        service.client.job_start(plan.id)
    lives_again(service)
    jobs = service.client.job_list().items
    assert len(jobs) == 1
    assert_finished_once(clean, service, jobs[0].id, "ferry")


def test_an_answer_that_never_reached_the_engine_is_heard_all_the_same(
    clean: Hosting, service: Service, tidebook: Path, tmp_path: Path
) -> None:
    service.client.account_add(clean.new_account("choir"))
    service.client.release_check_in(tidebook)
    plan = service.client.plan_make(
        PlanNew(account="choir", release="tidebook", at="/diary", settings={"site.title": "?"})
    )
    job = service.client.job_start(plan.id).id
    question = service.wait(job, ("waiting",)).question
    assert question is not None
    dies_before(service, tmp_path / "plug", "wake")
    with pytest.raises(ServiceUnreachableError):
        service.client.job_answer(job, question.id, "Choir Diary")
    lives_again(service)
    assert_finished_once(clean, service, job, "choir")


def test_a_service_that_another_one_has_taken_over_from_stops_at_its_next_act(
    clean: Hosting, service: Service, large: Path
) -> None:
    """Where a lock does not reach: a frozen machine that wakes up again, a folder on a network disk."""
    job = started(service, clean, large, "choir")
    until(lambda: any(e.kind == "act" for e in service.client.job_log(job).items), "it never began", 60)
    assert service.process is not None
    store = Store(service.data)
    store.begin_epoch()
    store.close()
    until(lambda: service.process is not None and service.process.poll() is not None, "it goes on", 60)
    assert service.process.returncode == SUPERSEDED_EXIT and "superseded" in service.log.read_text()
    service.start()
    assert_finished_once(clean, service, job, "choir")
