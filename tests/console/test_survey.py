"""Surveys, sites, places and accounts from a file, in the browser."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import expect

from tests.console.pages import Console, ready_by_api
from tests.support import Hosting, Service

CSV = """name;title;transfer;password;address
mill;Tide Mill;sftp://mill@files.saltmarsh.example:22;kelp-and-foam;https://mill.saltmarsh.example/
quay;The Quay;ftps://quay@files.saltmarsh.example:21;{password};https://quay.saltmarsh.example/
"""


def test_a_survey_grows_on_the_page_and_says_what_it_means(
    console: Console, clean: Hosting, service: Service, tidebook: Path
) -> None:
    page = console.page
    console.become_first()
    ready_by_api(service, clean, tidebook, "yard")
    console.open("/accounts/yard")
    expect(page.get_by_text("Not checked yet.")).to_be_visible()
    console.button("Check it").click()
    expect(page.get_by_text(re.compile("Waiting for its turn|Looking: "))).to_be_visible()
    console.surveyed()
    user = page.get_by_role("row", name=re.compile("^Runs as"))
    expect(user).to_contain_text("www-data")
    expect(page.get_by_role("region", name="What jobs can do there")).to_contain_text("only file by file")
    rows = page.get_by_role("table").get_by_role("row")
    every = rows.count()
    page.get_by_label("only what is not plainly well").check()
    assert 3 < rows.count() < every
    # What is kept is shown again without asking the host.
    console.open("/accounts/yard")
    expect(page.get_by_text(re.compile(r"^\s*\d+ lines"))).to_be_visible()
    assert console.faults == [] and clean.leftovers() == []


def test_a_survey_goes_on_when_the_service_starts_anew(
    console: Console, clean: Hosting, service: Service, tidebook: Path
) -> None:
    console.become_first()
    ready_by_api(service, clean, tidebook, "choir")
    console.open("/accounts/choir")
    console.button("Check it").click()
    expect(console.page.get_by_text(re.compile("Waiting for its turn|Looking: "))).to_be_visible()
    service.kill()
    expect(console.page.get_by_text("The service does not answer.").first).to_be_visible()
    service.start()
    console.surveyed()
    assert clean.leftovers() == []


def test_a_root_that_nobody_says_is_found(console: Console, clean: Hosting, service: Service) -> None:
    console.become_first()
    console.add_account({**clean.customer("birds"), "root": ""})
    expect(console.page.get_by_text("sites/birds.saltmarsh.example/web").first).to_be_visible()
    assert service.client.account_show("birds").root == "sites/birds.saltmarsh.example/web"


def test_sites_and_places(console: Console, clean: Hosting, service: Service, tidebook: Path) -> None:
    page = console.page
    console.become_first()
    ready_by_api(service, clean, tidebook, "choir")
    other = f"http://127.0.0.1:{clean.layout.base_port + 82}/"
    console.open("/accounts/choir")
    console.button("Add a site").click()
    section = page.get_by_role("region", name="Sites and places")
    section.get_by_role("textbox", name="Address").fill(clean.customer("ferry")["address"])
    console.button("Prove and keep").click()
    expect(section.get_by_role("alert")).to_contain_text("no folder of this account shows")
    section.get_by_role("textbox", name="Address").fill(other)
    console.button("Prove and keep").click()
    expect(section.get_by_role("link", name=other)).to_be_visible()
    console.box("Where is it?").fill(other + "Index.html")
    console.button("Find it").click()
    expect(section).to_contain_text("capital and small letters count there")
    console.open("/jobs/new?account=choir")
    page.get_by_label("Site", exact=True).select_option(other)
    page.get_by_label("Release", exact=True).select_option(index=1)
    expect(page.get_by_text(other, exact=True)).to_be_visible()
    console.open("/accounts/choir")
    page.get_by_role("button", name=f"Forget the site {other}").click()
    console.button("Forget it").click()
    expect(page.get_by_role("link", name=other)).to_be_hidden()
    assert console.faults == [] and clean.leftovers() == []


def test_accounts_come_from_a_file_when_it_has_no_fault(console: Console, service: Service) -> None:
    page = console.page
    console.become_first()
    console.open("/accounts")
    page.get_by_role("link", name="Many from a file").click()
    page.get_by_role("textbox").fill(CSV.format(password=""))
    console.button("Look through it").click()
    expect(page.get_by_text("1 fault: nothing is kept")).to_be_visible()
    expect(page.get_by_text("neither password nor key is given")).to_be_visible()
    page.set_input_files(
        "input[type=file]",
        {"name": "a.csv", "mimeType": "text/csv", "buffer": CSV.format(password="zostera-8").encode()},
    )
    expect(page.get_by_text("2 accounts, no faults")).to_be_visible()
    assert service.client.account_list().total == 0
    console.button("Keep 2 accounts").click()
    expect(page.get_by_role("link", name="quay")).to_be_visible()
    assert service.client.account_list().total == 2 and console.faults == []
