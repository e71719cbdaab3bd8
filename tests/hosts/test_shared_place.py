"""What stood at the place before, and stayed, is no business of what is shut there: neither its files nor its rules."""

from __future__ import annotations

import zipfile
from pathlib import Path

import httpx

from highshelf.core.tidy.shutting import HEAD
from tests.support import Hosting, Service

DUMP = "-- of another application\nCREATE TABLE visitors (id INT);\n"


def test_what_is_somebody_elses_is_neither_shut_nor_ruled(
    clean: Hosting, service: Service, tidebook: Path, tmp_path: Path
) -> None:
    root = clean.root("ferry")
    service.client.account_add(clean.new_account("ferry"))
    service.client.release_check_in(tidebook)
    (root / "index.html").unlink(missing_ok=True)
    (root / "visitors").mkdir()
    (root / "visitors/backup.sql").write_text(DUMP)
    (root / "old.sql").write_text(DUMP)
    clean.own("ferry")
    before = clean.picture("ferry")
    found = service.installed(service.install("tidebook", "ferry", "/", if_there="beside"))
    base = found.address
    assert httpx.get(base + "old.sql").text == DUMP and httpx.get(base + "visitors/backup.sql").text == DUMP
    told = next(a["told"] for a in found.facts["acts"] if a["act"] == "shut-away")
    assert "old.sql" not in told and "backup.sql" not in told and "still fetched by anybody: README.txt" in told
    assert found.facts["shown"] == ["README.txt"]
    assert HEAD.strip() not in (root / ".htaccess").read_text()
    service.cli("installation", "sheet", found.id, "--to", str(tmp_path / "sheet.md"))
    assert "Anybody can fetch README.txt" in (tmp_path / "sheet.md").read_text()
    with service.client as client:
        undone = service.wait(client.job_start(client.installation_undo(found.id).id).id)
    assert undone.state == "done" and clean.picture("ferry") == before


def test_a_rule_that_does_nothing_is_taken_out_again(clean: Hosting, service: Service, tidebook: Path) -> None:
    """The web server of this customer looks at no `.htaccess`."""
    service.client.account_add(clean.new_account("birds"))
    assert service.client.account_check("birds").state == "done"
    service.client.release_check_in(tidebook)
    found = service.installed(service.install("tidebook", "birds", "/diary"))
    told = next(a["told"] for a in found.facts["acts"] if a["act"] == "shut-away")
    assert "still fetched by anybody" in told and "shut to visitors" not in told
    assert "README.txt" in found.facts["shown"]
    with zipfile.ZipFile(tidebook) as box:
        rules = next(box.read(n) for n in box.namelist() if n.count("/") == 1 and n.endswith("/.htaccess"))
    assert (clean.root("birds") / "diary/.htaccess").read_bytes() == rules
