"""The engine's own database refuses to be written to, for real: what fell over then is begun again, and no orphan goes on."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from highshelf.engine.engine import GONE_SECONDS, Engine
from highshelf.engine.steps import Outcome, outcome
from highshelf.store.store import Store
from tests.support import until

REFUSED = "database or disk is full"


class Work:
    """What the engine needs of steps; each leg's steps are counted, and can be held up."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.done: list[str] = []
        self.begun, self.go_on = threading.Event(), threading.Event()
        self.surveyor, self.packer = self, self

    def groups(self, job_id: str) -> list[list[str]]:
        return [["survey"], ["place", "database"]]

    def mark(self, job_id: str, state: str) -> None:
        self.done.append(state)

    def step(self, job_id: str, leg: str) -> Outcome:
        if leg == "place":
            self.begun.set()
            assert self.go_on.wait(20)
        self.done.append(leg)
        return outcome("done")

    def do(self, what: str) -> None:
        """A survey, or the packing of a release."""
        if what == "broken":
            raise RuntimeError("it breaks")
        if what == "release":
            self.begun.set()
            assert self.go_on.wait(20)
        self.done.append(what)

    def behind(self) -> list[str]:
        return ["release"]

    def finish(self, job_id: str, *, undone: bool) -> None:
        self.done.append("finished")

    def log_in_ahead(self, job_id: str) -> None:
        pass


class Books:
    """The engine's tables, as another program sees them."""

    def __init__(self, path: Path) -> None:
        self._db = sqlite3.connect(path, timeout=10)

    def refuse(self, what: str = "") -> None:
        """From now on nothing can be written down, or nothing about what `what` says."""
        for table, when in (("operation_outputs", "INSERT"), ("workflow_status", "UPDATE")):
            only = f"WHEN NEW.workflow_uuid LIKE '%{what}'"
            self._db.execute(
                f"CREATE TRIGGER full_{table} BEFORE {when} ON {table} {only} BEGIN SELECT RAISE(FAIL, '{REFUSED}'); END"
            )
        self._db.commit()

    def allow(self) -> None:
        for table in ("operation_outputs", "workflow_status"):
            self._db.execute(f"DROP TRIGGER full_{table}")
        self._db.commit()

    def states(self) -> dict[str, str]:
        return dict(self._db.execute("SELECT workflow_uuid, status FROM workflow_status"))


@pytest.fixture
def work(tmp_path: Path) -> Work:
    return Work(Store(tmp_path))


@pytest.fixture
def engine(work: Any, tmp_path: Path) -> Iterator[Engine]:
    made = Engine(work, tmp_path / "engine.sqlite")
    made.start()
    yield made
    work.go_on.set()
    made.stop()


def looked_after(engine: Engine) -> list[str]:
    """What is begun again by two looks that lie far enough apart."""
    assert engine.look_after(lambda: 0.0) == [], "one look is not enough"
    return engine.look_after(lambda: GONE_SECONDS)


def test_what_could_not_write_down_how_it_ended_is_begun_again(engine: Engine, work: Work, tmp_path: Path) -> None:
    books = Books(tmp_path / "engine.sqlite")
    engine.submit("j", "ferry")
    assert work.begun.wait(20)
    assert looked_after(engine) == [], "it is under way"
    until(lambda: books.states().get("j-database") == "SUCCESS", "the other leg never ended")
    books.refuse()
    work.go_on.set()
    # Who waits for a leg falls over with it.
    until(
        lambda: engine.look_after(lambda: 0.0) == [] and {"j", "j-place"} <= set(engine._missed), "they never fell over"
    )
    books.allow()
    assert books.states()["j"] == books.states()["j-place"] == "PENDING", "by the books both are under way"
    assert set(engine.look_after(lambda: GONE_SECONDS)) == {"j", "j-place"}
    until(lambda: books.states()["j"] == "SUCCESS", "it was not begun again")
    assert work.done.count("place") == 2, "the step that was not written down is done again"
    assert work.done.count("survey") == work.done.count("database") == work.done.count("finished") == 1


def test_a_leg_of_a_run_that_is_over_is_not_begun_again(engine: Engine, work: Work, tmp_path: Path) -> None:
    books = Books(tmp_path / "engine.sqlite")
    engine.submit("j", "ferry")
    assert work.begun.wait(20)
    until(lambda: books.states().get("j-database") == "SUCCESS", "the other leg never ended")
    books.refuse("-place")
    work.go_on.set()
    until(lambda: books.states()["j"] == "ERROR", "its job never broke")
    books.allow()
    assert books.states()["j-place"] == "PENDING"
    assert engine.look_after(lambda: GONE_SECONDS) == []
    assert books.states()["j-place"] == "CANCELLED"
    assert work.done.count("place") == 1


def test_a_survey_whose_run_broke_gets_another(engine: Engine, work: Work, tmp_path: Path) -> None:
    books = Books(tmp_path / "engine.sqlite")
    engine.submit_survey("broken", "ferry")
    until(lambda: books.states().get("survey-broken") == "ERROR", "it did not break")
    engine.submit_survey("broken", "ferry")
    until(lambda: books.states().get("survey-broken~1") == "ERROR", "no further run was begun")


def test_what_a_survey_queued_goes_on_after_it(engine: Engine, work: Work, tmp_path: Path) -> None:
    books = Books(tmp_path / "engine.sqlite")
    engine.submit_survey("fine", "ferry")
    assert work.begun.wait(20)
    until(lambda: books.states()["survey-fine"] == "SUCCESS", "the survey never ended")
    assert looked_after(engine) == []
    work.go_on.set()
    until(lambda: set(books.states().values()) == {"SUCCESS"}, "it was not packed")
    assert work.done == ["fine", "release"]
