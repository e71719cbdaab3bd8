"""The documentation in the console: its pages, a search, links from where it helps."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.console.pages import Console
from tests.console.test_access import looked_at


def test_the_manual_is_read_and_searched(console: Console, axe: str) -> None:
    page = console.page
    console.become_first()
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Manual").click()
    console.heading("Manual")
    found = looked_at(console, axe)
    leaves = page.get_by_role("navigation", name="The manual's pages")
    leaves.get_by_role("link", name="Errors").click()
    console.heading("Errors")
    expect(page.get_by_role("row", name="login-refused").first).to_contain_text("the server does not take the login")
    found += looked_at(console, axe)
    page.get_by_role("searchbox").fill("packed for hosts")
    page.locator(".hits").get_by_role("link", name="How the files go over").click()
    expect(page.get_by_text("in the smallest form that some account was found to unpack")).to_be_visible()
    page.get_by_role("searchbox").fill("no such words anywhere")
    expect(page.get_by_text("Nothing in the manual has")).to_be_visible()
    console.open("/manual/commands#highshelf-job-answer")
    expect(page.get_by_role("heading", name="highshelf job answer")).to_be_in_viewport()
    console.open("/manual/nothing")
    expect(page.get_by_text("The manual has no page of that name.")).to_be_visible()
    console.open("/shelf")
    page.get_by_role("link", name="How releases are read").click()
    expect(page).to_have_url(f"{console.base}/manual/shelf")
    assert found == [], "\n".join(found)
    assert console.faults == []
