"""From a host's letter to a checked account, without anything typed."""

from __future__ import annotations

from pathlib import Path

import pytest

from highshelf.client import ServiceError
from highshelf.practice.layout import CUSTOMERS
from tests.support import Hosting, Service


@pytest.mark.parametrize("key", [c.key for c in CUSTOMERS])
def test_the_practice_hosts_letters_make_accounts_that_work(clean: Hosting, service: Service, key: str) -> None:
    path = clean.customer(key)["letter"]
    shown = service.cli("account", "letter", path)
    assert shown.returncode == 0 and clean.password(key) not in shown.stdout
    assert "•" in shown.stdout and "Control panel:" in shown.stdout
    assert service.cli_json("account", "list")["total"] == 0, "reading keeps nothing"
    assert service.cli("account", "letter", path, "--keep", key).returncode == 0
    checked = service.cli_json("account", "check", key)
    assert checked["state"] == "done", checked["fault"]
    kept, customer = service.client.account_show(key), clean.customer(key)
    assert (kept.transfer, kept.title, kept.root) == (customer["transfer"], customer["title"], customer["root"])
    lines = {line["topic"]: line for line in checked["lines"]}
    assert "proven" in lines["site.root"]["how"] and "signed in" in lines["panel.login"]["text"]


def test_a_letter_is_never_kept_unconfirmed(service: Service, clean: Hosting, tmp_path: Path) -> None:
    text = Path(clean.customer("choir")["letter"]).read_text()
    with service.client as client:
        found = client.account_letter(text)
    assert found.account.password == clean.password("choir") and found.missing == []
    assert {s.name: s.line for s in found.found}["transfer.password"] == 9
    everything = b"".join(p.read_bytes() for p in service.data.glob("*.sqlite*"))
    assert clean.password("choir").encode() not in everything
    assert clean.password("choir") not in service.log.read_text()


def test_what_a_letter_lacks_is_told(service: Service, tmp_path: Path) -> None:
    letter = tmp_path / "letter.txt"
    letter.write_text("FTP server: ftp.saltmarsh.example\nUser: yard\n")
    shown = service.cli("account", "letter", str(letter))
    assert "does not say the password, the site's address" in shown.stdout
    refused = service.cli("account", "letter", str(letter), "--keep", "yard")
    assert refused.returncode == 2 and "does not say the password" in refused.stderr
    assert service.cli("account", "letter", str(tmp_path / "none.txt")).returncode == 2
    piped = service.cli("account", "letter", text="Server: ftp.saltmarsh.example\nUser: a\nPassword: Tide9\n")
    assert "ftp.saltmarsh.example" in piped.stdout and "Tide9" not in piped.stdout
    with service.client as client:
        for text in ("", "The harbour is closed.", "x" * 200_001):
            with pytest.raises(ServiceError) as caught:
                client.account_letter(text)
            assert caught.value.status == 422 and caught.value.fault.hint
