"""What is read out of real releases that nobody wrote for us; cells that are known to be wrong are not asserted."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

import pytest

from tests.releases.judging import DEMO, TRUTH, judged, reading
from tests.releases.third_party import archive


@pytest.mark.parametrize(("build", "told"), DEMO, ids=[t["name"] for _, t in DEMO])
def test_a_demo_application_is_understood(build: Callable[[Path], Path], told: dict[str, Any], tmp_path: Path) -> None:
    cells = asdict(reading(build(tmp_path)))
    assert {key: cells[key] for key in told} == told


@pytest.mark.parametrize("name", TRUTH)
def test_a_release_of_somebody_else_is_understood(name: str) -> None:
    """Nine cells of ten at least, and none wrong that is called sure."""
    found = reading(archive(name))
    told = judged(TRUTH[name], found)
    assert [cell for cell, right in told.items() if right is False] == []
    assert sum(right is True for right in told.values()) >= 0.9 * len(told), told
    for detail in found.details:
        assert detail.where and 0 < detail.sure <= 1


READ_IN_ANOTHER = """
import json, sys
from dataclasses import asdict
from pathlib import Path
from highshelf.core.release.findings import find
from highshelf.drivers.archive.reader import read_archive
read = read_archive(Path(sys.argv[1]))
print(json.dumps(asdict(find(read.contents, Path(sys.argv[1]).name, read.clues))))
"""


def test_findings_are_the_same_in_any_process(tmp_path: Path) -> None:
    """Byte for byte, whatever order a process gives to its sets."""
    path = archive("nagvis")
    told = set()
    for seed in ("0", "1", "5", "9"):
        command = [sys.executable, "-c", READ_IN_ANOTHER, str(path)]
        told.add(
            subprocess.run(command, env={**os.environ, "PYTHONHASHSEED": seed}, capture_output=True, check=True).stdout
        )
    assert len(told) == 1
