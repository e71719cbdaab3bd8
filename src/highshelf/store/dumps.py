"""Dumps on the disk of the data folder: `dumps/ID`, private, complete or not there."""

from __future__ import annotations

import hashlib
import os
import secrets
from collections.abc import AsyncIterator
from pathlib import Path

from highshelf.core.errors import InputError
from highshelf.store.disk import settle

MOST_BYTES = 64 << 30


class Dumps:
    """Of all accounts."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def path(self, number: str) -> Path:
        return self._folder / number

    async def receive(self, blocks: AsyncIterator[bytes], name: str) -> tuple[Path, str]:
        """Take an upload into a draft; returns its path and SHA-256. The caller keeps it or unlinks it.

        Raises:
            InputError: nothing came, or more than the limit.
        """
        draft, digest, size = self._draft(), hashlib.sha256(), 0
        try:
            with draft.open("wb") as out:
                async for block in blocks:
                    size += len(block)
                    if size > MOST_BYTES:
                        raise InputError(f"{name} is larger than {MOST_BYTES >> 30} GB")
                    digest.update(block)
                    out.write(block)
            if not size:
                raise InputError(f"{name} is empty", hint="export the database again")
        except BaseException:
            draft.unlink(missing_ok=True)
            raise
        return draft, digest.hexdigest()

    def keep(self, draft: Path, number: str) -> None:
        settle(draft)
        draft.replace(self.path(number))
        settle(self._folder)

    def drop(self, number: str) -> None:
        self.path(number).unlink(missing_ok=True)

    def writer(self, number: str) -> DumpWriter:
        """Write the dump of that number; what another began of it is gone."""
        return DumpWriter(self, number, self._draft())

    def _draft(self) -> Path:
        self._folder.mkdir(exist_ok=True, mode=0o700)
        return self._folder / f"draft-{secrets.token_hex(8)}"

    def sweep(self) -> None:
        """Drafts that nobody writes any more: called when the service starts."""
        for draft in self._folder.glob("draft-*"):
            draft.unlink(missing_ok=True)


class DumpWriter:
    """A dump that is being written: kept when the block ends well, gone when it does not."""

    def __init__(self, dumps: Dumps, number: str, draft: Path) -> None:
        self._dumps, self._number, self._draft = dumps, number, draft
        self._digest = hashlib.sha256()
        self.size_bytes = 0

    @property
    def sha256(self) -> str:
        return self._digest.hexdigest()

    def __enter__(self) -> DumpWriter:
        self._out = os.fdopen(os.open(self._draft, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb")
        return self

    def write(self, block: bytes) -> None:
        self._out.write(block)
        self._digest.update(block)
        self.size_bytes += len(block)

    def __exit__(self, kind: type[BaseException] | None, fault: BaseException | None, trace: object) -> None:
        self._out.close()
        if fault is None:
            self._dumps.keep(self._draft, self._number)
        else:
            self._draft.unlink(missing_ok=True)
