"""The panel's habits with files: a customer's own folders, what is sent there by browser, archives unpacked where they lie."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

from highshelf.practice.panel.databases import Refusal

UNPACK_SECONDS = 120
BLOCK = 1 << 20


@dataclass(frozen=True)
class Files:
    """One customer's files. `facts` are the customer's in the panel's settings; what is made belongs to the customer."""

    facts: dict[str, Any]
    most_bytes: int

    def _folder(self, folder: str) -> Path:
        """Raises Refusal for one that is not there or leads out of the customer's home."""
        home = Path(self.facts["home"]).resolve()
        found = (home / folder.strip("/")).resolve()
        if not found.is_relative_to(home) or not found.is_dir():
            raise Refusal(f"There is no folder {folder}.")
        return found

    def names(self, folder: str) -> Iterator[tuple[str, bool, int]]:
        """Name, whether it is a folder, size in bytes."""
        for path in sorted(self._folder(folder).iterdir()):
            yield path.name, path.is_dir(), path.lstat().st_size

    def take(self, folder: str, name: str, content: BinaryIO, size: int) -> None:
        """Keep a file that was sent. Raises Refusal: too large, or no name for a file."""
        if size > self.most_bytes:
            raise Refusal(f"Files of more than {self.most_bytes // 1_000_000} MB cannot be sent here.")
        if not name or "/" in name or name in (".", ".."):
            raise Refusal("Please choose a file.")
        path = self._folder(folder) / name
        # Opened as the customer: what stands there may be a link of theirs to anywhere.
        with subprocess.Popen(
            ["tee", "--", str(path)],
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            user=self.facts["uid"],
            group=self.facts["gid"],
            extra_groups=[],
            umask=0o022,
        ) as writer:
            assert writer.stdin is not None
            while block := content.read(BLOCK):
                writer.stdin.write(block)
        if writer.returncode:
            raise Refusal(f"{name} could not be written.")

    def unpack(self, folder: str, name: str) -> None:
        """Unpack a zip into the folder that it lies in. Raises Refusal."""
        path = self._folder(folder) / name
        if not path.is_file() or path.suffix != ".zip":
            raise Refusal(f"{name} is not a zip archive.")
        done = subprocess.run(
            ["unzip", "-q", "-o", str(path), "-d", str(path.parent)],
            stdin=subprocess.DEVNULL,
            capture_output=True,
            text=True,
            timeout=UNPACK_SECONDS,
            user=self.facts["uid"],
            group=self.facts["gid"],
            extra_groups=[],
            umask=0o022,
            cwd="/",
            env={"PATH": os.defpath},
        )
        if done.returncode:
            raise Refusal(f"{name} could not be unpacked: {(done.stderr.splitlines() or ['no reason told'])[-1]}")
