"""The swap and its inverse, cut off before and after every single change on the host."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from urllib.parse import urlsplit

import pytest

from highshelf.core.errors import LineDroppedError, TargetError
from highshelf.core.legs import place, survey, swapping, tidy
from highshelf.core.legs.job import Done
from highshelf.core.legs.registry import act_of
from highshelf.core.placing.swapping import IfThere
from highshelf.core.primers.models import ApplicationPrimer
from tests.unit.fakes import FakeJob, Flaky

RELEASE = {
    "index.php": b"<?php // front",
    ".htaccess": b"Options -Indexes",
    "lib/a.php": b"<?php",
    "lib/.htaccess": b"Require all denied",
    "install/index.php": b"<?php // installer",
}
PLACEHOLDER = b"<h1>This space is reserved</h1>"


def host(with_placeholder: bool = True) -> Flaky:
    files = Flaky()
    for folder in ("www", "www/cgi-bin", "private"):
        files.make_folder(folder)
    if with_placeholder:
        files.write("www/index.html", PLACEHOLDER)
    files.write("private/diary.txt", b"not yours")
    files.changes = 0
    return files


def held(files: Flaky, at: str, beside: bool, if_there: IfThere = "") -> FakeJob:
    job = FakeJob(files, RELEASE, at, beside=beside, if_there=if_there)
    assert isinstance(place.hold(job), Done)  # type: ignore[arg-type]
    job.unpack()
    files.changes = 0
    return job


def walked(job: FakeJob) -> str:
    """The path of a page of the installer, as the walk keeps it."""
    return urlsplit(job.place.url("install/index.php")).path


def run_through(act, job: FakeJob, *arguments: object) -> int:  # type: ignore[no-untyped-def]
    """Run an act again until the line holds; returns how often it was cut off."""
    for cuts in range(3):
        try:
            act(job, *arguments)
            return cuts
        except LineDroppedError:
            job.files().fail_at = None
    raise AssertionError("the act never came through")


def taken_back_through_cuts(swapped: Callable[[], FakeJob], before: dict[str, bytes | None], after: bool) -> None:
    """Cut taking back off at one change after the other, until none is left: each time all is as it was before."""
    for number in range(1, 60):
        job = swapped()
        files = job.files()
        files.changes, files.fail_at, files.after = 0, number, after
        cuts = run_through(swapping.unswap, job, job.journal.facts("place", "swap"))
        files.fail_at = None
        place.unhold(job, job.journal.facts("place", "hold"))  # type: ignore[arg-type]
        assert files.tree() == before, f"taking back cut off at change {number}"
        if not cuts:
            return
    raise AssertionError("taking back never came through uncut")


CASES = [("/", True), ("/", False), ("/diary", True), ("/a/b/diary", False)]


@pytest.mark.parametrize(("at", "beside"), CASES)
def test_the_swap_brings_everything_in_and_the_inverse_takes_it_out(at: str, beside: bool) -> None:
    files = host()
    before = files.tree()
    job = held(files, at, beside)
    swapping.swap(job)  # type: ignore[arg-type]
    after = files.tree(job.place.target)
    for name, content in RELEASE.items():
        assert after[f"{job.place.target}/{name}"] == content
    assert ("www/index.html" in files.tree("www")) is (at != "/")
    files.write(f"{job.place.target}/settings.php", b"made by the installer")
    swapping.unswap(job, job.journal.facts("place", "swap"))  # type: ignore[arg-type]
    place.unhold(job, {"folder": job.journal.facts("place", "hold")["folder"]})  # type: ignore[arg-type]
    assert files.tree() == before


@pytest.mark.parametrize("after", [False, True], ids=["before", "after"])
@pytest.mark.parametrize(("at", "beside"), CASES)
def test_a_swap_cut_off_at_any_change_comes_to_the_same_end(at: str, beside: bool, after: bool) -> None:
    whole = host()
    job = held(whole, at, beside)
    swapping.swap(job)  # type: ignore[arg-type]
    expected, changes = whole.tree("www"), whole.changes
    assert changes >= 1
    for number in range(1, changes + 1):
        files = host()
        job = held(files, at, beside)
        files.fail_at, files.after = number, after
        assert run_through(swapping.swap, job) == 1
        assert files.tree("www") == expected, f"cut off at change {number}"


@pytest.mark.parametrize("after", [False, True], ids=["before", "after"])
@pytest.mark.parametrize(("at", "beside"), CASES)
def test_a_swap_cut_off_at_any_change_is_taken_back_whole(at: str, beside: bool, after: bool) -> None:
    for number in range(1, 12):
        files = host()
        before = files.tree()
        job = held(files, at, beside)
        files.fail_at, files.after = number, after
        try:
            swapping.swap(job)  # type: ignore[arg-type]
        except LineDroppedError:
            files.fail_at = None
        files.fail_at = None
        swapping.unswap(job, job.journal.facts("place", "swap"))  # type: ignore[arg-type]
        place.unhold(job, job.journal.facts("place", "hold"))  # type: ignore[arg-type]
        assert files.tree() == before, f"cut off at change {number}"


@pytest.mark.parametrize("after", [False, True], ids=["before", "after"])
@pytest.mark.parametrize(("at", "beside"), CASES)
def test_taking_back_cut_off_at_any_change_still_ends_as_it_was(at: str, beside: bool, after: bool) -> None:
    def swapped() -> FakeJob:
        job = held(host(), at, beside)
        swapping.swap(job)  # type: ignore[arg-type]
        job.files().write(f"{job.place.target}/settings.php", b"made by the installer")
        return job

    taken_back_through_cuts(swapped, host().tree(), after)


@pytest.mark.parametrize(
    ("way", "report", "part"),
    [
        ("helper", {"unpacks": False, "inflates": True, "user": {"id": 1}, "owner": 1}, "no ZipArchive"),
        ("helper-tar", {"unpacks": True, "inflates": False, "user": {"id": 1}, "owner": 1}, "no zlib"),
        ("helper", {"unpacks": True, "inflates": True, "user": {"id": 33}, "owner": 1001}, "another user (id 33)"),
        ("helper-tar", {"unpacks": True, "inflates": True, "user": {"id": 33}, "owner": 1001}, "another user (id 33)"),
    ],
)
def test_a_host_whose_php_cannot_place_is_told_before_anything_goes_up(
    way: str, report: dict[str, object], part: str
) -> None:
    with pytest.raises(TargetError) as caught:
        survey.check_helper_can_place(report, way)
    assert part in caught.value.message and "shell" in caught.value.hint
    survey.check_helper_can_place({"unpacks": True, "user": {"id": 1001}, "owner": 1001}, "helper")
    survey.check_helper_can_place({"inflates": True, "user": {"id": None}, "owner": 1001}, "helper-tar")


def test_what_somebody_else_puts_there_meanwhile_stays_and_is_told() -> None:
    files = host()
    before = files.tree()
    job = held(files, "/", True)
    swapping.swap(job)  # type: ignore[arg-type]
    files.make_folder("www/shop")
    theirs = {"www/shop/index.php": b"<?php // a neighbour", "www/offer.html": b"<p>Today</p>"}
    for path, content in {**theirs, "www/config.php": b"made by the installer", "www/error_log": b"Notice"}.items():
        files.write(path, content)
    swapping.unswap(job, job.journal.facts("place", "swap"))  # type: ignore[arg-type]
    place.unhold(job, {"folder": job.journal.facts("place", "hold")["folder"]})  # type: ignore[arg-type]
    assert files.tree() == {**before, "www/shop": None, **theirs}
    told = [text for text in job.said if "it stays" in text]
    assert sorted(text.split(" ")[0] for text in told) == ["www/offer.html", "www/shop"]


def test_nothing_is_swapped_over_what_came_after_the_plan() -> None:
    files = host()
    job = held(files, "/", True)
    files.write("www/wedding.jpg", b"irreplaceable")
    with pytest.raises(TargetError) as caught:
        swapping.swap(job)  # type: ignore[arg-type]
    assert "wedding.jpg" in caught.value.message
    assert "www/index.php" not in files.tree()


def test_a_holding_folder_inside_the_root_is_denied_to_the_web() -> None:
    files = host()
    held(files, "/", False)
    denied = [p for p in files.tree() if p.endswith(".htaccess") and p.count("/") == 2]
    assert len(denied) == 1 and b"Require all denied" in (files.tree()[denied[0]] or b"")


def test_the_archive_is_carried_on_from_where_it_was_cut() -> None:
    files = host()
    job = held(files, "/diary", True)
    big = {**RELEASE, "picture.bin": bytes(range(256)) * 20_000}
    job.release = big
    whole = job.archive("zip").read()
    path = ".hs-hold-01234567/archive.zip"
    files.write(path, whole[:3_000_000])
    job.journal.keep("place", "carry", {"begun": True})
    act_of("place", "carry").do(job)  # type: ignore[arg-type]
    assert files.read(path, 1 << 30) == whole
    assert any("going on from" in text for text in job.said)


def test_the_installer_steps_aside_and_comes_back() -> None:
    files = host()
    job = held(files, "/diary", True)
    swapping.swap(job)  # type: ignore[arg-type]
    before = files.tree("www")
    job.site.pages = {"diary/": "<title>Yard</title><p>Welcome aboard</p>"}  # type: ignore[misc]
    job.journal.keep("walk", "converse", {"paths": [walked(job)]})
    tidy.installer_aside(job)  # type: ignore[arg-type]
    assert "www/diary/install" not in files.tree()
    tidy.installer_back(job, job.journal.facts("tidy", "installer-aside"))  # type: ignore[arg-type]
    assert files.tree("www") == before
    tidy.installer_aside(job)  # type: ignore[arg-type]
    assert isinstance(tidy.look_without(job), Done)  # type: ignore[arg-type]
    tidy.remove_installer(job)  # type: ignore[arg-type]
    tidy.clear(job)  # type: ignore[arg-type]
    assert not [p for p in files.tree() if "install" in p or ".hs-" in p]


def test_an_application_that_needs_its_installer_keeps_it() -> None:
    files = host()
    job = held(files, "/diary", True)
    swapping.swap(job)  # type: ignore[arg-type]
    there = lambda _fields, _session: "<p>fine</p>" if files.stat("www/diary/install") else (500, "broken")  # noqa: E731
    job.site.pages = {"diary/": there}  # type: ignore[misc]
    job.journal.keep("walk", "converse", {"paths": [walked(job)]})
    tidy.installer_aside(job)  # type: ignore[arg-type]
    told = tidy.look_without(job)  # type: ignore[arg-type]
    assert isinstance(told, Done) and "put back" in told.told
    assert files.stat("www/diary/install") is not None
    tidy.remove_installer(job)  # type: ignore[arg-type]
    assert files.stat("www/diary/install") is not None


def test_configuration_gets_the_tightest_mode_that_works() -> None:
    files = host()
    job = held(files, "/", True)
    swapping.swap(job)  # type: ignore[arg-type]
    files.write("www/settings.php", b"<?php", 0o666)
    files.write("www/data.log", b"", 0o666)

    def page(_fields: object, _session: object) -> object:
        entry = files.stat("www/settings.php")
        assert entry is not None and entry.mode is not None
        # PHP here runs as another user of the same group.
        return "<p>fine</p>" if entry.mode & 0o040 else (500, "cannot read settings.php")

    job.site.pages = {"": page}  # type: ignore[misc]
    told = tidy.tighten(job)  # type: ignore[arg-type]
    assert isinstance(told, Done) and "settings.php 640" in told.told
    modes = {e.name: e.mode for e in files.entries("www")}
    assert (modes["settings.php"], modes["data.log"]) == (0o640, 0o644)


OLD = {
    "index.php": b"<?php // the old front",
    "about.html": b"<p>About</p>",
    "lib/a.php": b"<?php // older",
    "lib/own/part.php": b"<?php // not the release's",
    ".well-known/proof.txt": b"yes",
}
THERE = [("/", True, "merge"), ("/", False, "merge"), ("/", True, "replace"), ("/", False, "replace")]
THERE += [("/diary", True, "replace"), ("/diary", False, "merge")]


def taken(at: str) -> Flaky:
    """A host where something stands at the place already."""
    files = host(with_placeholder=False)
    target = f"www{at}".rstrip("/")
    for folder in ("", "lib", "lib/own", ".well-known"):
        if files.stat(f"{target}/{folder}".rstrip("/")) is None:
            files.make_folder(f"{target}/{folder}".rstrip("/"))
    for path, content in OLD.items():
        files.write(f"{target}/{path}", content)
    files.changes = 0
    return files


def undo(job: FakeJob) -> None:
    swapping.unswap(job, job.journal.facts("place", "swap"))  # type: ignore[arg-type]
    place.unhold(job, job.journal.facts("place", "hold"))  # type: ignore[arg-type]


@pytest.mark.parametrize(("at", "beside", "if_there"), THERE)
def test_what_stands_there_steps_aside_and_is_kept(at: str, beside: bool, if_there: IfThere) -> None:
    files = taken(at)
    before = files.tree()
    job = held(files, at, beside, if_there)
    swapping.swap(job)  # type: ignore[arg-type]
    after = files.tree(job.place.target)
    for name, content in RELEASE.items():
        assert after[f"{job.place.target}/{name}"] == content
    stays = {"lib/own/part.php", "about.html"} if if_there == "merge" else set()
    for name in ("lib/own/part.php", "about.html"):
        assert (f"{job.place.target}/{name}" in after) is (name in stays), name
    assert (after.get(f"{job.place.target}/.well-known/proof.txt") == b"yes") is (at == "/" or if_there == "merge")
    kept = [p for p in files.tree() if "/.hs-kept-01234567" in f"/{p}" and p.endswith("index.php")]
    assert len(kept) == 1 and files.read(kept[0]) == OLD["index.php"]
    assert any(p.startswith("www/.hs-kept") for p in files.tree()) is not beside
    files.write(f"{job.place.target}/settings.php", b"made by the installer")
    files.write(f"{job.place.target}/lib/cache.bin", b"made by the application")
    undo(job)
    assert files.tree() == before


@pytest.mark.parametrize("after", [False, True], ids=["before", "after"])
@pytest.mark.parametrize(("at", "beside", "if_there"), THERE)
def test_such_a_swap_cut_off_at_any_change_ends_the_same_and_is_taken_back_whole(
    at: str, beside: bool, if_there: IfThere, after: bool
) -> None:
    whole = taken(at)
    before = whole.tree()
    job = held(whole, at, beside, if_there)
    swapping.swap(job)  # type: ignore[arg-type]
    expected, changes = whole.tree("www"), whole.changes
    for number in range(1, changes + 1):
        files = taken(at)
        job = held(files, at, beside, if_there)
        files.fail_at, files.after = number, after
        assert run_through(swapping.swap, job) == 1
        assert files.tree("www") == expected, f"cut off at change {number}"
        files = taken(at)
        job = held(files, at, beside, if_there)
        files.fail_at, files.after = number, after
        with pytest.raises(LineDroppedError):
            swapping.swap(job)  # type: ignore[arg-type]
        files.fail_at = None
        undo(job)
        assert files.tree() == before, f"taken back after change {number}"

    def swapped() -> FakeJob:
        job = held(taken(at), at, beside, if_there)
        swapping.swap(job)  # type: ignore[arg-type]
        return job

    taken_back_through_cuts(swapped, before, after)


def test_beside_takes_no_name_that_is_taken_and_touches_nothing_else() -> None:
    files = taken("/")
    with pytest.raises(TargetError) as caught:
        FakeJob(files, RELEASE, "/", if_there="beside")
    assert "index.php" in caught.value.message and "lib" in caught.value.message and "merge" in caught.value.hint
    for name in ("index.php", "lib/a.php"):
        files.remove(f"www/{name}")
    files.remove("www/lib/own/part.php")
    for folder in ("lib/own", "lib"):
        files.remove_folder(f"www/{folder}")
    before = files.tree()
    job = held(files, "/", True, "beside")
    swapping.swap(job)  # type: ignore[arg-type]
    assert {p: c for p, c in files.tree("www").items() if p in before} == {
        p: c for p, c in before.items() if p.startswith("www/")
    }
    undo(job)
    assert files.tree() == before


def test_a_folder_where_the_release_has_a_file_is_in_the_way_even_of_merging() -> None:
    files = host(with_placeholder=False)
    files.make_folder("www/index.php")
    with pytest.raises(TargetError) as caught:
        FakeJob(files, RELEASE, "/", if_there="merge")
    assert "index.php" in caught.value.message


def test_a_merge_is_bound_to_what_was_seen_below_too() -> None:
    files = taken("/")
    job = held(files, "/", True, "merge")
    files.write("www/lib/a.php", b"<?php // changed by somebody since the plan")
    with pytest.raises(TargetError) as caught:
        swapping.swap(job)  # type: ignore[arg-type]
    assert "changed since the plan" in caught.value.message


def test_a_folder_of_the_host_is_joined_and_its_files_stay() -> None:
    files = taken("/")
    for path in ("index.php", "about.html", "lib/a.php", "lib/own/part.php"):
        files.remove(f"www/{path}")
    for folder in ("lib/own", "lib"):
        files.remove_folder(f"www/{folder}")
    before = files.tree()
    release = {"index.php": b"<?php", ".well-known/security.txt": b"mailto"}
    job = FakeJob(files, release, "/")
    place.hold(job)  # type: ignore[arg-type]
    job.unpack()
    swapping.swap(job)  # type: ignore[arg-type]
    tree = files.tree("www/.well-known")
    assert tree == {"www/.well-known/proof.txt": b"yes", "www/.well-known/security.txt": b"mailto"}
    undo(job)
    assert files.tree() == before


def test_only_what_the_primer_names_may_be_run() -> None:
    files = host()
    job = FakeJob(files, {**RELEASE, "bin/diary": b"#!/usr/bin/env php"}, "/diary")
    job.plan = replace(job.plan, way={"name": "files", "archive": "zip", "reason": ""})
    place.hold(job)  # type: ignore[arg-type]
    job.primer = ApplicationPrimer(  # type: ignore[assignment]
        kind="application", name="yard", recognise=["index.php"], executables=["bin/diary", "bin/none"]
    )
    for name in ("carry", "unpack", "identity"):
        done = act_of("place", name).do(job)  # type: ignore[arg-type]
        assert isinstance(done, Done)
    assert "but bin/diary 755" in done.told
    tree = f"{job.journal.facts('place', 'hold').get('folder') or '.hs-hold-01234567'}/tree/yard-1.0"
    modes = {e.name: e.mode for e in [*files.entries(f"{tree}/bin"), *files.entries(tree)] if e.kind == "file"}
    assert modes == {"diary": 0o755, ".htaccess": 0o644, "index.php": 0o644}
