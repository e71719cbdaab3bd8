"""From an empty service to a revealed sheet, in the browser alone; and with the service killed in the middle."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import expect
from pysequoia import decrypt

from tests.console.pages import Console, ready_by_api
from tests.console.test_access import looked_at
from tests.support import Hosting, Service, until


def test_from_nothing_to_a_revealed_sheet(console: Console, clean: Hosting, tidebook: Path, axe: str) -> None:
    page = console.page
    console.become_first()
    expect(page.get_by_text("Three steps to the first installation")).to_be_visible()
    page.get_by_role("link", name="Add a hosting account").click()
    console.fill_account(clean.customer("choir"))
    console.button("Keep it and look whether it works").click()
    console.surveyed()
    page.get_by_role("link", name="Shelf", exact=True).click()
    console.drop(tidebook)
    expect(page.get_by_text("stands on the shelf: 392 files")).to_be_visible()
    page.get_by_role("link", name="Plan an install").click()
    console.plan("choir", "/visitors/diary", "the site's title")
    expect(page.get_by_text("nothing: the folder htdocs/visitors/diary will be made")).to_be_visible()
    console.button("Start the install").click()
    expect(page.get_by_text("The installer asks for “Title of the diary”").first).to_be_visible(timeout=60_000)
    expect(console.leg("place")).to_contain_text("392 files are identical with the release")
    expect(console.leg("walk")).to_contain_text("waits for you")
    expect(console.leg("tidy")).to_contain_text("to come")
    page.get_by_role("textbox").fill("Evensong <diary>")
    console.button("Answer").click()
    expect(page.get_by_text("It stands.")).to_be_visible(timeout=60_000)
    for leg in ("survey", "place", "database", "configure", "walk", "tidy", "prove"):
        expect(console.leg(leg).locator(".word")).to_have_text("done")
    page.get_by_text("What the installer showed").click()
    expect(page.get_by_text("pressed Begin", exact=False)).to_be_visible()
    expect(page.get_by_text("ended: the installer says that it is finished", exact=False)).to_be_visible()
    page.get_by_role("link", name="The handover sheet").click()
    console.heading("Evensong <diary>")
    assert sealed_sheet(console, axe).startswith(b"%PDF-")
    secret = reveal(console)
    # What was shown is what signs in: the proof leg used the same secret.
    installation = page.url.rpartition("/")[2]
    with console.service.client as client:
        assert client.installation_reveal(installation, "application").secrets == {"application": secret}
    assert (clean.root("choir") / "visitors/diary/index.php").exists() and not clean.leftovers()
    assert console.faults == []


def sealed_sheet(console: Console, axe: str) -> bytes:
    """The sheet on paper, as it was sealed when it was saved in the browser, and opened again."""
    page, phrase = console.page, "heron tide plank seven"
    console.button("Save the sheet").click()
    page.get_by_label("As", exact=True).select_option("logins")
    expect(console.button("Save it")).to_be_disabled()
    page.get_by_label("As", exact=True).select_option("pdf")
    page.get_by_text("Seal it").click()
    assert looked_at(console, axe) == []
    page.get_by_label("Passphrase").fill(phrase)
    with page.expect_download() as came:
        console.button("Save it").click()
    assert came.value.suggested_filename.endswith(".pdf.asc")
    return decrypt(Path(came.value.path()).read_bytes(), passwords=[phrase]).bytes or b""


def reveal(console: Console) -> str:
    page, installation = console.page, console.page.url.rpartition("/")[2]
    # Secrets are not in the page before somebody asks.
    with console.service.client as client:
        secrets = client.installation_reveal(installation).secrets
    for secret in secrets.values():
        assert secret not in page.content()
    page.clock.install()
    page.reload()
    page.get_by_role("button", name="Show the application's password").click()
    expect(page.get_by_text(secrets["application"])).to_be_visible()
    expect(page.get_by_text("mara saw application")).to_be_visible()
    assert secrets["database"] not in page.content() and secrets["hosting"] not in page.content()
    page.clock.fast_forward(30_000)
    expect(page.get_by_text("hidden again in 30 s")).to_be_visible()
    page.clock.fast_forward(31_000)
    expect(page.get_by_text(secrets["application"])).to_have_count(0)
    assert secrets["application"] not in page.content()
    return secrets["application"]


def test_the_service_dies_in_the_middle_and_the_page_heals(
    console: Console, clean: Hosting, service: Service, tidebook: Path
) -> None:
    page = console.page
    ready_by_api(service, clean, tidebook, "choir")
    console.become_first()
    console.open("/jobs/new")
    page.get_by_role("combobox", name="Release").select_option(label="tidebook 1.4.2")
    console.plan("choir", "/diary", "the site's title")
    console.button("Start the install").click()
    expect(console.leg("survey")).to_contain_text("target htdocs/diary is free")
    service.kill()
    expect(page.get_by_text("The line to the service is down.")).to_be_visible()
    # Nothing that was shown is lost meanwhile.
    expect(console.leg("survey")).to_contain_text("target htdocs/diary is free")
    service.start()
    expect(page.get_by_text("The line to the service is down.")).to_be_hidden()
    expect(page.get_by_text("The installer asks for “Title of the diary”").first).to_be_visible(timeout=60_000)
    # Once more while it waits, as an upgrade would.
    service.stop()
    expect(page.get_by_text("The line to the service is down.")).to_be_visible()
    page.get_by_role("textbox").fill("Evensong")
    console.button("Answer").click()
    expect(page.get_by_text("The service does not answer.")).to_be_visible()
    expect(page.get_by_role("textbox")).to_have_value("Evensong")
    service.start()
    expect(page.get_by_text("The line to the service is down.")).to_be_hidden()
    console.button("Answer").click()
    expect(page.get_by_text("It stands.")).to_be_visible(timeout=60_000)
    lines = console.leg("survey").locator(".lines li").all_inner_texts()
    assert len(lines) == len(set(lines)) >= 1
    assert len(clean.databases()[0]) == 1
    assert console.faults == []


def test_a_job_is_cancelled_and_what_was_done_is_seen_taken_back(
    console: Console, clean: Hosting, service: Service, tidebook: Path
) -> None:
    ready_by_api(service, clean, tidebook, "ferry")
    before = clean.picture("ferry")
    console.become_first()
    console.open("/jobs/new")
    console.page.get_by_role("combobox", name="Release").select_option(label="tidebook 1.4.2")
    console.plan("ferry", "/", "the site's title")
    expect(console.page.get_by_text("index.html (the host's placeholder page, it steps aside)")).to_be_visible()
    console.button("Start the install").click()
    expect(console.page.get_by_text("The installer asks for").first).to_be_visible(timeout=60_000)
    console.button("Cancel").click()
    console.button("Cancel the job").click()
    expect(console.page.get_by_text("Everything was taken back")).to_be_visible(timeout=60_000)
    expect(console.leg("place")).to_contain_text("taken back")
    expect(console.leg("prove")).to_contain_text("not reached")
    assert clean.picture("ferry") == before
    assert console.faults == []


def test_what_changed_since_the_plan_was_shown_is_shown_before_anything_starts(
    console: Console, clean: Hosting, service: Service, tidebook: Path
) -> None:
    ready_by_api(service, clean, tidebook, "choir")
    console.become_first()
    console.open("/jobs/new?account=choir")
    page = console.page
    page.get_by_role("combobox", name="Release").select_option(label="tidebook 1.4.2")
    console.plan("choir", "/diary")
    expect(page.get_by_text("the folder htdocs/diary will be made")).to_be_visible()
    (clean.root("choir") / "diary" / "cgi-bin").mkdir(parents=True)
    console.button("Start the install").click()
    expect(page.get_by_text("The place looks different than a moment ago.")).to_be_visible()
    expect(page.get_by_text("cgi-bin (the host's own, stays)")).to_be_visible()
    with service.client as client:
        assert client.job_list().total == 0
    (clean.root("choir") / "diary" / "index.php").write_text("<?php echo 'ours';")
    console.button("Start the install").click()
    expect(page.get_by_text("htdocs/diary is not empty")).to_be_visible()
    with service.client as client:
        assert client.job_list().total == 0


def test_today_asks_and_follows_all_jobs(console: Console, clean: Hosting, service: Service, tidebook: Path) -> None:
    ready_by_api(service, clean, tidebook, "choir", "seeds")
    console.become_first()
    for key in ("choir", "seeds"):
        service.install("tidebook", key, settings={"site.title": "?"})
    page = console.page
    # Nobody reloaded the page: it was told.
    expect(page.get_by_role("heading", name="Waiting for you")).to_be_visible()
    expect(page.get_by_role("button", name="Answer")).to_have_count(2)
    page.get_by_role("textbox").first.fill("First")
    page.get_by_role("button", name="Answer").first.click()
    expect(page.get_by_role("button", name="Answer")).to_have_count(1)
    expect(page.locator("section", has=page.get_by_role("heading", name="Installed lately"))).to_contain_text(
        "tidebook 1.4.2", timeout=60_000
    )
    with service.client as client:
        until(lambda: client.installation_list().total == 1, "the answered job did not end", 60)
    assert console.faults == []
