"""Applications that were never written for us, installed by the same commands on real servers."""

from __future__ import annotations

import re
import shutil
from pathlib import Path

import pytest

from highshelf.schemas.models import InstallationOut
from tests.releases.third_party import archive, extract
from tests.support import Hosting, Service

PRIMERS = Path(__file__).parent / "primers"


def installed(
    hosting: Hosting, service: Service, name: str, key: str, at: str, primer: str = ""
) -> tuple[InstallationOut, list[str]]:
    """Check in, install on the command line; the installation and what the walk did."""
    service.client.account_add(hosting.new_account(key))
    checked = service.cli_json("release", "check-in", str(archive(name)))
    if primer:
        (service.data / "primers").mkdir()
        # It is not named anywhere: the release's files fit it.
        shutil.copy(PRIMERS / f"{primer}.yaml", service.data / "primers")
    done = service.cli("install", checked["sha256"][:12], key, "--at", at)
    assert done.returncode == 0, done.stdout + done.stderr
    assert hosting.leftovers() == []
    pressed = re.findall(r"press (.+?) with", done.stdout) + re.findall(r"press ([^\n]+?)$", done.stdout, re.M)
    return service.client.installation_list().items[0], pressed


def test_shaarli_without_a_database_and_without_a_primer(clean: Hosting, service: Service) -> None:
    found, pressed = installed(clean, service, "shaarli", "seeds", "/links")
    assert "Install" in pressed
    assert found.database == "" and clean.databases() == ([], [])
    config = clean.root("seeds") / "links/data/config.json.php"
    assert found.admin_name in config.read_text()
    assert config.stat().st_mode & 0o777 == 0o600


@pytest.mark.parametrize("primer", ["", "ocsreports"])
def test_ocsinventory_reports_with_one_form_and_an_update_page(clean: Hosting, service: Service, primer: str) -> None:
    found, pressed = installed(clean, service, "ocsinventory-reports", "ferry", "/stock", primer)
    assert {"Send", "Perform the update"} <= set(pressed)
    assert clean.sql(f"SELECT tvalue FROM `{found.database}`.config WHERE name = 'GUI_VERSION'") == [["7069"]]
    password = service.client.installation_reveal(found.id, "application").secrets["application"]
    # Without a primer the published login stays, and the sheet says so; with it the login is the job's own.
    assert (password == "admin") is (not primer)
    assert found.facts["published_login"] is (not primer)
    assert ("has the login its maker publishes" in service.client.installation_sheet(found.id).decode()) is (not primer)
    assert not (clean.root("ferry") / "stock/install.php").exists()


def test_tt_rss_with_several_steps_at_one_address(clean: Hosting, service: Service) -> None:
    found, pressed = installed(clean, service, "tt-rss", "choir", "/news", "tt-rss")
    assert [p.split(" with")[0] for p in pressed if p.startswith(("Test", "Init", "Save"))] != []
    assert {"Initialize database", "Save configuration"} <= set(pressed)
    root = clean.root("choir") / "news"
    assert found.database in (root / "config.php").read_text()
    assert (root / "config.php").stat().st_mode & 0o777 == 0o600
    assert not (root / "install").exists()
    assert service.client.installation_reveal(found.id, "application").secrets["application"] != "password"


def test_tt_rss_that_may_not_write_has_its_configuration_put_there(
    clean: Hosting, service: Service, tmp_path: Path
) -> None:
    """The installer's folder check is made to say no, as on hosts where PHP runs as another user."""
    import tarfile

    tree = tmp_path / "tree"
    with tarfile.open(archive("tt-rss")) as tar:
        extract(tar, tree)
    page = next(tree.glob("*/install/index.php"))
    page.write_text(page.read_text().replace('is_writable("..")', "false"))
    changed = tmp_path / "tt-rss-1.0.tar.gz"
    with tarfile.open(changed, "w:gz") as tar:
        tar.add(page.parents[1], "tt-rss-1.0")
    service.client.account_add(clean.new_account("ferry"))
    service.client.release_check_in(changed)
    found = service.installed(service.install("tt-rss-1.0", "ferry", "/news"))
    log = [e.text for e in service.client.job_log(found.job).items]
    assert any("could not write config.php" in text for text in log)
    assert found.database in (clean.root("ferry") / "news/config.php").read_text()
