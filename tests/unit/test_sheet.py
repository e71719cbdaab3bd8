"""The handover sheet in its forms: nothing is shown that was not asked for, and whatever a password holds is read back as it is."""

from __future__ import annotations

import json

import pytest
from markdown_it import MarkdownIt

from highshelf.service.sheet import as_json, as_markdown, render_sheet, sheet_facts
from highshelf.store.tables import AccountRow, InstallationRow

HOSTILE = "a`b``c<i>*_[x](y)|\\~#"
SECRETS = {"hosting": "Ebb-hosting-77", "database": "Ebb-database-77", "application": HOSTILE, "once-1": "Ebb-once-77"}


@pytest.fixture
def row() -> InstallationRow:
    acts = [
        {"leg": "prove", "act": "front", "told": "front page answers 200"},
        {"leg": "prove", "act": "stand", "told": "written down how 400 files stand"},
        {"leg": "tidy", "act": "clear", "told": "nothing of ours is left"},
    ]
    return InstallationRow(
        id="abc123",
        job_id="j",
        account="ferry",
        release="00ff",
        application="tidebook",
        version="1.4.2",
        address="http://ferry.saltmarsh.example/",
        login_address="http://ferry.saltmarsh.example/staff/",
        target="www",
        admin_name="warden*41*",
        database="tide-1",
        database_user="tide-u",
        facts={
            "title": "<b>Ferry</b> # _museum_",
            "acts": acts,
            "once": {"1": "Recovery code"},
            "database_host": "localhost",
        },
    )


@pytest.fixture
def account() -> AccountRow:
    return AccountRow(
        name="ferry",
        title="Ferry Museum",
        root="www",
        address="http://ferry.saltmarsh.example/",
        transfer_kind="sftp",
        transfer_host="files.saltmarsh.example",
        transfer_port=22,
        transfer_login="sm20417",
        panel="https://panel.saltmarsh.example/",
        panel_login="20417",
    )


def forms(row: InstallationRow, account: AccountRow, secrets: dict[str, str], *, customer: bool) -> dict[str, str]:
    facts = sheet_facts(row, account, secrets, customer=customer)
    html = render_sheet(row, account, secrets, customer=customer)
    return {"html": html, "markdown": as_markdown(facts), "json": as_json(facts)}


@pytest.mark.parametrize("customer", [False, True])
def test_without_a_word_no_form_has_a_password(row: InstallationRow, account: AccountRow, customer: bool) -> None:
    for form, text in forms(row, account, {}, customer=customer).items():
        assert not any(secret in text for secret in SECRETS.values()), form
        assert "front page answers 200" in text and "400 files" not in text, form


def test_the_customers_part_has_nothing_of_the_hosting_account(row: InstallationRow, account: AccountRow) -> None:
    known = {name: word for name, word in SECRETS.items() if name != "hosting"}
    for form, text in forms(row, account, known, customer=True).items():
        for word in ("sm20417", "files.saltmarsh", "panel.saltmarsh", "20417", "Ebb-hosting"):
            assert word not in text, (form, word)
        assert "Ebb-database-77" in text and "Ebb-once-77" in text, form


def test_a_hostile_password_is_read_back_as_it_is(row: InstallationRow, account: AccountRow) -> None:
    found = forms(row, account, SECRETS, customer=False)
    assert json.loads(found["json"])["application_login"] == {"administrator": "warden*41*", "password": HOSTILE}
    tokens = MarkdownIt().parse(found["markdown"])
    spans = [child.content for token in tokens for child in token.children or [] if child.type == "code_inline"]
    assert HOSTILE in spans and "warden*41*" in spans and set(SECRETS.values()) <= set(spans)
    heading = tokens[1]
    assert "".join(child.content for child in heading.children or []) == "<b>Ferry</b> # _museum_"
    assert not any(child.type in ("html_inline", "link_open", "em_open") for t in tokens for child in t.children or [])
