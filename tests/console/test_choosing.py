"""Choosing one of thousands: by a part of its name, with the keyboard alone, as assistive programs are told."""

from __future__ import annotations

import hashlib
import sqlite3
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.console.pages import Console
from tests.console.test_access import looked_at, tab_to
from tests.support import Service

MANY = 5_000
ACCOUNT = """insert into account (name, title, transfer_kind, transfer_host, transfer_port, transfer_login, fingerprint, root, address, reach,
    panel, panel_login, panel_primer, database_host, email, helper, agent, confirm_server, certificate, pace_kb, limits, places, facts, created_at)
    values (?, ?, 'sftp', 'files.saltmarsh.example', 22, 'keeper', '', 'www', ?, '', '', '', '', 'localhost', '', 1, 0, 0, '', 0, '{}', '{}', '{}',
    '2026-01-01 00:00:00')"""
RELEASE = """insert into release (sha256, name, version, file_name, format, size_bytes, unpacked_bytes, files, wrapper, findings, origin, checked_in_at)
    values (?, ?, '1.0', 'x.zip', 'zip', 1, 1, 1, '', '{}', '{}', '2026-01-01 00:00:00')"""


@pytest.fixture
def many(service: Service) -> None:
    """Rows put into the books at once: adding each by the service takes minutes, and is not what is looked at."""
    with sqlite3.connect(service.data / "highshelf.sqlite") as books:
        books.executemany(
            ACCOUNT, [(f"boat-{n:04}", f"Boat {n:04}", f"https://boat{n}.saltmarsh.example/") for n in range(MANY)]
        )
        books.executemany(
            RELEASE, [(hashlib.sha256(str(n).encode()).hexdigest(), f"ledger{n:04}") for n in range(MANY)]
        )


def test_each_of_thousands_of_releases_is_found_by_its_name(service: Service, many: None) -> None:
    for number in (0, 1_234, MANY - 1):
        assert service.client.release_show(f"ledger{number:04}").name == f"ledger{number:04}"


def test_one_of_five_thousand_is_found_by_a_part_of_its_name(console: Console, many: None, axe: str) -> None:
    page = console.page
    console.become_first()
    console.open("/jobs/new")
    account = page.get_by_role("combobox", name="Account")
    expect(account).to_have_attribute("placeholder", "Type a part of it")
    assert looked_at(console, axe) == []
    tab_to(page, account)
    page.keyboard.type("Boat 4321")
    expect(page.locator(".choose-list").get_by_role("option")).to_have_count(1)
    assert looked_at(console, axe) == []
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(account).to_have_value("Boat 4321 (boat-4321)")
    expect(page.get_by_role("listbox")).to_be_hidden()
    release = page.get_by_role("combobox", name="Release", exact=True)
    tab_back(page, release)
    page.keyboard.type("ledger")
    expect(page.get_by_text(f"{MANY - 60} more")).to_be_visible()
    page.keyboard.type("0042")
    expect(page.locator(".choose-list").get_by_role("option")).to_have_count(1)
    page.locator(".choose-list").get_by_role("option", name="ledger0042 1.0").click()
    expect(release).to_have_value("ledger0042 1.0")
    # What was typed and not chosen is nothing.
    release.click()
    page.keyboard.type("no such thing")
    expect(page.get_by_text("Nothing is called so.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(release).to_have_value("ledger0042 1.0")
    assert console.faults == []


def tab_back(page: Page, wanted: object) -> None:
    for _ in range(60):
        page.keyboard.press("Shift+Tab")
        if page.evaluate("document.activeElement.getAttribute('role')") == "combobox":
            return
    raise AssertionError("the keyboard does not get back to it")


def test_few_are_a_plain_list(console: Console, service: Service, tidebook: Path) -> None:
    service.client.release_check_in(tidebook)
    console.become_first()
    console.open("/jobs/new")
    expect(console.page.get_by_role("combobox", name="Release", exact=True).locator("option")).to_have_count(2)
    expect(console.page.get_by_text("There is no account yet.")).to_be_visible()
