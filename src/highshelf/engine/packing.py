"""Packing releases in the forms that checked accounts can unpack, in the background, one at a time; kept with the release."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

import structlog

from highshelf.core.errors import ArchiveError
from highshelf.core.placing.ways import form_for
from highshelf.store.store import Store
from highshelf.store.tables import AccountRow, ReleaseRow

log = structlog.get_logger()
MOST_ACCOUNTS = MOST_RELEASES = 100_000
# (zip of the release, its wrapper with a slash, form, where it goes, whether it is still wanted) -> bytes, 0 when it is not packed.
Repack = Callable[[Path, str, str, Path, Callable[[], bool]], int]


class Packer:
    """What it cannot pack it leaves: placing goes another way then."""

    def __init__(self, store: Store, repack: Repack, forms: Sequence[str], *, all_forms: bool = False) -> None:
        """`all_forms`: whether it packs every form, whoever can unpack it; else only those that some checked account can."""
        self._store, self._repack, self._forms, self._all = store, repack, forms, all_forms
        # What cannot be packed in a form cannot be after the next check of an account either.
        self._left: set[tuple[str, str]] = set()

    def wanted(self) -> list[str]:
        """Forms that some account would be given."""
        if self._all:
            return list(self._forms)
        useful = {form_for(row.facts, row.helper) for row in self._store.all(AccountRow, limit=MOST_ACCOUNTS)}
        return [form for form in self._forms if form in useful]

    def missing(self, sha256: str) -> list[str]:
        """Forms of a release that are wanted, and not packed yet."""
        return self._missing(sha256, self.wanted())

    def _missing(self, sha256: str, wanted: Sequence[str]) -> list[str]:
        there = self._store.shelf.forms(sha256)
        return [form for form in wanted if form not in there and (sha256, form) not in self._left]

    def behind(self) -> list[str]:
        """Releases that have a form missing: after an account was checked that can unpack another one."""
        wanted = self.wanted()
        return [
            row.sha256
            for row in self._store.all(ReleaseRow, limit=MOST_RELEASES)
            if self._missing(row.sha256, wanted) and not self._store.shelf.fault(row.sha256)
        ]

    def do(self, sha256: str) -> None:
        """Pack a release in every form that is missing; what is taken off the shelf meanwhile is left. Never raises."""
        for form in self.missing(sha256):
            row = self._store.find(ReleaseRow, sha256)
            if row is None:
                return
            source = self._store.shelf.archive(sha256, "zip", row.format)
            prefix = row.wrapper + "/" if row.wrapper else ""
            try:
                packed = self._repack(
                    source, prefix, form, self._store.shelf.form(sha256, form), partial(self._stands, sha256)
                )
                if not packed and self._stands(sha256):
                    self._left.add((sha256, form))
            except (ArchiveError, OSError) as fault:
                log.warning("pack", release=sha256[:12], form=form, fault=str(fault)[:300])

    def _stands(self, sha256: str) -> bool:
        return self._store.find(ReleaseRow, sha256) is not None
