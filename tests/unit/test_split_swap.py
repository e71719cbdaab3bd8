"""A web folder that comes into the document root with the rest above it: cut off at every change; and what others put in the way."""

from __future__ import annotations

import pytest

from highshelf.core.errors import LineDroppedError, TargetError
from highshelf.core.legs import place, swapping
from highshelf.core.legs.job import Done
from tests.unit.fakes import FakeJob, Flaky
from tests.unit.test_place_leg import host, run_through, taken_back_through_cuts

RELEASE = {
    "public/index.php": b"<?php require '../src/app.php';",
    "public/.htaccess": b"Options -Indexes",
    "public/theme/a.css": b"p {}",
    "src/app.php": b"<?php // program",
    "composer.json": b"{}",
    "config.php": b"<?php // in the release, and called as what applications make",
    ".env.sample": b"KEY=",
}
STANDS = {"www" + p.removeprefix("public") if p.startswith("public/") else p: c for p, c in RELEASE.items()}


def held(files: Flaky, *, beside: bool = True) -> FakeJob:
    job = FakeJob(files, RELEASE, "/", beside=beside, web="public")
    assert isinstance(place.hold(job), Done)  # type: ignore[arg-type]
    job.unpack()
    files.changes = 0
    return job


def undo(job: FakeJob) -> None:
    swapping.unswap(job, job.journal.facts("place", "swap"))  # type: ignore[arg-type]
    place.unhold(job, job.journal.facts("place", "hold"))  # type: ignore[arg-type]


def standing(files: Flaky) -> dict[str, bytes | None]:
    """All but what waits for the job."""
    return {path: content for path, content in files.tree().items() if not path.startswith(".hs-")}


def test_it_comes_to_stand_in_two_folders_and_goes_again() -> None:
    files = host()
    before = files.tree()
    job = held(files)
    swapping.swap(job)  # type: ignore[arg-type]
    after = files.tree()
    assert {path: after.get(path) for path in STANDS} == STANDS and "www/index.html" not in after
    # What the application makes, in the web folder and above.
    for path in ("www/theme/made.css", "src/cache.bin", "settings.php"):
        files.write(path, b"made by the application")
    files.write("letter.txt", b"the customer's own")
    undo(job)
    assert files.tree() == before | {"letter.txt": b"the customer's own"}


@pytest.mark.parametrize("after", [False, True], ids=["before", "after"])
def test_cut_off_at_any_change_it_comes_to_the_same_end_or_back(after: bool) -> None:
    whole = host()
    before = whole.tree()
    swapping.swap(held(whole))  # type: ignore[arg-type]
    expected, changes = standing(whole), whole.changes
    assert changes > len({path.split("/")[0] for path in RELEASE})
    for number in range(1, changes + 1):
        files = host()
        job = held(files)
        files.fail_at, files.after = number, after
        assert run_through(swapping.swap, job) == 1
        assert standing(files) == expected, f"cut off at change {number}"
        files = host()
        job = held(files)
        files.fail_at, files.after = number, after
        with pytest.raises(LineDroppedError):
            swapping.swap(job)  # type: ignore[arg-type]
        files.fail_at = None
        undo(job)
        assert files.tree() == before, f"taken back after change {number}"


@pytest.mark.parametrize("after", [False, True], ids=["before", "after"])
def test_taking_back_cut_off_at_any_change_still_ends_as_it_was(after: bool) -> None:
    def swapped() -> FakeJob:
        job = held(host())
        swapping.swap(job)  # type: ignore[arg-type]
        job.files().write("settings.php", b"made by the installer")
        return job

    taken_back_through_cuts(swapped, host().tree(), after)


def test_a_name_that_is_taken_above_is_refused_before_anything_moves() -> None:
    files = host()
    job = held(files)
    files.write("composer.json", b"the customer's own")
    with pytest.raises(TargetError, match=r"composer\.json stand beside the document root"):
        swapping.swap(job)  # type: ignore[arg-type]
    assert files.read("composer.json") == b"the customer's own" and "src" not in files.tree()


@pytest.mark.parametrize(
    ("path", "web"),
    [("composer.json", "public"), ("config.php", "public"), ("www/index.php", "public"), ("www/index.php", "")],
)
def test_what_came_while_the_line_was_broken_is_neither_renamed_over_nor_taken_out(path: str, web: str) -> None:
    release = RELEASE if web else {p.removeprefix("public/"): c for p, c in RELEASE.items()}
    files = host()
    before = files.tree()
    job = FakeJob(files, release, "/", web=web)
    place.hold(job)  # type: ignore[arg-type]
    job.unpack()
    # The first thing to come in does not.
    files.changes, files.fail_at, files.after = 0, 2, False
    with pytest.raises(LineDroppedError):
        swapping.swap(job)  # type: ignore[arg-type]
    files.fail_at = None
    files.write(path, b"the customer's own")
    with pytest.raises(TargetError, match="while the job ran"):
        swapping.swap(job)  # type: ignore[arg-type]
    undo(job)
    assert files.tree() == before | {path: b"the customer's own"}


@pytest.mark.parametrize("replaced", [False, True], ids=["new", "replaced"])
def test_a_folder_that_came_where_ours_was_to_go_stays(replaced: bool) -> None:
    files = host()
    if replaced:
        files.make_folder("www/diary")
        files.write("www/diary/index.php", b"the old front")
    job = FakeJob(files, {"index.php": b"new"}, "/diary", if_there="replace" if replaced else "")
    place.hold(job)  # type: ignore[arg-type]
    job.unpack()
    # The folder for what is kept, the old one into it: then the line breaks.
    files.changes, files.fail_at, files.after = 0, 3 if replaced else 1, False
    with pytest.raises(LineDroppedError):
        swapping.swap(job)  # type: ignore[arg-type]
    files.fail_at = None
    files.make_folder("www/diary")
    files.write("www/diary/own.txt", b"the customer's own")
    with pytest.raises(TargetError, match="while the job ran"):
        swapping.swap(job)  # type: ignore[arg-type]
    undo(job)
    assert files.read("www/diary/own.txt") == b"the customer's own"
    left = {path: content for path, content in files.tree().items() if path.startswith(".hs-") and content is not None}
    assert left == ({".hs-kept-01234567/whole/index.php": b"the old front"} if replaced else {})


def test_what_stepped_aside_is_kept_when_its_place_is_taken_meanwhile() -> None:
    files = host(with_placeholder=False)
    files.write("www/index.php", b"the old front")
    job = FakeJob(files, {"index.php": b"new", "a.php": b"<?php"}, "/", if_there="merge")
    place.hold(job)  # type: ignore[arg-type]
    job.unpack()
    files.fail_at, files.after, files.changes = 4, False, 0
    with pytest.raises(LineDroppedError):
        swapping.swap(job)  # type: ignore[arg-type]
    files.fail_at = None
    assert files.stat("www/index.php") is None
    files.write("www/index.php", b"somebody's")
    undo(job)
    assert files.read("www/index.php") == b"somebody's"
    assert files.read(".hs-kept-01234567/old/index.php") == b"the old front"
    assert any("could not come back" in text for text in job.said)
