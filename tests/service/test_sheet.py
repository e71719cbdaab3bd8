"""The handover sheet in a real browser: escaped, masked, on A4."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, sync_playwright

from highshelf.service.sheet import MASK, render_sheet
from highshelf.store.tables import AccountRow, InstallationRow

HOSTILE = "<script>document.title='owned'</script><img src=x onerror=\"document.title='owned'\">"


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(
            executable_path="/usr/bin/chromium",
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        yield opened
        opened.close()


def sheet(title: str, secrets: dict[str, str]) -> str:
    account = AccountRow(
        name="ferry",
        title=title,
        transfer_kind="sftp",
        transfer_host="127.0.0.1",
        transfer_port=22,
        transfer_login="sm20417",
        root="www",
        address="http://127.0.0.1/",
        panel="http://127.0.0.1:90/",
        panel_login="20417",
    )
    acts = [
        {"leg": leg, "act": "x", "told": f"{leg} did {title} number {n}"}
        for leg in ("place", "tidy", "prove")
        for n in range(7)
    ]
    row = InstallationRow(
        id="0123456789ab",
        job_id="j",
        account="ferry",
        release="a" * 64,
        application="tidebook",
        version="1.4.2",
        address="http://127.0.0.1/",
        login_address="http://127.0.0.1/staff/",
        target="www",
        admin_name="venoropa96",
        database="tides-20417",
        database_user="tides-20417",
        facts={
            "title": title,
            "acts": acts,
            "once": {"1": f"recovery code {title}"},
            "php": "8.2",
            "database_version": "10.11",
            "database_host": "localhost",
        },
    )
    return render_sheet(row, account, secrets)


def test_secrets_are_masked_until_revealed() -> None:
    secrets = {"hosting": "h-word", "database": "d-word", "application": "a-word", "once-1": "O-CODE"}
    assert sheet("Ferry", {}).count(MASK) == 4
    open_sheet = sheet("Ferry", secrets)
    assert MASK not in open_sheet and all(s in open_sheet for s in secrets.values())


def test_texts_from_outside_execute_nothing_and_nothing_is_fetched(browser: Browser) -> None:
    page = browser.new_page()
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.set_content(sheet(HOSTILE, {}))
    assert "owned" not in page.title().replace(HOSTILE, "")
    assert page.locator("h1").inner_text() == HOSTILE
    assert page.locator("main script, main img").count() == 0 and asked == []
    page.close()


@pytest.mark.parametrize("width", [1280, 390])
def test_it_fits_the_screen(browser: Browser, width: int) -> None:
    page = browser.new_page(viewport={"width": width, "height": 800})
    page.set_content(sheet("Estuary Ferry Museum with a rather long name", {"database": "w" * 60}))
    assert page.evaluate("document.documentElement.scrollWidth") <= width
    page.close()


def test_it_prints_on_two_pages_of_a4_at_most(browser: Browser, tmp_path: Path) -> None:
    page = browser.new_page()
    page.set_content(sheet("Estuary Ferry Museum", {}))
    pdf = page.pdf(path=tmp_path / "sheet.pdf", prefer_css_page_size=True)
    assert len(re.findall(rb"/Type\s*/Page\b", pdf)) <= 2
    sizes = re.findall(rb"/MediaBox\s*\[\s*0\s+0\s+([\d.]+)\s+([\d.]+)", pdf)
    assert {(round(float(w)), round(float(h))) for w, h in sizes} <= {(595, 842), (596, 842), (595, 841)}
    page.close()
