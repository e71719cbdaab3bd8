"""Between the store and the engine: killed at every line there is, no job is lost, doubled, or past cancelling."""

from __future__ import annotations

import os
import shutil
import sys
from collections.abc import Callable
from pathlib import Path
from types import FrameType
from typing import Any, Literal

import pytest

from highshelf.core.errors import ConflictError, NotFoundError
from highshelf.core.plan import Plan
from highshelf.engine import engine as engine_module
from highshelf.engine import outbox as outbox_module
from highshelf.engine import steps as steps_module
from highshelf.engine.connections import Connections
from highshelf.engine.engine import workflow_of
from highshelf.engine.outbox import Outbox
from highshelf.engine.steps import Steps
from highshelf.engine.surveyor import Surveyor
from highshelf.store import database, jobs, licences
from highshelf.store.licences import keep_licence
from highshelf.store.store import Store
from highshelf.store.tables import ActRow, JobRow, LicenceRow, PlanRow, QuestionRow
from tests.unit.fakes import Flaky
from tests.unit.test_store import FakeDrivers, kept, release

WALKED = {str(m.__file__) for m in (database, jobs, licences, outbox_module, steps_module)}
OURS = {str(outbox_module.__file__), str(steps_module.__file__)}
# Of the lines below those that decide, so many are left out; HIGHSHELF_WALK_EVERY=1 walks them all (two minutes).
EVERY = int(os.environ.get("HIGHSHELF_WALK_EVERY", "7"))
SETTINGS = {"site.title": "Kelda's Diary", "site.language": "en", "database.name": "kept for the panel"}
KEY = "SW-1111-2222"


class Plug(BaseException):
    """Somebody pulled it."""


class EngineFile:
    """What the engine would have in its own database: it survives the process."""

    def __init__(self) -> None:
        self.workflows: list[str] = []
        self.woken: list[tuple[str, str]] = []
        self.over: set[str] = set()

    def submit(self, job_id: str, account: str, run: int = 0) -> None:
        if workflow_of(job_id, run) not in self.workflows:
            self.workflows.append(workflow_of(job_id, run))

    def state(self, job_id: str, run: int) -> Literal["unknown", "open", "over"]:
        name = workflow_of(job_id, run)
        if name not in self.workflows:
            return "unknown"
        return "over" if name in self.over else "open"

    def wake(self, job_id: str, run: int, mark: str, leg: str = "") -> None:
        assert workflow_of(job_id, run) in self.workflows, "nobody is there to be woken"
        self.woken.append((leg, mark))

    def look_after(self) -> list[str]:
        return []


class Service:
    """Store, steps and outbox as one process has them."""

    def __init__(self, folder: Path, engine: EngineFile) -> None:
        self.store, self.engine = Store(folder), engine
        drivers = FakeDrivers(folder, Flaky())
        connections = Connections(self.store, drivers.connect)
        self.steps = Steps(self.store, drivers, connections, Surveyor(self.store, drivers, connections), None, None)  # type: ignore[arg-type]
        self.outbox = Outbox(self.store, engine)

    def start(self, number: str = "j") -> None:
        plan = Plan.from_dict(self.store.get(PlanRow, "p", "plan").body)
        self.steps.begin(JobRow(id=number, plan_id="p", account="yard", application="ledger 1.0"), plan)
        self.outbox.send(number)

    def answer(self) -> None:
        self.steps.answer("j", "q", "Ferry Diary")
        self.outbox.send("j")

    def resume(self) -> None:
        self.steps.resume("j")
        self.outbox.send("j")

    def cancel(self) -> None:
        self.steps.cancel("j")
        self.outbox.send("j")

    @property
    def job(self) -> JobRow:
        return self.store.get(JobRow, "j", "job")


def begun(folder: Path, engine: EngineFile, **fields: Any) -> Service:
    """A job that the engine has, with an act of its own."""
    made = Service(folder, engine)
    made.start()
    made.store.add(ActRow(job_id="j", leg="survey", name="look"))
    made.store.change(JobRow, "j", **fields)
    return made


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A data folder with a plan, whose licence key is free."""
    store = Store(tmp_path / "first")
    kept(store)
    release(store, ["mariadb"])
    keep_licence(store, "l", "ledger", "yard", KEY, several=False)
    plan = Plan(
        account="yard",
        release="ab" * 32,
        application="ledger 1.0",
        place="/",
        address="http://yard.saltmarsh.example/",
        target="www",
        fingerprint="absent",
        way={"name": "helper", "archive": "zip", "reason": ""},
        holding_beside=True,
        database="none",
        acts=(),
        settings=SETTINGS,
        licence="l",
    )
    store.add(PlanRow(id="p", account="yard", release="ab" * 32, body=plan.to_dict()))
    store.set_secret("plan/p/admin.password", "Very-Secret-Word-1")
    store.close()
    return tmp_path / "first"


def watched(work: Callable[[], None], line: int = 0) -> list[str]:
    """Do something, and die before its so-manieth line between store and engine; the files of the lines that were passed."""
    passed: list[str] = []

    def trace(frame: FrameType, event: str, argument: Any) -> Any:
        if frame.f_code.co_filename not in WALKED:
            return None
        if event == "line":
            passed.append(frame.f_code.co_filename)
            if len(passed) == line:
                raise Plug
        return trace

    before = sys.gettrace()
    sys.settrace(trace)
    try:
        work()
    except Plug:
        assert line
    finally:
        sys.settrace(before)
    return passed


def walk(
    folder: Path,
    prepare: Callable[[Path, EngineFile], Service],
    work: Callable[[Service], None],
    check: Callable[[Service], None],
) -> int:
    """Die at one line after the other until the work is through; each time start anew and look. Returns how many there are."""

    def once(line: int) -> list[str]:
        copy, engine = folder.parent / f"run-{line}", EngineFile()
        shutil.copytree(folder, copy)
        first = prepare(copy, engine)
        passed = watched(lambda: work(first), line)
        first.store.close()
        again = Service(copy, engine)
        again.outbox.take_up()
        try:
            check(again)
            assert again.store.jobs.words() == [], "the engine was not told all"
        except BaseException as fault:
            raise AssertionError(f"died at line {line}, in {passed[-1:]}") from fault
        again.store.close()
        shutil.rmtree(copy)
        return passed

    lines = once(0)
    for line, file in enumerate(lines, 1):
        if file in OURS or line % EVERY == 0:
            once(line)
    return len(lines)


def test_a_start_that_is_cut_off_is_whole_or_never_was(folder: Path) -> None:
    def check(found: Service) -> None:
        rows = found.store.all(JobRow)
        licence = found.store.get(LicenceRow, "l", "licence")
        if not rows:
            assert licence.used_by == [] and found.engine.workflows == []
            # Whoever asked asks again.
            found.start()
        assert found.engine.workflows == ["j"], "begun once"
        values = found.store.values("j").all()
        wanted = {n: v for n, v in SETTINGS.items() if not n.startswith("database.")}
        assert values == {**wanted, "licence.key": KEY, "admin.password": "Very-Secret-Word-1"}
        assert found.store.get(LicenceRow, "l", "licence").used_by == ["j"]
        with pytest.raises(ConflictError, match="used already"):
            found.start("k")
        found.cancel()
        assert found.job.state == "cancelled" and found.job.finished_at is not None
        assert found.store.get(LicenceRow, "l", "licence").used_by == []

    assert walk(folder, Service, Service.start, check) > 100


def test_an_answer_that_is_cut_off_is_kept_and_told_or_asked_for_again(folder: Path) -> None:
    def prepare(copy: Path, engine: EngineFile) -> Service:
        made = begun(copy, engine, state="waiting")
        made.store.add(QuestionRow(id="q", job_id="j", leg="walk", value="site.title", text="Which title?"))
        return made

    def check(found: Service) -> None:
        if found.store.open_question("j") is not None:
            assert found.job.state == "waiting" and found.engine.woken == []
            found.answer()
        assert found.job.state == "running"
        assert found.store.values("j").get("site.title") == "Ferry Diary"
        assert set(found.engine.woken) == {("walk", "q")} and found.engine.workflows == ["j"]

    assert walk(folder, prepare, Service.answer, check) > 50


def test_a_pause_whose_end_is_cut_off_goes_on_or_can_be_ended_again(folder: Path) -> None:
    def check(found: Service) -> None:
        if found.job.pause:
            assert found.job.state == "paused" and found.engine.woken == []
            found.resume()
        assert found.job.state == "running" and set(found.engine.woken) == {("", "m")}

    walk(folder, lambda copy, engine: begun(copy, engine, state="paused", pause="m"), Service.resume, check)


def test_cancelling_that_is_cut_off_reaches_whoever_waits(folder: Path) -> None:
    def prepare(copy: Path, engine: EngineFile) -> Service:
        made = begun(copy, engine, state="paused", pause="m")
        made.store.add(QuestionRow(id="q", job_id="j", leg="walk", value="site.title", text="Which title?"))
        return made

    def check(found: Service) -> None:
        if not found.job.cancel_asked:
            assert found.engine.woken == []
            found.cancel()
        assert {("", "m"), ("walk", "q")} <= set(found.engine.woken)
        assert found.steps.token("j").cancelled

    walk(folder, prepare, Service.cancel, check)


def test_a_job_that_the_engine_lost_begins_again_and_one_that_it_never_had_can_be_cancelled(folder: Path) -> None:
    engine = EngineFile()
    service = begun(folder, engine, state="running")
    engine.over.add("j")
    assert service.outbox.look() == ["j"], "its workflow broke"
    service.outbox.send()
    assert engine.workflows == ["j", "j~1"] and service.outbox.look() == []
    engine.workflows.clear()
    service.cancel()
    assert engine.workflows == ["j~1"], (
        "an engine that has lost its database is told anew, so that it takes things back"
    )
    assert service.job.finished_at is None, "there is something to take back"


def test_a_word_that_the_engine_does_not_take_is_told_again(folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    class Deaf(EngineFile):
        deaf = True

        def submit(self, job_id: str, account: str, run: int = 0) -> None:
            if self.deaf:
                raise OSError("database or disk is full")
            super().submit(job_id, account, run)

    engine = Deaf()
    service = Service(folder, engine)
    service.start()
    assert service.job.state == "queued" and engine.workflows == []
    assert service.outbox.send() == 1, "told to the log, and kept"
    assert "disk is full" in capsys.readouterr().out
    engine.deaf = False
    assert service.outbox.send() == 0 and engine.workflows == ["j"]


def test_answering_twice_is_told_and_wakes_once_more(folder: Path) -> None:
    engine = EngineFile()
    service = begun(folder, engine, state="waiting")
    service.store.add(QuestionRow(id="q", job_id="j", leg="walk", value="site.title", text="Which title?"))
    assert service.steps.answer("j", "q", "Ferry Diary")
    assert not service.steps.answer("j", "q", "Another")
    assert service.store.values("j").get("site.title") == "Ferry Diary"
    with pytest.raises(NotFoundError):
        service.steps.answer("j", "nothing", "Another")


def test_names_of_further_runs() -> None:
    assert engine_module.workflow_of("j", 0) == "j", "jobs that wait since before there were runs are found"
    assert engine_module.workflow_of("j", 2) == "j~2"
