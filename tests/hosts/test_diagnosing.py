"""Why a login does not work: provoked on both servers, asked by PHP as on a host, named by what the server says."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Iterator
from typing import Any

import pytest

from highshelf.core.database.diagnosing import CODES, Tried, diagnose
from highshelf.drivers.helper.client import part
from tests.support import Hosting, free_port

WORD = "Ebb-and-flow-77"


def ask(wanted: dict[str, Any]) -> str:
    """What PHP hears."""
    script = (
        part("database_login.php") + "echo json_encode(database_login(json_decode(stream_get_contents(STDIN), true)));"
    )
    done = subprocess.run(["php", "-r", script], input=json.dumps(wanted), capture_output=True, text=True, check=True)
    answer = json.loads(done.stdout)
    assert not answer["ok"], answer
    return str(answer["error"])


@pytest.fixture
def servers(clean: Hosting) -> Iterator[Hosting]:
    clean.sql(f"CREATE DATABASE pier; CREATE DATABASE quay; CREATE USER keeper@'%' IDENTIFIED BY '{WORD}'; GRANT ALL ON pier.* TO keeper@'%'")  # fmt: skip
    clean.sql(f"CREATE USER reader@'%' IDENTIFIED BY '{WORD}'; GRANT SELECT ON pier.* TO reader@'%'")
    clean.sql(f"CREATE USER sealed@'%' IDENTIFIED BY '{WORD}' REQUIRE SSL; GRANT ALL ON pier.* TO sealed@'%'")
    clean.sql(f"CREATE USER far@'192.0.2.1' IDENTIFIED BY '{WORD}'; GRANT ALL ON pier.* TO far@'192.0.2.1'")
    clean.sql(f"CREATE USER shut@'%' IDENTIFIED BY '{WORD}' ACCOUNT LOCK; GRANT ALL ON pier.* TO shut@'%'")
    clean.sql(f"CREATE USER few@'%' IDENTIFIED BY '{WORD}' WITH MAX_QUERIES_PER_HOUR 1; GRANT ALL ON pier.* TO few@'%'")
    clean.pg(f"CREATE ROLE keeper LOGIN PASSWORD '{WORD}'")
    clean.pg(f"CREATE ROLE barred NOLOGIN PASSWORD '{WORD}'")
    clean.pg(f"CREATE ROLE reader LOGIN PASSWORD '{WORD}'")
    clean.pg(f"CREATE ROLE few LOGIN PASSWORD '{WORD}' CONNECTION LIMIT 0")
    clean.pg("CREATE DATABASE pier OWNER keeper")
    clean.pg("CREATE DATABASE quay")
    clean.pg("REVOKE CONNECT ON DATABASE quay FROM PUBLIC")
    yield clean
    clean.sql("DROP DATABASE pier; DROP DATABASE quay")
    for user in ("keeper@'%'", "reader@'%'", "sealed@'%'", "far@'192.0.2.1'", "shut@'%'", "few@'%'"):
        clean.sql(f"DROP USER {user}")
    for name in ("pier", "quay"):
        clean.pg(f"DROP DATABASE {name}")
    for name in ("keeper", "barred", "reader", "few"):
        clean.pg(f"DROP ROLE {name}")


# What is provoked (name, user, password, host, port; "" as it should be), and what it is: written down before anything was asked.
PROVOKED: dict[str, list[tuple[dict[str, Any], str]]] = {
    "mariadb": [
        ({"password": "not-this"}, "refused"),
        ({"user": "nobody"}, "refused"),
        ({"name": "quay"}, "not-attached"),
        ({"name": "dock"}, "not-attached"),
        ({"port": 1}, "wrong-port"),
        ({"host": "localhost"}, "wrong-socket"),
        ({"host": "no-such-host.saltmarsh.invalid"}, "unknown-host"),
        ({"user": "sealed"}, "refused"),
        ({"user": "far"}, "refused"),
        ({"user": "shut"}, "blocked"),
        ({"user": "reader", "write": True}, "privilege-missing"),
        ({"user": "few", "write": True}, "too-many"),
    ],
    "postgresql": [
        ({"password": "not-this"}, "refused"),
        ({"user": "nobody"}, "refused"),
        ({"name": "quay"}, "not-attached"),
        ({"name": "dock"}, "no-such-database"),
        ({"port": 1}, "wrong-port"),
        ({"host": ""}, "wrong-socket"),
        ({"host": "no-such-host.saltmarsh.invalid"}, "unknown-host"),
        ({"user": "barred"}, "blocked"),
        ({"user": "reader", "write": True}, "privilege-missing"),
        ({"user": "few"}, "too-many"),
    ],
}


@pytest.mark.parametrize("kind", list(PROVOKED))
def test_every_fault_is_named(servers: Hosting, kind: str) -> None:
    right = {"kind": kind, "host": "127.0.0.1", "port": servers.layout.port(kind), "name": "pier", "user": "keeper", "password": WORD}  # fmt: skip
    wrong = []
    for changes, code in PROVOKED[kind]:
        wanted = {**right, **changes}
        error = ask(wanted)
        found = diagnose(Tried(error, wanted["name"], wanted["user"], wanted["host"], str(wanted["port"])))
        if found.code != code:
            wrong.append((changes, code, found.code, error))
        assert WORD not in found.told + found.repair and found.repair
    assert not wrong, wrong


def test_a_name_without_the_addition_is_told_with_the_whole_one(servers: Hosting) -> None:
    right = {"kind": "mariadb", "host": "127.0.0.1", "port": servers.layout.port("mariadb"), "name": "ier", "user": "keeper", "password": WORD}  # fmt: skip
    error = ask(right)
    found = diagnose(Tried(error, "ier", "keeper", databases=("p_ier", "other"), users=("keeper",)))
    assert found.code == "addition-missing" and "p_ier" in found.told and "p_ier" in found.repair
    found = diagnose(Tried(error, "ier", "keeper", databases=("p_ier", "q_ier"), users=("keeper",)))
    assert found.code == "not-attached"


@pytest.mark.parametrize(
    ("error", "code"),
    [
        ("PHP here has no pdo_pgsql", "extension-missing"),
        (
            "SQLSTATE[HY000] [3159] Connections using insecure transport are prohibited while --require_secure_transport=ON.",
            "tls-wanted",
        ),
        (
            'SQLSTATE[08006] [7] FATAL:  no pg_hba.conf entry for host "192.0.2.7", user "a", database "b", no encryption',
            "not-allowed-from-here",
        ),
        ("SQLSTATE[HY000] [2002] Connection timed out", "unreachable"),
        ("SQLSTATE[HY000] [1049] Unknown database 'pier'", "no-such-database"),
        (
            "SQLSTATE[HY000] [1130] Host '192.0.2.7' is not allowed to connect to this MariaDB server",
            "not-allowed-from-here",
        ),
        ("SQLSTATE[HY000] [1129] Host '192.0.2.7' is blocked because of many connection errors", "blocked"),
        ("SQLSTATE[08004] [1040] Too many connections", "too-many"),
        ("SQLSTATE[HY000]: General error: 1114 The table 'x' is full", "full"),
        ("SQLSTATE[42000]: 1142 CREATE command denied to user 'a'@'b' for table `c`.`d`", "privilege-missing"),
        ("SQLSTATE[HY000] [2002] Connection refused", "wrong-port"),
        ("a sentence that no server has", "unclear"),
    ],
)
def test_what_cannot_be_provoked_here_is_known_by_its_words(error: str, code: str) -> None:
    assert diagnose(Tried(error, "pier", "keeper")).code == code
    assert code in CODES


def test_an_unused_port_is_told_with_its_number() -> None:
    port = free_port()
    error = ask({"kind": "mariadb", "host": "127.0.0.1", "port": port, "name": "a", "user": "b", "password": "c"})
    found = diagnose(Tried(error, "a", "b", "127.0.0.1", str(port)))
    assert found.code == "wrong-port" and str(port) in found.told
