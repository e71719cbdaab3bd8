"""Small releases, written whole by hand, each in another manner: what is read is what a person had written down before."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.releases.whole import RELEASES, found, wrong

# What is not told yet, and is not told wrongly: a place that is asked for by the page then.
SILENT = {"quaylog": {"writable"}}


@pytest.mark.parametrize("name", list(RELEASES))
def test_a_release_by_another_hand_is_read(name: str, tmp_path: Path) -> None:
    missed = wrong(RELEASES[name], found(RELEASES[name], tmp_path))
    assert {what for what, (value, _) in missed.items() if value in ([], "", {})} <= SILENT.get(name, set()), missed
    assert {what: told for what, told in missed.items() if told[0] not in ([], "", {})} == {}
