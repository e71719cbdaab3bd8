"""The log: every place that writes a traceback is provoked, with secrets in the variables, in the fault's text, and in its context."""

from __future__ import annotations

import ast
import io
import logging
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
import structlog

from highshelf.core.account import TransferLogin
from highshelf.engine.connections import Connected, Connections
from highshelf.engine.fetching import Fetcher
from highshelf.engine.surveyor import Surveyor
from highshelf.service.logs import set_up_logs
from highshelf.store.store import Store
from highshelf.store.tables import FetchRow, SurveyRow
from tests.support import SOURCE
from tests.unit.fakes import Flaky
from tests.unit.test_store import FakeDrivers, kept

TOKEN, WORD = "Bearer tide-token-4711-harbour", "Very-Secret-Word-1"


@pytest.fixture
def log() -> Iterator[io.StringIO]:
    before, handlers = structlog.get_config(), logging.root.handlers[:]
    stream = io.StringIO()
    set_up_logs(stream)
    yield stream
    structlog.configure(**before)
    logging.root.handlers[:] = handlers


@pytest.fixture
def store(tmp_path: Path) -> Store:
    made = Store(tmp_path / "data")
    kept(made)
    made.set_secret("account/yard/transfer", WORD)
    made.set_secret("fetch/f/headers", f'{{"Authorization": "{TOKEN}"}}')
    made.add(FetchRow(id="f", address="https://makers.example/a.zip"))
    made.add(SurveyRow(id="s", account="yard"))
    return made


def a_fetch(store: Store, folder: Path) -> None:
    class Download:
        def fetch(self, address: str, target: Path, *, headers: dict[str, str], **more: Any) -> Any:
            local_copy = headers["Authorization"]
            raise ZeroDivisionError(f"odd answer to {local_copy}")

    Fetcher(store, Download(), None, None).do("f")  # type: ignore[arg-type]


def a_survey(store: Store, folder: Path) -> None:
    class Odd(FakeDrivers):
        def connect(self, account: Any, credential: Any) -> Connected:
            password = credential.password
            raise ZeroDivisionError(f"cannot split {password}")

    drivers = Odd(folder, Flaky())
    Surveyor(store, drivers, Connections(store, drivers.connect)).do("s")


PROVOKED: dict[str, Callable[[Store, Path], None]] = {"engine/fetching.py": a_fetch, "engine/surveyor.py": a_survey}


def test_every_place_is_provoked_here() -> None:
    found = set()
    for path in (SOURCE / "highshelf").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Attribute) and node.attr == "exception" and isinstance(node.value, ast.Name):
                found |= {str(path.relative_to(SOURCE / "highshelf"))} if node.value.id == "log" else set()
    assert found == set(PROVOKED)


@pytest.mark.parametrize("place", PROVOKED)
def test_a_traceback_tells_where_and_no_secret(store: Store, tmp_path: Path, log: io.StringIO, place: str) -> None:
    PROVOKED[place](store, tmp_path)
    told = log.getvalue()
    assert "ZeroDivisionError" in told and place.rpartition("/")[2] in told
    assert WORD not in told and "tide-token-4711-harbour" not in told and "••••" in told
    # A line of code may be there, what its variables held may not.
    assert "local_copy" not in told.replace("{local_copy}", "") and "│" not in told


def test_other_libraries_lines_are_masked_too(store: Store, log: io.StringIO) -> None:
    secret = store.secret("account/yard/transfer")
    try:
        raise ValueError(f"what is {secret}")
    except ValueError:
        logging.getLogger("uvicorn.error").exception("Exception in the application, %s", secret)
    told = log.getvalue()
    assert "ValueError" in told and WORD not in told


def test_whatever_stands_in_an_event_is_masked(store: Store, log: io.StringIO) -> None:
    login = TransferLogin("sftp", "files.example", 22, WORD)
    structlog.get_logger().warning("odd", a=[WORD, {"b": WORD}], c=login, d=ValueError(WORD))
    told = log.getvalue()
    assert "odd" in told and WORD not in told
