"""What is ours is taken away; what somebody else put in its place never is."""

from __future__ import annotations

import pytest

from highshelf.core.placing.target import fingerprint_of, judge_target
from highshelf.core.survey.probes import can_hold_beside, remove_ours
from highshelf.drivers.memory import MemoryFiles

OWN = "hs-" + "a1" * 12


def host() -> MemoryFiles:
    files = MemoryFiles()
    for folder in ("www", f"www/{OWN}", f"www/{OWN}/deep", "www/lib", "www/etc"):
        files.make_folder(folder)
    files.write(f"www/{OWN}/deep/real.txt", b"word")
    files.write(f"www/{OWN}.txt", b"word")
    files.write("www/lib/book.php", b"<?php // an application's")
    return files


def test_a_folder_of_ours_goes_whole_and_anything_else_only_while_it_is_empty() -> None:
    files = host()
    for path in (f"www/{OWN}", f"www/{OWN}.txt", "www/lib", "www/lib/book.php", "www/etc", "www/none"):
        remove_ours(files, path)
    assert [e.name for e in files.entries("www")] == ["lib"]
    assert files.read("www/lib/book.php") == b"<?php // an application's"


def test_a_check_beside_it_does_not_change_what_a_plan_saw() -> None:
    files = host()
    remove_ours(files, f"www/{OWN}")
    remove_ours(files, f"www/{OWN}.txt")
    before = fingerprint_of(files.entries("www"))
    files.make_folder(f"www/{OWN}")
    files.write(f"www/{OWN}.php", b"<?php")
    files.write(f"www/{OWN}.php.seen.txt", b"")
    assert fingerprint_of(files.entries("www")) == before
    files.write("www/hs-notes.txt", b"somebody's own")
    assert fingerprint_of(files.entries("www")) != before
    empty = MemoryFiles()
    empty.make_folder("web")
    empty.make_folder(f"web/{OWN}")
    assert judge_target("web", empty.entries("web"), lambda name: b"").exists


@pytest.mark.parametrize("root", [".", "", "./"])
def test_nothing_is_beside_a_root_that_the_login_lands_in(root: str) -> None:
    told: list[str] = []
    assert not can_hold_beside(host(), root, told.append, told.append)
    assert told == []
