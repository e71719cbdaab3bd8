"""What a job saw: pages of the conversation with an installer, as files of the data folder; secrets were masked before they came here.

`evidence/JOB/walk-03.json` is the fourth page (a Snapshot), `evidence/JOB/walk-03.move.json` what was done on it and why.
"""

from __future__ import annotations

import io
import json
import re
import zipfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from highshelf.core.pages.snapshot import Snapshot

PAGE = re.compile(r"(walk-(?:begin|stuck|\d+))\.json")


@dataclass(frozen=True)
class Seen:
    """A page, in the order they came; `move` is empty where nothing was done on it."""

    number: int
    name: str
    snapshot: Snapshot
    move: dict[str, Any]


class Evidence:
    """Of all jobs."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def pages(self, job: str) -> list[Seen]:
        """The pages that a job saw; none where nothing was kept."""
        found: list[Seen] = []
        files = sorted((self._folder / job).glob("walk-*.json"), key=lambda f: (f.stat().st_mtime_ns, f.name))
        for file in files:
            if (named := PAGE.fullmatch(file.name)) is None:
                continue
            move = file.with_name(named[1] + ".move.json")
            done = json.loads(move.read_text("utf-8")) if move.is_file() else {}
            found.append(Seen(len(found), named[1], Snapshot.from_json(file.read_text("utf-8")), done))
        return found

    def packed(self, job: str) -> bytes:
        """All of it as one zip, for somebody who is asked for help."""
        held = io.BytesIO()
        with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
            for file in sorted((self._folder / job).glob("*.json")):
                archive.write(file, f"{job}/{file.name}")
        return held.getvalue()
