"""One practice host for the whole run, a service of its own for each module that wants one."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from highshelf.practice import host
from highshelf.practice.layout import Layout
from highshelf.practice.tidebook.build import build_archive
from tests.support import Hosting, Service

FOLDER = Path("/var/lib/highshelf-test")
PORT = 26400


@pytest.fixture(scope="session")
def anyio_backend() -> str:
    return "asyncio"


@pytest.fixture(scope="session")
def hosting() -> Iterator[Hosting]:
    layout = Layout(FOLDER, PORT)
    host.stop(layout, remove=True)
    host.start(layout)
    yield Hosting(layout)
    host.stop(layout, remove=True)


@pytest.fixture
def clean(hosting: Hosting) -> Iterator[Hosting]:
    """The practice host with nothing installed, before and after."""
    hosting.reset()
    yield hosting
    hosting.reset()


@pytest.fixture(scope="session")
def tidebook(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return build_archive(tmp_path_factory.mktemp("release"))


@pytest.fixture
def service(tmp_path: Path) -> Iterator[Service]:
    """A service on fresh data, as its own process."""
    running = Service(tmp_path / "data")
    running.start()
    yield running
    running.stop()
