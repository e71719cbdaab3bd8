"""What tests do in the console, by the words that people see."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

from playwright.sync_api import ConsoleMessage, Locator, Page, expect

from tests.support import Hosting, Service

NAME, PASSWORD = "mara", "heron tide plank seven"


class Console:
    """One browser window. `faults` holds what went wrong in it: errors of scripts, and what the policy refused."""

    def __init__(self, page: Page, service: Service) -> None:
        self.page, self.service = page, service
        self.faults: list[str] = []
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        page.on("console", self._said)
        page.on("dialog", lambda dialog: (self.faults.append(f"dialog {dialog.message}"), dialog.dismiss()))

    def _said(self, message: ConsoleMessage) -> None:
        if "Content Security Policy" in message.text or "Refused to" in message.text:
            self.faults.append(message.text)

    @property
    def base(self) -> str:
        return f"http://localhost:{self.service.port}"

    def open(self, path: str = "/") -> None:
        self.page.goto(self.base + path)

    def heading(self, text: str | re.Pattern[str]) -> None:
        expect(self.page.get_by_role("heading", level=1, name=text)).to_be_visible()

    def button(self, name: str) -> Locator:
        return self.page.get_by_role("button", name=name, exact=True)

    def box(self, name: str, *, exact: bool = False) -> Locator:
        return self.page.get_by_role("textbox", name=name, exact=exact)

    def become_first(self) -> None:
        """Use the first operator's link."""
        self.open(f"/welcome#{self.service.welcome}")
        self.box("Name").fill(NAME)
        self.page.get_by_label("Password", exact=True).fill(PASSWORD)
        self.page.get_by_label("The same password again").fill(PASSWORD)
        self.button("Go in").click()
        self.heading("Today")

    def fill_account(self, customer: dict[str, Any]) -> None:
        kind, login, host, port = account_parts(customer)
        page = self.page
        page.get_by_label("Title").fill(customer["title"])
        page.get_by_label("Short name").fill(customer["key"])
        page.get_by_label("Kind").select_option(kind)
        self.box("Server").fill(host)
        self.box("Port").fill(port)
        self.box("Login", exact=True).fill(login)
        page.get_by_label("Password", exact=True).fill(customer["password"])
        self.box("Document root").fill(customer["root"])
        page.get_by_label("Address", exact=True).fill(customer["address"])
        if customer["reach"]:
            page.get_by_text("The domain does not lead there yet").click()
            self.box("Reached at").fill(customer["reach"])
        page.get_by_label("Panel address").fill(customer["panel"])
        self.box("Panel login").fill(customer["number"])
        page.get_by_label("E-mail").fill(f"keeper@{customer['domain']}")

    def add_account(self, customer: dict[str, Any]) -> None:
        self.open("/accounts/new")
        self.fill_account(customer)
        self.button("Keep it and look whether it works").click()
        self.surveyed()

    def surveyed(self) -> None:
        """The survey of the account's page has ended, and well; an older one is shown until the new one is ordered."""
        expect(self.button("Check it")).to_be_enabled()
        expect(self.page.get_by_text(re.compile(r"^\s*\d+ lines"))).to_be_visible()
        expect(self.page.get_by_text("proven: a file put there was fetched")).to_be_visible()

    def drop(self, path: Path) -> None:
        """Drop a file as the mouse would."""
        data = self.page.evaluate_handle(
            """([name, bytes]) => { const d = new DataTransfer();
            d.items.add(new File([new Uint8Array(bytes)], name)); return d }""",
            [path.name, list(path.read_bytes())],
        )
        zone = self.page.get_by_role("group", name=re.compile("Drop a release"))
        for event in ("dragenter", "dragover", "drop"):
            zone.dispatch_event(event, {"dataTransfer": data})

    def plan(self, account: str, at: str, ask: str = "") -> None:
        """Fill the page of a new job until it has a plan; `ask` is what the job shall ask for."""
        # A plain list while there are few of them.
        self.page.get_by_label("Account", exact=True).select_option(account)
        self.box("Place").fill(at)
        if ask:
            self.page.get_by_label(f"Ask me for it: {ask}").check()
        expect(self.page.get_by_text("looking at the account…")).to_be_hidden()

    def leg(self, name: str) -> Locator:
        return self.page.locator(f"[data-leg={name}]")


def account_parts(customer: dict[str, Any]) -> tuple[str, str, str, str]:
    found = re.fullmatch(r"(\w+)://(.*)@(.*):(\d+)", customer["transfer"])
    assert found is not None
    return found.group(1), found.group(2), found.group(3), found.group(4)


def ready_by_api(service: Service, hosting: Hosting, tidebook: Path, *keys: str) -> None:
    """Accounts and a release without the browser, for tests of later pages."""
    with service.client as client:
        for key in keys:
            client.account_add(hosting.new_account(key))
        client.release_check_in(tidebook)
