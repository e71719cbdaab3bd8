"""What is read out of an archive's list of names."""

from __future__ import annotations

import hashlib
import time

import pytest

from highshelf.core.errors import ArchiveError, IdentityError
from highshelf.core.placing.identity import compare
from highshelf.core.release.clues import wants
from highshelf.core.release.comparing import compare_releases
from highshelf.core.release.contents import Contents, Member, wrapper_of
from highshelf.core.release.findings import Findings, find
from highshelf.core.release.laying import contents_of
from highshelf.core.release.matching import match
from highshelf.core.release.reading import read_file
from highshelf.core.release.safety import printable


def member(path: str, link: str = "") -> Member:
    return Member(path, 1, "0" * 64, link)


@pytest.mark.parametrize(
    ("paths", "wrapper"),
    [
        (["choir-2.0/index.php", "choir-2.0/lib/a.php"], "choir-2.0"),
        (["outer/inner/index.php", "outer/inner/a/b.php"], "outer/inner"),
        (["index.php", "lib/a.php"], ""),
        (["a/x.php", "b/y.php"], ""),
        (["name-0.0~git2021.abc/.htaccess", "name-0.0~git2021.abc/x/y"], "name-0.0~git2021.abc"),
    ],
)
def test_the_wrapper_is_found_and_stripped(paths: list[str], wrapper: str) -> None:
    assert wrapper_of(paths) == wrapper
    contents = contents_of([member(p) for p in paths])
    assert [f.path for f in contents.files] == sorted(p[len(wrapper) + 1 if wrapper else 0 :] for p in paths)


@pytest.mark.parametrize("path", ["../x", "a/../../x", "/etc/x", "C:/x", "a\\b", "a\nb", "x" * 300, "a/\x00b"])
def test_names_that_could_do_harm_are_refused_by_name(path: str) -> None:
    with pytest.raises(ArchiveError) as caught:
        contents_of([member("index.php"), member(path)])
    assert printable(path)[:200] in caught.value.message
    assert caught.value.hint


def test_all_faults_of_an_archive_are_told_at_once() -> None:
    with pytest.raises(ArchiveError) as caught:
        contents_of([member("../x"), member("/y"), member("link", "/etc/passwd"), member("A.php"), member("a.php")])
    for part in ("../x", "/y", "link", "letter case"):
        assert part in caught.value.message


def findings(files: dict[str, bytes], file_name: str = "release.zip") -> Findings:
    clues = [c for p, data in files.items() if wants(p, len(data)) for c in read_file(p, data)]
    return find(contents_of([member(p) for p in files]), file_name, clues)


def test_findings_tell_version_database_installer_and_dotfiles() -> None:
    files = {
        "VERSION": b"3.1.4\n",
        "install/index.php": b"<?php $db = new mysqli($h);",
        "lib/connect.php": b"<?php\n\nnew PDO('pgsql:host=' . $h);",
        "vendor/lib/other.php": b"<?php pg_connect('x'); mysqli_connect(); new SQLite3('x');",
        "config/settings.example.php": b"<?php return [];",
        "data/.htaccess": b"Require all denied",
    }
    found = findings({f"seedbank-3.1/{p}": c for p, c in files.items()}, "seedbank.zip")
    assert (found.name, found.version) == ("seedbank", "3.1.4")
    assert found.databases == ("mariadb", "postgresql")
    assert found.installer_entries() == ["install"]
    assert found.samples == ("config/settings.example.php",)
    assert found.dotfiles == ("data/.htaccess",)
    assert any(d.what == "database" and d.where == "lib/connect.php:3" for d in found.details)


def test_a_library_that_could_connect_is_no_need() -> None:
    assert findings({"index.php": b"<?php echo 1;", "vendor/dbal/driver.php": b"<?php new mysqli();"}).databases == ()


@pytest.mark.parametrize(
    ("source", "php"),
    [
        ("if (version_compare(PHP_VERSION, '7.4.0', '<')) { die('too old'); }", "7.4"),
        ("if (version_compare('8.1.2', phpversion(), '>')) exit('PHP 8.1.2 is needed');", "8.1.2"),
        ("if (version_compare(PHP_VERSION, '7.2') < 0) throw new Exception();", "7.2"),
        ("if (!version_compare(PHP_VERSION, '7.3', '>=')) { exit; }", "7.3"),
        ("version_compare(PHP_VERSION, '8.0', '>=') or die('no');", "8.0"),
        ("if (PHP_VERSION_ID < 70205) { throw new X(); }", "7.2.5"),
        ("if (80100 > PHP_VERSION_ID) { exit(1); }", "8.1"),
        ("const MINIMUM_PHP_VERSION = '8.2';", "8.2"),
        ("define('OLDEST', '7.1.3'); if (version_compare(PHP_VERSION, OLDEST, 'lt')) die();", "7.1.3"),
        # These only choose another way, or speak of something else.
        ("if (version_compare(PHP_VERSION, '8.0', '>=')) { $a = 1; } else { $a = 2; }", ""),
        ("if (PHP_VERSION_ID < 80000) { polyfill(); }", ""),
        ("if (version_compare($plugin, '7.4', '<')) { die('old plugin'); }", ""),
        ("// version_compare(PHP_VERSION, '9.9', '<') and die;\n$x = 'version';", ""),
    ],
)
def test_comparisons_of_versions_count_for_what_the_program_makes_of_them(source: str, php: str) -> None:
    assert findings({"index.php": b"<?php\n" + source.encode()}).php.removesuffix(".0") == php.removesuffix(".0")


def test_extensions_that_are_demanded_wished_for_and_merely_used() -> None:
    found = findings(
        {
            "install/index.php": b"""<?php
if (!extension_loaded('gd')) { exit('gd'); }
$required = ['mbstring', 'intl', 'json'];
$recommended = array('curl', 'apcu');
foreach (['exif' => false, 'sodium' => false, 'curl' => false] as $e => $must) { extension_loaded($e); }
foreach ($required as $e) { if (!extension_loaded($e)) { $errors[] = $e; } }
if (!class_exists('ZipArchive')) { die('zip'); }
""",
            "lib/mail.php": b"<?php if (function_exists('imap_open')) { imap_open('x'); } openssl_encrypt('y');",
        }
    )
    assert found.extensions == ("gd", "intl", "mbstring", "zip")
    assert set(found.wished_extensions) == {"apcu", "curl", "exif", "sodium"}
    assert any(d.what == "uses-extension" and d.value == "openssl" for d in found.details)


def test_the_needs_of_a_framework_application() -> None:
    found = findings(
        {
            "composer.json": b"""{"name": "estuary/ledger", "license": "AGPL-3.0-or-later",
"require": {"php": "^8.1", "ext-intl": "*", "ext-pdo": "*"}, "suggest": {"ext-redis": "faster"}}""",
            "public/index.php": b"<?php require '../vendor/autoload.php';",
            "public/.htaccess": b"RewriteEngine on\nRewriteRule . index.php",
            "bin/setup": b"#!/usr/bin/env php\n<?php if (PHP_SAPI !== 'cli') exit; $argv[1];",
            "database/ledger.sql": b"CREATE DATABASE `ledger`;\nUSE `ledger`;\nCREATE TABLE `a` (id INT) ENGINE=InnoDB;",
            "var/cache/.gitkeep": b"",
            "src/Version.php": b"<?php class Version { const VERSION = '4.0.0-beta2'; }",
            "config/app.php.dist": b"<?php",
        },
        "estuary-ledger.tar.xz",
    )
    assert (found.php, found.php_below) == ("8.1", "9.0")
    assert found.web_folder == "public" and found.rewriting
    assert found.extensions == ("intl", "pdo") and found.wished_extensions == ("redis",)
    assert found.terminal_installers == ("bin/setup",) and found.installers == ()
    assert found.dumps == ("database/ledger.sql",) and found.dump_databases == ("ledger",)
    assert found.databases == ("mariadb",)
    assert found.version == "4.0.0-beta2" and found.pre_release
    assert found.samples == ("config/app.php.dist",) and found.licences == ("AGPL-3.0-or-later",)
    assert "var" in found.writable or "var/cache" in found.writable


def test_texts_in_four_languages_tell_needs() -> None:
    for text in (
        b"# Tidewatch 2.3\n\nRequirements: PHP 7.4 or newer, MariaDB 10.3 or MySQL, the mbstring extension.\nMake `data/` writable.",
        b"Tidewatch 2.3\n=====\nVoraussetzungen: PHP ab Version 7.4, MySQL ab 10.3, PHP-Erweiterung mbstring.\nDer Ordner data/ muss beschreibbar sein.",
        "Tidewatch 2.3\n\nPrérequis : PHP 7.4 au moins, MariaDB 10.3, extension mbstring.\nLe dossier data/ doit être inscriptible.".encode(),
        b"Tidewatch 2.3\n\nRequisitos: PHP 7.4, MariaDB 10.3, extension mbstring.\nchmod 777 data",
    ):
        found = findings({"README.md": text, "data/index.html": b"", "index.php": b"<?php"})
        assert (found.php, found.databases, found.database_versions) == ("7.4", ("mariadb",), {"mariadb": "10.3"}), text
        assert found.extensions == ("mbstring",) and found.writable == ("data",), text
        assert found.version == "2.3" and found.title == "Tidewatch" and found.readmes == ("README.md",)


@pytest.mark.parametrize(
    ("file_name", "wrapper", "name", "version", "pre"),
    [
        ("ferrybook-2.1.zip", "", "ferrybook", "2.1", False),
        ("ferrybook_v2-1-0.zip", "", "ferrybook", "2.1.0", False),
        ("latest.zip", "ferrybook-2.1-rc1", "ferrybook", "2.1-rc1", True),
        ("main.zip", "ferrybook-main", "ferrybook", "", False),
        ("ferry-book-3.0.2-full.tar.gz", "", "ferry-book", "3.0.2", False),
        ("Ferrybook 12.zip", "ferrybook", "ferrybook", "12", False),
        ("ferrybook.7z", "upload", "ferrybook", "", False),
    ],
)
def test_name_and_version_from_the_archives_name(
    file_name: str, wrapper: str, name: str, version: str, pre: bool
) -> None:
    prefix = wrapper + "/" if wrapper else ""
    found = findings({f"{prefix}index.php": b"<?php", f"{prefix}lib/a.php": b"<?php"}, file_name)
    assert (found.name, found.version, found.pre_release) == (name, version, pre)


@pytest.mark.parametrize(
    "unit", ["a", "_a", "a-", "1.", "-1", "config_", "a/", " ", "Version_", "php_min_", "x.", "#", "é"]
)
def test_no_name_keeps_the_reading_busy(unit: str) -> None:
    """Patterns meet names and lines that somebody made: none may try all the ways of cutting them."""
    long = unit * (240 // len(unit))
    name = long.replace("/", "_").replace("é", "e")[:200] + "x"
    begun = time.process_time()
    source = f"<?php ${long.replace('/', '_')} = '{long}'; define('{long}', '1.2.3'); const X = '{long}'; is_writable('{long}'); $version = 1;"
    findings(
        {
            f"{name}x/{name}.php": source.encode(),
            f"config{name}": b"x",
            "README": f"{long}\n".encode() * 300,
            "CHANGELOG": f"{long}\n".encode() * 300,
            "x.sql": f"CREATE DATABASE {long};".encode() * 300,
            "install.html": f"<noscript>{long}".encode() * 300,
        },
        f"{long}.zip",
    )
    assert time.process_time() - begun < 3


def test_a_library_with_a_licence_of_its_own_speaks_for_itself_only() -> None:
    app = {f"src/part{n}.php": b"<?php" for n in range(9)}
    found = findings(
        {
            **app,
            "src/App.php": b"<?php class App { const VERSION = '3.2.0'; }",
            "inc/mailer/LICENSE": b"MIT",
            "inc/mailer/Mailer.php": b"<?php const VERSION = '9.9.9'; if (PHP_VERSION_ID < 80300) { throw new X; } if (!extension_loaded('imap')) { exit; }",
            "lib/form/deep/Form.php": b"<?php class Form { const VERSION = '7.7.7'; }",
        }
    )
    assert (found.version, found.php, found.extensions) == ("3.2.0", "", ())


def test_folders_named_by_constants_of_another_file_are_found() -> None:
    found = findings(
        {
            "config.php-dist": b"<?php define('STORE_DIR', 'var/store'); define('HOLD_PATH', 'hold');",
            "setup/check.php": b"<?php if (!is_writable(STORE_DIR . '/thumbs') || !is_writable(HOLD_PATH)) { echo 'not writable'; }",
            "var/store/thumbs/empty": b"",
            "hold/empty": b"",
            "thumbs/a.png": b"",
        }
    )
    assert found.writable == ("hold", "var/store/thumbs")


def test_the_server_is_the_one_that_the_file_is_about() -> None:
    source = b"<?php if (version_compare($this->getServerVersion(), '%s', '<')) { throw new X; } new PDO('%s:host=x');"
    found = findings({"db/Postgres.php": source % (b"12.0", b"pgsql"), "db/MySql.php": source % (b"8.0.11", b"mysql")})
    assert found.database_versions == {"mariadb": "8.0.11", "postgresql": "12.0"}


def test_sources_that_agree_outweigh_one_that_does_not() -> None:
    found = findings(
        {
            "berth-2.4.1/lib/define.php": b"<?php define('BERTH_VERSION', '2.4.1');",
            "berth-2.4.1/CHANGELOG": b"Changes\n\n2.4.1 (2026-10-01)\n- this\n2.4.0\n",
            "berth-2.4.1/lib/mailer.php": b"<?php class Mailer { const VERSION = '6.9.1'; }",
            "berth-2.4.1/README": b"Berth\n",
        }
    )
    assert found.version == "2.4.1"


def test_a_release_and_an_account_side_by_side() -> None:
    need = findings(
        {
            "index.php": b"<?php if (PHP_VERSION_ID < 80200) die('old'); new PDO('mysql:host=x');",
            "check.php": b"<?php if (!extension_loaded('intl')) die(); if (!extension_loaded('gd')) die();",
            ".htaccess": b"RewriteRule . index.php",
        }
    )
    facts = {
        "php.version": "8.1.27", "php.extensions": ["GD", "pdo_mysql"], "space.free": 10_000, "web.htaccess": "ignored",
        "database.server": [{"host": "localhost", "version": "MariaDB 10.11.6"}], "php.memory": 64 << 20,
        "php.pinned": ["memory_limit"],
    }  # fmt: skip
    lines = {line.topic: line for line in match(need, facts, unpacked_bytes=5_000_000)}
    assert (lines["php"].verdict, lines["php"].by) == ("red", "panel") and lines["php"].where == "index.php:1"
    assert lines["extensions"].need == "PHP with gd" and lines["extension"].need == "PHP with intl"
    assert lines["extension"].verdict == "red" and lines["database"].verdict == "fits"
    assert (lines["space"].verdict, lines["htaccess"].verdict) == ("red", "heed")
    assert (lines["memory"].verdict, lines["memory"].by) == ("heed", "support")
    unknown = match(need, {}, unpacked_bytes=1)
    assert {line.verdict for line in unknown} == {"unknown"}


def test_two_versions_side_by_side() -> None:
    old = {"index.php": b"<?php if (PHP_VERSION_ID < 70400) die();", "a.php": b"1", "gone.php": b"1"}
    new = {"index.php": b"<?php if (PHP_VERSION_ID < 80100) die();", "a.php": b"1", "new.php": b"1"}

    def side(files: dict[str, bytes]) -> tuple[Contents, Findings]:
        members = [Member(p, len(d), hashlib.sha256(d).hexdigest()) for p, d in files.items()]
        return contents_of(members), findings(files)

    found = compare_releases(side(old), side(new))
    assert (found.added, found.changed, found.removed, found.same) == (("new.php",), ("index.php",), ("gone.php",), 1)
    assert [(n.what, n.before, n.after) for n in found.needs] == [("PHP", "7.4", "8.1")]


def test_identity_names_missing_different_and_extra_files() -> None:
    contents = contents_of([member("a"), member("b"), member("c")])
    assert compare(contents, dict.fromkeys("abc", "0" * 64)) == 3
    with pytest.raises(IdentityError) as caught:
        compare(contents, {"a": "0" * 64, "b": "1" * 64, "d": "0" * 64})
    for part in ("1 missing (c)", "1 different (b)", "1 extra (d)"):
        assert part in caught.value.message
