"""One practice host for each worker of the run, a service of its own for each module that wants one."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from highshelf.practice import host
from highshelf.practice.claim import held
from highshelf.practice.layout import Layout
from highshelf.practice.tidebook.build import build_archive
from tests.support import Hosting, Service

# Two runs on one machine need two practice hosts, and so do the workers of one run: "gw1" is the second of them.
WORKER = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw"))
FOLDER = Path(os.environ.get("HIGHSHELF_TEST_FOLDER", "/var/lib/highshelf-test") + (f"-{WORKER}" if WORKER else ""))
BROWSER_MILLISECONDS = 20_000
PORT = int(os.environ.get("HIGHSHELF_TEST_PORT", "26400")) - 1000 * WORKER


# Files that take minutes begin first, so that no worker is left alone with one at the end.
LONG_FIRST = ("hosts", "releases", "console", "drivers", "garden", "service")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Order the files by how long those of their folder take; within a file nothing changes."""
    here = Path(__file__).parent

    def rank(item: pytest.Item) -> int:
        folder = item.path.relative_to(here).parts[0]
        return LONG_FIRST.index(folder) if folder in LONG_FIRST else len(LONG_FIRST)

    items.sort(key=rank)


@pytest.fixture(scope="session")
def anyio_backend() -> str:
    return "asyncio"


@pytest.fixture(scope="session")
def hosting() -> Iterator[Hosting]:
    layout = Layout(FOLDER, PORT)
    with held(layout, "a run of the tests"):
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


@pytest.fixture(scope="module")
def chromium() -> Iterator[Browser]:
    """A browser for each module: while one is open its event loop is running, and no asynchronous test can run."""
    expect.set_options(timeout=BROWSER_MILLISECONDS)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium",
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        yield browser
        browser.close()


@pytest.fixture
def page(chromium: Browser) -> Iterator[Page]:
    context = chromium.new_context(
        viewport={"width": 1280, "height": 800}, color_scheme="light", reduced_motion="reduce"
    )
    context.set_default_timeout(BROWSER_MILLISECONDS)
    yield context.new_page()
    context.close()
