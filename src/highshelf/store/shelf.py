"""The shelf on disk: archives by their SHA-256, each with its contents list and, when needed, a zip of the same files."""

from __future__ import annotations

import hashlib
import json
import secrets
import shutil
from collections.abc import AsyncIterator
from dataclasses import asdict
from pathlib import Path

from highshelf.core.errors import ArchiveError, InputError
from highshelf.core.release.contents import Contents, Member

MAX_ARCHIVE_BYTES = 4 << 30


class Shelf:
    """Files below one folder: `<sha256>/archive`, `<sha256>/contents.json`, `<sha256>/payload.zip`."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def folder(self, sha256: str) -> Path:
        return self._folder / sha256

    def archive(self, sha256: str, form: str, format: str) -> Path:
        """The file that goes to the host: the archive as it came, or as a zip."""
        if form == "zip" and format != "zip":
            return self.folder(sha256) / "payload.zip"
        return self.folder(sha256) / "archive"

    async def receive(self, blocks: AsyncIterator[bytes], file_name: str) -> Path:
        """Take an upload into a draft file; returns its path, whose name is the SHA-256.

        Raises:
            InputError: nothing came, or more than the limit.
        """
        draft = self._folder / f"draft-{secrets.token_hex(8)}"
        digest, size = hashlib.sha256(), 0
        try:
            with draft.open("wb") as out:
                async for block in blocks:
                    size += len(block)
                    if size > MAX_ARCHIVE_BYTES:
                        raise InputError(f"{file_name} is larger than {MAX_ARCHIVE_BYTES >> 30} GB")
                    digest.update(block)
                    out.write(block)
            if not size:
                raise ArchiveError(f"{file_name} is empty", hint="check in the release's archive")
            final = self._folder / f"draft-{digest.hexdigest()}-{secrets.token_hex(4)}"
            draft.replace(final)
            return final
        finally:
            draft.unlink(missing_ok=True)

    def keep(self, draft: Path, sha256: str, contents: Contents) -> None:
        """Move a checked draft to its place, with its contents list."""
        target = self.folder(sha256)
        target.mkdir(exist_ok=True)
        (target / "contents.json").write_text(
            json.dumps({"wrapper": contents.wrapper, "files": [asdict(f) for f in contents.files]})
        )
        draft.replace(target / "archive")

    def contents(self, sha256: str) -> Contents:
        raw = json.loads((self.folder(sha256) / "contents.json").read_text())
        return Contents(raw["wrapper"], tuple(Member(**f) for f in raw["files"]))

    def drop(self, sha256: str) -> None:
        """Remove a release's files."""
        shutil.rmtree(self.folder(sha256), ignore_errors=True)

    def sweep(self) -> None:
        """Remove drafts of uploads that a crash cut off."""
        for draft in self._folder.glob("draft-*"):
            draft.unlink(missing_ok=True)
