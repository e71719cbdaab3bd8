"""Steps: what runs when, what is noted, what is retried, what is taken back. Acts here are small ones of the test's own."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from highshelf.core.errors import ConflictError, LineDroppedError
from highshelf.core.legs import registry
from highshelf.core.legs.job import Act, Ask, Done, Job, More, Result
from highshelf.core.plan import Plan
from highshelf.engine import steps as steps_module
from highshelf.engine.connections import Connections
from highshelf.engine.steps import Steps
from highshelf.engine.surveyor import Surveyor
from highshelf.store.store import Store
from highshelf.store.tables import JobRow, PlanRow, QuestionRow
from tests.unit.fakes import Flaky
from tests.unit.test_store import FakeDrivers, kept, release

SECRET = "Very-Secret-Word-1"


class Stage:
    """A job whose survey leg is made of the test's acts."""

    def __init__(self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
        self.store = Store(tmp_path / "data")
        kept(self.store)
        release(self.store, ["mariadb"])
        self.store.shelf.folder("ab" * 32).mkdir(exist_ok=True)
        self.store.set_secret("account/yard/transfer", SECRET)
        body = Plan(
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
        ).to_dict()
        self.store.add(PlanRow(id="p", account="yard", release="ab" * 32, body=body))
        self.store.add(JobRow(id="j", plan_id="p", account="yard", application="ledger 1.0"))
        drivers = FakeDrivers(tmp_path, Flaky())
        connections = Connections(self.store, drivers.connect)
        self.steps = Steps(self.store, drivers, connections, Surveyor(self.store, drivers, connections), None, None)  # type: ignore[arg-type]
        self.ran: list[str] = []
        self._patch = monkeypatch
        monkeypatch.setattr(steps_module, "PAUSE_SECONDS", 0)

    def acts(self, *acts: Act) -> None:
        self._patch.setitem(registry.ACTS, "survey", acts)

    def act(self, name: str, *results: Result | Exception | Callable[[Job], Result], undo: Any = None) -> Act:
        """An act that gives these results, one a call; the last one for good."""
        left = list(results) or [Done(f"{name} told")]

        def do(job: Job) -> Result:
            self.ran.append(name)
            result = left.pop(0) if len(left) > 1 else left[0]
            if isinstance(result, Exception):
                raise result
            return result(job) if callable(result) else result

        return Act(name, do, undo)

    def run(self) -> list[str]:
        """Step until the leg is over; the moves."""
        moves = []
        while True:
            moves.append(self.steps.step("j", "survey")["move"])
            if moves[-1] != "advance":
                return moves

    def texts(self, kind: str = "") -> list[str]:
        return [e.text for e in self.store.events_after("j", 0) if not kind or e.kind == kind]

    @property
    def job(self) -> JobRow:
        return self.store.get(JobRow, "j", "job")


@pytest.fixture
def stage(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Stage:
    return Stage(tmp_path, monkeypatch)


def test_acts_run_in_order_and_never_again(stage: Stage) -> None:
    stage.acts(stage.act("one"), stage.act("two", More("half"), Done("whole")), stage.act("three"))
    assert stage.run() == ["done"]
    assert stage.ran == ["one", "two", "two", "three"]
    assert stage.texts("act") == ["one told", "whole", "three told"]
    assert stage.texts("leg") == ["survey"]
    assert stage.run() == ["done"]
    assert stage.ran == ["one", "two", "two", "three"]


def test_what_a_cut_off_step_left_on_the_host_goes_first(stage: Stage) -> None:
    files = stage.steps._drivers.files  # type: ignore[attr-defined]
    files.make_folder("www")
    files.write("www/hs-1.php", b"helper")
    files.write("www/hs-1.php.seen.php", b"nonces")
    stage.store.journal("j").outstanding("www/hs-1.php")
    stage.acts(stage.act("one", lambda job: Done(",".join(e.name for e in job.files().entries("www")))))
    assert stage.run() == ["done"]
    assert files.entries("www") == [] and stage.store.journal("j").leftovers() == []
    assert stage.store.journal("j").newest_first()[0].told == ""


def test_a_long_leg_is_cut_into_steps(stage: Stage, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(steps_module, "STEP_SECONDS", -1)
    stage.acts(stage.act("one"), stage.act("two"), stage.act("three"))
    assert stage.run() == ["advance", "advance", "done"]


def test_a_lost_line_is_tried_again_and_anything_else_is_not(stage: Stage) -> None:
    stage.acts(stage.act("one", LineDroppedError("gone"), LineDroppedError("gone"), Done("there")))
    assert stage.run() == ["done"]
    assert stage.ran == ["one"] * 3
    stage.acts(stage.act("two", ConflictError("taken", hint="choose another")))
    assert stage.run() == ["failed"]
    assert stage.ran.count("two") == 1
    assert stage.job.error == {
        "code": "conflict",
        "message": "taken",
        "hint": "choose another",
        "leg": "survey",
        "retryable": False,
    }
    assert stage.run() == ["failed"], "a failed job does not go on"


def test_a_line_that_stays_lost_fails_the_job(stage: Stage) -> None:
    stage.acts(stage.act("one", LineDroppedError("gone for good")))
    assert stage.run() == ["failed"]
    assert stage.ran == ["one"] * steps_module.TRIES
    assert stage.job.error is not None and stage.job.error["code"] == "line-dropped"


def test_our_own_faults_are_told_as_ours_and_without_secrets(stage: Stage, capsys: pytest.CaptureFixture[str]) -> None:
    stage.acts(stage.act("one", ValueError(f"cannot parse {SECRET}")))
    assert stage.run() == ["failed"]
    assert stage.job.error is not None and stage.job.error["code"] == "fault" and "our fault" in stage.job.error["hint"]
    assert SECRET not in str(stage.job.error) + "".join(stage.texts()) + capsys.readouterr().out


def test_secrets_are_hidden_in_all_that_is_told(stage: Stage) -> None:
    def do(job: Job) -> Result:
        job.values.set("admin.password", "Another-Secret-2")
        job.say(f"trying {SECRET} and Another-Secret-2")
        return Done(f"used {SECRET}", {"n": 1})

    stage.acts(stage.act("one", do))
    stage.run()
    told = "".join(stage.texts()) + "".join(r.told for r in stage.store.journal("j").newest_first())
    assert "••••" in told and SECRET not in told and "Another-Secret-2" not in told


def test_a_question_is_asked_once_and_its_answer_is_kept(stage: Stage) -> None:
    def do(job: Job) -> Result:
        title = job.values.get("site.title")
        return Done(f"title {title}") if title else Ask("site.title", "Which title?", ("a", "b"))

    stage.acts(stage.act("one", do))
    first = stage.steps.step("j", "survey")
    again = stage.steps.step("j", "survey")
    assert first["move"] == "ask" and first == again
    assert stage.job.state == "waiting"
    assert [q.text for q in stage.store.all(QuestionRow)] == ["Which title?"]
    stage.steps.answer("j", first["question"], "Ferry Diary")
    assert stage.store.open_question("j") is None
    assert stage.run() == ["done"]
    assert "title Ferry Diary" in stage.texts()


def test_a_cancelled_job_begins_nothing_more(stage: Stage) -> None:
    def do(job: Job) -> Result:
        stage.steps.cancel("j")
        return Done("one")

    stage.acts(stage.act("one", do), stage.act("two"))
    assert stage.run() == ["failed"]
    assert stage.ran == ["one"]
    stage.steps.finish("j", undone=True)
    assert stage.job.state == "cancelled" and stage.job.finished_at is not None


def test_what_was_done_is_taken_back_newest_first(stage: Stage) -> None:
    undone: list[tuple[str, Any]] = []

    def undo(name: str, fault: Exception | None = None) -> Callable[[Job, dict[str, Any]], None]:
        def back(job: Job, facts: dict[str, Any]) -> None:
            undone.append((name, facts))
            if fault is not None:
                raise fault

        return back

    stage.acts(
        stage.act("one", Done("", {"n": 1}), undo=undo("one")),
        stage.act("look", Done("", {"n": 2})),
        stage.act("two", Done("", {"n": 3}), undo=undo("two", ConflictError("it will not go"))),
        stage.act("three", ConflictError("no"), undo=undo("three")),
    )
    stage.run()
    while stage.steps.undo_step("j")["move"] != "done":
        pass
    assert [name for name, _ in undone] == ["two"] * steps_module.TRIES + ["one"]
    assert undone[-1] == ("one", {"n": 1})
    states = {r.name: r.state for r in stage.store.journal("j").newest_first()}
    assert states == {"one": "undone", "look": "undone", "two": "undo-failed", "three": "undone"}
    assert any("could not take back two" in t and "by hand" in t for t in stage.texts("error"))
    stage.steps.finish("j", undone=True)
    assert stage.job.state == "failed"


def test_the_database_leg_is_passed_over_when_none_is_wanted(stage: Stage) -> None:
    assert stage.steps.step("j", "database") == {"move": "done", "question": ""}
