"""Every page without accessibility faults, light and dark and on a phone; forms by keyboard alone."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import FilePayload, Locator, Page, expect

from tests.console.pages import NAME, PASSWORD, Console, account_parts, ready_by_api
from tests.support import Hosting, Service

TABS = 80


def violations(page: Page, axe: str) -> list[str]:
    page.evaluate(axe)
    found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    return [
        f"{page.url}: {fault['id']}: {fault['help']}: {node['html'][:160]}"
        for fault in found["violations"]
        for node in fault["nodes"]
    ]


def looked_at(console: Console, axe: str, heading: str | None = None) -> list[str]:
    """Axe on the page as it is, in light and in dark; and whether a phone has to scroll sideways."""
    page, found = console.page, []
    if heading is not None:
        console.heading(heading)
    page.wait_for_load_state("networkidle") if "/jobs/" not in page.url else None
    for mode in ("light", "dark"):
        page.evaluate("mode => { document.documentElement.dataset.mode = mode }", mode)
        found += [f"{mode}: {fault}" for fault in violations(page, axe)]
    page.evaluate("document.documentElement.dataset.mode = 'light'")
    page.set_viewport_size({"width": 390, "height": 844})
    wide = page.evaluate("document.documentElement.scrollWidth")
    if wide > 390:
        found.append(f"{page.url}: {wide} pixels wide on a phone")
    found += [f"phone: {fault}" for fault in violations(page, axe)]
    page.set_viewport_size({"width": 1280, "height": 800})
    return found


def test_every_page_is_free_of_faults(
    console: Console, clean: Hosting, service: Service, tidebook: Path, axe: str
) -> None:
    page = console.page
    console.open()
    found = looked_at(console, axe, "High Shelf")
    console.open("/welcome#wrong")
    expect(page.get_by_text("this link does not work")).to_be_visible()
    found += looked_at(console, axe)
    console.open(f"/welcome#{service.welcome}")
    expect(page.get_by_text("You are the first operator.")).to_be_visible()
    console.button("Go in").click()
    expect(page.get_by_text("12 characters at least")).to_be_visible()
    found += looked_at(console, axe)
    console.become_first()
    for path, heading in (
        ("/", "Today"),
        ("/accounts", "Accounts"),
        ("/shelf", "Shelf"),
        ("/installations", "Installations"),
        ("/jobs", "Jobs"),
        ("/jobs/new", "New job"),
        ("/operators", "Operators"),
        ("/accounts/import", "Accounts from a file"),
        ("/nowhere", "There is no such page"),
        ("/accounts/nobody", "nobody"),
        ("/jobs/none", "Job none"),
    ):
        console.open(path)
        found += looked_at(console, axe, heading)
    console.open("/accounts/new")
    console.button("Keep it and look whether it works").click()
    expect(page.get_by_text("The server is missing.")).to_be_visible()
    found += looked_at(console, axe)
    ready_by_api(service, clean, tidebook, "choir", "seeds")
    done = service.install("tidebook", "choir", "/diary")
    asked = service.install("tidebook", "seeds", settings={"site.title": "?"})
    assert asked.question is not None
    with service.client as client:
        sha256 = client.release_list().items[0].sha256
    for path, heading in (
        ("/", "Today"),
        ("/accounts", "Accounts"),
        ("/accounts/choir", "Saltings Choir"),
        ("/shelf", "Shelf"),
        (f"/shelf/{sha256}", "tidebook 1.4.2"),
        ("/jobs", "Jobs"),
        (f"/jobs/{done.id}", "tidebook 1.4.2 on choir"),
        (f"/jobs/{asked.id}", "tidebook 1.4.2 on seeds"),
        ("/installations", "Installations"),
        (f"/installations/{done.installation}", "Saltings Choir"),
    ):
        console.open(path)
        found += looked_at(console, axe, heading)
    console.button("Show all secrets").click()
    expect(page.get_by_text("hidden again in")).to_be_visible()
    found += looked_at(console, axe)
    console.open(f"/jobs/new?account=choir&release={sha256}")
    expect(page.get_by_text("choose another place")).to_be_hidden()
    console.box("Place").fill("/diary")
    expect(page.get_by_text("choose another place")).to_be_visible()
    found += looked_at(console, axe)
    console.box("Place").fill("/second")
    expect(console.button("Start the install")).to_be_enabled()
    found += looked_at(console, axe)
    console.open("/accounts/choir")
    console.button("Check it").click()
    console.surveyed()
    page.get_by_label("only what is not plainly well").check()
    console.button("Add a site").click()
    console.box("Where is it?").fill("htdocs/Diary/none")
    console.button("Find it").click()
    expect(page.get_by_text("capital and small letters count")).to_be_visible()
    page.get_by_text("A text for the host").click()
    expect(page.get_by_text("How to recognise it")).to_be_visible()
    found += looked_at(console, axe)
    console.button("Change").click()
    expect(console.button("Change it and look whether it works")).to_be_visible()
    found += looked_at(console, axe)
    console.button("Leave it as it is").click()
    console.button("Forget").click()
    expect(page.get_by_role("dialog")).to_be_visible()
    found += looked_at(console, axe)
    assert found == [], "\n".join(found)
    assert console.faults == []


def focused(page: Page) -> Locator:
    return page.locator(":focus")


def tab_to(page: Page, wanted: Locator) -> None:
    """Press Tab until the wanted control has the focus."""
    expect(wanted).to_be_visible()
    for _ in range(TABS):
        if wanted.evaluate("one => one === document.activeElement"):
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"the keyboard does not get to {wanted}")


def type_into(page: Page, wanted: Locator, text: str) -> None:
    tab_to(page, wanted)
    page.keyboard.press("Control+a")
    page.keyboard.type(text)


def choose(page: Page, wanted: Locator, label: str) -> None:
    tab_to(page, wanted)
    page.keyboard.type(label)
    expect(wanted.locator("option:checked")).to_have_text(label)


def test_the_forms_by_keyboard_alone(console: Console, clean: Hosting, service: Service, tidebook: Path) -> None:
    page = console.page
    console.open(f"/welcome#{service.welcome}")
    type_into(page, console.box("Name"), NAME)
    type_into(page, page.get_by_label("Password", exact=True), PASSWORD)
    type_into(page, page.get_by_label("The same password again"), PASSWORD)
    page.keyboard.press("Enter")
    console.heading("Today")
    tab_to(page, page.get_by_role("link", name="Add a hosting account"))
    page.keyboard.press("Enter")
    console.heading("Add an account")
    customer = clean.customer("seeds")
    kind, login, host, port = account_parts(customer)
    assert kind == "sftp"
    type_into(page, page.get_by_label("Title"), customer["title"])
    type_into(page, page.get_by_label("Short name"), "seeds")
    type_into(page, console.box("Server"), host)
    type_into(page, console.box("Port"), port)
    type_into(page, console.box("Login", exact=True), login)
    type_into(page, page.get_by_label("Password", exact=True), customer["password"])
    type_into(page, console.box("Document root"), customer["root"])
    type_into(page, page.get_by_label("Address", exact=True), customer["address"])
    type_into(page, page.get_by_label("Panel address"), customer["panel"])
    type_into(page, console.box("Panel login"), customer["number"])
    page.keyboard.press("Enter")
    console.surveyed()
    console.open("/shelf")
    console.heading("Shelf")
    with page.expect_file_chooser() as chosen:
        tab_to(page, page.locator("input[type=file]"))
        page.keyboard.press("Enter")
    chosen.value.set_files(FilePayload(name=tidebook.name, mimeType="application/zip", buffer=tidebook.read_bytes()))
    expect(page.get_by_text("stands on the shelf: 392 files")).to_be_visible()
    tab_to(page, page.get_by_role("link", name="Plan an install"))
    page.keyboard.press("Enter")
    choose(page, page.get_by_role("combobox", name="Account"), "Creek Seed Library (seeds)")
    type_into(page, console.box("Place"), "/beds")
    tab_to(page, page.get_by_label("Ask me for it: the site's title"))
    page.keyboard.press("Space")
    expect(page.get_by_text("the folder web/beds will be made")).to_be_visible()
    tab_to(page, console.button("Start the install"))
    page.keyboard.press("Enter")
    expect(page.get_by_text("The installer asks for “Title of the diary”").first).to_be_visible(timeout=60_000)
    type_into(page, page.get_by_role("textbox"), "Beds")
    page.keyboard.press("Enter")
    # The account has no e-mail address: asked for too, as the plan said.
    expect(page.get_by_text("The installer asks for “E-mail address”").first).to_be_visible(timeout=60_000)
    type_into(page, page.get_by_role("textbox"), "keeper@seeds.saltmarsh.example")
    page.keyboard.press("Enter")
    expect(page.get_by_text("It stands.")).to_be_visible(timeout=60_000)
    tab_to(page, page.get_by_role("link", name="The handover sheet"))
    page.keyboard.press("Enter")
    tab_to(page, page.get_by_role("button", name="Show the application's password"))
    page.keyboard.press("Enter")
    expect(page.get_by_text("hidden again in")).to_be_visible()
    assert console.faults == []


def test_the_heading_has_the_focus_after_a_step(console: Console, service: Service) -> None:
    console.become_first()
    console.page.get_by_role("link", name="Jobs", exact=True).click()
    expect(console.page.get_by_role("heading", level=1, name="Jobs")).to_be_focused()
    assert console.page.title() == "Jobs · High Shelf"
