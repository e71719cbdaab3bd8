"""Many accounts from one CSV file: all faults at once, nothing kept while there is one."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from highshelf.client import ServiceError
from tests.support import Service

GOOD = """name,title,transfer,password,address,helper
mill,Tide Mill,sftp://mill@files.saltmarsh.example:22,"pa""ss, word",https://mill.saltmarsh.example/,no
quay,The Quay,ftps-implicit://quay@files.saltmarsh.example:990,zz9,https://quay.saltmarsh.example,
"""


@pytest.fixture(scope="module")
def running(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    made = Service(tmp_path_factory.mktemp("import") / "data")
    made.start()
    yield made
    made.stop()


def test_accounts_are_looked_at_first_and_kept_when_that_is_said(running: Service) -> None:
    with running.client as client:
        looked = client.account_import(GOOD)
        assert ([r.name for r in looked.rows], looked.faults, looked.kept) == (["mill", "quay"], [], 0)
        assert client.account_list().total == 0
        kept = client.account_import(GOOD, keep=True)
        assert kept.kept == 2
        mill, quay = client.account_show("mill"), client.account_show("quay")
        assert (mill.helper, quay.helper) == (False, True)
        assert quay.transfer == "ftps-implicit://quay@files.saltmarsh.example:990"
        again = client.account_import(GOOD, keep=True)
        assert again.kept == 0 and [f.message for f in again.faults] == [
            f"there is an account {n} already" for n in ("mill", "quay")
        ]
        for name in ("mill", "quay"):
            client.account_remove(name)


def test_all_faults_are_told_at_once_with_line_and_column_and_without_secrets(running: Service) -> None:
    text = (
        "Name;Title;Transfer;Password;Address;Panel Login;Helper;Colour\n"
        "Bad Name;T;ftp:/x;hush-1;nowhere;2;perhaps;\n"
        "\n"
        "ok;T;sftp://a@h;;https://a.saltmarsh.example;3;;\n"
        "ok;T;sftp://a:hush-2@h:99999;hush-3;https://a.saltmarsh.example;3;;\n"
        "wide;T;sftp://a@h;hush-4;https://a.saltmarsh.example;3;;;more\n"
    )
    with running.client as client:
        found = client.account_import(text, keep=True)
        assert client.account_list().total == 0
    told = {(f.line, f.column) for f in found.faults}
    assert told == {
        (1, "colour"), (2, "name"), (2, "transfer"), (2, "address"), (2, "helper"), (4, "password"), (5, "transfer"),
        (5, "name"), (6, ""),
    }  # fmt: skip
    assert found.kept == 0 and "hush" not in found.model_dump_json()


@pytest.mark.parametrize(
    ("text", "part"),
    [
        ("", "no accounts"),
        ("name,transfer,address\n", "no accounts"),
        ("\ufeffname,title\nmill,Tide Mill\n", "transfer"),
        ('name,transfer,address\n"mill,x,y\n', "neither password nor key|is empty|no CSV"),
    ],
)
def test_a_file_that_is_none_says_what_is_missing(running: Service, text: str, part: str) -> None:
    import re

    with running.client as client:
        try:
            found = client.account_import(text)
        except ServiceError as fault:
            assert re.search(part, fault.fault.message)
        else:
            assert found.faults and any(re.search(part, f"{f.column} {f.message}") for f in found.faults)


@settings(max_examples=40, deadline=None, derandomize=True)
@given(st.text(max_size=400))
def test_no_text_at_all_is_our_own_fault(text: str) -> None:
    assert RUNNING, "the service runs"
    with RUNNING[0].client as client:
        try:
            client.account_import("name,transfer,address,password\n" + text)
        except ServiceError as fault:
            assert fault.fault.code == "input"


RUNNING: list[Service] = []


@pytest.fixture(autouse=True)
def _known(running: Service) -> None:
    RUNNING[:] = [running]


def test_on_the_command_line(running: Service, tmp_path: Path) -> None:
    file = tmp_path / "accounts.csv"
    file.write_text(GOOD, encoding="utf-8-sig")
    assert "2 accounts, no faults" in running.cli("account", "import", str(file)).stdout
    assert running.cli("account", "import", str(file), "--keep").returncode == 0
    failed = running.cli("account", "import", "-", "--keep", text=GOOD)
    assert failed.returncode == 2 and "2 faults: nothing is kept" in failed.stdout
    assert running.cli("account", "import", str(tmp_path / "none.csv")).returncode == 2
