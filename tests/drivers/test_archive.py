"""Reading archives, good and bad."""

from __future__ import annotations

import hashlib
import io
import tarfile
import zipfile
from pathlib import Path

import pytest

from highshelf.core.errors import ArchiveError
from highshelf.drivers.archive.reader import make_zip, open_archive

FILES = {
    "yard-1.0/index.php": b"<?php echo 1;",
    "yard-1.0/.htaccess": b"Options -Indexes",
    "yard-1.0/lib/ä.txt": b"x" * 5000,
}


def make_archive(path: Path, kind: str) -> Path:
    if kind == "zip":
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("yard-1.0/", "")
            for name, content in FILES.items():
                archive.writestr(name, content)
        return path
    with tarfile.open(path, f"w:{kind}") as tar:
        for name, content in FILES.items():
            info = tarfile.TarInfo("./" + name)
            info.size = len(content)
            tar.addfile(info, io.BytesIO(content))
    return path


@pytest.mark.parametrize("kind", ["zip", "", "gz", "bz2", "xz"])
def test_every_format_gives_the_same_contents(tmp_path: Path, kind: str) -> None:
    opened = open_archive(make_archive(tmp_path / "yard", kind))
    assert opened.contents.wrapper == "yard-1.0"
    assert {f.path: f.sha256 for f in opened.contents.files} == {
        n.removeprefix("yard-1.0/"): hashlib.sha256(c).hexdigest() for n, c in FILES.items()
    }
    assert opened.peek("index.php") == b"<?php echo 1;"


def test_a_zip_of_a_tar_holds_the_same(tmp_path: Path) -> None:
    source = make_archive(tmp_path / "yard.tar.gz", "gz")
    make_zip(source, tmp_path / "payload.zip")
    assert open_archive(tmp_path / "payload.zip").contents == open_archive(source).contents
    assert not list(tmp_path.glob("*.draft"))


def bad_zip(path: Path, *names: str) -> Path:
    with zipfile.ZipFile(path, "w") as archive:
        for name in names:
            archive.writestr(name, "x")
    return path


def link_tar(path: Path) -> Path:
    with tarfile.open(path, "w") as tar:
        info = tarfile.TarInfo("a/link")
        info.type, info.linkname = tarfile.SYMTYPE, "/etc/passwd"
        tar.addfile(info)
    return path


def bomb(path: Path) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive, archive.open("zeros", "w") as member:
        for _ in range(80):
            member.write(b"\0" * (1 << 20))
    return path


def text(path: Path) -> Path:
    path.write_text("<html>Please sign in to download</html>")
    return path


def cut(path: Path) -> Path:
    whole = make_archive(path, "gz").read_bytes()
    path.write_bytes(whole[: len(whole) // 2])
    return path


@pytest.mark.parametrize(
    ("make", "part"),
    [
        (lambda p: bad_zip(p, "a/../../evil.php"), "leads out"),
        (lambda p: bad_zip(p, "/etc/cron"), "absolute"),
        (link_tar, "link"),
        (bomb, "bomb"),
        (text, "not an archive"),
        (cut, "broken"),
        (lambda p: bad_zip(p), "no files"),
    ],
)
def test_bad_archives_are_refused_with_the_reason(tmp_path: Path, make, part: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(ArchiveError) as caught:
        open_archive(make(tmp_path / "bad.zip"))
    assert part in caught.value.message
