"""Whole jobs whose database is ordered at a counter that answers in JSON, chooses names, and takes its time; in bad weather too."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from highshelf.schemas.models import JobOut, PlanNew
from tests.support import Hosting, Service, until


def begun(service: Service, hosting: Hosting, archive: Path, key: str = "ferry") -> JobOut:
    found = hosting.customer(key)
    service.client.account_add(hosting.new_account(key, panel=found["counter"], panel_primer="counter"))
    with service.client as client:
        made = client.release_check_in(archive)
        plan = client.plan_make(PlanNew(account=key, release=made.sha256[:12], at="/here"))
        return client.job_start(plan.id)


def told(service: Service, job: JobOut) -> str:
    with service.client as client:
        return "\n".join(event.text for event in client.job_log(job.id).items)


# Nobody can look into yard's database from its host: PHP is another user there.
@pytest.mark.parametrize(("key", "seen"), [("ferry", True), ("yard", False)])
def test_a_release_is_installed_and_taken_back(
    clean: Hosting, service: Service, tidebook: Path, key: str, seen: bool
) -> None:
    before = clean.picture(key)
    job = service.wait(begun(service, clean, tidebook, key).id)
    assert job.state == "done", job.error
    (database,), (user,) = clean.databases()
    assert database.startswith(f"w{clean.customer(key)['number']}_") and user == database + "u"
    assert clean.sql(f"SHOW TABLES IN `{database}`")
    made = service.installed(job)
    with service.client as client:
        sheet = json.loads(client.installation_sheet(made.id, form="json"))
        plan = client.installation_undo(made.id, changed_too=not seen)
        back = service.wait(client.job_start(plan.id).id)
    assert sheet["database"]["server"] == f"127.0.0.1:{clean.layout.port('mariadb')}"
    assert (sheet["database"]["name"], sheet["database"]["user"]) == (database, user)
    assert back.state == "done", back.error
    if seen:
        assert clean.picture(key) == before
    else:
        # What could not be looked into is kept until somebody removes it.
        assert clean.databases() == ([database], [user])


def test_an_answer_that_got_lost_makes_no_second_database(clean: Hosting, service: Service, tidebook: Path) -> None:
    clean.counter_weather(lost=1, pages=1, good_for=6)
    job = service.wait(begun(service, clean, tidebook).id)
    assert job.state == "done", job.error
    databases, users = clean.databases()
    assert len(databases) == len(users) == 1
    assert "looking whether it was done" in told(service, job) and "it is made anew" in told(service, job)


def test_what_the_counter_declines_ends_the_job_in_its_words(clean: Hosting, service: Service, tidebook: Path) -> None:
    before = clean.picture("ferry")
    clean.counter_weather(declined="your contract has run out")
    job = service.wait(begun(service, clean, tidebook).id)
    assert job.state == "failed" and job.error is not None
    assert "your contract has run out" in job.error["message"]
    assert clean.picture("ferry") == before


def test_killed_while_an_order_is_at_work_one_database_stands_in_the_end(
    clean: Hosting, service: Service, tidebook: Path
) -> None:
    clean.counter_weather(looks=6)
    job = begun(service, clean, tidebook)
    until(lambda: "database" in told(service, job), "the order was never made")
    service.kill()
    service.start()
    ended = service.wait(job.id)
    assert ended.state == "done", ended.error
    assert [len(found) for found in clean.databases()] == [1, 1]


@pytest.mark.parametrize(("panel", "primer"), [("counter", "counter"), ("panel", "saltmarsh")])
def test_a_primer_is_tried_at_a_panel_without_changing_anything(
    clean: Hosting, service: Service, panel: str, primer: str
) -> None:
    found = clean.customer("ferry")
    service.client.account_add(clean.new_account("ferry", panel=found[panel], panel_primer=primer))
    before = clean.picture("ferry")
    tried = service.cli_json("primer", "try", "ferry")
    verdicts = {one["task"]: one["verdict"] for one in tried["tasks"]}
    assert {verdicts[t] for t in ("sign-in", "databases")} == {"works"} and "refused" not in verdicts.values()
    assert {verdicts[t] for t in ("create-database", "drop-database")} == {"described"}
    assert clean.picture("ferry") == before


def test_a_draft_of_a_primer_is_tried_before_it_is_kept(clean: Hosting, service: Service, tmp_path: Path) -> None:
    found = clean.customer("ferry")
    service.client.account_add(clean.new_account("ferry", panel=found["counter"], panel_primer=""))
    shipped = service.cli_json("primer", "show", "counter")["text"]
    draft = tmp_path / "draft.yaml"
    draft.write_text(shipped.replace("stores[].schema", "stores[].name").replace("GET /stores", "GET /shops"))
    asked = service.cli("primer", "try", "ferry", "--file", str(draft))
    assert asked.returncode == 1
    assert "databases" in asked.stdout and "refused" in asked.stdout and "GET /shops answers 404" in asked.stdout
    assert found["password"] not in asked.stdout
    draft.write_text(shipped.replace("{panel.password}", "wrong"))
    asked = service.cli("primer", "try", "ferry", "--file", str(draft))
    assert asked.returncode == 1 and "customer and word do not belong together" in asked.stdout
    without = service.cli("primer", "try", "ferry")
    assert without.returncode == 2 and "--file" in without.stderr


def test_a_store_that_stood_there_under_the_given_name_is_never_taken_for_ours(
    clean: Hosting, service: Service, tidebook: Path
) -> None:
    clean.sql("CREATE DATABASE `w20417_abcde` COMMENT 'tides'; CREATE TABLE `w20417_abcde`.kept (id INT)")
    found = clean.customer("ferry")
    service.client.account_add(clean.new_account("ferry", panel=found["counter"], panel_primer="counter"))
    with service.client as client:
        made = client.release_check_in(tidebook)
        settings = {"database.name": "tides"}
        plan = client.plan_make(PlanNew(account="ferry", release=made.sha256[:12], at="/here", settings=settings))
        job = service.wait(client.job_start(plan.id).id)
    assert job.state == "failed" and job.error is not None and "exists already" in job.error["message"]
    assert clean.sql("SHOW TABLES IN `w20417_abcde`") == [["kept"]]
