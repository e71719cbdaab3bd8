"""Build Tidebook's release archive: the PHP sources beside this file plus generated tide tables and phrases."""

from __future__ import annotations

import json
import math
import zipfile
from pathlib import Path

VERSION = "1.4.2"
SOURCE = Path(__file__).parent / "source"
PIERS = ("north-stage", "gull-steps", "old-mole", "kelp-landing", "lantern-quay", "heron-slip", "the-hard")
# Zip members carry a time; a fixed one makes the same bytes at every build.
STAMP = (2026, 3, 1, 9, 0, 0)


def build_archive(target: Path) -> Path:
    """Write `tidebook-VERSION.zip` into the folder `target`; returns its path. The bytes are the same each time."""
    target.mkdir(parents=True, exist_ok=True)
    path = target / f"tidebook-{VERSION}.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in sorted(contents().items()):
            member = zipfile.ZipInfo(f"tidebook-{VERSION}/{name}", STAMP)
            member.compress_type = zipfile.ZIP_DEFLATED
            member.external_attr = 0o100644 << 16
            archive.writestr(member, content)
    return path


def contents() -> dict[str, bytes]:
    """Path inside the wrapper -> bytes, about 400 files."""
    files = {
        str(path.relative_to(SOURCE)): path.read_bytes()
        for path in SOURCE.rglob("*")
        if path.is_file() and "__pycache__" not in path.parts
    }
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
