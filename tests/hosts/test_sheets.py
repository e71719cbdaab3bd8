"""The handover sheet in all its forms, from a real installation: on paper, sealed for somebody, as logins for a password manager."""

from __future__ import annotations

import csv
import io
import json
import re
from html import unescape
from pathlib import Path

import pypdf
import pytest
from pysequoia import Tsk, decrypt

from highshelf.client import ServiceError
from highshelf.schemas.models import InstallationOut, PlanNew
from tests.support import Hosting, Service

PHRASE = "heron tide plank seven"


@pytest.fixture
def standing(clean: Hosting, service: Service, tidebook: Path) -> InstallationOut:
    with service.client as client:
        client.account_add(clean.new_account("ferry"))
        client.release_check_in(tidebook)
        plan = client.plan_make(
            PlanNew(account="ferry", release="tidebook", at="/diary", settings={"site.title": "=Ferry & Co"})
        )
        return service.installed(service.wait(client.job_start(plan.id).id))


def secrets_of(service: Service, made: InstallationOut) -> dict[str, str]:
    with service.client as client:
        return {name: client.installation_reveal(made.id, name).secrets[name] for name in made.credentials}


def test_each_form_says_the_same_and_masks_what_was_not_asked_for(
    clean: Hosting, service: Service, standing: InstallationOut, tmp_path: Path
) -> None:
    secrets = secrets_of(service, standing)
    assert {"hosting", "database", "application"} <= set(secrets)
    for form in ("html", "pdf", "markdown", "json"):
        for reveal in (False, True):
            with service.client as client:
                content = client.installation_sheet(standing.id, form=form, reveal=reveal)
            text = content.decode() if form != "pdf" else on_paper(content, tmp_path)
            assert standing.admin_name in text and standing.address in text
            assert all((secret in text) is reveal for secret in secrets.values()), (form, reveal)


def on_paper(content: bytes, folder: Path) -> str:
    """What a reader of the file finds; on A4 and two pages at the most."""
    (folder / "sheet.pdf").write_bytes(content)
    found = pypdf.PdfReader(folder / "sheet.pdf")
    assert len(found.pages) <= 2
    box = found.pages[0].mediabox
    assert (round(float(box.width) / 72 * 25.4), round(float(box.height) / 72 * 25.4)) == (210, 297)
    return "".join("".join(page.extract_text() for page in found.pages).split("\n"))


def test_a_file_of_logins_has_a_line_for_each_and_none_without_the_word(
    service: Service, standing: InstallationOut
) -> None:
    secrets = secrets_of(service, standing)
    with service.client as client:
        with pytest.raises(ServiceError, match="nothing without its passwords"):
            client.installation_sheet(standing.id, form="logins")
        whole = client.installation_sheet(standing.id, form="logins", reveal=True)
        theirs = client.installation_sheet(standing.id, form="logins", reveal=True, customer=True)
    rows = list(csv.DictReader(io.StringIO(whole.decode())))
    kinds = [row["title"].rpartition(": ")[2] for row in rows]
    assert kinds[:4] == ["hosting", "control panel", "database", "application"] and len(kinds) == 5
    assert {row["password"] for row in rows} == set(secrets.values())
    assert rows[3]["name"] == standing.admin_name and rows[3]["address"] == standing.login_address
    # A title that begins like a formula is none when a table opens the file.
    assert all(row["title"].startswith("'=Ferry & Co") for row in rows)
    assert secrets["hosting"] not in theirs.decode() and secrets["application"] in theirs.decode()


def test_bookmarks_lead_to_each_side_and_hold_nothing_secret(service: Service, standing: InstallationOut) -> None:
    with service.client as client:
        ours = client.installation_sheet(standing.id, form="bookmarks", reveal=True).decode()
        theirs = client.installation_sheet(standing.id, form="bookmarks", customer=True).decode()
    assert not any(secret in ours for secret in secrets_of(service, standing).values())
    links = [unescape(one) for one in re.findall(r'<DT><A HREF="([^"]+)">', ours)]
    assert links[:2] == [standing.address, standing.login_address] and len(links) == 3
    # The panel is the host's: the customer's part has none of it.
    assert re.findall(r'<DT><A HREF="([^"]+)">', theirs) == re.findall(r'<DT><A HREF="([^"]+)">', ours)[:2]
    assert "=Ferry &amp; Co</A>" in ours


def test_a_sealed_sheet_opens_for_those_it_is_for_and_shows_nothing_to_others(
    service: Service, standing: InstallationOut, tmp_path: Path
) -> None:
    customer, other = (
        Tsk.generate("Ferry Museum <ferry@saltmarsh.example>"),
        Tsk.generate("Somebody <other@saltmarsh.example>"),
    )
    key, phrase = tmp_path / "ferry.asc", tmp_path / "phrase"
    key.write_text(str(customer.extract_certificate()))
    phrase.write_text(PHRASE + "\n")
    sheet = tmp_path / "sheet.json.asc"
    told = service.cli(
        "installation",
        "sheet",
        standing.id,
        "--to",
        str(sheet),
        "--reveal",
        "--passphrase-file",
        str(phrase),
        "--seal-for",
        str(key),
    )
    assert told.returncode == 0 and "sealed" in told.stdout and sheet.stat().st_mode & 0o777 == 0o600
    content = sheet.read_bytes()
    secrets = secrets_of(service, standing)
    assert content.startswith(b"-----BEGIN PGP MESSAGE-----")
    assert not any(secret.encode() in content for secret in secrets.values())
    opened = json.loads(decrypt(content, passwords=[PHRASE]).bytes)
    assert opened["application_login"]["password"] == secrets["application"]
    assert json.loads(decrypt(content, decryptor=customer.decryptor()).bytes) == opened
    for wrong in ({"passwords": ["heron tide plank eight"]}, {"decryptor": other.decryptor()}):
        with pytest.raises(Exception, match=r"(?i)decrypt|key|password"):
            decrypt(content, **wrong)


def test_what_cannot_be_sealed_is_said_and_nothing_is_written(
    service: Service, standing: InstallationOut, tmp_path: Path
) -> None:
    key, sheet = tmp_path / "key.asc", tmp_path / "sheet.pdf.asc"
    key.write_text("no key at all")
    told = service.cli("installation", "sheet", standing.id, "--to", str(sheet), "--seal-for", str(key))
    assert told.returncode != 0 and "key 1 is no OpenPGP public key" in told.stdout + told.stderr and not sheet.exists()
    with service.client as client, pytest.raises(ServiceError) as caught:
        client.installation_sheet(standing.id, passphrase="short")
    assert "12 characters or more" in str(caught.value)
    key.write_text("\n")
    empty = service.cli(
        "installation", "sheet", standing.id, "--to", str(sheet), "--reveal", "--passphrase-file", str(key)
    )
    assert empty.returncode == 2 and "no passphrase in" in empty.stdout + empty.stderr and not sheet.exists()
