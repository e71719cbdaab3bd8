"""Releases are packed for those hosts that are known, and for no others."""

from __future__ import annotations

import random
import time
import zipfile
from pathlib import Path

from highshelf.drivers.archive.repack import repack_apart
from tests.support import Hosting, Service, until


def test_a_form_is_packed_when_an_account_is_found_to_unpack_it(tmp_path: Path, clean: Hosting, tidebook: Path) -> None:
    service = Service(tmp_path / "data")
    service.start()
    try:
        with service.client as client:
            release = client.release_check_in(tidebook)
            client.account_add(clean.new_account("choir"))
            assert client.account_check("choir").state == "done"
            until(lambda: list(client.release_show(release.sha256).forms) == ["tar.gz"], "it was never packed for PHP")
            client.account_add(clean.new_account("ferry"))
            assert client.account_check("ferry").state == "done"
            until(lambda: len(client.release_show(release.sha256).forms) == 2, "it was never packed for the shell")
            assert set(client.release_show(release.sha256).forms) == {"tar.gz", "tar.xz"}
    finally:
        service.stop()


def test_packing_stops_when_it_is_not_wanted_any_more(tmp_path: Path) -> None:
    dice, words = random.Random(1), [f"word{n}" for n in range(5000)]
    with zipfile.ZipFile(tmp_path / "large.zip", "w", zipfile.ZIP_DEFLATED, compresslevel=1) as out:
        for n in range(60):
            out.writestr(f"large/{n}.txt", " ".join(dice.choices(words, k=120_000)))
    target, began = tmp_path / "large.tar.xz", time.monotonic()
    assert repack_apart(tmp_path / "large.zip", "large/", "tar.xz", target, lambda: time.monotonic() - began < 1.5) == 0
    assert sorted(p.name for p in tmp_path.iterdir()) == ["large.zip"]
