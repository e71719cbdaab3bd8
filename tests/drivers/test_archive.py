"""Reading archives of every format, and making the zip that every host unpacks."""

from __future__ import annotations

import hashlib
import io
import os
import subprocess
import tarfile
import zipfile
from pathlib import Path

import pytest
import zstandard

from highshelf.core.errors import ArchiveError
from highshelf.drivers.archive.check_in import check_in
from highshelf.drivers.archive.reader import make_payload, read_archive
from tests.drivers.hostile import FINE, pack_7z, put, raw_zip

FILES = {
    "yard-1.0/index.php": b"<?php echo 1;",
    "yard-1.0/.htaccess": b"Options -Indexes",
    "yard-1.0/lib/ä.txt": os.urandom(300_000) + b"x" * 900_000,
    "yard-1.0/empty.txt": b"",
    "yard-1.0/" + "/".join(["a-folder-with-a-rather-long-name"] * 5) + "/deep.txt": b"deep",
}
HASHES = {n.removeprefix("yard-1.0/"): hashlib.sha256(c).hexdigest() for n, c in FILES.items()}


def write_tree(folder: Path) -> Path:
    for name, content in FILES.items():
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_bytes(content)
    return folder


def make_tar(path: Path, mode: str, form: int = tarfile.PAX_FORMAT, dot: str = "./") -> Path:
    with tarfile.open(path, mode, format=form) as tar:  # type: ignore[call-overload]
        for name, content in FILES.items():
            info = tarfile.TarInfo(dot + name)
            info.size = len(content)
            tar.addfile(info, io.BytesIO(content))
    return path


def make_zip(path: Path, method: int = zipfile.ZIP_DEFLATED, *, wide: bool = False) -> Path:
    with zipfile.ZipFile(path, "w", method) as archive:
        archive.writestr("yard-1.0/", "")
        for name, content in FILES.items():
            with archive.open(zipfile.ZipInfo(name) if method == 0 else name, "w", force_zip64=wide) as member:
                member.write(content)
    return path


def make_zst(path: Path) -> Path:
    tar = make_tar(path.with_suffix(".plain"), "w").read_bytes()
    packer = zstandard.ZstdCompressor()
    # Two frames, as tools write that pack in parallel.
    path.write_bytes(packer.compress(tar[:100_000]) + packer.compress(tar[100_000:]))
    return path


def make_7z(path: Path, *options: str) -> Path:
    pack_7z(write_tree(path.parent / "work"), path, *options)
    return path


def zip_by_7zz(path: Path, method: str) -> Path:
    work, made = write_tree(path.parent / "work"), path.parent / "made.zip"
    subprocess.run(["7zz", "a", "-bso0", "-bsp0", "-tzip", f"-mm={method}", str(made), "."], cwd=work, check=True)
    return made.rename(path)


def behind_a_program(path: Path) -> Path:
    whole = make_zip(path).read_bytes()
    path.write_bytes(b"#!/bin/sh\nexit 0\n" + b"\0" * 5000 + whole)
    return path


FORMATS = {
    "zip": (make_zip, "zip"),
    "zip-stored": (lambda p: make_zip(p, zipfile.ZIP_STORED), "zip"),
    "zip-bzip2": (lambda p: make_zip(p, zipfile.ZIP_BZIP2), "payload"),
    "zip-lzma": (lambda p: make_zip(p, zipfile.ZIP_LZMA), "payload"),
    "zip-deflate64": (lambda p: zip_by_7zz(p, "Deflate64"), "payload"),
    "zip64": (lambda p: make_zip(p, wide=True), "zip"),
    "zip-behind-a-program": (behind_a_program, "zip"),
    "tar": (lambda p: make_tar(p, "w"), "tar"),
    "tar-gnu": (lambda p: make_tar(p, "w", tarfile.GNU_FORMAT, ""), "tar"),
    "tar.gz": (lambda p: make_tar(p, "w:gz"), "tar"),
    "tar.bz2": (lambda p: make_tar(p, "w:bz2"), "tar"),
    "tar.xz": (lambda p: make_tar(p, "w:xz"), "tar"),
    "tar.zst": (make_zst, "payload"),
    "7z": (make_7z, "payload"),
    "7z-lzma1": (lambda p: make_7z(p, "-m0=LZMA"), "payload"),
    "7z-branches": (lambda p: make_7z(p, "-m0=BCJ", "-m1=LZMA2"), "payload"),
    "7z-delta": (lambda p: make_7z(p, "-m0=Delta:4", "-m1=LZMA2"), "payload"),
    "7z-bzip2": (lambda p: make_7z(p, "-m0=BZip2"), "payload"),
    "7z-deflate": (lambda p: make_7z(p, "-m0=Deflate"), "payload"),
    "7z-deflate64": (lambda p: make_7z(p, "-m0=Deflate64"), "payload"),
    "7z-copy": (lambda p: make_7z(p, "-m0=Copy"), "payload"),
    "7z-not-solid": (lambda p: make_7z(p, "-ms=off"), "payload"),
    "7z-plain-directory": (lambda p: make_7z(p, "-mhc=off"), "payload"),
}


@pytest.mark.parametrize("kind", FORMATS)
def test_every_format_gives_the_same_contents(tmp_path: Path, kind: str) -> None:
    make, format = FORMATS[kind]
    read = read_archive(make(tmp_path / "yard"))
    assert read.contents.wrapper == "yard-1.0" and read.format == format
    assert {f.path: f.sha256 for f in read.contents.files} == HASHES


@pytest.mark.parametrize("kind", ["tar.zst", "7z", "zip-deflate64", "tar.gz"])
def test_hosts_get_a_zip_of_the_same_files(tmp_path: Path, kind: str) -> None:
    made = tmp_path / "made"
    made.mkdir()
    make, _ = FORMATS[kind]
    done = check_in([(make(tmp_path / "yard"), "yard", "")], [], made)
    payload = read_archive(made / "payload.zip")
    assert payload.format == "zip"
    assert {f.path: f.sha256 for f in payload.contents.files} == HASHES
    # What can be sent as it is keeps its wrapper in the zip too: both are placed in the same way.
    assert done["wrapper"] == ("yard-1.0" if kind == "tar.gz" else "")
    with zipfile.ZipFile(made / "payload.zip") as plain:
        assert plain.testzip() is None


def test_several_archives_become_one_release(tmp_path: Path) -> None:
    made = tmp_path / "made"
    made.mkdir()
    application, addon = tmp_path / "berth.zip", tmp_path / "addon.zip"
    application.write_bytes(raw_zip([(b"berth-2.0/index.php", FINE), (b"berth-2.0/addons/index.html", b"")]))
    addon.write_bytes(raw_zip([(b"tides/tides.php", FINE), (b"tides/lang/de.php", FINE)]))
    done = check_in([(application, "berth-2.0.zip", ""), (addon, "tides-9.1.zip", "addons/tides")], [], made)
    assert done["format"] == "payload" and (done["findings"]["name"], done["findings"]["version"]) == ("berth", "2.0")
    assert "2 archives" in done["findings"]["packed"]
    with zipfile.ZipFile(made / "payload.zip") as payload:
        assert sorted(payload.namelist()) == [
            "addons/index.html",
            "addons/tides/lang/de.php",
            "addons/tides/tides.php",
            "index.php",
        ]
    addon.write_bytes(raw_zip([(b"x/index.php", b"other"), (b"x/lib.php", FINE)]))
    with pytest.raises(ArchiveError, match=r"same path: index\.php"):
        check_in([(application, "berth-2.0.zip", ""), (addon, "x.zip", "")], [], made)
    with pytest.raises(ArchiveError, match="leads out"):
        check_in([(application, "berth-2.0.zip", ""), (addon, "x.zip", "../up")], [], made)


@pytest.mark.parametrize(
    ("raw", "made", "name"),
    [
        ("Gärten.php".encode("cp850"), 0, "Gärten.php"),
        ("Über uns.php".encode("cp1252"), 0, "Über uns.php"),
        ("señal.php".encode("cp437"), 3, "señal.php"),
        ("Gärten.php".encode(), 3, "Gärten.php"),
    ],
)
def test_names_in_old_code_pages_are_read_and_told(tmp_path: Path, raw: bytes, made: int, name: str) -> None:
    (tmp_path / "old.zip").write_bytes(raw_zip([(raw, FINE), (b"index.php", FINE)], made=made))
    read = read_archive(tmp_path / "old.zip")
    assert name in [f.path for f in read.contents.files]
    told = raw != name.encode()
    # Unpackers on hosts guess otherwise: such an archive is sent as a zip of ours, with plain UTF-8 names.
    assert (read.format == "payload") == told and any("code page" in n for n in read.notes) == told


def test_texts_for_people_are_kept(tmp_path: Path) -> None:
    (tmp_path / "a.zip").write_bytes(
        raw_zip([(b"ferry/README.md", b"# Ferry"), (b"ferry/install.txt", b"Unpack it"), (b"ferry/index.php", FINE)])
    )
    assert read_archive(tmp_path / "a.zip").texts == {"README.md": b"# Ferry", "install.txt": b"Unpack it"}


def test_a_payload_is_whole_or_not_there(tmp_path: Path) -> None:
    make_tar(tmp_path / "yard.tar", "w")
    (tmp_path / "cut.tar").write_bytes((tmp_path / "yard.tar").read_bytes()[:200_000])
    with pytest.raises(ArchiveError):
        make_payload([(tmp_path / "cut.tar", [("a",), (), ("b",)])], tmp_path / "payload.zip")
    assert not (tmp_path / "payload.zip").exists()


def test_what_is_no_archive_is_told_with_what_it_looks_like(tmp_path: Path) -> None:
    put(b"<!DOCTYPE html><title>Sign in</title>")(tmp_path / "page.zip")
    with pytest.raises(ArchiveError) as caught:
        read_archive(tmp_path / "page.zip")
    assert "sign-in" in caught.value.hint
