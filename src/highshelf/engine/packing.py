"""Packing releases in the forms that go over fastest, in the background, one at a time; kept with the release."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

import structlog

from highshelf.core.errors import ArchiveError
from highshelf.store.store import Store
from highshelf.store.tables import ReleaseRow

log = structlog.get_logger()
# (zip of the release, its wrapper with a slash, form, where it goes) -> bytes, 0 when it is not worth packing.
Repack = Callable[[Path, str, str, Path], int]


class Packer:
    """What it cannot pack it leaves: placing goes another way then."""

    def __init__(self, store: Store, repack: Repack, forms: Sequence[str]) -> None:
        self._store, self._repack, self._forms = store, repack, forms

    def missing(self, sha256: str) -> list[str]:
        """Forms of a release that are not packed yet."""
        there = self._store.shelf.forms(sha256)
        return [form for form in self._forms if form not in there]

    def do(self, sha256: str) -> None:
        """Pack a release in every form that is missing. Never raises."""
        for form in self.missing(sha256):
            row = self._store.find(ReleaseRow, sha256)
            if row is None:
                return
            source = self._store.shelf.archive(sha256, "zip", row.format)
            prefix = row.wrapper + "/" if row.wrapper else ""
            try:
                self._repack(source, prefix, form, self._store.shelf.form(sha256, form))
            except (ArchiveError, OSError) as fault:
                log.warning("pack", release=sha256[:12], form=form, fault=str(fault)[:300])
