"""The practice host's panel without its primer: read page by page, by the service's own commands."""

from __future__ import annotations

from pathlib import Path

import pytest
from pydantic import SecretStr

from highshelf.practice.seedledger.build import build_archive
from highshelf.schemas.models import AccountChange
from tests.hosts.test_install import panel_line
from tests.support import Hosting, Service


@pytest.fixture
def undescribed(clean: Hosting, service: Service) -> Service:
    """An account whose panel no primer is used for."""
    service.client.account_add(clean.new_account("choir", panel_primer="read"))
    return service


def test_the_check_says_what_a_job_would_do_there_and_changes_nothing(clean: Hosting, undescribed: Service) -> None:
    before = clean.databases()
    told = panel_line(undescribed.client.account_check("choir"))
    assert "read page by page" in told and "Name of the database" in told and "Create the database" in told, told
    assert "Name of the user" in told and clean.password("choir") not in told
    assert clean.databases() == before


def test_a_plan_shows_each_step_in_the_panel(clean: Hosting, undescribed: Service, tidebook: Path) -> None:
    release = undescribed.client.release_check_in(tidebook)
    told = undescribed.cli("plan", release.sha256[:12], "choir")
    assert told.returncode == 0 and "Create the database" in told.stdout, told.stdout + told.stderr
    assert clean.leftovers() == []


def test_an_install_makes_its_database_by_reading_and_takes_it_away_again(
    clean: Hosting, undescribed: Service, tidebook: Path
) -> None:
    before = clean.databases()
    release = undescribed.client.release_check_in(tidebook)
    job = undescribed.install(release.sha256, "choir")
    log = [e.text for e in undescribed.client.job_log(job.id).items]
    assert job.state == "done", (job.error, log)
    number = clean.customer("choir")["number"]
    new = [d for d in clean.databases()[0] if d not in before[0]]
    assert len(new) == 1 and new[0].endswith(f"-{number}"), new
    assert any(t.startswith("panel: ") and "Attach" in t for t in log), log
    made = undescribed.installed(job)
    assert made.database == new[0]
    undone = undescribed.cli("installation", "undo", made.id, "--yes")
    assert undone.returncode == 0, undone.stdout + undone.stderr
    assert clean.databases() == before and clean.leftovers() == []


def test_a_database_of_postgresql_is_made_by_reading_where_the_primer_says_nothing_of_it(
    clean: Hosting, service: Service, tmp_path: Path
) -> None:
    service.client.account_add(clean.new_account("choir"))
    assert service.client.account_check("choir").state == "done"
    before = clean.postgresql_databases()
    release = service.client.release_check_in(build_archive(tmp_path))
    told = service.cli("plan", release.sha256[:12], "choir", "--database", "postgresql", "--at", "/ledger")
    assert "Create both" in told.stdout, told.stdout
    job = service.install(release.sha256, "choir", "/ledger", database="postgresql")
    assert job.state == "done", job.error
    [new] = [d for d in clean.postgresql_databases() if d not in before]
    tables = clean.pg("SELECT tablename FROM pg_tables WHERE schemaname = 'public'", new)
    assert len(tables) == 5, tables
    made = service.installed(job)
    assert made.database == new
    undone = service.cli("installation", "undo", made.id, "--yes")
    assert undone.returncode == 0, undone.stdout + undone.stderr
    assert clean.postgresql_databases() == before and clean.leftovers() == []


def test_where_reading_stops_a_person_is_asked(clean: Hosting, undescribed: Service, tidebook: Path) -> None:
    """A panel without any page about databases: here, one of the sites themselves."""
    site = clean.customer("seeds")["address"]
    undescribed.client.account_change(
        "choir", AccountChange(panel=site, panel_primer="read", panel_password="no-panel")
    )
    release = undescribed.client.release_check_in(tidebook)
    job = undescribed.install(release.sha256, "choir")
    assert job.state == "waiting" and job.question is not None, job.error
    assert job.question.value == "database.name"
    assert any("reading the panel came to nothing" in e.text for e in undescribed.client.job_log(job.id).items)
    undescribed.client.job_cancel(job.id)
    undescribed.wait(job.id, ("cancelled",))
    assert clean.leftovers() == []


def test_a_panel_that_no_primer_fits_says_that_it_can_be_read(clean: Hosting, service: Service) -> None:
    """The practice panel under a primer's words that are not its own is one that nobody described."""
    own = SecretStr(clean.password("ferry"))
    service.client.account_add(clean.new_account("ferry", panel_primer="", panel_password=own))
    primers = service.data / "primers"
    primers.mkdir(exist_ok=True)
    shown = service.cli("primer", "show", "saltmarsh").stdout
    (primers / "panel-saltmarsh.yaml").write_text(
        shown.replace('"Customer number", "Saltmarsh Web Co-op"', '"A panel of another make"')
    )
    told = panel_line(service.client.account_check("ferry"))
    assert "no primer fits" in told and "account change ferry --panel-primer read" in told, told
    assert "Create the database" in told and clean.password("ferry") not in told
    assert service.client.account_show("ferry").panel_primer == ""


def test_the_transfers_password_goes_to_no_door_that_nobody_described(clean: Hosting, service: Service) -> None:
    """A panel's address that is really a site's: its login page gets nothing before somebody says that pages are read."""
    site = clean.customer("seeds")["address"]
    service.client.account_add(clean.new_account("ferry", panel=site, panel_primer=""))
    told = panel_line(service.client.account_check("ferry"))
    assert "no primer fits" in told and "--panel-primer read" in told and "For a database a job would" not in told, told
