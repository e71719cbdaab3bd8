"""Seconds of an import and an export beside the server's own clients on the same dump, and the service's memory; over the shell and the helper.

    .venv/bin/python bench/dumps.py [--rows 2000000] [--killed 2]

The last line is JSON. Run as root: it starts a practice host of its own (and removes it) and one service process for each customer.
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bench.install import peak_megabytes
from tests.support import Hosting, Service, until

from highshelf.practice import host
from highshelf.practice.layout import Layout
from highshelf.schemas.databases import DatabaseNew

ROWS_AT_ONCE = 200
COLUMNS = (
    "CREATE TABLE `{}` (`id` int NOT NULL, `at` datetime NOT NULL, `place` varchar(80), `note` text, PRIMARY KEY (`id`)) "
    "ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;\n"
)
NOTE = "it\\'s ebb; then flood " * 4


def write_dump(path: Path, rows: int) -> int:
    """A dump of two tables, many rows a statement as servers' clients write them; returns its bytes."""
    with path.open("w") as out:
        out.write("SET NAMES utf8mb4;\nSET FOREIGN_KEY_CHECKS=0;\n")
        for table in ("tides", "sightings"):
            out.write(COLUMNS.format(table))
            for start in range(0, rows // 2, ROWS_AT_ONCE):
                values = ",".join(one_row(n) for n in range(start, min(start + ROWS_AT_ONCE, rows // 2)))
                out.write(f"INSERT INTO `{table}` VALUES {values};\n")
    return path.stat().st_size


def one_row(n: int) -> str:
    return f"({n},'2026-{n % 12 + 1:02}-{n % 28 + 1:02} 04:{n % 60:02}:00','Höfn, pier {n % 97}','{NOTE}{n * 7919 % 1000003}')"


def own_client(hosting: Hosting, dump: Path) -> tuple[float, float]:
    """Seconds of the server's own client for the import, and of its own dump packed with gzip."""
    hosting.sql("DROP DATABASE IF EXISTS beside; CREATE DATABASE beside CHARACTER SET utf8mb4")
    socket = f"--socket={hosting.layout.database_socket}"
    began = time.monotonic()
    with dump.open("rb") as source:
        subprocess.run(["mariadb", "--no-defaults", socket, "beside"], stdin=source, check=True)
    brought = time.monotonic() - began
    began = time.monotonic()
    subprocess.run(f"mariadb-dump --no-defaults {socket} beside | gzip -6 > /dev/null", shell=True, check=True)
    taken = time.monotonic() - began
    hosting.sql("DROP DATABASE beside")
    return brought, taken


def measure(hosting: Hosting, key: str, dump: Path, folder: Path, rows: int, killed: int) -> dict[str, float]:
    folder.mkdir()
    service = Service(folder / "data")
    service.start()
    try:
        service.client.account_add(hosting.new_account(key))
        made = service.wait(service.client.database_make(key, DatabaseNew()).id)
        assert made.state == "done", made.error
        name = service.client.database_list(key, ask=False).items[0].name
        brought = service.client.dump_bring(dump)
        idle = peak_megabytes(service)
        began = time.monotonic()
        job = service.client.database_import(key, name, brought.id).id
        for time_nr in range(killed):
            least = rows * (time_nr + 1) // (killed + 2) // 2
            until(lambda least=least: came(hosting, name) >= least, "nothing came", 900)  # type: ignore[misc]
            service.kill()
            service.start()
        ended = service.wait(job, seconds=3600)
        assert ended.state == "done", ended.error
        seconds = time.monotonic() - began
        grown = peak_megabytes(service) - idle
        counted = sum(int(hosting.sql(f"SELECT COUNT(*) FROM `{name}`.{t}")[0][0]) for t in ("tides", "sightings"))
        assert counted == rows // 2 * 2, counted
        began = time.monotonic()
        taken = service.wait(service.client.database_export(key, name).id, seconds=3600)
        assert taken.state == "done", taken.error
        return {"import_seconds": seconds, "grown_mb": grown, "export_seconds": time.monotonic() - began}
    finally:
        service.stop()


def came(hosting: Hosting, name: str) -> int:
    """Rows of the first table; what is not committed does not count."""
    if not hosting.sql(f"SHOW TABLES IN `{name}` LIKE 'tides'"):
        return 0
    return int(hosting.sql(f"SELECT COUNT(*) FROM `{name}`.tides")[0][0])


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=2_000_000)
    parser.add_argument(
        "--killed", type=int, default=0, help="how often the service is killed in the middle of each import"
    )
    parser.add_argument("--smallest", action="store_true", help="the smallest size, to see that this works")
    options = parser.parse_args()
    rows, killed = (4_000, 0) if options.smallest else (options.rows, options.killed)
    layout = Layout(Path("/var/lib/highshelf-bench"), 28400)
    host.stop(layout, remove=True)
    host.start(layout)
    hosting = Hosting(layout)
    try:
        with tempfile.TemporaryDirectory() as folder:
            dump = Path(folder) / "dump.sql"
            size = write_dump(dump, rows)
            brought, taken = own_client(hosting, dump)
            print(
                f"{rows:,} rows, {size / 1e6:.0f} MB; the server's own client: import {brought:.1f} s, export {taken:.1f} s"
            )
            found = {}
            for key, way in (("ferry", "shell"), ("choir", "helper")):
                seen = measure(hosting, key, dump, Path(folder) / key, rows, killed)
                found[way] = seen
                print(
                    f"{way}: import {seen['import_seconds']:.1f} s ({seen['import_seconds'] / brought:.2f} x), "
                    f"export {seen['export_seconds']:.1f} s ({seen['export_seconds'] / taken:.2f} x), memory +{seen['grown_mb']:.0f} MB"
                )
            print(json.dumps({"rows": rows, "bytes": size, "own_import": brought, "own_export": taken, **found}))
    finally:
        host.stop(layout, remove=True)


if __name__ == "__main__":
    main()
