"""Eight jobs through random faults on real servers (twenty with HIGHSHELF_WHOLE=1); `tests/drivers/placing_faults.py` runs any number."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.drivers.placing_faults import run_seed, shelve
from tests.support import WHOLE, Hosting

SEEDS = range(1, 21) if WHOLE else range(1, 9)


@pytest.fixture(scope="module")
def shelf(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, tuple[str, str]]:
    folder = tmp_path_factory.mktemp("faults") / "data"
    return folder, shelve(folder)


@pytest.mark.parametrize("seed", SEEDS)
def test_a_placing_ends_identical_or_as_it_was(clean: Hosting, shelf: tuple[Path, tuple[str, str]], seed: int) -> None:
    folder, releases = shelf
    ended = run_seed(seed, clean, folder, releases)
    assert ended.how in ("identical", "undone")
    # Only what stands in every way's path may end a job: a full disk, or a line that never held.
    if ended.how == "undone":
        assert "full" in ended.faults or len(ended.faults) > 1, ended
