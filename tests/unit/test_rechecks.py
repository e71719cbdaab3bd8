"""Which installations are looked at by themselves, and when: spread, a few at once, nothing twice after a restart."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from itertools import pairwise
from pathlib import Path

import pytest

from highshelf.core.errors import TargetError
from highshelf.engine.rechecking import AT_ONCE, Rechecks, due_at
from highshelf.store.store import Store, new_id
from highshelf.store.tables import InstallationRow, JobRow, PlanRow

START = datetime(2026, 12, 1, 9, 0, tzinfo=UTC)


def installed(store: Store, number: str, hours: int = 24, **facts: object) -> InstallationRow:
    row = InstallationRow(
        id=number,
        job_id=f"job-{number}",
        account="ferry",
        release="00",
        application="tidebook",
        version="1",
        address="http://ferry.saltmarsh.example/",
        login_address="",
        target="www",
        admin_name="",
        facts={"recheck_hours": hours, "recheck_since": START.isoformat(), **facts},
        created_at=START,
    )
    store.add(row)
    return row


class Begun:
    """Plans nobody looks into, and the jobs that were begun of them, at the time it is said to be."""

    def __init__(self, store: Store, at: datetime = START) -> None:
        self.store, self.at, self.numbers = store, at, list[str]()

    def plan_recheck(self, number: str) -> PlanRow:
        if number.endswith("gone"):
            raise TargetError("its release is not on the shelf any more")
        return PlanRow(id=new_id(), account="ferry", release="00", body={"installation": number})

    def begin(self, planned: PlanRow) -> JobRow:
        number = planned.body["installation"]
        self.numbers.append(number)
        row = JobRow(
            id=new_id(), kind="recheck", plan_id=planned.id, account="ferry", application="", installation=number
        )
        row.created_at = self.at
        self.store.add(row)
        return row


@pytest.fixture
def store(tmp_path: Path) -> Store:
    return Store(tmp_path / "data")


def test_each_is_put_off_by_its_own_share_of_the_hours(store: Store) -> None:
    rows = [installed(store, f"{n * 0x1000:04x}"[:4] + "aaaa", 24) for n in range(16)]
    times = sorted(due_at(row, None) for row in rows)
    assert times[0] == START and times[-1] < START + timedelta(hours=24)
    assert all(b - a == timedelta(hours=1.5) for a, b in pairwise(times))


def test_what_is_due_is_begun_a_few_at_once_and_not_twice(store: Store) -> None:
    for n in range(8):
        installed(store, f"0000{n}")
    begun = Begun(store)
    looks = Rechecks(store, begun, begun.begin)
    assert len(looks.look(START)) == AT_ONCE
    # Another service on the same data, as after a restart, begins nothing while these are under way.
    assert Rechecks(store, begun, begun.begin).look(START) == []
    for job in store.jobs.open():
        store.change(JobRow, job.id, state="done", finished_at=START)
    looks.look(START)
    assert len(set(begun.numbers)) == len(begun.numbers) == 2 * AT_ONCE
    for job in store.jobs.open():
        store.change(JobRow, job.id, state="failed", finished_at=START)
    looks.look(START)
    # One that failed is not begun again before its time, and after its time everybody is.
    assert len(begun.numbers) == 8
    for job in store.jobs.open():
        store.change(JobRow, job.id, state="done", finished_at=START)
    assert looks.look(START + timedelta(hours=23)) == []
    assert len(looks.look(START + timedelta(hours=25))) == AT_ONCE


def test_what_stands_no_more_or_has_no_hours_is_left_alone(store: Store) -> None:
    installed(store, "0000a", hours=0)
    installed(store, "0000b", taken_back={"job": "x"})
    installed(store, "0000c", replaced_by="0000a")
    installed(store, "0000gone")
    installed(store, "0001fine")
    begun = Begun(store)
    # One that cannot be planned holds up no other.
    assert len(Rechecks(store, begun, begun.begin).look(START + timedelta(hours=25))) == 1
    assert begun.numbers == ["0001fine"]
