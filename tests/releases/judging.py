"""What is read out of releases beside what a person says of them (truth.yaml), a row a release.

python -m tests.releases.judging [NAME ...]
"""

from __future__ import annotations

import sys
import tempfile
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import asdict
from pathlib import Path
from typing import Any

import yaml

from highshelf.core.release.findings import Findings, find
from highshelf.drivers.archive.reader import read_archive
from highshelf.practice.moorings import build as moorings
from highshelf.practice.quaystore import build as quaystore
from highshelf.practice.seedledger import build as seedledger
from highshelf.practice.tidebook import build as tidebook
from tests.releases.third_party import archive

TRUTH: dict[str, dict[str, Any]] = yaml.safe_load(Path(__file__).with_name("truth.yaml").read_text("utf-8"))
# From here on a finding is acted on without a question.
SURE = 0.75
MARKS = {True: "right", None: "unsure", False: "WRONG"}
# Our own, read as strangers: nothing in the code that reads knows them.
DEMO: list[tuple[Callable[[Path], Path], dict[str, Any]]] = [
    (tidebook.build_archive, {
        "name": "tidebook", "version": "1.4.2", "wrapper": "tidebook-1.4.2", "php": "8.0", "databases": ("mariadb",),
        "database_versions": {"mariadb": "10.3"}, "extensions": ("mbstring", "pdo_mysql"),
        "wished_extensions": ("gd", "imagick"), "installers": ("install/index.php",), "samples": ("settings.example.php",),
        "writable": ("data",), "administration": ("staff",), "web_folder": "", "readmes": ("README.txt",), "dumps": (), "first_login": "asked",
    }),
    (quaystore.build_archive, {
        "name": "Quaystore", "version": "3.2.0", "wrapper": "Quaystore_3.2.0+full", "php": "8.1",
        "databases": ("mariadb",), "database_versions": {"mariadb": "10.4"}, "extensions": ("intl", "mbstring", "pdo_mysql"),
        "wished_extensions": ("gd", "imagick"), "installers": ("setup/index.php",), "samples": ("settings/shop.sample.php",),
        "writable": ("pictures", "settings", "storage"), "administration": ("office",), "licences": ("MIT",),
        "readmes": ("LIESMICH.txt", "LISEZMOI.txt", "README.txt"), "first_login": "asked", "javascript": ("setup/setup.js", "setup/steps.php"),
    }),
    (seedledger.build_archive, {
        "name": "seedledger", "version": "5.0.1", "wrapper": "", "php": "8.1", "php_below": "9.0",
        "databases": ("mariadb", "postgresql"), "database_versions": {"mariadb": "10.5", "postgresql": "13"},
        "extensions": ("mbstring", "pdo", "xml"), "wished_extensions": ("calendar", "pdo_mysql", "pdo_pgsql"),
        "installers": (), "installer_routes": ("setup",), "terminal_installers": ("bin/ledger",),
        "samples": ("config/settings.sample.php",), "dump_databases": ("seedledger",), "web_folder": "public",
        "dumps": ("database/seedledger.mysql.sql", "database/seedledger.pgsql.sql"), "rewriting": True,
        "writable": ("config", "var/cache", "var/log"), "administration": (), "first_login": "asked",
    }),
    (moorings.build_archive, {
        "name": "moorings", "version": "2.1", "wrapper": "moorings_2.1", "php": "7.4", "databases": ("mariadb",),
        "database_versions": {"mariadb": "10.3"}, "extensions": ("mysqli",), "wished_extensions": ("imap",),
        "installers": ("wizard.php",), "samples": ("config.inc.sample.php",), "writable": ("cache", "letters"),
        "administration": (), "readmes": ("INSTALL.txt",), "first_login": "published",
    }),
    (moorings.build_module, {"name": "berthplan", "version": "1.3", "wrapper": "berthplan", "databases": (), "first_login": "none"}),
]  # fmt: skip


def reading(path: Path) -> Findings:
    read = read_archive(path)
    return find(read.contents, path.name, read.clues)


def allows(truth: Any, got: Any) -> bool:
    """Whether a finding is one of those that are right: itself, one under `any`, or one with all that stands under `least`."""
    got = list(got) if isinstance(got, tuple) else got
    if isinstance(truth, tuple):
        return bool(got == list(truth))
    if isinstance(truth, dict) and set(truth) == {"least"}:
        return set(truth["least"]) <= set(got)
    return got in (truth["any"] if isinstance(truth, dict) and set(truth) == {"any"} else [truth])


def judged(truth: Mapping[str, Any], found: Findings) -> dict[str, bool | None]:
    """Each cell of the truth: right, wrong, or None where it is wrong and said to be unsure."""
    cells = asdict(found)
    return {
        cell: allows(right, cells[cell]) or (None if found.sure.get(cell, 1.0) < SURE else False)
        for cell, right in truth.items()
    }


def releases(folder: Path) -> Iterator[tuple[str, Mapping[str, Any], Path]]:
    for build, told in DEMO:
        yield told["name"], told, build(folder)
    for name, told in TRUTH.items():
        yield name, told, archive(name)


def main() -> None:
    total: Counter[bool | None] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        for name, truth, path in releases(Path(folder)):
            if sys.argv[1:] and name not in sys.argv[1:]:
                continue
            found = reading(path)
            cells = judged(truth, found)
            here = Counter(cells.values())
            total += here
            print(f"{name:<22} right {here[True]:>3}  unsure {here[None]:>2}  wrong {here[False]:>2}  {path.name}")
            for cell, right in cells.items():
                if right is not True:
                    said = asdict(found)[cell]
                    print(f"    {MARKS[right]:<6} {cell:<20} {said!r} instead of {truth[cell]!r}")
    share = total[True] / max(1, sum(total.values()))
    print(
        f"{sum(total.values())} findings: right {total[True]} ({share:.1%}), unsure {total[None]}, wrong and called sure {total[False]}"
    )


if __name__ == "__main__":
    main()
