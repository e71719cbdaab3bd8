"""Small decisions around configurations and dumps: names of samples, which dump comes first, what a page wants imported."""

from __future__ import annotations

import pytest

from highshelf.core.database.dumps import first_dumps, in_order, told_of_dumps
from highshelf.core.database.statements import statements
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.release.logins import published_logins
from highshelf.core.release.names import real_name
from highshelf.core.walk.importing import TRIED, wanted_import
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.tuning import tuned
from highshelf.core.walk.witness import Witness


@pytest.mark.parametrize(
    ("sample", "real"),
    [
        ("config.php-dist", "config.php"),
        ("config-sample.php", "config.php"),
        ("settings.example.php", "settings.php"),
        ("settings/shop.sample.php", "settings/shop.php"),
        ("config.inc.sample.php", "config.inc.php"),
        ("ui/conf/zone.conf.php.example", "ui/conf/zone.conf.php"),
        (".env.example", ".env"),
        (".env.dist", ".env"),
        ("config/example-administration.yml", "config/administration.yml"),
        ("sysinfo.ini.new", "sysinfo.ini"),
        ("app/config/parameters.yml.dist", "app/config/parameters.yml"),
        ("conf/default.settings.php", "conf/settings.php"),
        ("sample.config.json", "config.json"),
        ("config.sample.inc.php", "config.inc.php"),
    ],
)
def test_what_a_sample_is_called_once_it_is_filled_in(sample: str, real: str) -> None:
    assert real_name(sample) == real


def test_what_fills_the_tables_comes_after_them_in_the_order_of_their_references() -> None:
    schema = (
        "CREATE TABLE `plan` (id INT, picture INT); CREATE TABLE `picture` (id INT);"
        "ALTER TABLE `plan` ADD CONSTRAINT c FOREIGN KEY (picture) REFERENCES `picture` (id);"
    )
    texts = {
        "sql/data.sql": "INSERT INTO `plan` VALUES (1, 2);\nINSERT INTO `plan` VALUES (2, 2);",
        "sql/pictures.sql": "INSERT INTO picture VALUES (2);",
        "sql/schema.sql": schema,
    }
    fills = ["sql/data.sql", "sql/pictures.sql", "sql/sample.sql", "sql/upgrade-2.sql", "other/data.sql"]
    first = first_dumps(["sql/schema.sql"], {}, "mariadb", fills=fills)
    assert first == ["sql/schema.sql", "sql/data.sql", "sql/pictures.sql"]
    assert in_order({path: texts[path] for path in first}) == ["sql/schema.sql", "sql/pictures.sql", "sql/data.sql"]
    told = told_of_dumps(["sql/schema.sql"], {}, "mariadb", ["sql/schema.sql", *fills], asked=False)
    assert "sql/schema.sql, sql/data.sql, sql/pictures.sql" in told[0] and "will ask you" in told[0]
    assert told_of_dumps(["sql/schema.sql"], {}, "none", fills, asked=True) == []
    # A circle is no reason to stop.
    circle = {"a.sql": "INSERT INTO a VALUES (1);", "b.sql": "INSERT INTO b VALUES (1);"}
    both = {"s.sql": "CREATE TABLE a (b INT REFERENCES b (id)); CREATE TABLE b (a INT REFERENCES a (id));", **circle}
    assert sorted(in_order(both)) == ["a.sql", "b.sql", "s.sql"]


@pytest.mark.parametrize(
    ("dumps", "server", "named", "wanted"),
    [
        (["sql/schema.sql"], "mariadb", (), ["sql/schema.sql"]),
        (["sql/mysql/schema.sql", "sql/pgsql/schema.sql"], "postgresql", (), ["sql/pgsql/schema.sql"]),
        (["db/app_mysql.sql", "db/app_pgsql.sql", "db/versions/mysql/101.sql"], "mariadb", (), ["db/app_mysql.sql"]),
        (["database/schema.sql", "database/images.sql", "database/data.sql"], "mariadb", (), ["database/schema.sql", "database/data.sql", "database/images.sql"]),
        (["a.sql", "b.sql"], "mariadb", (), []),
        (["a.sql", "b.sql"], "mariadb", ("b.sql",), ["b.sql"]),
        (["install.sql", "upgrade-2.sql", "sample-data.sql", "uninstall.sql"], "mariadb", (), ["install.sql"]),
        (["sql/sqlite.sql"], "mariadb", (), []),
        ([], "mariadb", (), []),
    ],
)  # fmt: skip
def test_which_dumps_come_first(dumps: list[str], server: str, named: tuple[str, ...], wanted: list[str]) -> None:
    assert first_dumps(dumps, {}, server, named) == wanted  # type: ignore[arg-type]


def test_a_dump_goes_by_what_its_text_is_for() -> None:
    assert first_dumps(["schema.sql"], {"schema.sql": "postgresql"}, "mariadb") == []


DUMPS = {"sql/schema.sql": "", "sql/upgrade-2.sql": ""}
NAMED = "<p>Please import sql/schema.sql into the database u7_boats.</p><form method=post><button>Go on</button></form>"
FIELDS = "<form method=post><label>Database <input name=db></label><button>Next</button></form>"
NO_TABLE = "<p class=error>SQLSTATE[42S02]: Base table or view not found: 1146 Table 'u7.x' doesn't exist</p>"


@pytest.mark.parametrize(
    ("html", "blocked", "wanted"),
    [
        # Before anything was given it may speak of another way than the installer.
        (NAMED, False, False),
        (NAMED, True, True),
        # A form that asks for the database makes the tables itself, perhaps out of the very file.
        ("<p>The next step will import sql/schema.sql.</p>" + FIELDS, False, False),
        (NO_TABLE, False, True),
        ("<p>These tables are missing: x, y.</p><form method=post><button>Again</button></form>", False, False),
        ("<p>These tables are missing: x, y.</p><form method=post><button>Again</button></form>", True, True),
        ("<p>Diese Tabellen fehlen noch: x.</p>", True, True),
        ("<p>The extension imap is missing.</p>", True, False),
    ],
)
def test_when_tables_are_brought(html: str, blocked: bool, wanted: bool) -> None:
    page = read(Snapshot("http://a.example/setup/", 200, f"<html><body><h1>Setup</h1>{html}</body></html>"))
    know = Knowledge({"database.name": "u7", "database.kind": "mariadb"}, "http://a.example/", dumps=DUMPS)
    move = wanted_import(page, know, blocked=blocked)
    assert (move is not None) == wanted and (move is None or move.paths == ("sql/schema.sql",))
    for other in (
        Knowledge({}, "http://a.example/", dumps=DUMPS),
        Knowledge(know.values, "http://a.example/", dumps=DUMPS, tried=frozenset({TRIED})),
        Knowledge(know.values, "http://a.example/", dumps=DUMPS, witness=Witness(tables=3)),
        Knowledge(know.values, "http://a.example/"),
    ):
        assert wanted_import(page, other, blocked=blocked) is None


def test_a_dump_that_is_named_after_the_database_was_given_is_brought_at_once() -> None:
    page = read(Snapshot("http://a.example/setup/", 200, f"<html><body><h1>Setup</h1>{NAMED}</body></html>"))
    know = Knowledge({"database.name": "u7", "database.kind": "mariadb"}, "http://a.example/", dumps=DUMPS)
    assert wanted_import(page, know, blocked=False, given=True) is not None


def test_what_chooses_a_database_or_asks_for_rights_is_left_out_and_told() -> None:
    dump = "CREATE DATABASE `boats`;\nUSE boats;\nCREATE TABLE `boats`.`a` (n INT);\nINSERT INTO boats.a VALUES ('boats.x; y');\nGRANT ALL ON *.* TO x;\nCOMMIT;"
    found = list(statements(dump.splitlines(keepends=True), "mariadb", "boats"))
    assert [s.text for s in found if not s.left_out] == [
        "CREATE TABLE `a` (n INT)",
        "INSERT INTO a VALUES ('boats.x; y')",
    ]
    assert [s.line for s in found] == [1, 2, 3, 4, 5, 6] and sum(bool(s.left_out) for s in found) == 4


def test_rows_that_are_copied_become_inserts() -> None:
    dump = "COPY public.t (a, b) FROM stdin;\n1\tit's\\ta\\\\b\n2\t\\N\n\\.\nSELECT 1;\n"
    found = [s.text for s in statements(dump.splitlines(keepends=True), "postgresql")]
    assert found == ["INSERT INTO public.t (a, b) VALUES ('1', 'it''s\ta\\b'),\n('2', NULL)", "SELECT 1"]


@pytest.mark.parametrize(
    ("line", "login"),
    [
        ("Log in as harbour with the password low-tide-77, and change it.", "harbour low-tide-77"),
        ("Melden Sie sich als hafen mit dem Passwort ebbe-77 an.", "hafen ebbe-77"),
        ("Connectez-vous en tant que port avec le mot de passe maree-77.", "port maree-77"),
        ("Inicie sesión como puerto con la contraseña marea-77.", "puerto marea-77"),
        ("Accedere come porto con la password marea77", "porto marea77"),
        ("Zaloguj się jako port hasłem odplyw77.", "port odplyw77"),
        ("Log in as the administrator with your password.", ""),
        ("Log in as the user that you made, and enter the password.", ""),
    ],
)
def test_logins_told_in_a_sentence(line: str, login: str) -> None:
    assert [c.value for c in published_logins("README.txt", 1, line, "")] == ([login] if login else [])


ROW = "<table><tr><td>mbstring</td><td class=ok>OK</td></tr><tr>{}</tr></table><form method=post><button>Next</button></form>"
IMAP = "<td>imap</td><td class=bad>missing</td></tr><tr>"


@pytest.mark.parametrize(
    ("row", "settings"),
    [
        ("<td>PHP option memory_limit</td><td>64M</td><td>128M</td><td class=red>Fail</td>", (("memory_limit", "128M"),)),
        ("<td>memory_limit</td><td class=red>FAIL: 64 MB, required 256 MB</td>", (("memory_limit", "256M"),)),
        ("<td>max_execution_time</td><td class=red>30 is not ok</td>", (("max_execution_time", "300"),)),
        ("<td>max_execution_time</td><td class=red>900 is not ok</td>", None),
        ("<td>session.auto_start</td><td class=red>On, must be off: FAIL</td>", (("session.auto_start", "Off"),)),
        ("<td>short_open_tag</td><td class=red>must be disabled: FAIL</td>", (("short_open_tag", "Off"),)),
        ("<td>date.timezone</td><td class=red>missing</td>", (("date.timezone", "Europe/London"),)),
        ("<td>upload_max_filesize</td><td class=red>FAIL, required 999G</td>", None),
        # Where nothing can be set, or something else is red as well, it would be waited for in vain.
        ("<td>allow_url_fopen</td><td class=red>FAIL</td>", None),
        (IMAP + "<td>memory_limit</td><td>64M</td><td>128M</td><td class=red>Fail</td>", None),
    ],
)  # fmt: skip
def test_settings_of_php_that_a_red_row_wants(row: str, settings: tuple[tuple[str, str], ...] | None) -> None:
    page = read(Snapshot("http://a.example/setup/", 200, f"<html><body><h1>Setup</h1>{ROW.format(row)}</body></html>"))
    know = Knowledge({"site.timezone": "Europe/London"}, "http://a.example/")
    move = tuned(page, know)
    assert (None if move is None else move.settings) == settings
    assert tuned(page, Knowledge(know.values, "http://a.example/", tunes=False)) is None
    if settings:
        assert (
            tuned(page, Knowledge(know.values, "http://a.example/", tried=frozenset({f"tune {settings[0][0]}"})))
            is None
        )
