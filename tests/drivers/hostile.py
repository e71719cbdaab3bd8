"""Makes archives that mean harm, are broken, or are merely odd; each with what must become of it.

Written byte by byte where the standard library would not make them.
"""

from __future__ import annotations

import bz2
import gzip
import io
import lzma
import shutil
import struct
import subprocess
import tarfile
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import zstandard

FINE = b"<?php echo 1;\n"
MB = 1 << 20


@dataclass(frozen=True)
class Hostile:
    """`told`: words of the refusal ("" when it is taken); `word`: what lets it in all the same."""

    name: str
    make: Callable[[Path], None]
    told: str = ""
    word: str = ""


def zipped(*names: str | bytes, **options: int) -> Callable[[Path], None]:
    """A zip of small files of these names, as bytes where they are no UTF-8."""

    def make(path: Path) -> None:
        path.write_bytes(raw_zip([(n if isinstance(n, bytes) else n.encode(), FINE) for n in names], **options))

    return make


def raw_zip(
    files: list[tuple[bytes, bytes]],
    *,
    flags: int = 0,
    method: int = 0,
    made: int = 3,
    mode: int = 0o100644,
    local_name: bytes | None = None,
    told_size: int | None = None,
    crc: int | None = None,
    same_offset: bool = False,
    count: int | None = None,
) -> bytes:
    out, central = io.BytesIO(), io.BytesIO()
    first = 0
    for index, (name, data) in enumerate(files):
        offset = first if same_offset else out.tell()
        if not index:
            first = offset
        sum_of = zlib.crc32(data) if crc is None else crc
        size = len(data) if told_size is None else told_size
        if not same_offset or not index:
            inner = local_name if local_name is not None else name
            out.write(
                struct.pack(
                    "<4sHHHHHIIIHH", b"PK\3\4", 20, flags, method, 0, 33, sum_of, len(data), size, len(inner), 0
                )
            )
            out.write(inner + data)
        central.write(
            struct.pack(
                "<4sHHHHHHIIIHHHHHII", b"PK\1\2", made << 8 | 20, 20, flags, method, 0, 33, sum_of, len(data), size, len(name), 0, 0, 0, 0, mode << 16, offset,
            )
            + name
        )  # fmt: skip
    at = out.tell()
    out.write(central.getvalue())
    number = min(len(files) if count is None else count, 0xFFFF)
    out.write(struct.pack("<4sHHHHIIH", b"PK\5\6", 0, 0, number, number, len(central.getvalue()), at, 0))
    return out.getvalue()


def put(data: bytes) -> Callable[[Path], None]:
    return lambda path: path.write_bytes(data) and None


def tarred(*infos: tarfile.TarInfo, mode: str = "w") -> Callable[[Path], None]:
    """A tar with one fine file and these entries."""

    def make(path: Path) -> None:
        with tarfile.open(path, mode) as tar:  # type: ignore[call-overload]
            fine = tarfile.TarInfo("ferry/index.php")
            fine.size = len(FINE)
            tar.addfile(fine, io.BytesIO(FINE))
            for info in infos:
                tar.addfile(info, io.BytesIO(FINE[: info.size]) if info.isfile() else None)

    return make


def entry(name: str, kind: bytes = tarfile.REGTYPE, link: str = "") -> tarfile.TarInfo:
    info = tarfile.TarInfo(name)
    info.type, info.linkname = kind, link
    info.size = len(FINE) if kind == tarfile.REGTYPE else 0
    return info


def zeros(size: int) -> bytes:
    """A gzip of so many zero bytes, made without holding them."""
    packer = zlib.compressobj(9, zlib.DEFLATED, 31)
    out = bytearray()
    for _ in range(size // MB):
        out += packer.compress(bytes(MB))
    return bytes(out + packer.flush())


def zero_tar(size: int) -> bytes:
    info = tarfile.TarInfo("ferry/zeros")
    info.size = size
    return info.tobuf(tarfile.GNU_FORMAT)


def deflate_bomb(path: Path) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive, archive.open("zeros", "w") as member:
        for _ in range(400):
            member.write(bytes(MB))


def gzip_bomb(path: Path) -> None:
    packer = zlib.compressobj(9, zlib.DEFLATED, 31)
    data = bytearray(packer.compress(zero_tar(2 << 30)))
    for _ in range(400):
        data += packer.compress(bytes(MB))
    path.write_bytes(bytes(data + packer.flush()))


def packed_bomb(make: Callable[[], object]) -> Callable[[Path], None]:
    def write(path: Path) -> None:
        packer = make()
        data = bytearray(packer.compress(zero_tar(2 << 30)))  # type: ignore[attr-defined]
        for _ in range(300):
            data += packer.compress(bytes(MB))  # type: ignore[attr-defined]
        path.write_bytes(bytes(data + packer.flush()))  # type: ignore[attr-defined]

    return write


def hungry_xz(path: Path) -> None:
    filters = [{"id": lzma.FILTER_LZMA2, "dict_size": 512 << 20}]
    path.write_bytes(lzma.compress(small_tar(), lzma.FORMAT_XZ, filters=_light(filters)))
    data = bytearray(path.read_bytes())
    # The filter's property byte says the dictionary; 36 is 1.5 GB. The header's checksum is made right again.
    size = (data[12] + 1) * 4
    at = data.index(b"\x21\x01", 12) + 2
    data[at] = 36
    data[12 + size - 4 : 12 + size] = struct.pack("<I", zlib.crc32(bytes(data[12 : 12 + size - 4])))
    path.write_bytes(bytes(data))


def _light(filters: list[dict[str, int]]) -> list[dict[str, int]]:
    """The same with a small dictionary: what packs need not have what it announces."""
    return [{**f, "dict_size": 1 << 16} for f in filters]


def hungry_zst(path: Path) -> None:
    parameters = zstandard.ZstdCompressionParameters.from_level(3, window_log=30, enable_ldm=False)
    packer = zstandard.ZstdCompressor(compression_params=parameters).compressobj()
    # Without its size in the header the frame must announce its window.
    path.write_bytes(packer.compress(small_tar()) + packer.flush())


def small_tar() -> bytes:
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w") as tar:
        info = tarfile.TarInfo("ferry/index.php")
        info.size = len(FINE)
        tar.addfile(info, io.BytesIO(FINE))
    return out.getvalue()


def endless_pax(path: Path) -> None:
    header = tarfile.TarInfo("pax")
    header.type, header.size = tarfile.XHDTYPE, 1 << 30
    packer = zlib.compressobj(9, zlib.DEFLATED, 31)
    data = bytearray(packer.compress(header.tobuf(tarfile.USTAR_FORMAT)))
    for _ in range(100):
        data += packer.compress(b"9" * MB)
    path.write_bytes(bytes(data + packer.flush()))


def many_entries(path: Path) -> None:
    """A directory of 300,000 empty files, 46 bytes and a name each."""
    fixed = struct.pack("<4sHHHHHHIIIHHHHHII", b"PK\1\2", 20, 20, 0, 0, 0, 33, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0)
    central = (fixed + b"x") * 300_000
    record = struct.pack("<4sQHHIIQQQQ", b"PK\6\6", 44, 45, 45, 0, 0, 300_000, 300_000, len(central), 0)
    locator = struct.pack("<4sIQI", b"PK\6\7", 0, len(central), 1)
    end = struct.pack("<4sHHHHIIH", b"PK\5\6", 0, 0, 0xFFFF, 0xFFFF, 0xFFFFFFFF, 0xFFFFFFFF, 0)
    path.write_bytes(central + record + locator + end)


def seven(*names: str, options: tuple[str, ...] = ()) -> Callable[[Path], None]:
    def make(path: Path) -> None:
        work = path.parent / f"{path.name}.work"
        for name in names or ("ferry/index.php",):
            (work / name).parent.mkdir(parents=True, exist_ok=True)
            (work / name).write_bytes(FINE)
        pack_7z(work, path, *options)

    return make


def pack_7z(work: Path, path: Path, *options: str) -> None:
    """7zz puts its ending to a name that has none."""
    made = path.parent / "made.7z"
    subprocess.run(["7zz", "a", "-bso0", "-bsp0", "-t7z", *options, str(made.absolute()), "."], cwd=work, check=True)
    made.rename(path)
    shutil.rmtree(work)


def seven_hungry(path: Path) -> None:
    """The dictionary's size is one byte of the directory; 36 is 1.5 GB. All checksums are made right again."""
    seven(options=("-mhc=off",))(path)
    data = bytearray(path.read_bytes())
    at, size = struct.unpack("<QQ", data[12:28])
    directory = data[32 + at : 32 + at + size]
    directory[directory.index(b"\x21\x21\x01") + 3] = 36
    data[32 + at : 32 + at + size] = directory
    data[28:32] = struct.pack("<I", zlib.crc32(bytes(directory)))
    data[8:12] = struct.pack("<I", zlib.crc32(bytes(data[12:32])))
    path.write_bytes(bytes(data))


def seven_link(path: Path) -> None:
    work = path.parent / "link.work"
    work.mkdir()
    (work / "index.php").write_bytes(FINE)
    (work / "out").symlink_to("/etc/passwd")
    pack_7z(work, path, "-snl")


def cut(make: Callable[[Path], None], keep: float) -> Callable[[Path], None]:
    def write(path: Path) -> None:
        make(path)
        data = path.read_bytes()
        path.write_bytes(data[: int(len(data) * keep)])

    return write


def flipped(make: Callable[[Path], None], at: int) -> Callable[[Path], None]:
    def write(path: Path) -> None:
        make(path)
        data = bytearray(path.read_bytes())
        data[at] ^= 0xFF
        path.write_bytes(bytes(data))

    return write


def deep_php(path: Path) -> None:
    """A source nested beyond all reason, one of many brackets, and a JSON of the same kind."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("index.php", b"<?php version_compare(" + b"(" * 250_000 + b"1" + b")" * 250_000 + b", 1);")
        archive.writestr("a.php", b"<?php $version = " + b"[" * 100_000 + b"]" * 100_000 + b";")
        archive.writestr(
            "if.php", b"<?php if (version_compare(PHP_VERSION, '8.1') < 0) { " * 5_000 + b"die();" + b"}" * 5_000
        )
        archive.writestr("composer.json", b'{"require":' + b"[" * 200_000 + b"]" * 200_000 + b"}")
        archive.writestr("README", (b"PHP " + b" " * 900 + b"version " * 50 + b"\n") * 500)


def deflated(data: bytes) -> bytes:
    packer = zlib.compressobj(9, zlib.DEFLATED, -15)
    return packer.compress(data) + packer.flush()


LONG = "a" * 300

CASES = (
    Hostile("zip-up", zipped("ok.php", "../out.php"), "leads out"),
    Hostile("zip-up-deep", zipped("a/b/../../../out.php"), "leads out"),
    Hostile("zip-up-backslash", zipped("ok.php", "..\\..\\out.php"), "leads out"),
    Hostile("zip-absolute", zipped("/etc/cron.d/x"), "absolute"),
    Hostile("zip-drive", zipped("C:/windows/x.php"), "drive"),
    Hostile("zip-drive-backslash", zipped("c:\\x.php"), "drive"),
    Hostile("zip-network-name", zipped("\\\\server\\share\\x.php"), "absolute"),
    Hostile("zip-backslash", zipped("ferry\\index.php", "ferry\\lib\\a.php"), "backslash", "backslashes"),
    Hostile("zip-control", zipped("ok.php", "a\x1b[2Jb.php"), "control character"),
    Hostile("zip-newline", zipped("a\nb.php"), "control character"),
    Hostile("zip-nul", zipped(b"a.php\0.jpg"), "control character"),
    Hostile("zip-turned", zipped("ok.php", "photo‮gpj.php"), "invisible mark", "odd-names"),
    Hostile("zip-long-name", zipped(LONG + ".php"), "over-long"),
    Hostile("zip-long-path", zipped("/".join(["d" * 100] * 12) + "/x.php"), "over-long"),
    Hostile("zip-case", zipped("Index.php", "index.php"), "letter case", "letter-case"),
    Hostile("zip-normal-form", zipped("caf\u00e9.php", "cafe\u0301.php"), "accent", "normal-form"),
    Hostile("zip-twice", zipped("index.php", "index.php"), "twice", "twice"),
    Hostile("zip-file-and-folder", zipped("lib", "lib/a.php"), "and a folder too"),
    Hostile("zip-empty-name", zipped("a//b.php"), "empty name"),
    Hostile("zip-two-names", put(raw_zip([(b"good.php", FINE)], local_name=b"evil.php")), "in two ways"),
    Hostile("zip-overlap", put(raw_zip([(f"f{i}".encode(), FINE * 1000) for i in range(50)], same_offset=True)), "over each other"),
    Hostile("zip-encrypted", zipped("secret.php", flags=1), "encrypted"),
    Hostile("zip-lies-small", put(raw_zip([(b"a.php", deflated(FINE * 99))], method=8, told_size=10)), "longer than it says"),
    Hostile("zip-wrong-sum", put(raw_zip([(b"a.php", FINE)], crc=1)), "checksum"),
    Hostile("zip-unknown-method", zipped("a.php", method=98), "method 98"),
    Hostile("zip-link-out", put(raw_zip([(b"ok.php", FINE), (b"x", b"../../etc/passwd")], mode=0o120777)), "points out"),
    Hostile("zip-device", zipped("dev", mode=0o020666), "device"),
    Hostile("zip-bomb", deflate_bomb, "bomb"),
    Hostile("zip-many-entries", many_entries, "300,000 entries"),
    Hostile("zip-cut", cut(zipped("a.php", "b.php"), 0.6), "not an archive|directory is missing"),
    Hostile("zip-directory-lies", put(raw_zip([(b"a.php", FINE)], count=9)), "broken"),
    Hostile("zip-deep-sources", deep_php),
    Hostile("zip-no-files", zipped("folder/"), "no files"),
    Hostile("tar-up", tarred(entry("../out.php")), "leads out"),
    Hostile("tar-absolute", tarred(entry("/etc/cron.d/x")), "absolute"),
    Hostile("tar-link-out", tarred(entry("ferry/x", tarfile.SYMTYPE, "/etc/passwd")), "points out"),
    Hostile("tar-link-up", tarred(entry("ferry/x", tarfile.SYMTYPE, "../../../etc")), "points out"),
    Hostile("tar-hardlink-out", tarred(entry("ferry/x", tarfile.LNKTYPE, "../etc/passwd")), "points out"),
    Hostile("tar-link-inside", tarred(entry("ferry/x.php", tarfile.SYMTYPE, "index.php")), "a link", "links"),
    Hostile("tar-hardlink-inside", tarred(entry("ferry/x.php", tarfile.LNKTYPE, "ferry/index.php")), "a link", "links"),
    Hostile("tar-link-circle", tarred(entry("ferry/a", tarfile.SYMTYPE, "b"), entry("ferry/b", tarfile.SYMTYPE, "a")), "a link"),
    Hostile("tar-device", tarred(entry("ferry/null", tarfile.CHRTYPE)), "device"),
    Hostile("tar-pipe", tarred(entry("ferry/pipe", tarfile.FIFOTYPE)), "device or a pipe"),
    Hostile("tar-bomb-gz", gzip_bomb, "bomb"),
    Hostile("tar-bomb-bz2", packed_bomb(lambda: bz2.BZ2Compressor(9)), "bomb"),
    Hostile("tar-bomb-xz", packed_bomb(lambda: lzma.LZMACompressor(preset=1)), "bomb"),
    Hostile("tar-bomb-zst", packed_bomb(lambda: zstandard.ZstdCompressor().compressobj()), "bomb"),
    Hostile("tar-hungry-xz", hungry_xz, "dictionary"),
    Hostile("tar-hungry-zst", hungry_zst, "window"),
    Hostile("tar-endless-header", endless_pax, "header"),
    Hostile("tar-cut", cut(tarred(entry("ferry/b.php"), mode="w:gz"), 0.7), "too early|ends within"),
    Hostile("tar-wrong-sum", flipped(tarred(entry("ferry/b.php")), 1024), "checksum"),
    Hostile("gz-of-no-tar", lambda p: p.write_bytes(gzip.compress(b"x" * 5000)) and None, "no tar inside"),
    Hostile("7z-encrypted", seven(options=("-psecret",)), "encrypted"),
    Hostile("7z-encrypted-names", seven(options=("-psecret", "-mhe=on")), "encrypted"),
    Hostile("7z-hungry", seven_hungry, "dictionary"),
    Hostile("7z-odd-method", seven(options=("-m0=PPMd",)), "PPMd"),
    Hostile("7z-link-out", seven_link, "points out"),
    Hostile("7z-cut", cut(seven(), 0.8), "ends within"),
    Hostile("7z-wrong-sum", flipped(seven(), 36), "checksum"),
    Hostile("web-page", put(b"<!doctype html><html><body>Please sign in</body></html>"), "not an archive"),
    Hostile("empty", put(b""), "is empty"),
    Hostile("noise", put(bytes(range(256)) * 40), "not an archive"),
)  # fmt: skip
