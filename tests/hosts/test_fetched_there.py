"""The host fetches a release itself, from where its makers publish it; where it cannot, another way is taken."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest

from highshelf.schemas.models import PlanNew
from highshelf.schemas.shelf import FetchNew
from tests.support import Hosting, Service

ARCHIVE = "tidebook-1.4.2.zip"


@pytest.fixture(scope="module")
def service(hosting: Hosting, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    options = (
        "--authority",
        str(hosting.layout.vendor_authority),
        "--inside",
        f"127.0.0.1:{hosting.layout.port('vendor')}",
    )
    running = Service(tmp_path_factory.mktemp("fetched") / "data", options=options)
    running.start()
    with running.client as client:
        address = f"{hosting.layout.vendor_address}files/{ARCHIVE}"
        found = client.release_fetch(FetchNew.model_validate({"address": address, "wait_seconds": 60}))
        assert found.state == "done", found.fault
    yield running
    running.stop()


@pytest.fixture
def trusting(clean: Hosting) -> Iterator[Path]:
    """The museum's shell believes the makers' certificate."""
    settings = clean.home("ferry") / ".curlrc"
    settings.write_text(f'cacert = "{clean.layout.vendor_authority}"\n')
    owner = (clean.home("ferry") / "private").stat()
    os.chown(settings, owner.st_uid, owner.st_gid)
    yield settings
    settings.unlink()


def test_the_host_fetches_it_and_it_is_believed_by_its_hash(clean: Hosting, service: Service, trusting: Path) -> None:
    with service.client as client:
        client.account_add(clean.new_account("ferry", name="ferry-fetching"))
        plan = client.plan_make(PlanNew(account="ferry-fetching", release="tidebook", at="/diary", way="shell-fetch"))
        assert clean.layout.vendor_address in plan.way.reason and len(plan.ways) > 2
        found = service.installed(service.wait(client.job_start(plan.id).id))
        texts = [e.text for e in client.job_log(found.job).items]
    assert any("fetched by the host itself, the same by its hash" in t for t in texts), texts
    assert not any("going on by" in t for t in texts), texts
    assert clean.leftovers() == []


def test_a_host_that_cannot_fetch_it_gets_it_another_way(clean: Hosting, service: Service) -> None:
    """Its shell does not believe the makers' certificate."""
    with service.client as client:
        client.account_add(clean.new_account("ferry", name="ferry-doubting"))
        job = service.install("tidebook", "ferry-doubting", "/diary", way="shell-fetch")
        texts = [e.text for e in client.job_log(job.id).items]
    assert job.state == "done", job.error
    assert any(t.startswith("shell-fetch failed: the host could not fetch") and "going on by" in t for t in texts), (
        texts
    )
    assert clean.leftovers() == []
