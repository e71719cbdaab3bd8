"""The console in headless Chromium, against a real service and the practice host."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.console.pages import Console
from tests.support import Service

AXE = Path(__file__).resolve().parents[2] / "console/node_modules/axe-core/axe.min.js"
SECONDS = 20_000


@pytest.fixture(scope="module")
def chromium() -> Iterator[Browser]:
    """A browser for each module: while one is open its event loop is running, and no asynchronous test can run."""
    expect.set_options(timeout=SECONDS)
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
    context.set_default_timeout(SECONDS)
    yield context.new_page()
    context.close()


@pytest.fixture
def console(page: Page, service: Service) -> Console:
    """A browser that has not signed in yet, and everything that went wrong in it."""
    return Console(page, service)


@pytest.fixture(scope="session")
def axe() -> str:
    return AXE.read_text()
