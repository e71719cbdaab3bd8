"""docs/security.md promises what tests hold: each of them is there, and has something in it."""

from __future__ import annotations

import re
from pathlib import Path

from highshelf.service.throttle import TRIES
from highshelf.store.disk import BALLAST_BYTES, RESERVE_BYTES

ROOT = Path(__file__).resolve().parents[2]
PAGE = (ROOT / "docs" / "security.md").read_text()


def test_every_promise_names_tests_that_are_there() -> None:
    promises = PAGE.partition("## Promises")[2].partition("\n## ")[0]
    rows = [
        line
        for line in promises.splitlines()
        if line.startswith("| ") and "promise |" not in line and "---" not in line
    ]
    assert len(rows) >= 15
    for row in rows:
        files = re.findall(r"tests/[\w/]+\.py", row)
        assert files, row
        for name in files:
            assert "def test_" in (ROOT / name).read_text(), name


def test_figures_on_the_page_are_those_of_the_code() -> None:
    words = {5: "five", 10: "ten", 20: "twenty", 100: "a hundred"}
    for kind, count in TRIES.items():
        assert words[count] in PAGE, kind
    assert f"{RESERVE_BYTES >> 20} MB of room" in PAGE and f"{BALLAST_BYTES >> 20} MB that are let go" in PAGE
    for option in re.findall(r"`(--[a-z-]+)", PAGE):
        assert (
            option in (ROOT / "src/highshelf/__main__.py").read_text()
            or option[2:].replace("-", "_") in (ROOT / "src/highshelf/__main__.py").read_text()
        ), option
