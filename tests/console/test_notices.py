"""Who is told what happens, on the page of the operators: added, tried, silenced, removed."""

from __future__ import annotations

import re
import threading
from pathlib import Path

from playwright.sync_api import expect

from highshelf.practice.mailroom import Mailroom
from tests.console.pages import Console
from tests.console.test_access import looked_at
from tests.service.test_notices import Ear, letters
from tests.support import Service, free_port


def test_a_call_and_a_mailbox_are_added_and_tried(service: Service, console: Console, axe: str, tmp_path: Path) -> None:
    page = console.page
    console.become_first()
    console.open("/operators")
    part = page.get_by_role("region", name="Who is told what happens")
    expect(part.get_by_text("Nobody is told anything")).to_be_visible()
    with Ear() as ear, Mailroom("127.0.0.1", free_port(), tmp_path / "mail") as room:
        for server in (ear, room):
            threading.Thread(target=server.serve_forever, daemon=True).start()
        part.get_by_role("button", name="Have an address called").click()
        assert looked_at(console, axe) == []
        part.get_by_label("Address").fill("http://chat.saltmarsh.example/in")
        part.get_by_role("button", name="Add it").click()
        expect(part.get_by_text("unencrypted")).to_be_visible()
        part.get_by_label("Address").fill(ear.address)
        part.get_by_label("a job is done").check()
        part.get_by_role("button", name="Add it").click()
        expect(part.get_by_text("shown this once")).to_be_visible()
        [place] = service.client.notice_list().items
        assert place.what == ["question", "failed", "done", "wrong"]
        part.get_by_role("button", name="Try http").click()
        expect(part.get_by_text("A trial was taken.")).to_be_visible()
        assert len(ear.heard) == 1
        part.get_by_role("button", name="Have mail sent").click()
        for label, text in (("To", "keeper@saltmarsh.example"), ("From", "shelf@saltmarsh.example"), ("Mail server", "127.0.0.1"), ("Port", str(room.server_address[1]))):  # fmt: skip
            part.get_by_label(re.compile(rf"^{label}\b")).fill(text)
        part.get_by_label("Encryption").select_option("none")
        assert looked_at(console, axe) == []
        part.get_by_role("button", name="Add it").click()
        part.get_by_role("button", name="Try keeper@").click()
        expect(part.get_by_text("A trial was taken.")).to_be_visible()
        assert letters(room)[0]["Subject"] == "High Shelf: a trial"
        part.get_by_role("button", name="Silence: keeper@").click()
        expect(part.get_by_text("silent")).to_be_visible()
        part.get_by_role("button", name="Remove keeper@").click()
        page.get_by_role("button", name="Remove it").click()
        expect(part.get_by_text("keeper@saltmarsh.example", exact=True)).to_be_hidden()
        assert looked_at(console, axe) == []
        for running in (ear, room):
            running.shutdown()
    assert [p.kind for p in service.client.notice_list().items] == ["webhook"]
