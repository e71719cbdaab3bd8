"""The published schemas of both kinds of primer are those of the models."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from highshelf.core.primers.models import ApplicationPrimer, PanelPrimer, Strict
from highshelf.core.primers.reading import read_primer

ROOT = Path(__file__).resolve().parents[2]


@pytest.mark.parametrize(("name", "model"), [("panel-primer", PanelPrimer), ("application-primer", ApplicationPrimer)])
def test_the_published_schema_is_current(name: str, model: type[Strict]) -> None:
    published = json.loads((ROOT / "docs" / "schemas" / f"{name}.json").read_text())
    assert published == model.model_json_schema()


@pytest.mark.parametrize(
    "path",
    [
        *ROOT.glob("src/highshelf/core/primers/data/*.yaml"),
        *ROOT.glob("tests/releases/primers/*.yaml"),
        *ROOT.glob("docs/primers/*.yaml"),
    ],
    ids=lambda p: p.name,
)
def test_every_primer_that_ships_holds(path: Path) -> None:
    assert read_primer(path.read_text(), path.name).name


def test_the_documents_example_is_the_file() -> None:
    shown = (ROOT / "docs/primers.md").read_text().split("```yaml\n")[1].split("```")[0]
    assert shown in (ROOT / "docs/primers/tidebook.yaml").read_text()


def test_every_setting_of_an_application_primer_is_described() -> None:
    text = (ROOT / "docs/primers.md").read_text()
    for name in ApplicationPrimer.model_fields:
        assert name in ("kind", "name") or f"| `{name}` |" in text, name
