"""Installers that choose the administrator's name themselves, or the password: both are read from their pages, proven, and kept."""

from __future__ import annotations

import zipfile
from pathlib import Path

import pytest

from highshelf.schemas.models import PlanNew
from tests.support import Hosting, Service

SITE = r"""<?php
session_start();
$file = __DIR__ . '/data/quay.json';
function page($title, $main) { echo "<!doctype html><html lang=en><head><title>$title</title></head><body><h1>$title</h1>$main</body></html>"; exit; }
if (!is_file($file)) { header('Location: setup.php'); exit; }
$quay = json_decode(file_get_contents($file), true);
$asked = $_GET['do'] ?? '';
if ($asked === 'login' && isset($_POST['who'])) {
    if ($_POST['who'] === $quay['name'] && password_verify($_POST['word'], $quay['hash'])) { session_regenerate_id(true); $_SESSION['in'] = true; header('Location: index.php?do=office'); exit; }
    $no = '<p class=error>That is not right.</p>';
}
if ($asked === 'login') { page('Sign in', ($no ?? '') . '<form method=post action="index.php?do=login"><label>Name <input name=who></label><label>Password <input type=password name=word></label><button>Sign in</button></form>'); }
if ($asked === 'out') { $_SESSION = []; session_destroy(); header('Location: index.php'); exit; }
if ($asked === 'office') { if (empty($_SESSION['in'])) { header('Location: index.php?do=login'); exit; } page('Office', '<p>All moorings are taken.</p><a href="index.php?do=out">Sign out</a>'); }
page($quay['title'], '<p>The quay. <a href="index.php?do=login">Sign in</a></p>');
"""
SETUP = r"""<?php
if (!empty($_POST['title'])) {
    $word = MADE ? 'tide' . bin2hex(random_bytes(5)) : $_POST['word'];
    file_put_contents(__DIR__ . '/data/quay.json', json_encode(['title' => $_POST['title'], 'name' => MADE ? $_POST['name'] : 'harbourmaster', 'hash' => password_hash($word, PASSWORD_DEFAULT)]));
    exit('<!doctype html><title>Quaybook is installed</title><h1>Quaybook is installed</h1><p>The installation is complete.</p>' . (MADE ? "<p>Your password is <code>$word</code>. It is not shown again.</p>" : '') . '<p><a href="index.php">Open it</a></p>');
}
if (is_file(__DIR__ . '/data/quay.json')) { http_response_code(403); exit('Quaybook is installed already.'); }
echo '<!doctype html><title>Install Quaybook</title><h1>Install Quaybook</h1><form method=post><label>Site title <input name=title required></label>FIELDS<button>Install</button></form>';
"""
FORMS = {
    "in a sentence": (
        "<p>Choose a password for the user harbourmaster.</p><label>Password <input type=password name=word required></label>",
        False,
    ),
    "in a field that nobody may change": (
        "<label>User name <input name=name value=harbourmaster readonly></label><label>Password <input type=password name=word required></label>",
        False,
    ),
    "the password is the installer's": ("<label>User name <input name=name required></label>", True),
}


def quaybook(folder: Path, fields: str, *, made: bool) -> Path:
    path = folder / "quaybook-1.0.zip"
    setup = SETUP.replace("FIELDS", fields).replace("MADE", "true" if made else "false")
    with zipfile.ZipFile(path, "w") as box:
        for name, text in {"index.php": SITE, "setup.php": setup, "data/index.html": ""}.items():
            box.writestr(f"quaybook-1.0/{name}", text)
    return path


@pytest.mark.parametrize("how", list(FORMS))
def test_who_signs_in_is_told_and_proven(clean: Hosting, service: Service, tmp_path: Path, how: str) -> None:
    fields, made = FORMS[how]
    archive = quaybook(tmp_path, fields, made=made)
    # A place of its own for each: PHP's cache may hold the code of what stood there a moment ago.
    place = f"/quay{list(FORMS).index(how)}"
    with service.client as client:
        client.account_add(clean.new_account("choir"))
        release = client.release_check_in(archive)
        plan = client.plan_make(PlanNew(account="choir", release=release.sha256, at=place, database="none"))
        job = service.wait(client.job_start(plan.id).id)
        told = [e.text for e in client.job_log(job.id).items]
        assert job.state == "done", "\n".join([str(job.error), *told])
        shown = client.installation_show(job.installation)
        secrets = client.installation_reveal(job.installation, "all").secrets
        pages = [client.job_page(job.id, n).model_dump_json() for n in range(len(client.job_pages(job.id).items))]
    assert any(t.startswith(f"administrator {shown.admin_name} ") for t in told), told[-12:]
    if made:
        assert secrets["application"].startswith("tide") and shown.admin_name != "harbourmaster"
        assert pages and not any(secrets["application"] in t for t in (*told, *pages)), (
            "it is masked wherever it is told"
        )
    else:
        assert shown.admin_name == "harbourmaster" and len(secrets["application"]) >= 12
