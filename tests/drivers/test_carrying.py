"""Bringing files over on real servers: streams that break and go on, files one by one, and what is compared afterwards."""

from __future__ import annotations

import io
from dataclasses import replace
from pathlib import Path
from typing import Any, BinaryIO

import pytest

from highshelf.core.account import Credential
from highshelf.core.errors import CancelledError, IdentityError, LineDroppedError
from highshelf.core.legs import carrying, place
from highshelf.core.legs.job import Done, More
from highshelf.core.legs.registry import act_of
from highshelf.core.legs.trees import holding_folder
from highshelf.core.origins import Origins
from highshelf.core.ports import HostFiles
from highshelf.drivers.archive.repack import FORMS, repack_apart
from highshelf.drivers.ftp.files import FtpFiles
from highshelf.drivers.helper import client as helper_module
from highshelf.drivers.helper.client import HostHelper
from highshelf.drivers.http.fetch import HttpFetch
from highshelf.drivers.sftp.connection import SftpFiles, SshConnection, SshShell
from tests.support import Hosting
from tests.unit.fakes import FakeJob, Flaky

RELEASE = {
    "index.php": b"<?php // front",
    ".htaccess": b"Options -Indexes",
    "empty.txt": b"",
    "lib/deep/er/a.php": b"<?php return 1;",
    "lib/.htaccess": b"Require all denied",
    "odd names/tide & $x.txt": b"tide",
    **{f"tides/pier-{n % 7}/week-{n}.json": (b"%d " % n) * 400 for n in range(120)},
}


def through(job: Any, name: str) -> Done:
    """An act done to its end, however many steps it takes."""
    for _ in range(20):
        if isinstance(result := act_of("place", name).do(job), Done):
            return result
    raise AssertionError(f"{name} never ended")


class Cut(io.BytesIO):
    """A source whose line breaks after so many bytes."""

    def __init__(self, content: bytes, at: int) -> None:
        super().__init__(content)
        self._at = at

    def read(self, size: int | None = -1) -> bytes:
        if self.tell() >= self._at:
            raise LineDroppedError("the line breaks here")
        return super().read(min(size or 0, self._at - self.tell()) if size and size > 0 else size)


class HostJob(FakeJob):
    """A job whose files and shell are real."""

    def __init__(self, hosting: Hosting, key: str, way: str, form: str, tmp_path: Path) -> None:
        super().__init__(Flaky(), RELEASE, "/")
        self.hosting, self.key, self.form = hosting, key, form
        self.place = self.place.__class__(hosting.customer(key)["root"], "", self.place.address)
        beside = key != "seeds" and key != "regatta"
        self.plan = self.plan.__class__(
            **{**self.plan.__dict__, "way": {"name": way, "archive": form, "reason": ""}, "holding_beside": beside}
        )
        self.cut_at = 1 << 40
        self.work = tmp_path
        (tmp_path / "release.zip").write_bytes(FakeJob.archive(self, "zip").read())
        self.opened: list[Any] = []

    def connect(self) -> HostFiles:
        login, password = self.hosting.login(self.key), self.hosting.password(self.key)
        if login.kind == "sftp":
            ssh = SshConnection(login, Credential(password=password))
            self.opened.append(ssh)
            self._shell, files = SshShell(ssh), SftpFiles(ssh)
            self._real: HostFiles = files
            return files
        found = FtpFiles(login, password=password)
        self.opened.append(found)
        return found

    def files(self) -> Any:
        if not self.opened:
            self._real = self.connect()
        return self._real

    def shell(self) -> Any:
        self.files()
        return self._shell if self.key == "ferry" else None

    def lanes(self, most: int) -> Any:
        first = self.files()
        if first.capabilities.parallel:
            return [first] * most
        while len(self.opened) < 4:
            self.connect()
        return list(self.opened)

    def archive(self, form: str) -> BinaryIO:
        if not form.startswith("tar."):
            return io.BytesIO((self.work / "release.zip").read_bytes())
        target = self.work / f"payload.{form}"
        if not target.exists():
            repack_apart(self.work / "release.zip", "yard-1.0/", form, target)
        return Cut(target.read_bytes(), self.cut_at)

    def close(self) -> None:
        for one in self.opened:
            one.close()
        self.opened = []


class HelpedJob(HostJob):
    """A job on an account where PHP helps."""

    _helper: HostHelper | None = None

    def helper(self) -> HostHelper:
        if self._helper is None:
            reach = self.hosting.customer(self.key)["reach"]
            self._helper = HostHelper(
                self.files(),
                HttpFetch(Origins.of(self.place.address), address=self.place.address, reach=reach),
                folder=self.place.root,
                address=self.place.address,
                reaches=(f"../{holding_folder(self)}",),  # type: ignore[arg-type]
                outstanding=lambda _: None,
                gone=lambda _: None,
            )
        return self._helper

    def close(self) -> None:
        if self._helper is not None:
            self._helper.remove()
        super().close()


def placed(hosting: Hosting, job: HostJob) -> dict[str, bytes]:
    """What stands in the holding folder, below the wrapper."""
    tree = next(hosting.home(job.key).rglob(".hs-hold-*")) / "tree/yard-1.0"
    return {str(p.relative_to(tree)): p.read_bytes() for p in tree.rglob("*") if p.is_file()}


@pytest.mark.parametrize("form", FORMS)
def test_a_stream_is_unpacked_as_it_comes_and_goes_on_where_it_broke(clean: Hosting, tmp_path: Path, form: str) -> None:
    job = HostJob(clean, "ferry", "shell-stream", form, tmp_path)
    try:
        place.hold(job)  # type: ignore[arg-type]
        with job.archive(form) as whole:
            size = len(whole.read())
        for part in (3, 2):
            job.cut_at = size - size // part
            with pytest.raises(LineDroppedError):
                carrying.carry_stream(job)  # type: ignore[arg-type]
            job.close()
        held = next(clean.home("ferry").rglob("archive.part")).stat().st_size
        assert 0 < held <= size - size // 3
        job.cut_at = 1 << 40
        done = carrying.carry_stream(job)  # type: ignore[arg-type]
        assert isinstance(done, Done) and done.facts["bytes"] == size - held
        assert placed(clean, job) == RELEASE
        assert isinstance(through(job, "identity"), Done)  # type: ignore[arg-type]
    finally:
        job.close()


def test_what_lies_there_and_is_not_the_streams_own_is_not_gone_on_with(clean: Hosting, tmp_path: Path) -> None:
    job = HostJob(clean, "ferry", "shell-stream", "tar.gz", tmp_path)
    try:
        place.hold(job)  # type: ignore[arg-type]
        job.files().write(
            next(clean.home("ferry").rglob(".hs-hold-*")).name + "/archive.part", b"somebody else's bytes"
        )
        carrying.carry_stream(job)  # type: ignore[arg-type]
        assert placed(clean, job) == RELEASE
    finally:
        job.close()


@pytest.mark.parametrize("key", ["ferry", "seeds", "choir", "yard", "regatta"])
def test_files_go_over_one_by_one_and_are_compared(clean: Hosting, tmp_path: Path, key: str) -> None:
    job = HostJob(clean, key, "files", "zip", tmp_path)
    try:
        place.hold(job)  # type: ignore[arg-type]
        done = through(job, "carry")  # type: ignore[arg-type]
        assert isinstance(done, Done) and done.facts["files"] == len(RELEASE)
        assert placed(clean, job) == RELEASE
        compared = through(job, "identity")  # type: ignore[arg-type]
        assert isinstance(compared, Done) and "read back" in compared.told
        assert 10 <= compared.facts["read_back"] <= 24
    finally:
        job.close()


@pytest.mark.parametrize("key", ["seeds", "choir"])
def test_a_break_repeats_only_what_was_not_over(clean: Hosting, tmp_path: Path, key: str) -> None:
    job = HostJob(clean, key, "files", "zip", tmp_path)
    sent: list[str] = []

    class Breaking:
        """A lane whose line breaks at the fiftieth file."""

        def __init__(self, lane: Any) -> None:
            self._lane = lane

        def __getattr__(self, name: str) -> Any:
            return getattr(self._lane, name)

        def write(self, path: str, content: bytes, mode: int | None = None) -> None:
            if len(sent) == 50:
                raise LineDroppedError("the line breaks here")
            sent.append(path)
            self._lane.write(path, content, mode)

    try:
        place.hold(job)  # type: ignore[arg-type]
        lanes = [Breaking(lane) for lane in job.lanes(1)]
        job.lanes = lambda most: lanes  # type: ignore[method-assign, assignment]
        first = carrying.carry_files(job)  # type: ignore[arg-type]
        assert isinstance(first, More) and "50 of" in first.told, first
        sent.append("counted no more")
        assert isinstance(carrying.carry_files(job), Done)  # type: ignore[arg-type]
        assert len(sent) - 1 == len(set(sent)) - 1 == len(RELEASE)
        assert placed(clean, job) == RELEASE
    finally:
        job.close()


def test_what_is_not_the_releases_is_found(clean: Hosting, tmp_path: Path) -> None:
    job = HostJob(clean, "choir", "files", "zip", tmp_path)
    try:
        place.hold(job)  # type: ignore[arg-type]
        through(job, "carry")  # type: ignore[arg-type]
        tree = next(clean.home("choir").rglob(".hs-hold-*")) / "tree/yard-1.0"
        (tree / "extra.php").write_text("<?php")
        with pytest.raises(IdentityError, match="1 extra"):
            through(job, "identity")  # type: ignore[arg-type]
        (tree / "extra.php").unlink()
        (tree / "empty.txt").write_text("no longer")
        with pytest.raises(IdentityError, match="another size"):
            through(job, "identity")  # type: ignore[arg-type]
        (tree / "empty.txt").write_text("")
        (tree / ".htaccess").write_bytes(b"Options +Indexes")
        with pytest.raises(IdentityError, match="reads back"):
            through(job, "identity")  # type: ignore[arg-type]
    finally:
        job.close()


def test_what_takes_the_helper_many_requests_is_compared_by_one_hash_each(
    clean: Hosting, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = helper_module.part
    monkeypatch.setattr(
        helper_module, "part", lambda name: real(name).replace("SLICE_SECONDS = 8", "SLICE_SECONDS = 0")
    )
    job = HelpedJob(clean, "choir", "helper", "zip", tmp_path)
    job.place = replace(job.place, address=clean.customer("choir")["address"])
    try:
        place.hold(job)  # type: ignore[arg-type]
        carrying.carry_files(job)  # type: ignore[arg-type]
        told = place._compare(job)  # type: ignore[arg-type]
        assert f"{len(RELEASE)} files are identical" in told.told
        assert sum("alike as far as" in text for text in job.said) == len(RELEASE) - 1
        tree = next(clean.home("choir").rglob(".hs-hold-*")) / "tree/yard-1.0"
        (tree / "tides/pier-3/week-3.json").write_bytes(b"tides")
        with pytest.raises(IdentityError, match=r"week-3\.json"):
            place._compare(job)  # type: ignore[arg-type]
        (tree / "tides/pier-3/week-3.json").write_bytes(RELEASE["tides/pier-3/week-3.json"])
        (tree / "zz.txt").write_bytes(b"one more")
        with pytest.raises(IdentityError, match=r"zz\.txt"):
            place._compare(job)  # type: ignore[arg-type]
    finally:
        job.close()


@pytest.mark.parametrize(("key", "way", "form"), [("ferry", "shell-stream", "tar.gz"), ("choir", "files", "zip")])
def test_cancelled_means_no_further_byte(clean: Hosting, tmp_path: Path, key: str, way: str, form: str) -> None:
    job = HostJob(clean, key, way, form, tmp_path)
    try:
        place.hold(job)  # type: ignore[arg-type]
        job.cancel.cancel()
        with pytest.raises(CancelledError):
            through(job, "carry")  # type: ignore[arg-type]
        assert not list(clean.home(key).rglob("week-*.json"))
    finally:
        job.close()
