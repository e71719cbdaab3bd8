"""The published schemas of both kinds of primer are those of the models."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from highshelf.core.primers.models import ApplicationPrimer, PanelPrimer, Strict, read_primer

ROOT = Path(__file__).resolve().parents[2]


@pytest.mark.parametrize(("name", "model"), [("panel-primer", PanelPrimer), ("application-primer", ApplicationPrimer)])
def test_the_published_schema_is_current(name: str, model: type[Strict]) -> None:
    published = json.loads((ROOT / "docs" / "schemas" / f"{name}.json").read_text())
    assert published == model.model_json_schema()


@pytest.mark.parametrize(
    "path",
    [*ROOT.glob("src/highshelf/core/primers/data/*.yaml"), *ROOT.glob("tests/releases/primers/*.yaml")],
    ids=lambda p: p.name,
)
def test_every_primer_that_ships_holds(path: Path) -> None:
    assert read_primer(path.read_text(), path.name).name
