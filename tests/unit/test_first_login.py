"""How the first administrator of an application comes about, as its sources tell; the truth of each was written down first."""

from __future__ import annotations

import pytest

from tests.unit.test_release import findings

INSTALLER = "<?php $db = new PDO('mysql:host=' . $_POST['host'], $_POST['user'], $_POST['pass']); $db->exec('CREATE TABLE t (i INT)');"
READS = "<?php require 'inc.php'; echo 'Tides';"
RELEASES: dict[str, tuple[dict[str, str], str]] = {
    "its installer asks": (
        {"install.php": INSTALLER + " $db->exec('INSERT INTO u VALUES (' . $db->quote(password_hash($_POST['word'], 1)) . ')');"},
        "asked",
    ),
    "a page compares a password": (
        {"in.php": "<?php if (password_verify($_POST['word'], $row['secret'])) { $_SESSION['who'] = 1; }"},
        "own",
    ),
    "nothing signs anybody in": ({"index.php": READS}, "none"),
    "the web server does": ({"inc.php": "<?php $who = $_SERVER['REMOTE_USER'] ?? '';"}, "server"),
    "a login in the browser's own window": ({"inc.php": "<?php $word = $_SERVER['PHP_AUTH_PW'];"}, "own"),
    "a template's form": (
        {"index.php": READS, "views/sign.html": "<form method=post><input name=n><input type=password name=w></form>"},
        "own",
    ),
    "a readme tells the login": (
        {
            "in.php": "<?php if (password_verify($_POST['word'], $row['secret'])) {}",
            "README.md": "# Tides\n\nDefault login: user harbour, password ebb12345\n",
        },
        "published",
    ),
    "a database's password is nobody's login": ({"index.php": "<?php new PDO($dsn, $c['user'], $c['password']);"}, "none"),
    "nor is what only an installer takes": (
        {"index.php": READS, "install.php": INSTALLER + " ?><input type='password' name='dbpass'>"},
        "none",
    ),
    "nor a library's": ({"index.php": READS, "vendor/x/in.php": "<?php password_verify($_POST['p'], $h);"}, "none"),
    "a request's own call": ({"in.php": "<?php $word = $this->request->getPost('passwd');"}, "own"),
    "an old way": ({"in.php": "<?php if (md5($_POST['pwd']) == $row[2]) { setcookie('in', '1'); }"}, "own"),
    "a directory of people": ({"in.php": "<?php ldap_bind($c, $dn, $_POST['password']);"}, "own"),
    "a mail server's password in settings": (
        {"index.php": READS, "settings.php": "<?php save($_POST['smtp_password']); ?><input type=\"password\" name=\"smtp_password\">"},
        "none",
    ),
    "a form that is built": ({"form.php": "<?php $f->add('word', ['type' => 'password', 'label' => 'Password']);"}, "own"),
    "filtered": ({"in.php": "<?php $w = filter_input(INPUT_POST, 'userpass');"}, "own"),
    "no program at all": ({"index.html": "<p>Tides</p>"}, ""),
}  # fmt: skip


@pytest.mark.parametrize("what", RELEASES)
def test_how_the_first_login_comes_about(what: str) -> None:
    files, truth = RELEASES[what]
    found = findings({path: text.encode() for path, text in files.items()})
    assert found.first_login == truth
    assert found.sure["first_login"] < 0.75 or truth == "asked"
