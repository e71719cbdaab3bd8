"""How far each leg is, told from the journal."""

from __future__ import annotations

import pytest

from highshelf.core.legs.progress import progress_of
from highshelf.core.legs.registry import ACTS, ORDER


def journal(**legs: str) -> dict[tuple[str, str], str]:
    """A journal in which every act of the named legs has one state."""
    return {(leg, act.name): state for leg, state in legs.items() for act in ACTS[leg]}


def states(found: dict[tuple[str, str], str], **about: object) -> dict[str, str]:
    return {p.name: p.state for p in progress_of(found, **about)}  # type: ignore[arg-type]


def test_a_job_that_has_not_begun() -> None:
    assert set(states({}, job="queued").values()) == {"to-come"}
    assert [p.name for p in progress_of({}, job="queued")] == list(ORDER)


def test_place_and_database_side_by_side() -> None:
    found = journal(survey="done") | {("place", "hold"): "done", ("database", ACTS["database"][0].name): "intended"}
    told = states(found, job="running")
    assert (told["survey"], told["place"], told["database"], told["walk"]) == ("done", "running", "running", "to-come")
    assert progress_of(found, job="running")[1].acts_done == 1


def test_a_leg_that_waits() -> None:
    found = journal(survey="done", place="done", database="done", configure="done") | {("walk", "converse"): "intended"}
    assert states(found, job="waiting", asks_in="walk")["walk"] == "waiting"


@pytest.mark.parametrize("job", ["failed", "cancelled"])
def test_after_a_failure_that_was_taken_back(job: str) -> None:
    told = states(journal(survey="undone", place="undone", database="undone"), job=job, failed_in="place")
    assert (told["survey"], told["place"], told["database"], told["walk"]) == (
        "undone",
        "failed",
        "undone",
        "not-reached",
    )


def test_what_a_failed_job_left_standing_is_told() -> None:
    found = journal(survey="done", database="done") | {("place", "hold"): "done", ("place", "carry"): "intended"}
    told = states(found, job="failed", failed_in="configure")
    assert (told["database"], told["place"]) == ("done", "cut-off")
    assert states(journal(survey="undo-failed"), job="failed", failed_in="place")["survey"] == "undone"


def test_a_job_without_a_database() -> None:
    told = states(journal(survey="done", place="done"), job="running", database=False)
    assert (told["database"], told["configure"]) == ("not-needed", "to-come")


def test_acts_that_a_job_does_not_have_do_not_count() -> None:
    states = {("place", act.name): "done" for act in ACTS["place"] if act.name != "packages"}
    without = progress_of(states, job="done")[1]
    assert (without.state, without.acts_done) == ("done", without.acts)
    wanted = progress_of(states, job="running", plan=["packages", "web"])[1]
    assert (wanted.state, wanted.acts) == ("running", without.acts + 1)
