"""Databases for themselves: made, tried, filled, copied, dropped, by the service's own commands; both servers' own clients are the judges."""

from __future__ import annotations

import gzip
import json
import lzma
import random
import sqlite3
import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest

from highshelf.client import Client
from highshelf.practice.servers import postgresql
from tests.hosts.test_dumps import mariadb_dump, postgresql_dump, same_lines
from tests.support import Hosting, Service, until

# Rows with what a copy trips over: bytes, numbers that no other has, moments, nothing, and a table without a key.
MARIADB_ODD = """
CREATE TABLE `odd ``one` (a INT UNSIGNED, b VARCHAR(20), c LONGBLOB, d DOUBLE, e DECIMAL(30,10), f BIT(9), g TIMESTAMP(6) NULL, h JSON, i ENUM('x','it''s'),
  j TIME(3), k YEAR, l BINARY(4), m FLOAT, n BIGINT UNSIGNED, o BIGINT AS (a * 2) STORED, p BIGINT AS (a + 1) VIRTUAL, PRIMARY KEY (a, b)) ENGINE=InnoDB;
INSERT INTO `odd ``one` (a,b,c,d,e,f,g,h,i,j,k,l,m,n) VALUES
 (1,'a\\\\b',x'00ff27c3285c',0.1,12345678901234567890.0123456789,b'101010101','2026-03-29 01:30:00.123456','{"a": "ö"}','it''s','-11:12:13.5',1999,x'00010203',0.1,18446744073709551615),
 (1,'z''"%',x'',1e300,-1,b'0',NULL,NULL,'x','838:59:59',2155,x'ffffffff',-3.4e38,0),
 (4294967295,'\\r\\n\\t\\0',NULL,NULL,NULL,NULL,NULL,NULL,NULL,NULL,NULL,NULL,NULL,NULL);
CREATE TABLE nokey (w TEXT CHARACTER SET latin1) ENGINE=MyISAM DEFAULT CHARSET=latin1;
INSERT INTO nokey VALUES ('größer'), ('größer'), (''), (NULL);
CREATE TABLE parent (id INT PRIMARY KEY AUTO_INCREMENT, w VARCHAR(5)) AUTO_INCREMENT=40;
CREATE TABLE achild (id INT, p INT, KEY (p), FULLTEXT KEY (w2), w2 TEXT, CONSTRAINT fk FOREIGN KEY (p) REFERENCES parent (id));
INSERT INTO parent VALUES (39,'x'); INSERT INTO achild VALUES (1,39,'t');
CREATE VIEW bview AS SELECT * FROM parent; CREATE VIEW aview AS SELECT id FROM bview;
DELIMITER //
CREATE PROCEDURE p1(IN a INT) BEGIN SELECT a; SELECT ';'; END//
CREATE FUNCTION f1(a INT) RETURNS INT DETERMINISTIC RETURN a + 1//
CREATE TRIGGER odd1 BEFORE INSERT ON parent FOR EACH ROW BEGIN SET NEW.w = 'x;y'; END//
DELIMITER ;
"""
POSTGRESQL_ODD = """
CREATE TYPE mood AS ENUM ('a', 'it''s'); CREATE DOMAIN small AS integer CHECK (VALUE < 100);
CREATE SEQUENCE own START 5 INCREMENT 3;
CREATE FUNCTION twice(n int) RETURNS int LANGUAGE plpgsql IMMUTABLE AS $$ BEGIN RETURN n * 2; END; $$;
CREATE TABLE "odd ""one" (a int, b text, c bytea, d double precision, e numeric(30,10), f boolean, g timestamptz, h jsonb, i mood, j interval, k int[],
  l small, m real, n bigint GENERATED ALWAYS AS IDENTITY, o int GENERATED ALWAYS AS (a * 2) STORED, p int DEFAULT nextval('own'), PRIMARY KEY (a, b));
INSERT INTO "odd ""one" (a,b,c,d,e,f,g,h,i,j,k,l,m) VALUES
 (1,'a\\b','\\x00ff27',0.1,12345678901234567890.0123456789,true,'2026-03-29 01:30:00.123456+01','{"a": "ö"}','it''s','1 year -3 days 04:05:06','{1,NULL,3}',7,0.1),
 (1,'z''"$$',NULL,'NaN',-1,false,'infinity',NULL,NULL,NULL,'{}',NULL,'-Infinity'), (2,E'\\r\\n\\t',NULL,NULL,NULL,NULL,NULL,NULL,NULL,NULL,NULL,NULL,NULL);
CREATE TABLE parent (id serial PRIMARY KEY, w varchar(5) UNIQUE); INSERT INTO parent (w) VALUES ('x'), ('y');
CREATE TABLE achild (id int, p int REFERENCES parent ON DELETE CASCADE, CHECK (id > 0)); INSERT INTO achild VALUES (1, 2);
CREATE INDEX by_lower ON parent (lower(w)) WHERE w <> '';
CREATE VIEW bview AS SELECT * FROM parent; CREATE VIEW aview AS SELECT id FROM bview; CREATE MATERIALIZED VIEW mview AS SELECT count(*) FROM parent;
CREATE FUNCTION touch() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN NEW.w := 'x;y'; RETURN NEW; END; $$;
CREATE TRIGGER g1 BEFORE UPDATE ON parent FOR EACH ROW EXECUTE FUNCTION touch();
"""


def made(service: Service, account: str, kind: str = "mariadb") -> str:
    """A database that was made by the command; its whole name."""
    found = service.cli_json("database", "make", account, "--kind", kind)
    assert found["made_here"] and found["proven"] and found["kind"] == kind, found
    return str(found["name"])


def theirs(hosting: Hosting, kind: str, name: str) -> list[str]:
    """A database as its server's own client writes it down, without owners and rights."""
    if kind == "mariadb":
        command = ["mariadb-dump", "--no-defaults", f"--socket={hosting.layout.database_socket}", "--skip-comments", "--routines", name]  # fmt: skip
    else:
        folder, port = str(hosting.layout.postgresql_socket), str(hosting.layout.port("postgresql"))
        command = [*postgresql._user_words(), "pg_dump", "-h", folder, "-p", port, "-U", "postgres", "--no-owner", "--no-privileges", "--inserts", name]  # fmt: skip
    done = subprocess.run(command, capture_output=True, check=True, cwd="/")
    text = done.stdout.decode(errors="surrogateescape").replace(f"`{name}`.", "")
    # Who made it is whoever imported it.
    for line in hosting.sql("SELECT CONCAT('`', User, '`@`', Host, '`') FROM mysql.user"):
        text = text.replace(line[0], "SOMEBODY")
    return sorted(same_lines(text))


@pytest.mark.parametrize(
    ("key", "kind", "packed"),
    [("ferry", "mariadb", ".gz"), ("choir", "mariadb", ".xz"), ("choir", "postgresql", ""), ("seeds", "mariadb", "")],
)
def test_made_filled_copied_and_dropped_again(
    clean: Hosting, service: Service, tmp_path: Path, key: str, kind: str, packed: str
) -> None:
    service.client.account_add(clean.new_account(key))
    before = (clean.databases(), clean.postgresql_databases(), clean.picture(key)["tree"])
    first, second = made(service, key, kind), made(service, key, kind)
    tried = service.cli("database", "try", key, first)
    assert tried.returncode == 0 and "a table was made, written, read and dropped" in tried.stdout, tried
    dump = tmp_path / f"brought.sql{packed}"
    text = mariadb_dump(random.Random(3)) + MARIADB_ODD if kind == "mariadb" else postgresql_dump(random.Random(3)) + POSTGRESQL_ODD  # fmt: skip
    pack: dict[str, Callable[[bytes], bytes]] = {".gz": gzip.compress, ".xz": lzma.compress, "": bytes}
    dump.write_bytes(pack[packed](text.encode()))
    brought = service.cli("database", "import", key, first, str(dump))
    assert brought.returncode == 0, brought.stdout + brought.stderr
    assert service.client.dump_list().total == 0
    copy = tmp_path / "copy.sql.gz"
    taken = service.cli("database", "export", key, first, "--to", str(copy))
    assert taken.returncode == 0, taken.stdout + taken.stderr
    assert copy.stat().st_mode & 0o777 == 0o600 and service.client.dump_list().total == 0
    again = service.cli("database", "import", key, second, str(copy))
    assert again.returncode == 0, again.stdout + again.stderr + gzip.decompress(copy.read_bytes()).decode()
    assert theirs(clean, kind, first) == theirs(clean, kind, second)
    planned = service.cli("database", "drop", key, first, "--plan")
    [held] = [one.tables for one in service.client.database_list(key, ask=False).items if one.name == first]
    assert held and f"drop the database {first}, with its {held} tables" in planned.stdout, planned.stdout
    # Without what the panel has put to it.
    bare = first.rpartition("-")[0] or first.partition("_")[2]
    near = service.cli("database", "drop", key, bare, "--yes")
    assert near.returncode == 2 and f"did you mean {first}" in near.stderr, near.stderr
    for name in (first, second):
        dropped = service.cli("database", "drop", key, name, "--yes")
        assert dropped.returncode == 0, dropped.stdout + dropped.stderr
    assert service.cli_json("database", "list", key, "--no-ask")["items"] == []
    assert (clean.databases(), clean.postgresql_databases(), clean.picture(key)["tree"]) == before


def rows_dump(rows: int) -> str:
    """Rows of one table, each a statement, with their number in it."""
    head = "SET NAMES utf8mb4;\nCREATE TABLE tides (id INT PRIMARY KEY, w VARCHAR(200)) ENGINE=InnoDB;\n"
    return head + "".join(f"INSERT INTO tides VALUES ({n}, '{'ebb and flow; ' * 8}{n}');\n" for n in range(rows))


@pytest.mark.parametrize("key", ["ferry", "choir"])
def test_an_import_that_was_killed_twice_is_finished(
    clean: Hosting, service: Service, tmp_path: Path, key: str
) -> None:
    service.client.account_add(clean.new_account(key))
    name, count = made(service, key), 60_000
    dump = tmp_path / "tides.sql"
    dump.write_text(rows_dump(count) + "CREATE TABLE last (n INT);\nINSERT INTO last VALUES (7);\n")
    with service.client as client:
        job = client.database_import(key, name, client.dump_bring(dump).id).id

    def came() -> int:
        known = clean.sql(f"SHOW TABLES IN `{name}` LIKE 'tides'")
        return int(clean.sql(f"SELECT COUNT(*) FROM `{name}`.tides")[0][0]) if known else 0

    for least in (1, count // 3):
        until(lambda least=least: came() >= least, "nothing came", 60)
        service.kill()
        service.start()
    ended = service.wait(job)
    assert ended.state == "done", ended.error
    assert came() == count and clean.sql(f"SELECT n FROM `{name}`.last") == [["7"]]
    assert [r[0] for r in clean.sql(f"SHOW TABLES IN `{name}`")] == ["last", "tides"]
    told = [e.text for e in service.client.job_log(job).items]
    assert sum("going on after" in t for t in told) >= 1, told
    assert any(f"2 tables with {count + 1:,} rows" in t for t in told), told
    assert not clean.leftovers()


def test_what_the_server_refuses_leaves_the_database_empty_and_names_the_line(
    clean: Hosting, service: Service, tmp_path: Path
) -> None:
    service.client.account_add(clean.new_account("choir"))
    name = made(service, "choir")
    dump = tmp_path / "broken.sql"
    dump.write_text(
        rows_dump(10) + "CREATE VIEW v AS SELECT 1;\nINSERT INTO tides VALUES (3, 'twice');\n" + "SELECT 1;\n"
    )
    done = service.cli("database", "import", "choir", name, str(dump))
    assert done.returncode == 1 and "line 14" in done.stdout and "Duplicate entry" in done.stdout, done.stdout
    assert clean.sql(f"SHOW TABLES IN `{name}`") == []
    # The dump is not lost, and can be removed.
    number = service.client.dump_list().items[0].id
    assert number in done.stderr
    assert service.cli("dump", "remove", number, "--yes").returncode == 0 and service.client.dump_list().total == 0
    # Nothing is imported into what is not empty.
    clean.sql(f"CREATE TABLE `{name}`.theirs (n INT)")
    dump.write_text(rows_dump(3))
    done = service.cli("database", "import", "choir", name, str(dump))
    assert done.returncode == 1 and "is not empty (1 table)" in done.stdout, done.stdout
    assert [r[0] for r in clean.sql(f"SHOW TABLES IN `{name}`")] == ["theirs"]


def test_a_cancelled_import_leaves_the_database_empty(clean: Hosting, service: Service, tmp_path: Path) -> None:
    service.client.account_add(clean.new_account("ferry"))
    name = made(service, "ferry")
    dump = tmp_path / "tides.sql"
    dump.write_text(rows_dump(60_000))
    with service.client as client:
        job = client.database_import("ferry", name, client.dump_bring(dump).id).id
        until(lambda: bool(clean.sql(f"SHOW TABLES IN `{name}`")), "nothing came", 60)
        client.job_cancel(job)
        assert service.wait(job).state == "cancelled"
    assert clean.sql(f"SHOW TABLES IN `{name}`") == []


def test_one_that_was_there_is_filed_when_its_login_works_and_is_never_dropped(
    clean: Hosting, service: Service
) -> None:
    service.client.account_add(clean.new_account("choir"))
    name = made(service, "choir")
    [known] = service.client.database_list("choir", ask=False).items
    password = service.client.database_reveal("choir", name).secrets["database"]
    # Another service that knows nothing of it would file it so.
    assert service.cli("database", "try", "choir", name).returncode == 0
    assert service.cli("database", "forget", "choir", name, "--yes").returncode == 0
    # "Leaves the strongbox for good": neither the jobs nor their plans have a copy.
    with sqlite3.connect(service.data / "highshelf.sqlite") as books:
        left = [ref for (ref,) in books.execute("select ref from secret")]
    assert not [ref for ref in left if "database" in ref], left
    [listed] = service.client.database_list("choir").items
    assert (listed.name, listed.number, listed.there) == (name, "", True)
    words = ["database", "add", "choir", name, "--user", known.user, "--password-file", "-"]
    refused = service.cli(*words, text="not-the-word")
    assert refused.returncode == 1 and "set a new password" in refused.stdout, refused.stdout
    assert not service.client.database_list("choir", ask=False).items
    added = service.cli(*words, text=password)
    assert added.returncode == 0, added.stdout + added.stderr
    again = service.cli(*words, text=password)
    assert again.returncode == 1 and "known already" in again.stderr, again
    never = service.cli("database", "drop", "choir", name, "--yes")
    assert never.returncode == 1 and "never dropped" in never.stderr, never
    assert clean.databases()[0] == [name]


def test_no_password_is_in_what_is_told(clean: Hosting, service: Service) -> None:
    service.client.account_add(clean.new_account("choir"))
    name = made(service, "choir")
    with service.client as client:
        password = client.database_reveal("choir", name).secrets["database"]
        jobs = client.job_list("choir").items
        told = json.dumps([client.job_show(j.id).model_dump(mode="json") for j in jobs])
        told += json.dumps([e.text for j in jobs for e in client.job_log(j.id).items])
    assert password not in told and password not in service.log.read_text()
    rows = b"".join(p.read_bytes() for p in service.data.glob("*.sqlite*"))
    assert password.encode() not in rows


def test_what_cannot_be_a_dump_is_refused_with_the_reason(service: Service, tmp_path: Path) -> None:
    client: Client = service.client
    for name, content, why in (
        ("a.sql", b"PK\x03\x04" + b"0" * 50, "a zip archive"),
        ("b.sql", "CREATE".encode("utf-16"), "UTF-16"),
        ("c.sql.gz", gzip.compress(b"SELECT 1;\n" * 9000)[:200], "broken"),
        ("d.sql", b"USE one;\nSELECT 1;\nUSE two;\nSELECT 1;\n", "holds 2 databases"),
        ("e.sql", b"\0\1\2\3", "no text"),
    ):
        file = tmp_path / name
        file.write_bytes(content)
        done = service.cli("database", "import", "nobody", "none", str(file))
        assert done.returncode in (1, 2) and why in done.stderr, (name, done.stderr)
    assert client.dump_list().total == 0
