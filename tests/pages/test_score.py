"""Labelled pages: the hardest of the garden's in CI, and those that lie beside the project where they are."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.pages.from_garden import write
from tests.pages.score import Score, score

PAGES = 60
# What is aimed at over pages that nobody has seen.
LEAST = {"kind": 0.95, "forward": 0.97, "fields": 0.97, "outcome": 0.97}
BESIDE = Path(__file__).resolve().parents[3] / "shared" / "pages"


def reached(found: Score) -> None:
    shares = found.shares()
    assert {n: shares[n] for n in LEAST if shares[n] < LEAST[n]} == {}, found.missed


def test_the_hardest_pages_of_the_garden_are_read_right(tmp_path: Path) -> None:
    write(tmp_path, PAGES, first=2_000)
    found = score(tmp_path)
    assert found.pages == PAGES and found.controls > PAGES
    reached(found)
    assert found.filled_wrongly == 0, found.missed


@pytest.mark.skipif(not (BESIDE / "labels.jsonl").is_file(), reason="no labelled pages lie beside this checkout")
def test_pages_of_real_installers_are_read_right() -> None:
    found = score(BESIDE)
    reached(found)
    # One asks for an address under the label "Admin", and says so nowhere before it refuses a name.
    assert found.filled_wrongly <= 1, found.missed


def test_a_page_that_is_read_wrong_is_counted_and_told(tmp_path: Path) -> None:
    html = "<h1>Database</h1><form method=post><label>Database name<input name=n></label><button>Next</button></form>"
    (tmp_path / "one.html").write_text(html)
    right = {
        "app": "a",
        "file": "one.html",
        "url": "http://boats.saltmarsh.example/setup/",
        "status": 200,
        "kind": "database",
        "also": [],
        "controls": [{"name": "n", "asks": "db.name", "decide": True}],
        "forward": "button Next",
        "outcome": "",
        "detail": "",
    }
    wrong = {**right, "kind": "licence", "forward": "button Back", "outcome": "failure"}
    wrong["controls"] = [{"name": "n", "asks": "db.user", "decide": True}]
    (tmp_path / "labels.jsonl").write_text(json.dumps(right) + "\n" + json.dumps(wrong) + "\n")
    found = score(tmp_path)
    half = {"pages": 2, "kind": 0.5, "forward": 0.5, "fields": 0.5, "outcome": 0.5, "filled_wrongly": 1}
    assert found.shares() == half and len(found.missed) == 4
