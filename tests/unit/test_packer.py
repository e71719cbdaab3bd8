"""What is packed for hosts: a form that a release cannot have is not tried again after each check of an account."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from highshelf.engine.packing import Packer
from highshelf.store.store import Store
from highshelf.store.tables import ReleaseRow

SHA = "ab" * 32


def test_a_form_that_a_release_cannot_have_is_tried_once(tmp_path: Path) -> None:
    store, tried = Store(tmp_path / "data"), []
    store.shelf.folder(SHA).mkdir(parents=True)
    (store.shelf.folder(SHA) / "archive").write_bytes(b"zip")
    row = {"name": "tidebook", "version": "1", "file_name": "tidebook-1.zip", "format": "zip", "wrapper": ""}
    sizes = {"size_bytes": 3, "unpacked_bytes": 3, "files": 1}
    store.add(ReleaseRow(sha256=SHA, findings={}, **row, **sizes))  # type: ignore[arg-type]

    def repack(source: Path, prefix: str, form: str, target: Path, wanted: Callable[[], bool]) -> int:
        tried.append(form)
        if form == "tar.xz":
            return 0
        target.write_bytes(b"packed")
        return 6

    packer = Packer(store, repack, ("tar.xz", "tar.gz"), all_forms=True)
    assert packer.missing(SHA) == ["tar.xz", "tar.gz"]
    packer.do(SHA)
    assert sorted(tried) == ["tar.gz", "tar.xz"] and packer.missing(SHA) == [] and packer.behind() == []
    packer.do(SHA)
    assert len(tried) == 2
