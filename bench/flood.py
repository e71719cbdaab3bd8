"""What a service bears: floods of sign-ins, bodies and half-open requests, silent hosts, packed bombs, long lists.

    .venv/bin/python bench/flood.py [--beside OTHER/src] [--smallest]

Everything is on loopback: services on fresh data folders, one after the other, the same calls to each. `--beside` names the
sources of another checkout (`git worktree add OTHER COMMIT`), which are measured in the same run with the same packages.
Latencies are those of /health, asked every 50 ms by a process of its own; memory is what the service's process has resident.
"""

from __future__ import annotations

import argparse
import gzip
import json
import os
import resource
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from pathlib import Path
from statistics import median
from typing import Any

import httpx

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tests.support import SOURCE, Service

# Sizes of a whole run, and of the smallest one, which shows in CI that this file still works.
WHOLE = {
    "sign_ins": 400,
    "silent": 45,
    "bodies": 8,
    "body_mb": 75,
    "half_open": 1_100,
    "jobs": 20_000,
    "bomb_mb": 1_700,
}
SMALLEST = {"sign_ins": 20, "silent": 5, "bodies": 2, "body_mb": 4, "half_open": 40, "jobs": 500, "bomb_mb": 64}
WATCH = """
import sys, time, httpx
url, token, seconds = sys.argv[1], sys.argv[2], float(sys.argv[3])
took, count, failed, stalled, end = [0.0], 0, 0, 0.0, time.monotonic() + seconds
with httpx.Client(headers={"Authorization": "Bearer " + token}, timeout=120) as client:
    while time.monotonic() < end:
        begun = time.monotonic()
        try:
            client.get(url + "/api/v1/health").raise_for_status()
            count += 1
        except httpx.HTTPError:
            failed += 1
        took.append(time.monotonic() - begun)
        begun = time.monotonic()
        time.sleep(0.05)
        # What the machine itself kept waiting: nobody but the scheduler has to do with a sleep.
        stalled = max(stalled, time.monotonic() - begun - 0.05)
took.sort()
print(took[-1], took[int(len(took) * 0.99)], stalled, count, failed)
"""


def resident_mb(process: int) -> float:
    text = Path(f"/proc/{process}/status").read_text()
    return int(next(line.split()[1] for line in text.splitlines() if line.startswith("VmRSS"))) / 1024


def peak_mb(process: int) -> float:
    text = Path(f"/proc/{process}/status").read_text()
    return int(next(line.split()[1] for line in text.splitlines() if line.startswith("VmHWM"))) / 1024


@contextmanager
def peak_of(service: Service) -> Iterator[list[float]]:
    """Afterwards: by how much the process was larger at its largest than before, MB."""
    assert service.process is not None
    pid = service.process.pid
    Path(f"/proc/{pid}/clear_refs").write_text("5")
    before = resident_mb(pid)
    found: list[float] = []
    yield found
    found.append(max(peak_mb(pid) - before, 0.0))


@contextmanager
def watched(service: Service, seconds: float) -> Iterator[dict[str, float]]:
    """Afterwards: the worst and how many answers of /health, and by how much a sleep was too long meanwhile."""
    command = [sys.executable, "-c", WATCH, f"http://127.0.0.1:{service.port}", service.token, str(seconds)]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    found: dict[str, float] = {}
    yield found
    told, _ = process.communicate()
    worst, most, stalled, count, failed = told.split()
    found |= {"worst_seconds": round(float(worst), 2), "p99_seconds": round(float(most), 2)}
    found |= {"machine_stalled_seconds": round(float(stalled), 2), "answers": int(count), "failed": int(failed)}


@contextmanager
def from_elsewhere() -> Iterator[None]:
    """Whoever floods a service has a machine of their own: the threads started here give way to the service on this one."""
    os.setpriority(os.PRIO_PROCESS, 0, 10)
    try:
        yield
    finally:
        os.setpriority(os.PRIO_PROCESS, 0, 0)


def sign_ins_and_silent_hosts(service: Service, size: dict[str, int]) -> dict[str, float]:
    """Wrong passwords of made-up names, and checks at hosts that say nothing, at once."""
    with socket.create_server(("127.0.0.1", 0), backlog=500) as silent, ExitStack() as stack:
        port = silent.getsockname()[1]
        for number in range(size["silent"]):
            body = {
                "name": f"silent-{number}",
                "transfer": f"sftp://x@127.0.0.1:{port}",
                "password": "w0rd-w0rd",
                "root": "www",
                "address": f"http://127.0.0.1:{port}/",
            }
            _call(service, "POST", "/accounts", body).raise_for_status()
        begun = time.monotonic()
        with watched(service, 40 if size is WHOLE else 4) as found, from_elsewhere(), ThreadPoolExecutor(200) as pool:
            for number in range(size["silent"]):
                pool.submit(_call, service, "POST", f"/accounts/silent-{number}/check", {"wait_seconds": 25})
            tries = [pool.submit(_sign_in, service, number) for number in range(size["sign_ins"])]
            statuses = [t.result() for t in tries]
            found["sign_ins_seconds"] = round(time.monotonic() - begun, 1)
            found["hashed"] = statuses.count(401)
        stack.close()
    return found


# One for all: making a client costs more than many a request, and would be what is measured.
CLIENT = httpx.Client(verify=False, timeout=180, limits=httpx.Limits(max_connections=300))


def _call(service: Service, method: str, path: str, body: Any = None) -> httpx.Response:
    return CLIENT.request(
        method,
        f"http://127.0.0.1:{service.port}/api/v1{path}",
        json=body,
        headers={"Authorization": f"Bearer {service.token}"},
    )


def _sign_in(service: Service, number: int) -> int:
    try:
        return CLIENT.post(
            f"http://127.0.0.1:{service.port}/api/v1/session",
            json={"name": f"guess{number}", "password": "wrong wrong wrong"},
            headers={"Sec-Fetch-Site": "same-origin"},
        ).status_code
    except httpx.HTTPError:
        return 0


def bodies(service: Service, size: dict[str, int]) -> dict[str, float]:
    """Large JSON from nobody we know, all at once."""
    block = b'{"name": "' + b"x" * (1 << 20)

    def send(_: int) -> None:
        with socket.create_connection(("127.0.0.1", service.port), 30) as line:
            head = "POST /api/v1/accounts HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\n"
            head += f"Content-Length: {size['body_mb'] << 20}\r\n\r\n"
            try:
                line.sendall(head.encode())
                for _ in range(size["body_mb"]):
                    line.sendall(block[: 1 << 20])
                line.recv(1)
            except OSError:
                return

    with peak_of(service) as grown, ThreadPoolExecutor(size["bodies"]) as pool:
        list(pool.map(send, range(size["bodies"])))
    return {"grown_mb": round(grown[0], 1)}


def half_open(service: Service, size: dict[str, int]) -> dict[str, float]:
    """Connections whose requests never come to an end, held while /health is asked."""
    with peak_of(service) as grown, watched(service, 8 if size is WHOLE else 2) as found, ExitStack() as stack:
        for _ in range(size["half_open"]):
            try:
                line = stack.enter_context(socket.create_connection(("127.0.0.1", service.port), 5))
                line.sendall(b"POST /api/v1/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 900\r\n")
            except OSError:
                break
        time.sleep(6 if size is WHOLE else 1)
    log = service.log.stat().st_size
    return {**found, "grown_mb": round(grown[0], 1), "log_kb": round(log / 1024, 1)}


BOMBED = """
import resource, sys
from highshelf.core.errors import HighShelfError
from highshelf.core.origins import Origins
from highshelf.drivers.http.fetch import HttpFetch
address = sys.argv[1]
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
with HttpFetch(Origins.of(address), address=address, timeout_seconds=60) as conversation:
    try:
        conversation.get(address)
    except HighShelfError as fault:
        print(fault.message[:60], file=sys.stderr)
print((resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024)
"""


def bomb(source: Path, size: dict[str, int]) -> dict[str, float]:
    """A few hundred bytes, packed again and again, as the answer of a site."""
    body = gzip.compress(b"0" * (size["bomb_mb"] << 20), 9)
    body = gzip.compress(gzip.compress(body, 9), 9)
    head = f"HTTP/1.1 200 OK\r\nContent-Encoding: gzip, gzip, gzip\r\nContent-Length: {len(body)}\r\n\r\n".encode()
    with socket.create_server(("127.0.0.1", 0)) as server:

        def answer() -> None:
            line, _ = server.accept()
            with line:
                line.recv(65536)
                line.sendall(head + body)

        threading.Thread(target=answer, daemon=True).start()
        address = f"http://127.0.0.1:{server.getsockname()[1]}/"
        environment = {**os.environ, "PYTHONPATH": str(source)}
        done = subprocess.run(
            [sys.executable, "-c", BOMBED, address], env=environment, capture_output=True, text=True, check=True
        )
    return {"bytes": len(body), "grown_mb": round(float(done.stdout), 1)}


def lists(service: Service, size: dict[str, int]) -> dict[str, float]:
    """The first 50 and the first 500 of many jobs, each with its acts and events; medians of seven."""
    _fill(service.data / "highshelf.sqlite", size["jobs"])
    found: dict[str, float] = {}
    with httpx.Client(headers={"Authorization": f"Bearer {service.token}"}, timeout=120) as client:
        for limit in (50, 500):
            times = []
            for _ in range(7):
                begun = time.monotonic()
                answer = client.get(f"http://127.0.0.1:{service.port}/api/v1/jobs", params={"limit": limit})
                times.append(time.monotonic() - begun)
                assert len(answer.raise_for_status().json()["items"]) == limit
            found[f"first_{limit}_ms"] = round(median(times) * 1000)
    return found


def _fill(path: Path, jobs: int) -> None:
    acts = [("survey", "look"), *(("place", f"act-{n}") for n in range(12)), *(("walk", f"act-{n}") for n in range(12))]
    plan = json.dumps(
        {
            "account": "yard",
            "address": "http://yard.saltmarsh.example/",
            "target": "www",
            "database": "mariadb",
            "acts": [{"leg": "place", "what": "x" * 80, "by_hand": "y" * 200}] * 18,
        }
    )
    at = "2026-01-01 00:00:00.000000"
    with sqlite3.connect(path, timeout=60) as database:
        put = database.executemany
        ids = [f"{n:012x}" for n in range(jobs)]
        put(
            "INSERT INTO plan (id, account, release, body, created_at) VALUES (?, 'yard', 'ab', ?, ?)",
            [("p" + i, plan, at) for i in ids],
        )
        put(
            "INSERT INTO job (id, kind, plan_id, account, application, state, keep, cancel_asked, pause, installation, created_at, finished_at) "
            "VALUES (?, 'install', ?, ?, 'Ledger 1.0', 'done', 0, 0, '', '', ?, ?)",
            [(i, "p" + i, f"yard-{n % 300}", f"2026-01-01 00:00:00.{n:06}", at) for n, i in enumerate(ids)],
        )
        put(
            "INSERT INTO act (job_id, leg, name, state, facts, told, started_at) VALUES (?, ?, ?, 'done', '{}', 'told', ?)",
            [(i, leg, name, at) for i in ids for leg, name in acts],
        )
        put(
            "INSERT INTO event (job_id, at, leg, kind, text, data) VALUES (?, ?, 'place', ?, 'told', '{}')",
            [(i, at, "note" if n % 3 else "state") for i in ids for n in range(12)],
        )


def measure(source: Path, size: dict[str, int]) -> dict[str, dict[str, float]]:
    """Every flood on a service of these sources."""
    floods: dict[str, Callable[[Service, dict[str, int]], dict[str, float]]] = {
        "bad sign-ins and silent hosts": sign_ins_and_silent_hosts,
        "large bodies from nobody": bodies,
        "half-open requests": half_open,
        "long lists of jobs": lists,
    }
    found: dict[str, dict[str, float]] = {"a bomb, packed thrice": bomb(source, size)}
    for name, flood in floods.items():
        with tempfile.TemporaryDirectory() as folder:
            service = Service(Path(folder) / "data", source=source)
            # Older sources know the option for releases only, and look at no other address.
            service.inside = "127.0.0.1"
            service.start()
            try:
                found[name] = flood(service, size)
            except (httpx.HTTPError, OSError) as fault:
                found[name] = {"broke": 1.0}
                print(f"{name}: {type(fault).__name__}: {fault}", file=sys.stderr)
            finally:
                service.stop()
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--beside", type=Path, help="the sources of another checkout, measured too")
    parser.add_argument("--smallest", action="store_true", help="the smallest size, to see that this works")
    options = parser.parse_args()
    _, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(hard, 8192) if hard > 0 else 8192, hard))
    size = SMALLEST if options.smallest else WHOLE
    measured = {"these": measure(SOURCE, size)}
    if options.beside is not None:
        measured["beside"] = measure(options.beside.resolve(), size)
    for name in measured["these"]:
        print(name)
        for whose, figures in measured.items():
            print(f"  {whose:<8}" + "  ".join(f"{n} {v}" for n, v in figures[name].items()))
    print(json.dumps(measured))


if __name__ == "__main__":
    main()
