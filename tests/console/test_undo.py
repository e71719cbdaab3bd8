"""An installation is undone from its page: what would be done is told, and one that changed is kept."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import expect

from highshelf.schemas.models import PlanNew
from tests.console.pages import Console
from tests.support import Hosting, Service


def test_one_that_changed_is_taken_down_kept_and_removed(
    console: Console, clean: Hosting, service: Service, tidebook: Path
) -> None:
    with service.client as client:
        client.account_add(clean.new_account("ferry"))
        made = client.release_check_in(tidebook)
        plan = client.plan_make(PlanNew(account="ferry", release=made.sha256[:12], at="/diary"))
        number = service.wait(client.job_start(plan.id).id).installation
        database = client.installation_show(number).database
    before = clean.picture("ferry")
    page = console.page
    console.become_first()
    console.open(f"/installations/{number}")
    again = page.get_by_role("region", name="Looked at again")
    expect(again).to_contain_text("Never since it was proven")
    console.button("Look again").click()
    expect(again).to_contain_text("nothing is wrong")
    (clean.root("ferry") / "diary" / "pier.txt").write_text("a photograph")
    (clean.root("ferry") / "diary" / "look.php").write_text("<?php phpinfo();")
    clean.own("ferry")
    console.button("Look again").click()
    expect(again).to_contain_text("look.php came since the proof")
    (clean.root("ferry") / "diary" / "look.php").unlink()
    page.reload()
    console.button("Undo it").click()
    box = page.get_by_role("dialog")
    expect(box.get_by_role("alert")).to_contain_text("1 new (www/diary/pier.txt)")
    box.get_by_role("button", name="Take it down, keep its data").click()
    expect(box).to_contain_text("its files and its database are kept until you bring it back or remove them")
    assert clean.picture("ferry")["databases"] == before["databases"]
    box.get_by_role("button", name="Undo it").click()
    expect(page.get_by_text("It is taken back.")).to_be_visible()
    assert not (clean.root("ferry") / "diary").exists() and database in clean.databases()[0]
    page.get_by_role("link", name="What is left of it").click()
    expect(page.get_by_text("It was taken down, and can be brought back")).to_be_visible()
    console.button("Bring it back").click()
    expect(box).to_contain_text("Nothing that stands there is overwritten")
    box.get_by_role("button", name="Bring it back").click()
    expect(page.get_by_text("It stands again.")).to_be_visible()
    assert (clean.root("ferry") / "diary" / "pier.txt").read_text() == "a photograph"
    page.get_by_role("link", name="What was seen").click()
    console.button("Undo it").click()
    expect(box.get_by_role("alert")).to_contain_text("pier.txt")
    box.get_by_role("button", name="Take it down, keep its data").click()
    box.get_by_role("button", name="Undo it").click()
    expect(page.get_by_text("It is taken back.")).to_be_visible()
    page.get_by_role("link", name="What is left of it").click()
    console.button("Remove what is kept").click()
    expect(box).to_contain_text(f"drop the database {database}")
    box.get_by_role("button", name="Remove it").click()
    expect(page.get_by_text("It is removed.")).to_be_visible()
    assert clean.databases() == ([], []) and clean.leftovers() == []
    assert console.faults == []
