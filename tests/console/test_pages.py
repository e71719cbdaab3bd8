"""Pages one by one: signing in and out, lists, dropping what is no archive, many windows, operators."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect
from pydantic import SecretStr

from highshelf.schemas.models import AccountNew
from tests.console.pages import NAME, PASSWORD, Console, ready_by_api
from tests.console.test_access import violations
from tests.drivers.hostile import raw_zip
from tests.support import Hosting, Service

COUNT = 30


def sign_in(console: Console, password: str = PASSWORD) -> None:
    console.box("Name", exact=True).fill(NAME)
    console.page.get_by_label("Password", exact=True).fill(password)
    console.button("Sign in").click()


def test_nobody_can_sign_in_before_there_is_an_operator(console: Console) -> None:
    console.open("/jobs")
    expect(console.page.get_by_text("Nobody can sign in yet")).to_be_visible()
    assert console.faults == []


def test_signing_in_and_out_and_coming_back_to_the_page_that_was_wanted(console: Console) -> None:
    console.become_first()
    console.button("Sign out").click()
    # Whoever opens another page before the answer is there has not signed out.
    expect(console.page.get_by_role("textbox", name="Name", exact=True)).to_be_visible()
    console.open("/shelf")
    sign_in(console, "not the password")
    expect(console.page.get_by_text("name and password do not belong together")).to_be_visible()
    expect(console.box("Name")).to_have_value(NAME)
    sign_in(console)
    console.heading("Shelf")
    assert console.faults == []


def test_a_session_that_ends_elsewhere_loses_nothing_that_was_typed(
    console: Console, clean: Hosting, service: Service, tidebook: Path
) -> None:
    page = console.page
    ready_by_api(service, clean, tidebook, "choir")
    console.become_first()
    console.open("/jobs/new?account=choir")
    page.get_by_role("combobox", name="Release").select_option(label="tidebook 1.4.2")
    console.box("The site's title").fill("Evensong")
    expect(console.button("Start the install")).to_be_enabled()
    service.cli("session", "end", service.cli_json("session", "list")["items"][0]["id"])
    console.box("Place").fill("/diary")
    expect(page.get_by_role("heading", name="You were signed out")).to_be_visible()
    sign_in(console)
    expect(page.get_by_role("heading", name="You were signed out")).to_be_hidden()
    expect(console.box("The site's title")).to_have_value("Evensong")
    expect(console.box("Place")).to_have_value("/diary")
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_text("htdocs/diary will be made")).to_be_visible()
    assert console.faults == []


def test_a_page_that_is_followed_goes_on_after_signing_in_again(
    console: Console, clean: Hosting, service: Service, tidebook: Path
) -> None:
    page = console.page
    ready_by_api(service, clean, tidebook, "choir")
    console.become_first()
    job = service.install("tidebook", "choir", settings={"site.title": "?"})
    console.open(f"/jobs/{job.id}")
    page.get_by_role("textbox").fill("Evensong")
    service.cli("session", "end", service.cli_json("session", "list")["items"][0]["id"])
    # Nobody touched the page: its line was cut, and it found out why.
    expect(page.get_by_role("heading", name="You were signed out")).to_be_visible()
    sign_in(console)
    expect(page.get_by_text("The line to the service is down.")).to_be_hidden()
    expect(page.get_by_role("textbox")).to_have_value("Evensong")
    console.button("Answer").click()
    expect(page.get_by_text("It stands.")).to_be_visible(timeout=60_000)
    assert console.faults == []


@pytest.fixture
def yards(service: Service) -> None:
    with service.client as client:
        for number in range(COUNT):
            client.account_add(
                AccountNew(
                    name=f"yard-{number:02}",
                    title=f"Boat Yard {COUNT - number:02}",
                    transfer=f"ftp://keeper@files{number}.saltmarsh.example:21",
                    password=SecretStr("x"),
                    root="www",
                    address=f"https://yard{number}.saltmarsh.example/",
                )
            )


def first_cell(page: Page) -> str:
    return page.locator("tbody tr").first.locator("td").first.inner_text()


def test_lists_are_the_services_and_their_state_is_in_the_address(console: Console, yards: None) -> None:
    page = console.page
    console.become_first()
    console.open("/accounts")
    expect(page.get_by_text("30 accounts")).to_be_visible()
    expect(page.locator("tbody tr")).to_have_count(25)
    console.button("Further").click()
    expect(page.locator("tbody tr")).to_have_count(5)
    expect(page).to_have_url(re.compile(r"page=2"))
    page.reload()
    expect(page.locator("tbody tr")).to_have_count(5)
    page.get_by_role("columnheader", name="Whose").get_by_role("button").click()
    expect(page.get_by_role("columnheader", name="Whose")).to_have_attribute("aria-sort", "ascending")
    expect(page.locator("tbody tr").first).to_contain_text("yard-29")
    page.get_by_role("columnheader", name="Whose").get_by_role("button").click()
    expect(page.locator("tbody tr").first).to_contain_text("yard-00")
    page.get_by_role("searchbox").fill("FILES2")
    expect(page.get_by_text("11 accounts")).to_be_visible()
    page.get_by_role("link", name="yard-29").click()
    console.heading("Boat Yard 01")
    page.go_back()
    expect(page.get_by_role("searchbox")).to_have_value("FILES2")
    expect(page.get_by_text("11 accounts")).to_be_visible()
    page.get_by_role("searchbox").fill("nothing like it")
    expect(page.get_by_text("Nothing fits “nothing like it”.")).to_be_visible()
    assert console.faults == []


def test_what_is_no_archive_is_refused_with_the_reason(console: Console, tmp_path: Path) -> None:
    console.become_first()
    console.open("/shelf")
    wrong = tmp_path / "letter.zip"
    wrong.write_text("Dear Saltings Choir, your webspace is ready.")
    console.drop(wrong)
    expect(console.page.get_by_role("alert")).to_contain_text("letter.zip")
    empty = tmp_path / "empty.tar.gz"
    empty.touch()
    console.drop(empty)
    expect(console.page.get_by_role("alert")).to_contain_text("empty.tar.gz is empty")
    expect(console.page.get_by_text("The shelf is empty.")).to_be_visible()
    assert console.faults == []


def test_a_danger_is_accepted_a_release_is_matched_and_its_texts_are_read(console: Console, tmp_path: Path) -> None:
    console.become_first()
    console.open("/shelf")
    page = console.page
    source = b"<?php if (PHP_VERSION_ID < 80100) { die('PHP 8.1'); }"
    files = [
        (b"buoy-2/index.php", source),
        (b"buoy-2/Index.php", b"<?php"),
        (b"buoy-2/readme.txt", b"Buoy 2, a made-up book"),
    ]
    (tmp_path / "buoy-2.zip").write_bytes(raw_zip(files))
    console.drop(tmp_path / "buoy-2.zip")
    expect(page.get_by_role("alert")).to_contain_text("differs from buoy-2/")
    page.get_by_role("button", name="accepting letter-case").click()
    page.get_by_role("link", name="What was found in it").click()
    found = page.get_by_role("region", name="What was found in it")
    expect(found).to_contain_text("8.1 or newer")
    expect(found).to_contain_text("by letter case only (accepted)")
    expect(page.get_by_text("There is no account yet to compare it with.")).to_be_visible()
    page.get_by_role("button", name="readme.txt").click()
    expect(page.get_by_text("Buoy 2, a made-up book", exact=True)).to_be_visible()
    new = AccountNew(
        name="yard", transfer="sftp://yard@127.0.0.1:9", password=SecretStr("a-made-up-Word1"), root="www",
        address="http://yard.saltmarsh.example/",
    )  # fmt: skip
    console.service.client.account_add(new)
    page.reload()
    page.get_by_label("Account").select_option("yard")
    expect(page.get_by_role("row", name="PHP 8.1 or newer")).to_contain_text("not known")
    assert console.faults == []


def test_an_account_out_of_a_letter(console: Console, clean: Hosting, service: Service, axe: str) -> None:
    page = console.page
    customer = clean.customer("choir")
    console.become_first()
    console.open("/accounts/new")
    console.box("The letter's text").fill("The harbour is closed on Monday.")
    console.button("Read it").click()
    expect(page.get_by_role("alert")).to_contain_text("nothing was found in this letter")
    console.box("The letter's text").fill(Path(customer["letter"]).read_text())
    console.button("Read it").click()
    expect(console.box("Short name")).to_have_value("saltings-choir")
    expect(page.get_by_label("Kind")).to_have_value("ftps")
    expect(console.box("Reached at")).to_have_value(customer["reach"])
    page.get_by_text("values, and where each stands").click()
    expect(page.locator("dd", has_text="Document root: htdocs")).to_contain_text("line 11")
    assert customer["password"] not in page.locator("main").inner_text()
    assert violations(page, axe) == []
    with service.client as client:
        assert client.account_list().total == 0
    console.button("Keep it and look whether it works").click()
    console.surveyed()
    assert console.faults == []


def test_an_account_is_changed_and_forgotten(console: Console, clean: Hosting, service: Service) -> None:
    page = console.page
    console.become_first()
    customer = clean.customer("ferry")
    console.add_account({**customer, "password": customer["password"]})
    console.button("Change").click()
    page.get_by_label("Title").fill("Ferry Museum, new quay")
    console.box("Document root").fill("nowhere")
    console.button("Change it and look whether it works").click()
    expect(page.get_by_role("alert")).to_contain_text("there is no document root nowhere")
    console.button("Change").click()
    console.box("Document root").fill("www")
    console.button("Change it and look whether it works").click()
    console.surveyed()
    console.heading("Ferry Museum, new quay")
    console.button("Forget").click()
    page.keyboard.press("Escape")
    console.button("Forget").click()
    console.button("Forget it").click()
    expect(page.get_by_text("No accounts yet")).to_be_visible()
    with service.client as client:
        assert client.account_list().total == 0
    assert console.faults == []


def test_a_servers_new_identity_is_refused_until_somebody_takes_it(
    console: Console, clean: Hosting, service: Service
) -> None:
    from highshelf.store.store import Store
    from highshelf.store.tables import AccountRow

    console.become_first()
    console.add_account(clean.customer("seeds"))
    Store(service.data).change(AccountRow, "seeds", fingerprint="SHA256:another")
    console.button("Check it").click()
    expect(console.page.get_by_role("alert")).to_contain_text("SHA256:another")
    console.button("Take the new identity").click()
    expect(console.page.get_by_text("SHA256:another")).to_have_count(0)
    console.surveyed()


def hide(page: Page, hidden: bool) -> None:
    """As a browser does with a tab that nobody looks at; headless ones take every tab for looked at."""
    page.evaluate(
        """hidden => { Object.defineProperty(document, 'hidden', {configurable: true, get: () => hidden});
        document.dispatchEvent(new Event('visibilitychange')) }""",
        hidden,
    )


def test_many_tabs_do_not_block_each_other(console: Console, service: Service) -> None:
    """A browser has six connections to a service: ten tabs with a live line each would leave none for anything else."""
    console.become_first()
    context = console.page.context
    hide(console.page, True)
    for _ in range(2):
        tabs = [context.new_page() for _ in range(5)]
        for tab in tabs:
            tab.goto(console.base)
            expect(tab.get_by_text("Three steps to the first installation")).to_be_visible()
        for tab in tabs:
            hide(tab, True)
        # Longer than a hidden tab keeps its line.
        tabs[-1].wait_for_timeout(5000)
    with service.client as client:
        client.account_add(
            AccountNew(
                name="yard",
                transfer="ftp://a@b:21",
                password=SecretStr("x"),
                root="www",
                address="http://yard.example/",
            )
        )
    hide(context.pages[1], False)
    # What happened meanwhile is caught up with.
    expect(context.pages[1].get_by_text("done, 1 account")).to_be_visible()


def test_operators_invite_each_other_and_end_sessions(console: Console, chromium: Browser, service: Service) -> None:
    page = console.page
    console.become_first()
    page.get_by_role("link", name=NAME).click()
    console.heading("Operators")
    console.box("Invite somebody by the name").fill("tomas")
    console.button("Make a link").click()
    link = page.locator(".link").inner_text()
    other = chromium.new_context()
    second = Console(other.new_page(), service)
    second.page.goto(link)
    second.heading("Welcome, tomas")
    second.page.get_by_label("Password", exact=True).fill("otter moon basket reed")
    second.page.get_by_label("The same password again").fill("otter moon basket reed")
    second.button("Go in").click()
    second.heading("Today")
    page.reload()
    expect(page.get_by_text("tomas Chrome")).to_be_visible()
    console.button("Sign it out").click()
    expect(console.button("Sign it out")).to_have_count(0)
    second.page.get_by_role("link", name="Shelf", exact=True).click()
    expect(second.page.get_by_role("heading", name="You were signed out")).to_be_visible()
    page.get_by_role("button", name="Forget tomas").click()
    page.get_by_role("dialog").get_by_role("button", name="Forget").click()
    expect(page.get_by_role("button", name="Forget tomas")).to_have_count(0)
    expect(page.get_by_text("is no operator any more")).to_be_visible()
    other.close()
    assert console.faults == [] and second.faults == []
