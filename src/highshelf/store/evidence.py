"""What a job saw: pages of the conversation with an installer, as files of the data folder; secrets were masked before they came here.

`evidence/JOB/walk-03.json` is the fourth page (a Snapshot), `evidence/JOB/walk-03.move.json` what was done on it and why.
`evidence/JOB/walk-03.png` is its picture, where a browser has shown it.
`evidence/JOB/stand.json` is how the files of its installation stood when it was proven.
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
from highshelf.core.placing.standing import Stand
from highshelf.store.disk import write_private

STAND = "stand.json"
PAGE = re.compile(r"(walk-(?:begin|stuck|\d+))\.json")


@dataclass(frozen=True)
class Seen:
    """A page, in the order they came; `move` is empty where nothing was done on it."""

    number: int
    name: str
    snapshot: Snapshot
    move: dict[str, Any]
    # Where its picture lies, when a browser has shown it.
    picture: Path | None = None


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
            drawn = file.with_name(named[1] + ".png")
            snapshot = Snapshot.from_json(file.read_text("utf-8"))
            found.append(Seen(len(found), named[1], snapshot, done, drawn if drawn.is_file() else None))
        return found

    def keep_stand(self, job: str, stand: Stand) -> None:
        """Keep how the files of its installation stand."""
        folder = self._folder / job
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        write_private(folder / STAND, json.dumps(stand))

    def stand(self, job: str) -> Stand | None:
        """What was kept of it, None when nothing was."""
        file = self._folder / job / STAND
        if not file.is_file():
            return None
        return {
            path: (int(size), str(told), int(mode))
            for path, (size, told, mode) in json.loads(file.read_text("utf-8")).items()
        }

    def packed(self, job: str) -> bytes:
        """All of it as one zip, for somebody who is asked for help."""
        held = io.BytesIO()
        with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
            for file in sorted([*(self._folder / job).glob("*.json"), *(self._folder / job).glob("*.png")]):
                if file.name != STAND:
                    # Names of a customer's files help nobody who is asked about an installer.
                    archive.write(file, f"{job}/{file.name}")
        return held.getvalue()
