"""Dumps cut into statements: both servers' own clients are the judges, on dumps that nobody wrote by hand."""

from __future__ import annotations

import json
import random
import subprocess

import pytest

from highshelf.core.database.statements import StatementError, statements
from highshelf.core.legs.importing import _batches
from highshelf.drivers.helper.client import part
from tests.releases.third_party import RECIPES, archive
from tests.support import Hosting

SOCKET_USER = "judge"
WORD = "Ebb-and-flow-77"
TEXTS = ("it's", 'a "b"', "a;b", "-- no comment", "/* nor this */", "back\\slash", "$$ not $a$", "`tick`", "# hash", "line\nbreak", "ö€", "%", "", "END;", "DELIMITER //")  # fmt: skip


def mariadb_dump(rng: random.Random) -> str:
    """A dump for MariaDB with what clients trip over."""

    def text(value: str) -> str:
        quoted = value.replace("\\", "\\\\").replace("'", rng.choice(("''", "\\'")))
        return f"'{quoted}'"

    lines = ["-- made; by nobody's hand", "/*!40101 SET NAMES utf8mb4 */;", "SET FOREIGN_KEY_CHECKS=0;", "# another; comment", "USE `somewhere`;" if rng.random() < 0.5 else ""]  # fmt: skip
    for n in range(rng.randint(1, 4)):
        name = rng.choice((f"t{n}", f"`t {n}; x`", f"`somewhere`.`t{n}`"))
        lines.append(
            f"CREATE TABLE {name} (id INT AUTO_INCREMENT PRIMARY KEY, w TEXT COMMENT 'a; \"comment\"' /* in; side */, n INT) -- end; of line\nENGINE=InnoDB;"
        )
        bare = name.replace("`somewhere`.", "")
        rows = ",\n".join(f"({text(rng.choice(TEXTS))}, {rng.randint(0, 9)})" for _ in range(rng.randint(1, 5)))
        lines.append(f"LOCK TABLES {bare} WRITE;" if rng.random() < 0.3 else "")
        lines.append(f"INSERT INTO {bare} (w, n) VALUES {rows};" + rng.choice(("", " ", " -- after")))
        lines.append("UNLOCK TABLES;")
        if rng.random() < 0.5:
            mark = rng.choice(("//", "$$", ";;"))
            definer = rng.choice(("", "DEFINER=`root`@`localhost` ", "/*!50017 DEFINER=`root`@`localhost`*/ "))
            lines.append(
                f"DELIMITER {mark}\nCREATE {definer}TRIGGER g{n} BEFORE INSERT ON {bare} FOR EACH ROW BEGIN\n  SET NEW.n = NEW.n + 1; -- one; more\n  IF NEW.w = ';' THEN SET NEW.n = 0; END IF;\nEND{mark}\nDELIMITER ;"
            )
    if rng.random() < 0.5:
        lines.append("CREATE VIEW v AS SELECT 'a;b' AS x;")
    lines.append("START TRANSACTION; CREATE TABLE z (n INT); INSERT INTO z VALUES (1); COMMIT")
    return "\n".join(lines) + rng.choice(("\n", ";\n", ";"))  # fmt: skip


def postgresql_dump(rng: random.Random) -> str:
    """A dump for PostgreSQL with rows to copy, bodies in dollars, and words that only its client understands."""

    def text(value: str) -> str:
        return "'" + value.replace("'", "''") + "'"

    lines = ["-- made; by nobody", "SET client_encoding = 'UTF8';", "SELECT pg_catalog.set_config('search_path', 'public', false);"]  # fmt: skip
    for n in range(rng.randint(1, 4)):
        name = rng.choice((f"t{n}", f"public.t{n}", f'"t {n}; x"'))
        lines.append(f"CREATE TABLE {name} (id serial PRIMARY KEY, w text, /* in; /* nested; */ side */ n int);")
        if rng.random() < 0.5:
            words = ("a;b", "\\N", "it's", "a\\tb\\nc", "back\\\\slash", "\\x41", "")
            rows = "\n".join(f"{i}\t{rng.choice(words)}\t{rng.randint(0, 9)}" for i in range(1, rng.randint(2, 5)))
            lines.append(f"COPY {name} (id, w, n) FROM stdin;\n{rows}\n\\.\n")
        else:
            lines += [
                f"INSERT INTO {name} (w, n) VALUES ({text(rng.choice(TEXTS))}, {n});" for _ in range(rng.randint(1, 4))
            ]
            lines.append(f"INSERT INTO {name} (w) VALUES (E'it\\'s; \\\\ x');")
        if rng.random() < 0.5:
            tag = rng.choice(("$$", "$body$", "$_$"))
            lines.append(
                f"CREATE FUNCTION f{n}(a text) RETURNS int LANGUAGE plpgsql AS {tag}\nBEGIN\n  -- one; more\n  RETURN length(a || 'it''s;');\nEND;\n{tag};"
            )
    lines.append("BEGIN; CREATE TABLE z (n int); INSERT INTO z VALUES (1); COMMIT;")
    return "\n".join(lines) + "\n"  # fmt: skip


def ours(kind: str, text: str, wanted: dict[str, object]) -> dict[str, object]:
    """Send it as an import does, batch by batch, and give what PHP said last."""
    script = (
        part("database_login.php") + "echo json_encode(database_login(json_decode(stream_get_contents(STDIN), true)));"
    )
    session: list[str] = []
    answer: dict[str, object] = {}
    for batch in _batches(statements(text.splitlines(keepends=True), kind, "somewhere"), {}):  # type: ignore[arg-type]
        for start in range(0, len(batch), 3):
            some = batch[start : start + 3]
            told = {**wanted, "kind": kind, "session": session, "statements": [s.text for s in some]}
            done = subprocess.run(
                ["php", "-r", script], input=json.dumps(told), capture_output=True, text=True, check=True
            )
            answer = json.loads(done.stdout)
            assert answer["ok"], (answer, [s.text for s in some])
            assert answer["ran"] == len(some)
            session += [s.text for s in some if s.of_session]
    return answer


def same_lines(dump: str) -> list[str]:
    """What a dump says, without its moment, its owners and its order of definers."""
    return [line for line in dump.splitlines() if line and not line.startswith(("--", "\\restrict", "\\unrestrict"))]


@pytest.fixture
def mariadb(clean: Hosting) -> object:
    for name in ("theirs", "ours"):
        clean.sql(f"DROP DATABASE IF EXISTS {name}; CREATE DATABASE {name} CHARACTER SET utf8mb4")
    clean.sql(
        f"CREATE USER IF NOT EXISTS {SOCKET_USER}@'%' IDENTIFIED BY '{WORD}'; GRANT ALL ON ours.* TO {SOCKET_USER}@'%'"
    )
    yield clean
    clean.sql(f"DROP DATABASE theirs; DROP DATABASE ours; DROP USER {SOCKET_USER}@'%'")


def compare_mariadb(clean: Hosting, text: str) -> None:
    socket = f"--socket={clean.layout.database_socket}"
    for name in ("theirs", "ours"):
        clean.sql(f"DROP DATABASE {name}; CREATE DATABASE {name} CHARACTER SET utf8mb4")
    # Their own client has to be told where to: what the dump chooses is taken out for it by hand.
    theirs = text.replace("USE `somewhere`;", "").replace("`somewhere`.", "").replace("DEFINER=`root`@`localhost` ", "")
    done = subprocess.run(["mariadb", "--no-defaults", "--comments", socket, "--default-character-set=utf8mb4", "theirs"], input=theirs, capture_output=True, text=True)  # fmt: skip
    assert done.returncode == 0, done.stderr
    ours("mariadb", text, {"host": "127.0.0.1", "port": clean.layout.port("mariadb"), "name": "ours", "user": SOCKET_USER, "password": WORD})  # fmt: skip
    dumps = [
        subprocess.run(
            ["mariadb-dump", "--no-defaults", socket, "--skip-comments", "--skip-triggers", name],
            capture_output=True,
            text=True,
            check=True,
        ).stdout
        for name in ("theirs", "ours")
    ]
    told = [s.replace("`judge`@`%`", "X").replace("`root`@`localhost`", "X") for s in dumps]
    assert same_lines(told[0]) == same_lines(told[1])
    bodies = [clean.sql(f"SELECT TRIGGER_NAME, ACTION_STATEMENT FROM information_schema.TRIGGERS WHERE TRIGGER_SCHEMA='{n}' ORDER BY 1") for n in ("theirs", "ours")]  # fmt: skip
    assert bodies[0] == bodies[1]


def test_made_dumps_for_mariadb(mariadb: Hosting) -> None:
    for seed in range(25):
        compare_mariadb(mariadb, mariadb_dump(random.Random(f"mariadb {seed}")))


def test_made_dumps_for_postgresql(clean: Hosting) -> None:
    clean.pg(f"DROP ROLE IF EXISTS {SOCKET_USER}")
    clean.pg(f"CREATE ROLE {SOCKET_USER} LOGIN PASSWORD '{WORD}'")
    port = clean.layout.port("postgresql")
    where = ["-h", clean.layout.host, "-p", str(port), "-U", SOCKET_USER]
    env = {"PGPASSWORD": WORD, "PATH": "/usr/bin:/bin", "PGCLIENTENCODING": "UTF8"}
    try:
        for seed in range(12):
            text = postgresql_dump(random.Random(f"postgresql {seed}"))
            for name in ("theirs", "ours"):
                clean.pg(f"DROP DATABASE IF EXISTS {name}")
                clean.pg(f"CREATE DATABASE {name} OWNER {SOCKET_USER}")
            done = subprocess.run(["psql", *where, "-v", "ON_ERROR_STOP=1", "-q", "theirs"], input=text, capture_output=True, text=True, env=env)  # fmt: skip
            assert done.returncode == 0, done.stderr
            ours("postgresql", text, {"host": clean.layout.host, "port": port, "name": "ours", "user": SOCKET_USER, "password": WORD})  # fmt: skip
            dumps = [subprocess.run(["pg_dump", *where, name], capture_output=True, text=True, check=True, env=env).stdout for name in ("theirs", "ours")]  # fmt: skip
            assert same_lines(dumps[0]) == same_lines(dumps[1]), seed
    finally:
        for name in ("theirs", "ours"):
            clean.pg(f"DROP DATABASE IF EXISTS {name}")
        clean.pg(f"DROP ROLE {SOCKET_USER}")


@pytest.mark.parametrize("release", ["tt-rss", "zabbix-frontend-php", "ocsinventory-reports"])
def test_dumps_of_real_releases(mariadb: Hosting, release: str) -> None:
    """The tables of real releases come out as their servers' own client makes them."""
    import tarfile
    import zipfile

    box = archive(release)
    assert release in RECIPES
    wanted = ("ttrss_schema_mysql.sql", "mysql/schema.sql", "ocsbase.sql")
    if box.suffix == ".zip":
        with zipfile.ZipFile(box) as packed:
            found = [packed.read(n) for n in packed.namelist() if n.endswith(wanted)]
    else:
        with tarfile.open(box) as tar:
            found = [tar.extractfile(m).read() for m in tar if m.name.endswith(wanted)]  # type: ignore[union-attr]
    assert found
    text = found[0].decode("utf-8", "replace")
    if "CREATE DATABASE" in text or "USE " in text.upper().split("CREATE TABLE")[0]:
        text = "\n".join(line for line in text.split("\n") if not line.upper().lstrip().startswith(("CREATE DATABASE", "USE ", "GRANT ", "DROP DATABASE")))  # fmt: skip
    compare_mariadb(mariadb, text)


@pytest.mark.parametrize(
    ("text", "line"), [("SELECT 1;\nSELECT 'a", 2), ("SELECT 1;\n\nCREATE /* x", 3), ('\nSELECT "', 2)]
)
def test_a_dump_that_ends_in_the_middle_says_where(text: str, line: int) -> None:
    with pytest.raises(StatementError) as fault:
        list(statements(text.splitlines(keepends=True), "mariadb"))
    assert fault.value.line == line and f"line {line}" in str(fault.value)
