"""A login that everybody knows, and an application that wants another password at once: it gets one, and nothing else is pressed inside."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path
from typing import Any

import pytest

from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.prove.forced import answer, wants_new
from highshelf.schemas.models import PlanNew
from tests.support import Hosting, Service

GATE = r"""<?php
session_start();
$file = __DIR__ . '/data/gate.json';
function page($title, $main) { echo "<!doctype html><html lang=en><head><title>$title</title></head><body><h1>$title</h1>$main</body></html>"; exit; }
if (!is_file($file)) { header('Location: setup.php'); exit; }
$gate = json_decode(file_get_contents($file), true);
$asked = $_GET['do'] ?? '';
if ($asked === 'login' && isset($_POST['who'])) {
    if ($_POST['who'] === 'keeper' && password_verify($_POST['word'], $gate['hash'])) { session_regenerate_id(true); $_SESSION['in'] = true; header('Location: index.php?do=office'); exit; }
    $no = '<p class=error>That is not right.</p>';
}
if ($asked === 'login') { page('Sign in', ($no ?? '') . '<form method=post action="index.php?do=login"><label>Name <input name=who></label><label>Password <input type=password name=word></label><button>Sign in</button></form>'); }
if (in_array($asked, ['office', 'change', 'raise'])) {
    if (empty($_SESSION['in'])) { header('Location: index.php?do=login'); exit; }
    if ($asked === 'raise') { $gate['raised'] = true; file_put_contents($file, json_encode($gate)); }
    if ($asked === 'change' && isset($_POST['fresh'])) {
        if (!password_verify($_POST['present'] ?? 'keeper', $gate['hash'])) { $bad = 'The current password is wrong.'; }
        elseif ($_POST['fresh'] !== ($_POST['fresh2'] ?? $_POST['fresh'])) { $bad = 'These two are not the same.'; }
        elseif (strlen($_POST['fresh']) < MOST_LEAST) { $bad = 'Error: the password ' . $_POST['fresh'] . ' is too short.'; }
        else { $gate['hash'] = password_hash($_POST['fresh'], PASSWORD_DEFAULT); $gate['changed'] = true; file_put_contents($file, json_encode($gate)); header('Location: index.php?do=office'); exit; }
    }
    if (FORCES && empty($gate['changed'])) { page('Choose a new password', '<p>' . ($bad ?? 'Before you go on, the password of the keeper has to be changed.') . '</p><form method=post action="index.php?do=change">FIELDS<button name=later value=1 disabled>Later</button><button>Change it</button></form><p><a href="index.php?do=out">Sign out</a></p>'); }
    page('Office', '<p>The gate is shut. <a href="index.php?do=raise">Raise the gate</a> <a href="index.php?do=out">Sign out</a></p>' . (FORCES ? '' : '<form method=post action="index.php?do=change">FIELDS<button>Change my password</button></form><form method=post action="index.php?do=raise"><label>By how much <input name=much></label><button>Raise</button></form>'));
}
page($gate['title'], '<p>The gatehouse. <a href="index.php?do=login">Sign in</a></p>');
"""
SETUP = r"""<?php
if (!empty($_POST['title'])) {
    file_put_contents(__DIR__ . '/data/gate.json', json_encode(['title' => $_POST['title'], 'hash' => password_hash('keeper', PASSWORD_DEFAULT)]));
    exit('<!doctype html><title>Gatehouse is installed</title><h1>Gatehouse is installed</h1><p>The installation is complete. Sign in as <b>keeper</b> with the password <b>keeper</b>.</p><p><a href="index.php">Open the gatehouse</a></p>');
}
if (is_file(__DIR__ . '/data/gate.json')) { http_response_code(403); exit('Gatehouse is installed already.'); }
echo '<!doctype html><title>Install Gatehouse</title><h1>Install Gatehouse</h1><form method=post><label>Site title <input name=title required></label><button>Install</button></form>';
"""
THREE = "<label>Current password <input type=password name=present></label><label>New password <input type=password name=fresh></label><label>New password again <input type=password name=fresh2></label>"
TWO = "<label>New password <input type=password name=fresh></label><label>Once more <input type=password name=fresh2></label>"


def gatehouse(folder: Path, fields: str, *, forces: bool = True, least: int = 8) -> Path:
    path = folder / "gatehouse-1.0.zip"
    code = (
        GATE.replace("FIELDS", fields)
        .replace("FORCES", "true" if forces else "false")
        .replace("MOST_LEAST", str(least))
    )
    with zipfile.ZipFile(path, "w") as box:
        for name, text in {"index.php": code, "setup.php": SETUP, "data/index.html": ""}.items():
            box.writestr(f"gatehouse-1.0/{name}", text)
    return path


# A place of its own for each: PHP's cache may hold the code of what stood there a moment ago.
def install(service: Service, archive: Path, at: str) -> tuple[Any, dict[str, Any], list[str]]:
    with service.client as client:
        made = client.release_check_in(archive)
        plan = client.plan_make(PlanNew(account="choir", release=made.sha256, at=at, database="none"))
        job = service.wait(client.job_start(plan.id).id)
        told = [e.text for e in client.job_log(job.id).items]
        assert job.state == "done", "\n".join([str(job.error), *told])
        return (
            client.installation_show(job.installation),
            client.installation_reveal(job.installation, "all").secrets,
            told,
        )


@pytest.mark.parametrize("fields", [THREE, TWO], ids=["with the current one", "the new one twice"])
def test_the_password_is_changed_where_nobody_gets_on_without(
    clean: Hosting, service: Service, tmp_path: Path, fields: str
) -> None:
    service.client.account_add(clean.new_account("choir"))
    made, secrets, told = install(service, gatehouse(tmp_path, fields), f"/gate{len(fields)}")
    assert made.admin_name == "keeper" and secrets["application"] not in ("", "keeper")
    assert any("one of the job's own now" in t for t in told), told
    assert any("administrator keeper signed in" in t for t in told), told
    gate = json.loads((clean.root("choir") / f"gate{len(fields)}/data/gate.json").read_text())
    assert gate["changed"] is True and "raised" not in gate


def test_what_is_only_offered_is_left_alone(clean: Hosting, service: Service, tmp_path: Path) -> None:
    service.client.account_add(clean.new_account("choir"))
    made, secrets, _ = install(service, gatehouse(tmp_path, THREE, forces=False), "/offers")
    assert secrets["application"] == "keeper" and made.facts["published_login"] is True
    gate = json.loads((clean.root("choir") / "offers/data/gate.json").read_text())
    assert "changed" not in gate and "raised" not in gate


def test_a_new_password_that_is_refused_is_told(clean: Hosting, service: Service, tmp_path: Path) -> None:
    service.client.account_add(clean.new_account("choir"))
    _, secrets, told = install(service, gatehouse(tmp_path, TWO, least=300), "/strict")
    assert any("did not take ours" in t and "the password ••• is too short" in t for t in told), told[-16:]
    assert secrets["application"] == "keeper"


def page(body: str) -> Any:
    return read(Snapshot("http://gate.saltmarsh.example/in", 200, f"<html><body>{body}</body></html>"))


WANTS = {
    "German": ("<h1>Passwort ändern</h1><form method=post><label>Bisheriges Passwort<input type=password name=a></label><label>Neues Passwort<input type=password name=b></label><label>Wiederholung<input type=password name=c></label><button>Speichern</button></form>", ("a",), ("b", "c")),
    "what browsers are told": ("<h1>Hei</h1><form method=post><input type=password autocomplete=current-password name=x><input type=password autocomplete=new-password name=y><input type=password autocomplete=new-password name=z><button>OK</button></form>", ("x",), ("y", "z")),
    "once": ("<h1>Choisissez un mot de passe</h1><form method=post><input type=password name=mdp placeholder='Nouveau mot de passe'><button>Valider</button></form>", (), ("mdp",)),
    "names": ("<form method=post><input type=password name=old_password><input type=password name=new_password><input type=password name=new_password2><input type=submit></form>", ("old_password",), ("new_password", "new_password2")),
    "three without a word": ("<form method=post><input type=password name=p1><input type=password name=p2><input type=password name=p3><button>Tovább</button></form>", ("p1",), ("p2", "p3")),
    "the name stands there": ("<h1>New password</h1><form method=post><input name=login value=keeper><input type=password name=p1><input type=password name=p2><button>Go on</button></form>", (), ("p1", "p2")),
}  # fmt: skip
LEAVES = {
    "a login": "<h1>Sign in</h1><form method=post><input name=u><input type=password name=p><button>Sign in</button></form>",
    "a single password without a word": "<h1>Safe</h1><form method=post><input type=password name=p><button>Open</button></form>",
    "a user to be made": "<h1>New user</h1><form method=post><input name=n><input type=password name=p><input type=password name=q><button>Create</button></form>",
    "two forms": "<h1>Settings</h1><form method=post><input name=title><button>Save</button></form><form method=post><input type=password name=p><input type=password name=q><button>Change password</button></form>",
    "nothing": "<h1>Office</h1><p>Welcome.</p>",
}


@pytest.mark.parametrize("name", WANTS)
def test_a_page_that_wants_a_new_password_is_known(name: str) -> None:
    body, current, new = WANTS[name]
    wanted = wants_new(page(body))
    assert wanted is not None and (wanted.current, wanted.new) == (current, new)
    sent = dict(answer(wanted, "old", "fresh"))
    assert {sent[n] for n in new} == {"fresh"} and {sent[n] for n in current} <= {"old"}


@pytest.mark.parametrize("name", LEAVES)
def test_a_page_that_wants_none_is_left_alone(name: str) -> None:
    assert wants_new(page(LEAVES[name])) is None
