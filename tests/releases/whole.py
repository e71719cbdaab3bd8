"""Releases written by hand, whole, and what a person says of them (whole.yaml).

python -m tests.releases.whole [NAME ...]
"""

from __future__ import annotations

import io
import sys
import tarfile
import tempfile
import zipfile
from dataclasses import asdict
from pathlib import Path
from typing import Any

import yaml

from highshelf.core.release.findings import Findings, find
from highshelf.drivers.archive.reader import read_archive

RELEASES: dict[str, dict[str, Any]] = yaml.safe_load(Path(__file__).with_name("whole.yaml").read_text())
# From here on a wrong finding counts as said surely.
SURELY = 0.8


def packed(one: dict[str, Any], folder: Path) -> Path:
    path = folder / one["archive"]
    if path.suffix == ".zip":
        with zipfile.ZipFile(path, "w") as box:
            for name, text in one["files"].items():
                box.writestr(name, text)
        return path
    with tarfile.open(path, "w:bz2" if path.suffix == ".bz2" else "w:gz") as tar:
        for name, text in one["files"].items():
            member = tarfile.TarInfo(name)
            member.size = len(text.encode())
            tar.addfile(member, io.BytesIO(text.encode()))
    return path


def found(one: dict[str, Any], folder: Path) -> Findings:
    path = packed(one, folder)
    read = read_archive(path)
    return find(read.contents, path.name, read.clues)


def wrong(one: dict[str, Any], said: Findings) -> dict[str, Any]:
    """Findings that differ from the truth, with what was said and how sure."""
    cells = asdict(said)
    missed = {}
    for name, truth in one["truth"].items():
        allowed = truth["any"] if isinstance(truth, dict) and set(truth) == {"any"} else [truth]
        value = list(cells[name]) if isinstance(cells[name], tuple) else cells[name]
        if value not in allowed:
            missed[name] = (value, said.sure.get(name, 0.0))
    return missed


def main() -> None:
    cells = right = surely = 0
    for name in sys.argv[1:] or RELEASES:
        one = RELEASES[name]
        with tempfile.TemporaryDirectory() as folder:
            missed = wrong(one, found(one, Path(folder)))
        cells, right = cells + len(one["truth"]), right + len(one["truth"]) - len(missed)
        surely += sum(sure >= SURELY for _, sure in missed.values())
        for what, (value, sure) in missed.items():
            print(f"{name:<12} {what:<18} {value!r} ({sure}) instead of {one['truth'][what]!r}")
    print(f"{right} of {cells} right, {surely} wrong and said surely")


if __name__ == "__main__":
    main()
