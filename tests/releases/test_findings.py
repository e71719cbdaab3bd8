"""What is read out of real releases that nobody wrote for us; cells that are known to be wrong are not asserted."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

import pytest
import yaml

from highshelf.core.release.findings import find
from highshelf.drivers.archive.reader import read_archive
from highshelf.practice.moorings import build as moorings
from highshelf.practice.quaystore import build as quaystore
from highshelf.practice.seedledger import build as seedledger
from highshelf.practice.tidebook import build as tidebook
from tests.releases.third_party import archive

TRUTH: dict[str, dict[str, Any]] = yaml.safe_load((Path(__file__).parent / "truth.yaml").read_text("utf-8"))
# From here on a finding is acted on without a question.
SURE = 0.75
TOLD: dict[str, dict[str, Any]] = {
    "shaarli": {
        "name": "Shaarli", "version": "0.12.1", "wrapper": "Shaarli", "php": "7.1", "databases": (), "dumps": (),
        "web_folder": "", "administration": (), "samples": (), "pre_release": False,
    },
    "ocsinventory-reports": {
        "name": "ocsreports", "version": "2.11.1", "wrapper": "ocsreports-2.11.1", "php": "5.4",
        "extensions": ("mbstring", "mysqli"), "databases": ("mariadb",), "installers": ("install.php",),
        "web_folder": "", "administration": (), "dump_databases": (),
    },
    "tt-rss": {
        "name": "tt-rss", "wrapper": "tt-rss-0.0~git20210204.b4cbc79", "pre_release": True, "php": "5.6",
        "extensions": ("dom", "iconv", "intl", "mbstring", "pdo"), "databases": ("mariadb", "postgresql"),
        "installers": ("install/index.php",), "samples": ("config.php-dist",), "web_folder": "",
    },
    "zabbix-frontend-php": {
        "name": "zabbix", "version": "6.0.14", "wrapper": "zabbix-6.0.14", "php": "7.2.5", "web_folder": "ui",
        "databases": ("mariadb", "postgresql"), "installers": ("ui/setup.php",), "samples": ("ui/conf/zabbix.conf.php.example",),
        "dumps": ("database/mysql/schema.sql", "database/postgresql/schema.sql"), "dump_databases": (), "administration": (),
    },
    "postfixadmin": {
        "name": "postfixadmin", "version": "3.3.13", "wrapper": "postfixadmin-3.3.13", "php": "7.0", "web_folder": "public",
        "databases": ("mariadb", "postgresql", "sqlite"), "installers": ("public/setup.php",), "administration": (),
        "terminal_installers": ("scripts/postfixadmin-cli.php",),
    },
}  # fmt: skip
WRITABLE = {
    "shaarli": {"cache", "data", "tmp"}, "ocsinventory-reports": {"var"}, "tt-rss": {"cache/images", "lock"},
}  # fmt: skip
# Our own, read as strangers: nothing in the code that reads knows them.
DEMO: list[tuple[Callable[[Path], Path], dict[str, Any]]] = [
    (tidebook.build_archive, {
        "name": "tidebook", "version": "1.4.2", "wrapper": "tidebook-1.4.2", "php": "8.0", "databases": ("mariadb",),
        "database_versions": {"mariadb": "10.3"}, "extensions": ("mbstring", "pdo_mysql"),
        "wished_extensions": ("gd", "imagick"), "installers": ("install/index.php",), "samples": ("settings.example.php",),
        "writable": ("data",), "administration": ("staff",), "web_folder": "", "readmes": ("README.txt",), "dumps": (),
    }),
    (quaystore.build_archive, {
        "name": "Quaystore", "version": "3.2.0", "wrapper": "Quaystore_3.2.0+full", "php": "8.1",
        "databases": ("mariadb",), "database_versions": {"mariadb": "10.4"}, "extensions": ("intl", "mbstring", "pdo_mysql"),
        "wished_extensions": ("gd", "imagick"), "installers": ("setup/index.php",), "samples": ("settings/shop.sample.php",),
        "writable": ("pictures", "settings", "storage"), "administration": ("office",), "licences": ("MIT",),
        "readmes": ("LIESMICH.txt", "LISEZMOI.txt", "README.txt"), "javascript": ("setup/setup.js", "setup/steps.php"),
    }),
    (seedledger.build_archive, {
        "name": "seedledger", "version": "5.0.1", "wrapper": "", "php": "8.1", "php_below": "9.0",
        "databases": ("mariadb", "postgresql"), "database_versions": {"mariadb": "10.5", "postgresql": "13"},
        "extensions": ("mbstring", "pdo", "xml"), "wished_extensions": ("calendar", "pdo_mysql", "pdo_pgsql"),
        "installers": (), "installer_routes": ("setup",), "terminal_installers": ("bin/ledger",),
        "samples": ("config/settings.sample.php",), "dump_databases": ("seedledger",), "web_folder": "public",
        "dumps": ("database/seedledger.mysql.sql", "database/seedledger.pgsql.sql"), "rewriting": True,
        "writable": ("config", "var/cache", "var/log"), "administration": (),
    }),
    (moorings.build_archive, {
        "name": "moorings", "version": "2.1", "wrapper": "moorings_2.1", "php": "7.4", "databases": ("mariadb",),
        "database_versions": {"mariadb": "10.3"}, "extensions": ("mysqli",), "wished_extensions": ("imap",),
        "installers": ("wizard.php",), "samples": ("config.inc.sample.php",), "writable": ("cache", "letters"),
        "administration": (), "readmes": ("INSTALL.txt",),
    }),
    (moorings.build_module, {"name": "berthplan", "version": "1.3", "wrapper": "berthplan", "databases": ()}),
]  # fmt: skip


@pytest.mark.parametrize(("build", "told"), DEMO, ids=[t["name"] for _, t in DEMO])
def test_a_demo_application_is_understood(build: Callable[[Path], Path], told: dict[str, Any], tmp_path: Path) -> None:
    path = build(tmp_path)
    read = read_archive(path)
    cells = asdict(find(read.contents, path.name, read.clues))
    assert {key: cells[key] for key in told} == told


def judged(name: str) -> dict[str, bool | None]:
    """Each cell of the truth: right, wrong, or None where it is wrong and said to be unsure."""
    path = archive(name)
    read = read_archive(path)
    found = find(read.contents, path.name, read.clues)
    cells, told = asdict(found), {}
    for cell, truth in TRUTH[name].items():
        got = list(cells[cell]) if isinstance(cells[cell], tuple) else cells[cell]
        right = got in (truth["any"] if isinstance(truth, dict) else [truth])
        told[cell] = right or (None if found.sure.get(cell, 1.0) < SURE else False)
    return told


@pytest.mark.parametrize("name", TRUTH)
def test_a_release_that_is_only_read_is_understood(name: str) -> None:
    """Nine cells of ten at least, and none wrong that is called sure."""
    told = judged(name)
    assert [cell for cell, right in told.items() if right is False] == []
    assert sum(right is True for right in told.values()) >= 0.9 * len(told), told


READ_IN_ANOTHER = """
import json, sys
from dataclasses import asdict
from pathlib import Path
from highshelf.core.release.findings import find
from highshelf.drivers.archive.reader import read_archive
read = read_archive(Path(sys.argv[1]))
print(json.dumps(asdict(find(read.contents, Path(sys.argv[1]).name, read.clues))))
"""


def test_findings_are_the_same_in_any_process(tmp_path: Path) -> None:
    """Byte for byte, whatever order a process gives to its sets."""
    path = archive("nagvis")
    told = set()
    for seed in ("0", "1", "5", "9"):
        command = [sys.executable, "-c", READ_IN_ANOTHER, str(path)]
        told.add(
            subprocess.run(command, env={**os.environ, "PYTHONHASHSEED": seed}, capture_output=True, check=True).stdout
        )
    assert len(told) == 1


@pytest.mark.parametrize("name", TOLD)
def test_a_release_of_somebody_else_is_understood(name: str) -> None:
    path = archive(name)
    read = read_archive(path)
    found = find(read.contents, path.name, read.clues)
    cells = asdict(found)
    assert {key: cells[key] for key in TOLD[name]} == TOLD[name]
    assert WRITABLE.get(name, set()) <= set(found.writable)
    for detail in found.details:
        assert detail.where and 0 < detail.sure <= 1
