"""The whole job on each customer of the practice host, driven through client, API and CLI."""

from __future__ import annotations

import re
import sqlite3
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest

from highshelf.core.prove.login import Door, sign_in
from highshelf.schemas.models import PlanNew
from highshelf.schemas.surveys import SurveyOut
from tests.support import Hosting, Service

HASHED = re.compile(r"[a-f0-9]{64}")


def signs_in(hosting: Hosting, key: str, url: str, name: str, password: str) -> bool:
    with hosting.fetch(key) as fetch:
        return sign_in(fetch, Door(url, ""), name, password).inside


@pytest.mark.parametrize(
    ("key", "at", "kind"),
    [("ferry", "/", ""), ("seeds", "/", ""), ("choir", "/visitors/diary", ""), ("choir", "/diary", "ftp")],
    ids=["ssh", "sftp-chroot", "ftps", "plain-ftp"],
)
def test_tidebook_is_installed_and_proven(
    clean: Hosting, service: Service, tidebook: Path, key: str, at: str, kind: str
) -> None:
    client = service.client
    login = clean.login(key)
    transfer = replace(login, kind="ftp").address if kind else login.address
    client.account_add(clean.new_account(key, transfer=transfer))
    assert client.account_check(key).state == "done"
    assert bool(client.account_show(key).fingerprint) is not bool(kind)
    release = client.release_check_in(tidebook)
    assert (release.name, release.version, release.wrapper) == ("tidebook", "1.4.2", "tidebook-1.4.2")
    before = clean.picture(key)
    job = service.install("tidebook", key, at)
    found = service.installed(job)

    # The printed address answers, the kept credentials sign in, a wrong password does not.
    secrets = client.installation_reveal(found.id).secrets
    assert signs_in(clean, key, found.login_address, found.admin_name, secrets["application"])
    assert not signs_in(clean, key, found.login_address, found.admin_name, secrets["application"] + "x")
    assert len(set(secrets.values())) == len(secrets) == 4
    assert re.fullmatch(r"(?:[0-9A-F]{4}-){3}[0-9A-F]{4}", secrets["once-1"])
    assert found.admin_name != "admin"

    # Every file of the release stands there with its hash, dotfiles too; the installer is gone; modes are tight.
    target = clean.root(key) / at.strip("/")
    after = clean.picture(key)["tree"]
    inside = str(target.relative_to(clean.home(key)))
    assert (target / "data" / ".htaccess").read_text() == "Require all denied\n"
    assert not (target / "install").exists()
    assert after[f"{inside}/settings.php"][0] == oct(0o100600)
    assert {mode for name, (mode, _, _) in after.items() if name.startswith(inside + "/tides")} == {
        oct(0o40755),
        oct(0o100644),
    }
    assert {owner for _, owner, _ in after.values()} <= {(target / "index.php").stat().st_uid, 0}

    # Nothing of ours is left, and everything outside the target is as it was.
    assert clean.leftovers() == []
    placeholder = f"{inside}/index.html"
    outside = {n: v for n, v in before["tree"].items() if n != placeholder and not f"{inside}/".startswith(n + "/")}
    assert {n: after[n] for n in outside} == outside
    assert len(clean.databases()[0]) == len(clean.databases()[1]) == 1


def test_the_command_line_does_the_whole_job(clean: Hosting, service: Service, tidebook: Path, tmp_path: Path) -> None:
    customer = clean.customer("ferry")
    empty = service.cli("account", "list")
    assert empty.returncode == 0 and "account add" in empty.stderr
    options = {
        "transfer": customer["transfer"],
        "root": "www",
        "address": customer["address"],
        "title": "Estuary Ferry Museum",
    }
    options |= {
        "panel": customer["panel"],
        "panel-login": customer["number"],
        "panel-primer": "saltmarsh",
        "email": "keeper@ferry.saltmarsh.example",
    }
    words = [w for name, value in options.items() for w in (f"--{name}", value)]
    added = service.cli("account", "add", "ferry", *words, "--password-file", "-", text=customer["password"])
    assert added.returncode == 0, added.stderr
    assert customer["password"] not in added.stdout
    assert "proven" in service.cli("account", "check", "ferry").stdout
    assert service.cli_json("release", "check-in", str(tidebook))["files"] == 392
    planned = service.cli("plan", "tidebook", "ferry", "--set", "site.title=Ferry Diary")
    assert "index.html steps aside" in planned.stdout and "by hand" in planned.stdout
    done = service.cli("install", "tidebook", "ferry", "--set", "site.title=Ferry Diary")
    assert done.returncode == 0, done.stdout
    for leg in ("survey", "place", "database", "configure", "walk", "tidy", "prove"):
        assert re.search(rf"✓ {leg}", done.stdout), leg
    number = service.cli_json("installation", "list")["items"][0]["id"]
    masked, open_sheet = tmp_path / "masked.html", tmp_path / "open.html"
    assert service.cli("installation", "sheet", number, "--to", str(masked)).returncode == 0
    assert service.cli("installation", "sheet", number, "--to", str(open_sheet), "--reveal").returncode == 0
    secrets = service.cli_json("installation", "reveal", number, "--yes")["secrets"]
    assert all(s in open_sheet.read_text() for s in secrets.values())
    assert not any(s in masked.read_text() for s in secrets.values())
    assert open_sheet.stat().st_mode & 0o777 == 0o600
    assert "Ferry Diary" in masked.read_text() and "Proven" in masked.read_text()
    assert service.cli_json("job", "list")["items"][0]["state"] == "done"


def test_a_question_waits_and_the_exit_code_says_so(clean: Hosting, service: Service, tidebook: Path) -> None:
    client = service.client
    client.account_add(clean.new_account("ferry"))
    client.release_check_in(tidebook)
    asked = service.cli("install", "tidebook", "ferry", "--set", "site.title=?")
    assert asked.returncode == 3, asked.stdout
    assert "Title of the diary" in asked.stdout
    job = client.job_list().items[0]
    assert job.state == "waiting" and job.question is not None
    answered = service.cli("job", "answer", job.id, "Tides & Ferries")
    assert answered.returncode == 0, answered.stdout
    again = service.cli("job", "answer", job.id, "x")
    assert again.returncode == 1 and "asks nothing" in again.stderr
    found = client.installation_list().items[0]
    assert found.facts["title"] == "Tides & Ferries"


def test_without_a_known_panel_the_database_is_asked_for(clean: Hosting, service: Service, tidebook: Path) -> None:
    client = service.client
    client.account_add(clean.new_account("choir", panel="", panel_login="", panel_primer=""))
    client.release_check_in(tidebook)
    clean.sql("CREATE DATABASE `by_hand-20533`; CREATE USER 'hand-20533'@'%' IDENTIFIED BY 'Chosen-by-hand-1'")
    clean.sql("GRANT ALL ON `by\\_hand-20533`.* TO 'hand-20533'@'%'")
    plan = service.cli("plan", "tidebook", "choir", "--at", "/diary")
    assert "make one by hand" in plan.stdout
    job = service.install("tidebook", "choir", "/diary")
    for answer in ("by_hand-20533", "hand-20533", "Chosen-by-hand-1"):
        assert job.state == "waiting" and job.question is not None
        client.job_answer(job.id, job.question.id, answer)
        job = service.wait(job.id)
    found = service.installed(job)
    assert found.database == "by_hand-20533"
    assert len(clean.sql("SHOW TABLES IN `by_hand-20533`")) == 3
    assert "Chosen-by-hand-1" not in "".join(e.text + str(e.data) for e in client.job_log(job.id).items)


def test_a_panel_is_recognised_by_its_front_page(clean: Hosting, service: Service) -> None:
    client = service.client
    client.account_add(clean.new_account("ferry", panel_primer=""))
    assert "primer saltmarsh" in panel_line(client.account_check("ferry"))
    assert client.account_show("ferry").panel_primer == "saltmarsh"
    client.account_add(clean.new_account("seeds", panel_primer="", panel=clean.customer("seeds")["address"]))
    assert "no primer fits" in panel_line(client.account_check("seeds"))


def panel_line(survey: SurveyOut) -> str:
    return next(line.text for line in survey.lines if line.topic == "panel.login")


def test_a_follower_sees_the_job_through_a_restart_of_the_service(
    clean: Hosting, service: Service, tidebook: Path
) -> None:
    client = service.client
    client.account_add(clean.new_account("ferry"))
    client.release_check_in(tidebook)
    plan = client.plan_make(PlanNew(account="ferry", release="tidebook"))
    job = client.job_start(plan.id)
    seen: list[int] = []
    restarted = False
    for event in client.job_events(job.id):
        seen.append(event.id)
        if event.leg == "configure" and event.kind == "act" and not restarted:
            restarted = True
            service.kill()
            service.start()
    assert restarted
    assert client.job_show(job.id).state == "done"
    assert seen == sorted(set(seen)) and seen == [e.id for e in client.job_log(job.id).items]


def test_no_secret_lies_open_anywhere(clean: Hosting, service: Service, tidebook: Path) -> None:
    client = service.client
    client.account_add(clean.new_account("choir"))
    client.account_check("choir")
    client.release_check_in(tidebook)
    job = service.install("tidebook", "choir", "/diary", settings={"admin.password": "Operator-chose-this-1"})
    found = service.installed(job)
    secrets = client.installation_reveal(found.id).secrets
    assert secrets["application"] == "Operator-chose-this-1"
    said = [e.text + str(e.data) for e in client.job_log(job.id).items]
    told = [m.model_dump_json() for m in (job, found, client.account_show("choir"), client.plan_show(job.plan))]
    told.append(client.installation_sheet(found.id).decode())
    service.stop()
    stored = [p for p in service.data.rglob("*") if p.is_file() and p.name not in ("archive",)] + [service.log]
    engine = engine_texts(service.data / "engine.sqlite")
    assert any("leg-step" in text or "leg" in text for text in engine)
    for name, secret in {**secrets, "panel": clean.password("choir")}.items():
        assert not [s for s in said + told + engine if secret in s], name
        assert not [p for p in stored if secret.encode() in p.read_bytes()], name
    reveals = sqlite3.connect(service.data / "highshelf.sqlite").execute("SELECT what, who FROM reveal").fetchall()
    assert (f"installation/{found.id}/application", "token") in reveals


def engine_texts(path: Path) -> list[str]:
    """Every text in the engine's tables, decoded where it is packed."""
    import base64
    import binascii

    connection = sqlite3.connect(path)
    found = []
    for (table,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall():
        for row in connection.execute(f'SELECT * FROM "{table}"'):
            for cell in row:
                text = cell.decode("latin-1") if isinstance(cell, bytes) else str(cell)
                found.append(text)
                try:
                    found.append(base64.b64decode(text, validate=True).decode("latin-1"))
                except (binascii.Error, ValueError):
                    continue
    return found


def test_the_data_folder_is_for_its_owner_alone(service: Service) -> None:
    assert service.data.stat().st_mode & 0o777 == 0o700
    for name in ("token", "strongbox.key", "highshelf.sqlite"):
        assert (service.data / name).stat().st_mode & 0o077 == 0, name


def test_the_service_keeps_to_loopback_unless_told(service: Service) -> None:
    refused = service.cli("serve", "--host", "0.0.0.0")
    assert refused.returncode == 2 and "loopback" in refused.stderr
    # proc(5), /proc/net/tcp: state 0A is listening, addresses are hexadecimal in host order.
    lines = [line.split() for line in Path("/proc/net/tcp").read_text().splitlines()[1:]]
    heard = {f[1].split(":")[0] for f in lines if f[3] == "0A" and int(f[1].split(":")[1], 16) == service.port}
    assert heard == {"0100007F"}


def test_what_the_installer_showed_is_kept_in_order_and_without_secrets(
    clean: Hosting, service: Service, tidebook: Path, tmp_path: Path
) -> None:
    client = service.client
    client.account_add(clean.new_account("ferry"))
    client.release_check_in(tidebook)
    job = service.install("tidebook", "ferry", "/diary")
    found = service.installed(job)
    seen = client.job_pages(job.id).items
    assert [p.number for p in seen] == list(range(len(seen))) and len(seen) >= 5
    assert [p.did for p in seen[:2]] == ["pressed Begin", "pressed Go on"]
    assert seen[-1].topic == "finished" and seen[-1].did.startswith("ended: the installer says that it is finished")
    assert "settings.php" in seen[-1].witness and "3 tables" in seen[-1].witness
    filled = {f.value for p in seen for f in p.filled}
    assert {"admin.name", "admin.password", "database.password", "site.title"} <= filled
    secrets = (
        client.installation_reveal(found.id, "application").secrets
        | client.installation_reveal(found.id, "database").secrets
    )
    whole = "".join(client.job_page(job.id, p.number).html for p in seen)
    packed = tmp_path / "ticket.zip"
    assert str(packed) in service.cli("job", "pages", job.id, "--zip", str(packed)).stdout
    with zipfile.ZipFile(packed) as archive:
        whole += "".join(archive.read(n).decode() for n in archive.namelist())
        assert sum(n.endswith(".move.json") for n in archive.namelist()) >= 5
    assert "Tidebook" in whole and not [s for s in secrets.values() if s in whole]
    told = service.cli("job", "pages", job.id).stdout
    assert "pressed Install Tidebook with" in " ".join(told.split()) and "finished" in told
    one = service.cli("job", "pages", job.id, "--page", "0").stdout
    assert "read as" in one and "Welcome to Tidebook" in one
    assert "<form" in service.cli("job", "pages", job.id, "--page", "0", "--html").stdout
    wrong = service.cli("job", "pages", job.id, "--page", "99")
    assert wrong.returncode == 2 and "there is no page 99" in wrong.stdout + wrong.stderr


def test_what_is_only_called_like_an_installer_stays(
    clean: Hosting, service: Service, tidebook: Path, tmp_path: Path
) -> None:
    """What was walked is the installer; a page of the finished application may bear the same name."""
    changed = tmp_path / "tidebook-1.4.3.zip"
    with zipfile.ZipFile(tidebook) as old, zipfile.ZipFile(changed, "w") as new:
        for name in old.namelist():
            new.writestr(name, old.read(name))
        page = "<?php if ($_POST) { die('kept'); } echo '<h1>Colours</h1><p>Choose how the diary looks.</p>';"
        new.writestr("tidebook-1.4.2/staff/setup.php", page)
    client = service.client
    client.account_add(clean.new_account("ferry"))
    assert client.release_check_in(changed).findings["installers"] == ["install/index.php", "staff/setup.php"]
    found = service.installed(service.install("tidebook", "ferry", "/diary"))
    assert not (clean.root("ferry") / "diary/install").exists()
    assert (clean.root("ferry") / "diary/staff/setup.php").exists()
    told = [e.text for e in client.job_log(found.job).items]
    assert any("staff/setup.php is called like one" in t for t in told), told
    acts = [a.name for a in client.job_show(found.job).acts if a.leg == "tidy"]
    assert acts.index("count-tables") < acts.index("installer-aside")
