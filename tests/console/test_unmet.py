"""A plan that is bound to fail is not started by its button alone."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import expect

from tests.console.pages import Console
from tests.hosts.test_unmet import tidemark
from tests.support import Hosting, Service


def test_the_button_waits_for_a_word(clean: Hosting, service: Service, console: Console, tmp_path: Path) -> None:
    client = service.client
    client.account_add(clean.new_account("choir").model_copy(update={"panel": "", "panel_user": ""}))
    made = client.release_check_in(tidemark(tmp_path, "4.0", php="9.5"))
    client.account_check("choir")
    console.become_first()
    console.open(f"/jobs/new?account=choir&release={made.sha256}")
    expect(console.page.get_by_text("The install is bound to fail.")).to_be_visible()
    expect(console.button("Start the install")).to_be_disabled()
    console.page.get_by_label("Start it in spite of that").check()
    # Something else was typed: what was said was said of another plan.
    console.box("Place").fill("/mark")
    expect(console.button("Start the install")).to_be_disabled()
    console.page.get_by_label("Start it in spite of that").check()
    console.button("Start the install").click()
    expect(console.page).to_have_url(re.compile(r"/jobs/[0-9a-f]+$"))
    assert any("started in spite of it" in e.text for e in client.job_log(client.job_list().items[0].id).items)
    assert console.faults == []
