"""The plan while somebody is still choosing, and what all jobs tell, live."""

from __future__ import annotations

import re
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest

from highshelf.client import Client, ServiceError
from highshelf.schemas.models import AccountChange, EventOut, PlanNew
from highshelf.store.store import Store
from highshelf.store.tables import PlanRow, SecretRow
from tests.support import Hosting, Service, until


@pytest.fixture
def ready(clean: Hosting, service: Service, tidebook: Path) -> Iterator[Client]:
    with service.client as client:
        client.account_add(clean.new_account("choir"))
        client.release_check_in(tidebook)
        yield client


def wish(**more: object) -> PlanNew:
    return PlanNew(**{"account": "choir", "release": "tidebook", **more})  # type: ignore[arg-type]


def test_a_preview_says_the_place_what_is_there_and_what_is_asked(ready: Client, clean: Hosting) -> None:
    before = clean.picture("choir")
    seen = ready.plan_preview(wish(at="/diary", settings={"site.title": "?"}))
    assert seen.plan is not None and seen.fault is None
    assert seen.target == "htdocs/diary" and seen.address.endswith("/diary/")
    assert "will be made" in seen.plan.there
    assert [a.value for a in seen.plan.asks] == ["site.title"]
    root = ready.plan_preview(wish())
    assert root.plan is not None and "index.html" in root.plan.there and root.plan.touches == ["index.html"]
    assert clean.picture("choir") == before


def test_nothing_of_a_preview_is_kept(ready: Client, service: Service) -> None:
    for at in ("/d", "/di", "/diary"):
        ready.plan_preview(wish(at=at, settings={"admin.password": "Never-kept-1"}))
    store = Store(service.data)
    assert not store.all(PlanRow)
    assert not [s.ref for s in store.all(SecretRow) if s.ref.startswith("plan/")]


def test_what_forbids_a_plan_stands_beside_the_place(ready: Client, clean: Hosting) -> None:
    (clean.root("choir") / "songs").mkdir()
    (clean.root("choir") / "songs" / "index.php").write_text("<?php echo 1;")
    seen = ready.plan_preview(wish(at="/songs"))
    assert seen.plan is None and seen.fault is not None
    assert seen.fault.code == "target" and "another application" in seen.fault.message
    assert seen.target == "htdocs/songs"
    assert ready.plan_preview(wish(at="/../private")).fault is not None
    assert ready.plan_preview(wish(settings={"no.such": "x"})).fault is not None
    with pytest.raises(ServiceError) as caught:
        ready.plan_preview(wish(account="nobody"))
    assert caught.value.status == 404


def test_whoever_types_does_not_log_in_with_every_letter(ready: Client, clean: Hosting) -> None:
    def connections() -> int:
        return len(set(re.findall(r"mod_tls\S+\[(\d+)\]", (clean.layout.logs / "proftpd-tls.log").read_text())))

    first = connections()
    ready.plan_preview(wish(at="/diary"))
    before = connections()
    assert before > first
    for title in ("E", "Ev", "Eve", "Evensong"):
        assert ready.plan_preview(wish(at="/diary", settings={"site.title": title})).plan is not None
    assert connections() == before
    # A changed password is a new account to it: the refusal is told once, and the host is not asked again and again.
    ready.account_change("choir", AccountChange(transfer=f"ftps://wrong@127.0.0.1:{clean.layout.port('ftp')}"))
    refused = [ready.plan_preview(wish(at="/diary")).fault for _ in range(3)]
    assert connections() == before + 1
    assert {f.code for f in refused if f} == {"login-refused"} and None not in refused


def test_a_plan_made_afterwards_looks_anew(ready: Client, clean: Hosting) -> None:
    seen = ready.plan_preview(wish(at="/diary"))
    (clean.root("choir") / "diary" / "cgi-bin").mkdir(parents=True)
    kept = ready.plan_preview(wish(at="/diary")).plan
    assert kept is not None and seen.plan is not None and kept.there == seen.plan.there
    made = ready.plan_make(wish(at="/diary"))
    assert made.fingerprint != seen.plan.fingerprint
    assert "cgi-bin" in made.there


def test_all_jobs_are_watched_on_one_line(ready: Client, service: Service) -> None:
    heard: list[EventOut] = []

    def listen() -> None:
        with service.client as other:
            for event in other.watch():
                heard.append(event)
                if event.data.get("state") in ("done", "failed"):
                    return

    listener = threading.Thread(target=listen, daemon=True)
    listener.start()
    job = ready.job_start(ready.plan_make(wish(at="/diary", settings={"site.title": "?"})).id)
    until(lambda: any(e.kind == "question" for e in heard), "no question was heard", 60)
    asked = service.wait(job.id, ("waiting",))
    assert asked.question is not None and asked.latest is not None and asked.latest.kind == "question"
    assert {leg.name: leg.state for leg in asked.legs}["walk"] == "waiting"
    ready.job_answer(job.id, asked.question.id, "Evensong")
    listener.join(60)
    assert not listener.is_alive()
    assert {e.job for e in heard} == {job.id}
    ended = ready.job_show(job.id)
    assert {leg.state for leg in ended.legs} == {"done"}
    assert [j.id for j in ready.job_list(state=("done",)).items] == [job.id]
    assert ready.job_list(state=("failed", "running")).total == 0
    ready.installation_reveal(ended.installation, "database")
    told = ready.installation_reveals(ended.installation)
    assert [(r.who, r.what) for r in told.items] == [("token", "database")]
