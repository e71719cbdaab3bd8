"""Releases from their makers, and licence keys, in the browser."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import expect

from highshelf.practice.moorings.build import build_archive, make_key
from tests.console.pages import Console, ready_by_api
from tests.drivers.hostile import raw_zip
from tests.support import Hosting, Service

TIDE = "tidebook-1.4.2.zip"


@pytest.fixture
def service(hosting: Hosting, tmp_path: Path) -> Iterator[Service]:
    """A service that may ask the makers' site of the practice host."""
    allowed = f"127.0.0.1:{hosting.layout.port('vendor')}"
    running = Service(
        tmp_path / "data", options=("--inside", allowed, "--authority", str(hosting.layout.vendor_authority))
    )
    running.start()
    yield running
    running.stop()


def test_a_release_is_fetched_and_compared(console: Console, hosting: Hosting) -> None:
    page, makers = console.page, hosting.layout.vendor_address
    console.become_first()
    console.open("/shelf")
    console.box("Or fetch it from its makers").fill(f"{makers}files/{TIDE}")
    page.get_by_text("Compare it, or sign in there").click()
    console.box("Checksum").fill("0" * 64)
    console.button("Fetch it").click()
    expect(page.get_by_text("is not what its makers published")).to_be_visible()
    # What was typed is kept, so that it can be mended.
    console.box("Checksum").fill(f"{makers}files/SHA256SUMS")
    console.button("Fetch it").click()
    expect(page.get_by_text("stands on the shelf")).to_be_visible()
    page.get_by_role("link", name="What was found in it").click()
    expect(page.get_by_text(f"sha256 as in {makers}files/SHA256SUMS")).to_be_visible()
    assert console.faults == []


def test_a_slow_fetch_is_seen_again_when_the_page_is_and_can_be_stopped(console: Console, hosting: Hosting) -> None:
    page, makers = console.page, hosting.layout.vendor_address
    console.become_first()
    console.open("/shelf")
    console.box("Or fetch it from its makers").fill(f"{makers}slow/{TIDE}?kilobytes=5")
    console.button("Fetch it").click()
    expect(page.get_by_text(re.compile(r"kB of 119 kB|kB of 118"))).to_be_visible()
    console.open("/")
    console.open("/shelf")
    expect(page.get_by_text(re.compile(r"kB of 119 kB|kB of 118"))).to_be_visible()
    console.button("Stop").click()
    expect(console.button("Fetch it")).to_be_visible()
    assert console.faults == []


def test_a_licence_key_is_filed_covered_shown_and_forgotten(
    console: Console, clean: Hosting, service: Service, tidebook: Path, tmp_path: Path
) -> None:
    page, key = console.page, make_key(8)
    console.become_first()
    ready_by_api(service, clean, tidebook, "choir")
    service.client.release_check_in(build_archive(tmp_path))
    console.open("/accounts/choir")
    expect(page.get_by_text("No key is filed for this account.")).to_be_visible()
    console.button("File a key").click()
    page.get_by_label("Application").select_option(label="moorings 2.1")
    console.box("Licence key").fill(key)
    console.button("File it").click()
    expect(page.get_by_text("…" + key[-4:])).to_be_visible()
    assert page.get_by_text(key).count() == 0
    page.clock.install()
    console.button("Show").click()
    expect(page.get_by_text(key)).to_be_visible()
    page.clock.fast_forward(61_000)
    expect(page.get_by_text(key)).to_be_hidden()
    page.get_by_role("button", name=re.compile("^Forget the key")).click()
    console.button("Forget it").click()
    expect(page.get_by_text("No key is filed for this account.")).to_be_visible()
    assert service.client.licence_list().total == 0 and console.faults == []


def test_two_versions_stand_beside_each_other(console: Console, service: Service, tmp_path: Path) -> None:
    page = console.page
    for version, extra in (("1.0", b"old.php"), ("1.1", b"new.php")):
        path = tmp_path / f"berth-{version}.zip"
        top = f"berth-{version}/".encode()
        needs = b"<?php if (PHP_VERSION_ID < 80%d00) { die('PHP'); }" % (1 if version == "1.0" else 2)
        path.write_bytes(raw_zip([(top + b"index.php", needs), (top + extra, b"<?php")]))
        service.client.release_check_in(path)
    console.become_first()
    console.open("/shelf")
    page.get_by_role("row", name=re.compile("1.0")).get_by_role("link").click()
    page.get_by_role("combobox", name="Another release").select_option(label="berth 1.1")
    expect(page.get_by_text("From berth 1.0 to berth 1.1: 1 files added, 1 changed, 1 removed")).to_be_visible()
    expect(page.get_by_text("8.1 → 8.2")).to_be_visible()
    page.get_by_text("1 added").click()
    expect(page.get_by_role("listitem").filter(has_text="new.php")).to_be_visible()
    assert console.faults == []
