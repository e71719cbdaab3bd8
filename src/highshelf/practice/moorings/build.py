"""Build Moorings: two archives, the programme and the module berthplan, and licence keys that it takes."""

from __future__ import annotations

import random
from pathlib import Path

from highshelf.practice.packing import source_files, write_tar, write_zip

VERSION, MODULE_VERSION = "2.1", "1.3"
HERE = Path(__file__).parent
# Where the second archive's folder belongs in the first one's.
MODULE_FOLDER = "modules/berthplan"
# As in source/inc/key.inc.php.
KEY_LETTERS = "ABCDEFGHJKMNPQRSTUVWXYZ"


def build_archive(target: Path) -> Path:
    """Write the programme's archive into the folder `target`; returns its path. The bytes are the same each time."""
    return write_tar(target / f"moorings-{VERSION}.tar.gz", source_files(HERE / "source"), f"moorings_{VERSION}", "gz")


def build_module(target: Path) -> Path:
    """Write the module's archive likewise."""
    path = target / f"moorings-berthplan-{MODULE_VERSION}.zip"
    return write_zip(path, source_files(HERE / "berthplan"), "berthplan")


def make_key(seed: int) -> str:
    """A licence key that the wizard takes; another one for every seed."""
    dice = random.Random(seed)
    letters = "".join(dice.choice(KEY_LETTERS + "23456789") for _ in range(12))
    total = sum(ord(letter) * (place + 3) for place, letter in enumerate(letters))
    groups = "-".join(letters[i : i + 4] for i in (0, 4, 8))
    return f"MRG-{groups}-{KEY_LETTERS[total % len(KEY_LETTERS)]}"
