"""A session that hangs on the server holds the file it was writing: nobody waits for it, and nothing of it gets into what comes anew."""

from __future__ import annotations

import io
import random
import signal
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

import pytest

from highshelf.core.account import Transfer
from highshelf.core.errors import LineDroppedError
from highshelf.core.legs import carrying, place
from highshelf.core.legs.job import Done
from highshelf.core.ports import HostFiles
from highshelf.drivers.ftp import files as ftp_module
from highshelf.drivers.ftp import tls
from highshelf.drivers.ftp.files import FtpFiles
from tests.drivers.ftp_servers import login_at, server
from tests.drivers.placing_faults import Sessions
from tests.drivers.test_carrying import HostJob
from tests.support import Hosting

PORT = 26810
KINDS = ("ftp", "ftps", "ftps-implicit")
ARCHIVE = random.Random(3).randbytes(600_000)
WHERE = "www/tides.bin"


class Stalling(io.BytesIO):
    """A source in the middle of which every session of the server stops, and stays so; then the line breaks."""

    def __init__(self, content: bytes, sessions: Sessions) -> None:
        super().__init__(content)
        self._sessions = sessions

    def read(self, size: int | None = -1) -> bytes:
        if self.tell() > len(self.getvalue()) // 2:
            assert self._sessions.signal(signal.SIGSTOP)
            raise LineDroppedError("the line breaks here")
        return super().read(size)


@contextmanager
def hung(hosting: Hosting, kind: Transfer, folder: Path) -> Iterator[Sessions]:
    """vsftpd, which locks what it writes; what was stopped of it is ended with it."""
    with server("vsftpd", kind, PORT, folder):
        sessions = Sessions(PORT, [])
        try:
            yield sessions
        finally:
            sessions.signal(signal.SIGKILL)


def opened(hosting: Hosting, kind: Transfer) -> FtpFiles:
    return FtpFiles(login_at(hosting, "ferry", kind, PORT), password=hosting.password("ferry"))


def broken(files: HostFiles, path: str, sessions: Sessions) -> None:
    """The first half of the archive goes over; the session that took it stands still."""
    with pytest.raises(LineDroppedError):
        files.upload(path, Stalling(ARCHIVE, sessions))


@pytest.fixture
def forgotten(monkeypatch: pytest.MonkeyPatch) -> None:
    """What another process knew is not known here; and a server that says nothing is waited for a second, not twenty."""
    monkeypatch.setattr(ftp_module, "_BROKEN", set())
    monkeypatch.setattr(tls, "SHAKE_SECONDS", 1.0)
    monkeypatch.setattr(tls, "PORT_SECONDS", 1.0)


@pytest.mark.parametrize("kind", KINDS)
def test_a_file_whose_upload_broke_goes_over_anew_at_once(clean: Hosting, tmp_path: Path, kind: Transfer) -> None:
    with hung(clean, kind, tmp_path / "server") as sessions:
        broken(opened(clean, kind), WHERE, sessions)
        files = opened(clean, kind)
        files.write(WHERE, ARCHIVE)
        files.close()
        broken(opened(clean, kind), WHERE, sessions)
        secret = opened(clean, kind)
        secret.write(WHERE, ARCHIVE, 0o600)
        secret.close()
        assert (clean.home("ferry") / WHERE).stat().st_mode & 0o777 == 0o600
        # What the other sessions had still to write when they stopped does not get into the new file.
        sessions.signal(signal.SIGCONT)
        assert (clean.home("ferry") / WHERE).read_bytes() == ARCHIVE


@pytest.mark.parametrize("kind", KINDS)
def test_a_held_file_is_found_out(clean: Hosting, tmp_path: Path, forgotten: None, kind: Transfer) -> None:
    with hung(clean, kind, tmp_path / "server") as sessions:
        broken(opened(clean, kind), WHERE, sessions)
        ftp_module._BROKEN.clear()
        files = opened(clean, kind)
        with pytest.raises(LineDroppedError):
            files.write(WHERE, ARCHIVE[:1000])
        files.write(WHERE, ARCHIVE[:1000])
        files.close()
        assert (clean.home("ferry") / WHERE).read_bytes() == ARCHIVE[:1000]


class BesideJob(HostJob):
    """A job over the server beside the practice host's own."""

    kind: Transfer = "ftp"

    def connect(self) -> HostFiles:
        found = opened(self.hosting, self.kind)
        self.opened.append(found)
        return found

    def archive(self, form: str) -> BinaryIO:
        return io.BytesIO(ARCHIVE)


@pytest.mark.parametrize("kind", KINDS)
def test_an_archive_that_cannot_be_gone_on_with_begins_anew(
    clean: Hosting, tmp_path: Path, forgotten: None, kind: Transfer
) -> None:
    with hung(clean, kind, tmp_path / "server") as sessions:
        job = BesideJob(clean, "ferry", "shell-unzip", "zip", tmp_path)
        job.kind = kind
        place.hold(job)  # type: ignore[arg-type]
        job.journal.keep("place", "carry", {"begun": True})
        held = next(clean.home("ferry").rglob(".hs-hold-*")) / "archive.zip"
        broken(opened(clean, kind), str(held.relative_to(clean.home("ferry"))), sessions)
        ftp_module._BROKEN.clear()
        job.close()
        assert 0 < held.stat().st_size < len(ARCHIVE)
        with pytest.raises(LineDroppedError):
            carrying.carry_archive(job, "archive.zip")  # type: ignore[arg-type]
        assert "held by a session that hangs there" in job.said[-1] and not held.exists()
        assert isinstance(carrying.carry_archive(job, "archive.zip"), Done)  # type: ignore[arg-type]
        job.close()
        assert held.read_bytes() == ARCHIVE
