"""Packing a release for hosts: processor seconds and bytes of each form, and of those that the practice host's kinds of accounts want.

    .venv/bin/python bench/packing.py [--smallest]

The release is 1,803 files of 39 MB (bench/corpus.py); the smallest size is Tidebook. The last line is JSON.
"""

from __future__ import annotations

import argparse
import json
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bench.corpus import corpus

from highshelf.drivers.archive.repack import FORMS, repack
from highshelf.practice.tidebook.build import build_archive

AIM_SECONDS = 20


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--smallest", action="store_true", help="the smallest size, to see that this works")
    options = parser.parse_args()
    found = {}
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        source = build_archive(folder) if options.smallest else corpus(folder)
        for form in FORMS:
            began = time.process_time()
            size = repack(source, "tidebook-1.4.2/", form, folder / f"packed.{form}")
            found[form] = {"seconds": round(time.process_time() - began, 2), "bytes": size}
            print(f"{form:<8} {found[form]['seconds']:>6.2f} s of a core  {size / 1e6:.2f} MB")
    one = max(f["seconds"] for f in found.values())
    print(f"one kind of account: at most {one:.1f} s (aim {AIM_SECONDS})")
    print(json.dumps(found))


if __name__ == "__main__":
    main()
