"""What a plan says beside its acts, and what forbids it."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import pytest

from highshelf.core.account import Account, parse_transfer
from highshelf.core.plan_notes import notes_of, of_database_name, unmet
from highshelf.core.release.findings import Findings
from highshelf.core.release.matching import forbidding, match
from tests.releases.whole import RELEASES, found

ACCOUNT = Account("choir", "Choir", parse_transfer("sftp://choir@files.saltmarsh.example"), "www", "https://choir.saltmarsh.example/", email="songs@choir.saltmarsh.example")  # fmt: skip
FACTS: dict[str, Any] = {
    "php.version": "8.2.10",
    "php.extensions": ["gd", "intl", "mysqli", "imap", "mbstring"],
    "space.free": 10**9,
}


def release(name: str) -> Findings:
    with tempfile.TemporaryDirectory() as folder:
        return found(RELEASES[name], Path(folder))


def test_a_login_that_everybody_knows_is_told_before() -> None:
    told = " ".join(notes_of(ACCOUNT, release("tidewatch"), "none"))
    assert "everybody knows (gauge)" in told and "gauge gauge" not in told
    assert "everybody knows" not in " ".join(notes_of(ACCOUNT, release("wherry"), "none"))


def test_a_name_that_sources_write_bare_is_told_where_the_panel_puts_marks_into_names() -> None:
    bare, quoted = release("bollard"), release("marram")
    told = of_database_name(bare, "mariadb", "bollard-choir")
    assert len(told) == 1 and "setup/make.php:4" in told[0] and "names like bollard-choir" in told[0]
    assert of_database_name(bare, "mariadb", "choir_bollard") == []
    assert "letters, digits and _ alone" in of_database_name(bare, "mariadb", "")[0]
    assert of_database_name(quoted, "mariadb", "marram-choir") == of_database_name(bare, "none", "bollard-choir") == []


@pytest.mark.parametrize(
    ("name", "facts", "topics"),
    [
        ("heronry", {}, []),
        ("heronry", {"php.extensions": ["gd", "intl"]}, ["database-driver"]),
        # What a list of names says is likely, and told; a person decides.
        ("tern", {"php.version": "7.3.9"}, []),
        ("reedcutter", {"php.version": "7.4.33"}, ["php"]),
        ("reedcutter", {"space.free": 10}, ["space"]),
        # Never looked at: then nothing is sure.
        ("heronry", {"php.extensions": None, "php.version": ""}, []),
        ("marshmail", {"php.extensions": ["mbstring", "pdo_mysql"]}, ["extension"]),
    ],
)
def test_what_is_sure_forbids(name: str, facts: dict[str, Any], topics: list[str]) -> None:
    lines = match(release(name), FACTS | facts, unpacked_bytes=5000)
    forbids = forbidding(lines, switches=False)
    assert all(line.verdict == "red" and line.sure >= 0.8 for line in forbids)
    assert [line.topic for line in forbids] == topics, unmet(lines)
    # A switch in the panel may mend extensions, and nothing else.
    left = forbidding(lines, switches=True)
    assert [line.topic for line in left] == [t for t in topics if t not in ("extension", "database-driver")]
