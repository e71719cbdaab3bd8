"""Databases on an account's page: made, tried, filled from a file, copied, dropped; each a job that is followed on its page."""

from __future__ import annotations

import gzip
from pathlib import Path

from playwright.sync_api import expect

from tests.console.pages import Console
from tests.console.test_access import looked_at
from tests.support import Hosting, Service

DUMP = "CREATE TABLE berths (n INT PRIMARY KEY);\nINSERT INTO berths VALUES (1), (2), (3);\n"


def test_a_database_is_made_filled_copied_and_dropped(
    clean: Hosting, service: Service, console: Console, axe: str, tmp_path: Path
) -> None:
    page = console.page
    service.client.account_add(clean.new_account("choir"))
    console.become_first()
    console.open("/accounts/choir")
    part = page.get_by_role("region", name="Databases")
    expect(part.get_by_text("No database is known")).to_be_visible()
    assert looked_at(console, axe) == []
    part.get_by_role("button", name="Make a database").click()
    part.get_by_label("Name").fill("songs")
    assert looked_at(console, axe) == []
    part.get_by_role("button", name="Make it and prove it").click()
    expect(page.get_by_text("in the books as").first).to_be_visible()
    [known] = service.client.database_list("choir", ask=False).items
    assert known.name == f"songs-{clean.customer('choir')['number']}" and known.proven
    console.open("/accounts/choir")
    expect(part.get_by_text("made here")).to_be_visible()
    assert looked_at(console, axe) == []
    # Its password is not in the page before somebody asks.
    assert service.client.database_reveal("choir", known.name).secrets["database"] not in page.content()
    part.get_by_role("button", name=f"Show the password of {known.name}").click()
    expect(part.get_by_text(service.client.database_reveal("choir", known.name).secrets["database"])).to_be_visible()
    file = tmp_path / "berths.sql.gz"
    file.write_bytes(gzip.compress(DUMP.encode()))
    part.get_by_label(f"Fill {known.name} from a dump").set_input_files(file)
    expect(page.get_by_text("1 table with 3 rows")).to_be_visible()
    assert looked_at(console, axe) == []
    assert service.client.dump_list().total == 0
    console.open("/accounts/choir")
    part.get_by_role("button", name=f"Take a copy of {known.name}").click()
    expect(page.get_by_text("3 rows taken").first).to_be_visible()
    console.open("/accounts/choir")
    with page.expect_download() as came:
        part.get_by_role("link", name=f"{known.name}.sql.gz").click()
    assert b"`berths`" in gzip.decompress(Path(came.value.path()).read_bytes())
    part.get_by_role("button", name=f"Drop {known.name}").click()
    assert looked_at(console, axe) == []
    page.get_by_role("button", name="Drop it").click()
    expect(page.get_by_text("the panel lists it no more").first).to_be_visible()
    assert clean.databases() == ([], [])


def test_what_goes_wrong_is_told_where_it_was_asked_for(
    clean: Hosting, service: Service, console: Console, tmp_path: Path
) -> None:
    page = console.page
    service.client.account_add(clean.new_account("choir"))
    console.become_first()
    console.open("/accounts/choir")
    part = page.get_by_role("region", name="Databases")
    part.get_by_role("button", name="File the login").click()
    part.get_by_label("Name").fill("somebodys")
    part.get_by_label("User").fill("nobody")
    part.get_by_label("Password").fill("not-the-word-77")
    part.get_by_role("button", name="Try it and file it").click()
    expect(page.get_by_text("set a new password for nobody").first).to_be_visible()
    assert service.client.database_list("choir", ask=False).items == []
    assert "not-the-word-77" not in page.content()
