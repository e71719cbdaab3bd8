"""Each fault ends with one clear error that names the thing and what to do, and leaves the account as it was."""

from __future__ import annotations

import zipfile
from pathlib import Path

import pytest
from pydantic import SecretStr

from highshelf.client import ServiceError
from highshelf.schemas.models import AccountChange, JobOut, PlanNew
from tests.support import Hosting, Service, free_port, until


@pytest.fixture
def ready(clean: Hosting, service: Service, tidebook: Path) -> Service:
    """A service with all three accounts, unchecked, and Tidebook on the shelf."""
    for key in ("ferry", "choir", "seeds"):
        service.client.account_add(clean.new_account(key))
    service.client.release_check_in(tidebook)
    return service


def refused(service: Service, account: str = "ferry", **plan: object) -> ServiceError:
    with pytest.raises(ServiceError) as caught:
        service.client.plan_make(PlanNew(account=account, release="tidebook", **plan))  # type: ignore[arg-type]
    assert caught.value.fault.hint
    return caught.value


@pytest.mark.parametrize("key", ["ferry", "choir", "seeds"])
def test_a_wrong_transfer_password(clean: Hosting, ready: Service, key: str) -> None:
    before = clean.picture(key)
    ready.client.account_change(key, AccountChange(password=SecretStr("wrong")))
    fault = refused(ready, key).fault
    assert fault.code == "login-refused"
    assert clean.customer(key)["login"] in fault.message and "password" in fault.hint
    assert clean.picture(key) == before


@pytest.mark.parametrize("key", ["ferry", "choir"])
def test_an_unreachable_host(clean: Hosting, ready: Service, key: str) -> None:
    port = free_port()
    address = clean.login(key).address.rsplit(":", 1)[0] + f":{port}"
    ready.client.account_change(key, AccountChange(transfer=address, password=SecretStr(clean.password(key))))
    fault = refused(ready, key).fault
    assert fault.code == "unreachable" and str(port) in fault.message and fault.retryable


@pytest.mark.parametrize("key", ["ferry", "choir"])
def test_a_changed_host_key(clean: Hosting, ready: Service, key: str) -> None:
    before = clean.picture(key)
    ready.client.account_check(key)
    pinned = ready.client.account_show(key).fingerprint
    with ready_store(ready) as change:
        change(key, "SHA256:not-what-it-shows")
    ready.start()
    fault = refused(ready, key).fault
    assert fault.code == "fingerprint-changed"
    assert "SHA256:not-what-it-shows" in fault.message and pinned in fault.message and "--accept-identity" in fault.hint
    assert clean.picture(key) == before
    survey = ready.client.account_check(key)
    assert survey.fault is not None and survey.fault.code == "fingerprint-changed" and pinned in survey.fault.message
    assert ready.client.account_check(key, accept_identity=True).state == "done"
    assert ready.client.account_show(key).fingerprint == pinned
    ready.client.plan_make(PlanNew(account=key, release="tidebook"))


class ready_store:
    """The stopped service's database, to pin another fingerprint in."""

    def __init__(self, service: Service) -> None:
        self.service = service

    def __enter__(self):  # type: ignore[no-untyped-def]
        import sqlite3

        self.service.stop()
        self.db = sqlite3.connect(self.service.data / "highshelf.sqlite")
        return lambda name, text: self.db.execute("UPDATE account SET fingerprint = ? WHERE name = ?", (text, name))

    def __exit__(self, *_: object) -> None:
        self.db.commit()
        self.db.close()


def test_another_application_at_the_target(clean: Hosting, ready: Service) -> None:
    (clean.root("ferry") / "index.php").write_text("<?php echo 'the old diary';")
    before = clean.picture("ferry")
    fault = refused(ready).fault
    assert fault.code == "target"
    assert "another application" in fault.message and "index.php" in fault.message and "another place" in fault.hint
    done = ready.cli("install", "tidebook", "ferry")
    assert done.returncode == 1 and "index.php" in done.stderr
    assert clean.picture("ferry") == before


def test_something_that_appears_between_plan_and_job(clean: Hosting, ready: Service) -> None:
    plan = ready.client.plan_make(PlanNew(account="ferry", release="tidebook"))
    (clean.root("ferry") / "wedding.jpg").write_bytes(b"irreplaceable")
    before = clean.picture("ferry")
    job = ready.wait(ready.client.job_start(plan.id).id)
    assert_taken_back(ready, job, "target", "wedding.jpg")
    assert clean.picture("ferry") == before


def assert_taken_back(service: Service, job: JobOut, code: str, part: str) -> None:
    assert job.state == "failed" and job.error is not None
    assert job.error["code"] == code, job.error
    assert part in job.error["message"] and job.error["hint"]
    assert not [a for a in job.acts if a.state not in ("undone",)]
    assert job.outstanding == []
    assert len([e for e in service.client.job_log(job.id).items if e.kind == "error"]) == 1


def test_a_database_name_already_taken(clean: Hosting, ready: Service) -> None:
    clean.sql("CREATE DATABASE `diary-20417`")
    before = clean.picture("ferry")
    job = ready.install("tidebook", "ferry", settings={"database.name": "diary"})
    assert_taken_back(ready, job, "conflict", "diary-20417")
    assert clean.picture("ferry") == before


@pytest.mark.parametrize("key", ["ferry", "seeds", "choir"])
def test_a_panel_that_refuses(clean: Hosting, ready: Service, key: str) -> None:
    number = clean.customer(key)["number"]
    for n in range(12):
        clean.sql(f"CREATE DATABASE `full{n}-{number}`")
    before = clean.picture(key)
    job = ready.install("tidebook", key)
    assert_taken_back(ready, job, "panel", "allows 12 databases")
    assert clean.picture(key) == before
    assert clean.leftovers() == []


def test_a_panel_password_that_is_wrong(clean: Hosting, ready: Service) -> None:
    ready.client.account_change("ferry", AccountChange(panel_password=SecretStr("wrong")))
    before = clean.picture("ferry")
    job = ready.install("tidebook", "ferry")
    assert_taken_back(ready, job, "panel", "do not belong together")
    assert clean.picture("ferry") == before


def test_an_archive_that_is_not_one(ready: Service, tmp_path: Path) -> None:
    page = tmp_path / "release.zip"
    page.write_text("<html>please register to download</html>")
    done = ready.cli("release", "check-in", str(page))
    assert done.returncode == 1 and "release.zip is not an archive" in done.stderr and "tar.xz" in done.stderr
    assert len(ready.client.release_list().items) == 1
    assert not list((ready.data / "shelf").glob("draft-*"))


def broken_release(tmp_path: Path, name: str, page: str) -> Path:
    """An application whose installer does what the page says."""
    path = tmp_path / f"{name}-1.0.zip"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr(f"{name}-1.0/index.php", page)
        archive.writestr(f"{name}-1.0/lib/db.php", "<?php // new mysqli()")
    return path


@pytest.mark.parametrize(
    ("page", "code", "part"),
    [
        ("<?php no_such_function();", "walk", "status 500"),
        (
            "<?php if ($_SERVER['REQUEST_METHOD'] === 'POST') { touch('made.by.installer'); echo '<p class=error>The tide is wrong: invalid moon.</p>'; }"
            " ?><h1>Install</h1><form method=post><label>Site title <input name=t></label><button>Next</button></form>",
            "walk",
            "invalid moon",
        ),
        ("<h1>Welcome</h1><p>Nothing to do here.</p>", "walk", "no installer was found"),
    ],
    ids=["crashes", "complains", "has none"],
)
@pytest.mark.parametrize("key", ["ferry", "choir"])
def test_an_installer_that_cannot_be_got_through(
    clean: Hosting, ready: Service, tmp_path: Path, key: str, page: str, code: str, part: str
) -> None:
    ready.client.release_check_in(broken_release(tmp_path, "wreck", page))
    before = clean.picture(key)
    job = ready.install("wreck", key)
    assert_taken_back(ready, job, code, part)
    assert clean.picture(key) == before


def test_what_failed_can_be_kept_for_a_look(clean: Hosting, ready: Service, tmp_path: Path) -> None:
    ready.client.release_check_in(broken_release(tmp_path, "wreck", "<h1>Welcome</h1>"))
    done = ready.cli("install", "wreck", "ferry", "--keep")
    assert done.returncode == 1 and "left as it is" in done.stdout
    assert (clean.root("ferry") / "index.php").exists()


def test_a_cancelled_job_is_taken_back(clean: Hosting, ready: Service) -> None:
    before = clean.picture("ferry")
    plan = ready.client.plan_make(PlanNew(account="ferry", release="tidebook", settings={"site.title": "?"}))
    job = ready.client.job_start(plan.id)
    ready.wait(job.id, ("waiting",))
    # What was asked for was done.
    assert ready.cli("job", "cancel", job.id, "--yes").returncode == 0
    ended = ready.wait(job.id, ("cancelled",))
    assert ended.error is not None and ended.error["code"] == "cancelled"
    assert clean.picture("ferry") == before


def test_two_jobs_on_one_account_follow_each_other(clean: Hosting, ready: Service) -> None:
    client = ready.client
    plans = [client.plan_make(PlanNew(account="ferry", release="tidebook", at=at)) for at in ("/one", "/two")]
    jobs = [client.job_start(p.id) for p in plans]
    ended = [ready.wait(j.id, ("done", "failed")) for j in jobs]
    assert [e.state for e in ended] == ["done", "done"]
    spans = sorted((e.acts[0].started_at, e.finished_at) for e in ended if e.finished_at is not None)
    assert spans[1][0] >= spans[0][1], "they ran side by side"
    until(lambda: len(clean.databases()[0]) == 2, "each has a database of its own")
