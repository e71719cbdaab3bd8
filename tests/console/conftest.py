"""The console in headless Chromium, against a real service and the practice host."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page

from tests.console.pages import Console
from tests.support import Service

AXE = Path(__file__).resolve().parents[2] / "console/node_modules/axe-core/axe.min.js"


@pytest.fixture
def console(page: Page, service: Service) -> Console:
    """A browser that has not signed in yet, and everything that went wrong in it."""
    return Console(page, service)


@pytest.fixture(scope="session")
def axe() -> str:
    return AXE.read_text()
