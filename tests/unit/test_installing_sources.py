"""What single sources say: names written bare, programs of the terminal that install, pages that are their script's.

Each line was written with its truth before the program was asked.
"""

from __future__ import annotations

import pytest

from highshelf.core.release import scripts
from highshelf.core.release.reading import read_file

BARE = [
    ("<?php mysqli_query($c, 'DROP DATABASE IF EXISTS ' . $old);", True),
    ('<?php $c->exec("ALTER DATABASE {$this->name} CHARACTER SET utf8mb4");', True),
    ('<?php $c->exec("CREATE SCHEMA $schema"); mysqli_connect();', True),
    ("<?php $c->query(\"USE \".$_POST['dbname']); mysqli_connect();", True),
    ("<?php $c->query('USE `' . $name . '`'); mysqli_connect();", False),
    ('<?php $c->query("CREATE DATABASE `$name`"); mysqli_connect();', False),
    ("<?php pg_query($c, 'CREATE DATABASE \"' . $name . '\"');", False),
    ("<?php $c->query('CREATE DATABASE ' . $this->quote($name)); mysqli_connect();", False),
    ("<?php $name = '`' . $n . '`'; $c->query(\"CREATE DATABASE $name\"); mysqli_connect();", False),
    ("<?php $f = function () use ($name) { return new PDO($name); };", False),
    ("<?php use Shore\\Tide; mysqli_connect(); echo 'create database first';", False),
    ("<?php mysqli_connect(); echo 'Please use $name for the database.';", False),
]


@pytest.mark.parametrize(("source", "bare"), BARE)
def test_a_databases_name_without_quotation_marks(source: str, bare: bool) -> None:
    found = [c for c in read_file("inc/db.php", source.encode()) if c.what == "unquoted-name"]
    assert bool(found) is bare and all(c.value == "inc/db.php:1" for c in found)


CLI = "<?php if (PHP_SAPI !== 'cli') { exit; } "
TERMINAL = [
    ("tools/plant.php", CLI + "$o = getopt('', ['db-name:', 'db-user:', 'db-pass:', 'host::']); plant($o);", 0.9),
    ("tools/plant.php", CLI + "foreach ($argv as $a) { if ($a === '--dbuser') {} if ($a === '--dbname') {} }", 0.75),
    ("setup-cli.php", CLI + "echo 'Name of the database: '; $name = trim(fgets(STDIN));", 0.8),
    ("bin/manage", "#!/usr/bin/env php\n<?php if ($argv[1] === 'install') { make(); }", 0.8),
    ("cli/queue.php", CLI + "while (true) { work($argv[1]); }", 0.0),
    ("cli/user-add.php", CLI + "$o = getopt('', ['user:', 'password:']); add_user($o['user'], $o['password']);", 0.0),
    ("cli/export.php", "#!/usr/bin/php\n<?php $o = getopt('', ['to:']); export($o['to']);", 0.0),
    ("web/setup.php", "<?php if (php_sapi_name() === 'apache2handler') { show(); }", 0.0),
]  # fmt: skip


@pytest.mark.parametrize(("path", "source", "least"), TERMINAL)
def test_a_program_of_the_terminal_that_installs(path: str, source: str, least: float) -> None:
    sure = max((c.sure for c in read_file(path, source.encode()) if c.what == "terminal"), default=0.0)
    assert sure >= least if least else sure == 0


FORM = "<form method=post><input name=db>{}</form>"
SCRIPT = "<script>document.querySelector('button').onclick = () => fetch('x.php', {method: 'POST'})</script>"
PAGES = [
    ({"install/index.html": FORM.format("<button type=button>Go</button>") + SCRIPT}, ["install/index.html"]),
    ({"install/index.html": FORM.format("<button>Go</button>") + SCRIPT}, []),
    ({"install/index.php": FORM.format("<?php echo submit_row('Go'); ?>") + SCRIPT}, []),
    ({"install/step.phtml": FORM.format("<?= $this->buttons() ?>") + SCRIPT}, []),
    ({"install/index.html": FORM.format("<input type='image' src=go.png>")}, []),
    ({"setup/index.html": "<body><main id='root'></main><script src=app.js></script></body>"}, ["setup/index.html"]),
    ({"setup/index.html": "<body><main id=root></main><a href=step1.php>Start</a><script src=look.js></script></body>"}, []),
    ({"setup/app.js": "axios.post('api.php', values)"}, ["setup/app.js"]),
    ({"setup/app.js": "axios.post('api.php', values)", "setup/step1.php": FORM.format("<button>Next</button>")}, []),
    ({"setup/news.js": "fetch('https://news.saltmarsh.example/latest.json')"}, []),
    ({"setup/vendor/ajax.js": "var x = new XMLHttpRequest(); x.open('POST', u)"}, []),
    ({"index.html": "<body><div id=app></div><script src=app.js></script></body>"}, []),
]  # fmt: skip


@pytest.mark.parametrize(("files", "scripted"), PAGES)
def test_pages_that_are_nothing_without_their_script(files: dict[str, str], scripted: list[str]) -> None:
    clues = [c for path, text in files.items() for c in read_file(path, text.encode())]
    kinds = ([c for c in clues if c.what == what] for what in ("javascript", "sends-plainly", "script-calls"))
    assert sorted(scripts.conclude(*kinds)) == scripted
