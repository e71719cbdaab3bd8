"""A full disk under the data folder, for real: a small file system of its own. What runs goes on when there is room again."""

from __future__ import annotations

import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

from highshelf.client import ServiceError
from highshelf.schemas.models import AccountChange, PlanNew
from highshelf.store.disk import BALLAST_BYTES, RESERVE_BYTES
from tests.support import Hosting, Service, until

SIZE_BYTES = RESERVE_BYTES + 4 * BALLAST_BYTES


@pytest.fixture
def small(tmp_path: Path) -> Iterator[Path]:
    """A file system of some hundred megabytes in memory."""
    place = tmp_path / "small"
    place.mkdir()
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={SIZE_BYTES}", "tmpfs", str(place)], check=True)
    yield place
    subprocess.run(["umount", str(place)], check=True)


def fill(place: Path) -> Path:
    """Take all the room there is."""
    taken = place / "somebody-elses"
    with taken.open("wb", buffering=0) as out:
        try:
            while out.write(b"x" * 65536):
                pass
        except OSError:
            return taken


def test_a_full_disk_is_told_everything_can_be_read_and_work_goes_on_later(
    clean: Hosting, small: Path, tidebook: Path
) -> None:
    service = Service(small / "data")
    service.start()
    try:
        with service.client as client:
            client.account_add(clean.new_account("ferry"))
            client.release_check_in(tidebook)
            until(lambda: (small / "data" / "ballast").exists() or client.health() is None, "no ballast was taken")
            plan = client.plan_make(PlanNew(account="ferry", release="tidebook", at="/diary"))
            taken = fill(small)
            until(lambda: client.health().read_only != "", "nobody noticed")
            assert not (small / "data" / "ballast").exists(), "its room is for what is under way"
            assert [a.name for a in client.account_list().items] == ["ferry"]
            for call in (
                lambda: client.account_change("ferry", AccountChange(title="x")),
                lambda: client.job_start(plan.id),
            ):
                with pytest.raises(ServiceError) as caught:
                    call()
                assert (caught.value.fault.code, caught.value.status) == ("no-room", 507)
                assert "make room" in caught.value.fault.hint and caught.value.fault.retryable
            assert "read only" in service.cli("health").stdout
            # It is stopped and started while the disk is full.
            fill(small)
            service.stop()
            service.start()
            assert client.health().read_only != "" and client.account_show("ferry").name == "ferry"
            taken.unlink()
            until(lambda: client.health().read_only == "", "it did not notice that there is room again")
            job = client.job_start(plan.id)
            assert service.wait(job.id, ("done", "failed")).state == "done"
    finally:
        service.stop()


def test_a_job_that_is_under_way_waits_for_room_and_goes_on(clean: Hosting, small: Path, tidebook: Path) -> None:
    service = Service(small / "data")
    service.start()
    try:
        with service.client as client:
            client.account_add(clean.new_account("choir"))
            client.release_check_in(tidebook)
            plan = client.plan_make(PlanNew(account="choir", release="tidebook", at="/diary"))
            job = client.job_start(plan.id)
            until(lambda: any(e.kind == "act" for e in client.job_log(job.id).items), "it never began")
            taken = fill(small)
            until(lambda: client.health().read_only != "", "nobody noticed")
            assert client.job_show(job.id).finished_at is None, "it waits"
            taken.unlink()
            ended = service.wait(job.id, ("done", "failed"))
            assert ended.state == "done", ended.error
    finally:
        service.stop()
