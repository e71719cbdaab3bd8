"""The shelf on disk: archives by their SHA-256, each with what was read out of it and, when needed, a zip of the same files."""

from __future__ import annotations

import hashlib
import json
import re
import secrets
import shutil
from collections.abc import AsyncIterator, Sequence
from pathlib import Path

from highshelf.core.errors import ArchiveError, InputError
from highshelf.core.release.contents import Contents, from_lines
from highshelf.store.disk import settle

MAX_ARCHIVE_BYTES = 4 << 30


class Shelf:
    """Files below one folder: `<sha256>/archive` (`archive-1`, … for further parts), `contents.jsonl`, `texts.json`, `payload.zip`."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def folder(self, sha256: str) -> Path:
        return self._folder / sha256

    def archive(self, sha256: str, form: str, format: str) -> Path:
        """The file that goes to the host: the archive as it came, or a zip of what is in it."""
        if form.startswith("tar."):
            return self.form(sha256, form)
        if form == "zip" and format != "zip":
            return self.folder(sha256) / "payload.zip"
        return self.folder(sha256) / "archive"

    def form(self, sha256: str, form: str) -> Path:
        """Where the same files lie packed in another form, such as `tar.xz`, once they are."""
        return self.folder(sha256) / f"payload.{form}"

    def forms(self, sha256: str) -> dict[str, int]:
        """Form -> size in bytes, of the forms that are packed."""
        found = self.folder(sha256).glob("payload.tar.*")
        return {p.name.removeprefix("payload."): p.stat().st_size for p in found if p.suffix != ".draft"}

    def readies(self) -> Path:
        """A new folder for what a check-in makes; `keep` moves it to its place, `sweep` removes what a crash left."""
        made = self._folder / f"draft-{secrets.token_hex(8)}"
        made.mkdir()
        return made

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

    def keep(self, sources: Sequence[Path], sha256: str, made: Path) -> None:
        """Move checked archives, and what was made of them, to their place in one step that survives a power cut."""
        for number, source in enumerate(sources):
            source.replace(made / ("archive" if not number else f"archive-{number}"))
        for file in made.iterdir():
            settle(file)
        settle(made)
        target = self.folder(sha256)
        shutil.rmtree(target, ignore_errors=True)
        made.replace(target)
        settle(self._folder)

    def fault(self, sha256: str, size_bytes: int = 0) -> str:
        """What is wrong with a release's files, or "" when they are as they should be. A look at names and sizes, no more."""
        try:
            sizes = [p.stat().st_size for p in self.sources(sha256)]
        except OSError:
            return "its archive is not on the shelf any more"
        if size_bytes and sum(sizes) != size_bytes:
            return f"its archive has {sum(sizes)} bytes instead of {size_bytes}"
        return (
            "" if self.is_read(sha256) else "what was read out of it is lost, and its archive cannot be read any more"
        )

    def is_read(self, sha256: str) -> bool:
        """Whether what was read out of a release is there in today's form."""
        return (self.folder(sha256) / "contents.jsonl").is_file()

    def renew(self, sha256: str, made: Path) -> None:
        """Put what was read anew beside a release's archive; its list last, because `is_read` goes by it."""
        for name in ("payload.zip", "texts.json", "contents.jsonl"):
            if (made / name).is_file():
                settle(made / name)
                (made / name).replace(self.folder(sha256) / name)
        settle(self.folder(sha256))
        (self.folder(sha256) / "contents.json").unlink(missing_ok=True)

    def sources(self, sha256: str) -> list[Path]:
        """The archives of a release as they came, in order."""
        folder = self.folder(sha256)
        return [folder / "archive", *sorted(folder.glob("archive-*"), key=lambda p: int(p.name.split("-")[1]))]

    def contents(self, sha256: str) -> Contents:
        """The list of files. Raises ArchiveError when it cannot be read any more."""
        if not self.is_read(sha256):
            raise ArchiveError(
                "what was read out of this release is lost, and its archive cannot be read any more",
                hint="take it off the shelf and check it in again from where it came from",
            )
        try:
            with (self.folder(sha256) / "contents.jsonl").open(encoding="utf-8") as lines:
                return from_lines(lines)
        except (OSError, UnicodeError):
            raise ArchiveError("a release's list of contents is damaged", hint="check the release in again") from None

    def texts(self, sha256: str) -> dict[str, str]:
        """Readmes, installation texts, licences by their path below the root. Raises ArchiveError."""
        try:
            found: dict[str, str] = json.loads((self.folder(sha256) / "texts.json").read_text(encoding="utf-8"))
        except (OSError, ValueError):
            raise ArchiveError(
                "the texts that were read out of this release are damaged or gone", hint="check the release in again"
            ) from None
        return found

    def part(self, sha256: str) -> Path | None:
        """An uploaded archive that waits to be joined, or None."""
        return next(self._folder.glob(f"draft-{sha256}-*"), None) if re.fullmatch("[0-9a-f]{64}", sha256) else None

    def fetched(self, fetch_id: str) -> Path:
        """Where a fetch puts what comes over; a sweep lets it lie, because a restart goes on with it."""
        return self._folder / f"fetch-{fetch_id}"

    def drop(self, sha256: str) -> None:
        """Remove a release's files."""
        shutil.rmtree(self.folder(sha256), ignore_errors=True)

    def sweep(self) -> None:
        """Remove drafts of uploads that a crash cut off."""
        for draft in self._folder.glob("draft-*"):
            if draft.is_dir():
                shutil.rmtree(draft, ignore_errors=True)
            else:
                draft.unlink(missing_ok=True)
