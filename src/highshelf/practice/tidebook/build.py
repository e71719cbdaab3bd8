"""Build Tidebook's release archive: the PHP sources beside this file plus generated tide tables and phrases."""

from __future__ import annotations

import json
import math
from pathlib import Path

from highshelf.practice.packing import source_files, write_zip

VERSION = "1.4.2"
SOURCE = Path(__file__).parent / "source"
PIERS = ("north-stage", "gull-steps", "old-mole", "kelp-landing", "lantern-quay", "heron-slip", "the-hard")


def build_archive(target: Path) -> Path:
    """Write `tidebook-VERSION.zip` into the folder `target`; returns its path. The bytes are the same each time."""
    return write_zip(target / f"tidebook-{VERSION}.zip", contents(), f"tidebook-{VERSION}")


def contents() -> dict[str, bytes]:
    """Path inside the wrapper -> bytes, about 400 files."""
    files = source_files(SOURCE)
    files["VERSION"] = f"{VERSION}\n".encode()
    for week in range(1, 53):
        for number, pier in enumerate(PIERS):
            table = [_tide(week, day, number) for day in range(7)]
            files[f"tides/{pier}/week-{week:02d}.json"] = json.dumps(
                {"pier": pier, "week": week, "days": table}
            ).encode()
    for language, phrases in PHRASES.items():
        lines = "".join(f"    '{key}' => '{text}',\n" for key, text in phrases.items())
        files[f"lib/phrases/{language}.php"] = f"<?php\n\nreturn [\n{lines}];\n".encode()
    for number in range(12):
        files[f"theme/waves/wave-{number:02d}.svg"] = _wave(number).encode()
    return files


def _tide(week: int, day: int, pier: int) -> dict[str, float]:
    phase = (week * 7 + day) * 0.4833 + pier * 0.31
    return {"high_metres": round(4.1 + 0.9 * math.sin(phase), 2), "low_metres": round(0.8 + 0.4 * math.cos(phase), 2)}


def _wave(number: int) -> str:
    points = " ".join(f"{x},{20 + 8 * math.sin(x / 9 + number):.1f}" for x in range(0, 200, 8))
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 40"><polyline fill="none" stroke="#3b7" points="{points}"/></svg>'


PHRASES = {
    "en": {"diary": "Visitor diary", "staff": "Staff entrance", "none": "Nobody has written anything yet."},
    "de": {"diary": "Gästebuch", "staff": "Eingang für Mitarbeitende", "none": "Noch hat niemand etwas geschrieben."},
    "fr": {"diary": "Journal des visiteurs", "staff": "Entrée du personnel", "none": "Personne n’a encore rien écrit."},
    "es": {"diary": "Diario de visitas", "staff": "Entrada del personal", "none": "Nadie ha escrito nada todavía."},
}
