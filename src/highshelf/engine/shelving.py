"""Putting archives on the shelf: read in a process of their own, then kept under their hash."""

from __future__ import annotations

import hashlib
import shutil
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, Protocol

from highshelf.core.errors import HighShelfError
from highshelf.core.ports import CancelToken
from highshelf.core.release.joining import check_folder
from highshelf.store.store import Store
from highshelf.store.tables import ReleaseRow


class CheckIn(Protocol):
    """What reads archives (`drivers.archive.check_in`)."""

    def __call__(
        self,
        sources: Sequence[tuple[Path, str, str]],
        words: Sequence[str],
        folder: Path,
        *,
        told: Callable[[int, int], None] | None = None,
        cancel: CancelToken | None = None,
    ) -> dict[str, Any]: ...


def joined_sha256(parts: Sequence[tuple[str, str]]) -> str:
    """The identity of a release out of several archives: their hashes and folders, in order."""
    text = "\n".join(f"{sha256} {check_folder(folder)}" for sha256, folder in parts)
    return hashlib.sha256(text.encode()).hexdigest()


def keep_release(
    store: Store,
    check_in: CheckIn,
    sources: Sequence[tuple[Path, str, str]],
    words: Sequence[str],
    sha256: str = "",
    *,
    told: Callable[[int, int], None] | None = None,
    cancel: CancelToken | None = None,
) -> ReleaseRow:
    """Read archives and keep them as one release. What is on the shelf already is given back as it is.

    Args:
        sources: path, what people call it, folder; a draft's path as `Shelf.receive` names it when there is one only.
        words: dangers that the administrator accepts.

    Raises:
        ArchiveError, CancelledError; nothing is kept then.
    """
    sha256 = sha256 or sources[0][0].name.split("-")[1]
    known = store.find(ReleaseRow, sha256)
    if known is not None:
        return known
    made = store.shelf.readies()
    try:
        parts = [(path, name, check_folder(folder)) for path, name, folder in sources]
        found = check_in(parts, words, made, told=told, cancel=cancel)
        size = sum(path.stat().st_size for path, _, _ in parts)
        store.shelf.keep([path for path, _, _ in parts], sha256, made)
    finally:
        shutil.rmtree(made, ignore_errors=True)
    findings = found["findings"]
    return store.add(
        ReleaseRow(
            sha256=sha256,
            name=findings["name"],
            version=findings["version"],
            file_name=" + ".join(name for _, name, _ in parts)[:400],
            format=found["format"],
            size_bytes=size,
            unpacked_bytes=found["unpacked_bytes"],
            files=found["files"],
            wrapper=found["wrapper"],
            findings=findings,
        )
    )


def read_anew(store: Store, check_in: CheckIn) -> list[str]:
    """Read releases again whose list an earlier High Shelf kept in another form; archive, hash and address stay.

    Returns:
        The hashes of those that cannot be read any more, as `release show` of them will say too.
    """
    faulty = []
    for row in store.all(ReleaseRow, limit=100_000):
        if store.shelf.is_read(row.sha256):
            continue
        made = store.shelf.readies()
        try:
            found = check_in([(store.shelf.archive(row.sha256, "", row.format), row.file_name, "")], [], made)
            store.shelf.renew(row.sha256, made)
        except (HighShelfError, OSError):
            faulty.append(row.sha256)
            continue
        finally:
            shutil.rmtree(made, ignore_errors=True)
        store.change(
            ReleaseRow, row.sha256, format=found["format"], wrapper=found["wrapper"], findings=found["findings"]
        )
    return faulty
