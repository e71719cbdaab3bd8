"""Benches still work: each is run once at its smallest size. Their figures are for quiet machines, and are not looked at here."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]


def test_floods_at_their_smallest() -> None:
    command = [sys.executable, str(ROOT / "bench" / "flood.py"), "--smallest"]
    done = subprocess.run(command, capture_output=True, text=True, timeout=400)
    assert done.returncode == 0, done.stderr[-2000:]
    found = json.loads(done.stdout.splitlines()[-1])["these"]
    assert set(found) == {
        "a bomb, packed thrice",
        "bad sign-ins and silent hosts",
        "large bodies from nobody",
        "half-open requests",
        "long lists of jobs",
    }
    assert not [name for name, figures in found.items() if "broke" in figures], done.stderr[-2000:]
    # Not figures of speed: what a flood is allowed to change does not depend on the machine.
    assert found["a bomb, packed thrice"]["grown_mb"] < 64 and found["large bodies from nobody"]["grown_mb"] < 64
    assert found["half-open requests"]["failed"] == 0 and found["bad sign-ins and silent hosts"]["failed"] == 0


@pytest.mark.parametrize(
    ("name", "says"),
    [
        ("check_in", "check-in s"),
        ("console", "first paint"),
        ("dumps", "the server's own client"),
        ("install", "whole job"),
        ("recheck", "looked_at_twice"),
        ("placing", "the zip's own bytes take"),
        ("survey", "without"),
    ],
)
def test_a_bench_at_its_smallest(name: str, says: str) -> None:
    command = [sys.executable, str(ROOT / "bench" / f"{name}.py"), "--smallest"]
    done = subprocess.run(command, capture_output=True, text=True, timeout=400)
    assert done.returncode == 0, done.stdout[-1000:] + done.stderr[-2000:]
    assert says in done.stdout and len(done.stdout.splitlines()) >= 2


def test_packing_at_its_smallest() -> None:
    command = [sys.executable, str(ROOT / "bench" / "packing.py"), "--smallest"]
    done = subprocess.run(command, capture_output=True, text=True, timeout=400)
    assert done.returncode == 0, done.stdout[-1000:] + done.stderr[-2000:]
    found = json.loads(done.stdout.splitlines()[-1])
    assert set(found) == {"tar.xz", "tar.zst", "tar.gz"} and all(f["bytes"] > 1000 for f in found.values())


def test_the_walk_at_its_smallest() -> None:
    command = [sys.executable, str(ROOT / "bench" / "walk.py"), "--smallest"]
    done = subprocess.run(command, capture_output=True, text=True, timeout=400)
    assert done.returncode == 0, done.stdout[-1000:] + done.stderr[-2000:]
    found = json.loads(done.stdout.splitlines()[-1])["choir"]
    assert found["pages"] >= 4 and {"without_ms", "with_ms"} <= set(found)


def test_both_drivers_of_pages_at_their_smallest() -> None:
    command = [sys.executable, str(ROOT / "bench" / "browser.py"), "--smallest"]
    done = subprocess.run(command, capture_output=True, text=True, timeout=200)
    assert done.returncode == 0, done.stdout[-1000:] + done.stderr[-2000:]
    found = json.loads(done.stdout.splitlines()[-1])
    assert found["http"]["ended"] == found["browser"]["ended"] == ["finished"]
    # Of what a conversation may take, not how quick it is.
    assert 0 < found["most_mb"] < 600


def test_the_bench_of_commands_runs_at_its_smallest() -> None:
    command = [sys.executable, str(ROOT / "bench" / "commands.py"), "--smallest"]
    done = subprocess.run(command, capture_output=True, text=True, timeout=120, cwd=ROOT)
    assert done.returncode == 0, done.stderr[-1500:]
    found = json.loads(done.stdout.splitlines()[-1])
    assert set(found["seconds"]) == {"python", "help", "account list"} and all(
        s < 60 for s in found["seconds"].values()
    )
