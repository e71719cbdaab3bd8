"""Requests that nobody's client makes, byte by byte on the wire: addresses, headers, encodings and bodies.

A seeded sample in CI; many of them by `HIGHSHELF_RAW=20000 .venv/bin/python -m pytest tests/service/test_raw.py -s`, which prints counts.
"""

from __future__ import annotations

import contextlib
import json
import os
import random
import re
import socket
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import pytest

from highshelf.service.app import create_app
from tests.support import Service

COUNT = int(os.environ.get("HIGHSHELF_RAW", "400"))
PATHS = sorted(create_app(Path("unused")).openapi()["paths"])
METHODS = [
    b"GET",
    b"POST",
    b"PATCH",
    b"DELETE",
    b"HEAD",
    b"PUT",
    b"OPTIONS",
    b"TRACE",
    b"CONNECT",
    b"get",
    b"X" * 300,
    b"\x00",
]
PIECES = [b"%00", b"%2e%2e/", b"../", b"//", b"\\", b"%", b"%zz", b"%c0%af", b"%ff", b"%ed%a0%80", b"?a=%00&b", b"?limit=1e999", b"?limit=-1",
          b"?offset=" + b"9" * 400, b"#x", b";", b" ", b"\t", b"@evil.example/", b"http://evil.example/", b"x" * 9000, "ü".encode(), b"\xff\xfe", b"?" + b"a&" * 3000]  # fmt: skip
HEADERS = [b"Content-Length: -1", b"Content-Length: 5, 6", b"Content-Length: " + b"9" * 50, b"Content-Length: 1\r\nContent-Length: 2", b"Transfer-Encoding: chunked",
           b"Transfer-Encoding: chunked, gzip", b"Content-Encoding: gzip, gzip, gzip", b"Content-Encoding: x", b"Content-Type: application/json; charset=utf-7",
           b"Content-Type: multipart/form-data", b"Content-Type: multipart/form-data; boundary=" + b"-" * 5000, b"Content-Type: \xff", b"Accept: \xff\x00", b"Accept-Encoding: *",
           b"Range: bytes=9-1,-5,0-", b"Last-Event-ID: " + b"9" * 300, b"Last-Event-ID: x", b"Cookie: " + b"session=\xff; " * 50, b"Cookie: =;;==", b"Origin: null", b"Origin: http://[",
           b"X-Forwarded-For: " + b"1.2.3.4, " * 200, b"Authorization: Basic \xff", b"Authorization: Bearer", b"Authorization: " + b"a" * 5000, b"If-None-Match: " + b'"' * 99,
           b"Expect: 100-continue", b"Upgrade: websocket\r\nConnection: Upgrade", b" folded: yes", b"No colon", b": nameless", b"A\x00: b", b"Host: evil.example"]  # fmt: skip
BODIES = [b"", b"{", b"null", b"[]", b'"\\ud800"', b'{"a": 1e999}', b'{"name": ' + b"[" * 5000, b'{"name": "\\u0000"}', b"\xff\xfe{\x00}\x00", b'{"name": NaN}', b"9" * 6000,
          b'{"name": "x", "name": {"__proto__": 1}}', b"5\r\nhello\r\n0\r\n\r\n", b"zz\r\n", b"-" * 200, b"\x1f\x8b\x08\x00" + b"\x00" * 60, b'{"' + b"k" * 70000 + b'": 1}']  # fmt: skip


@pytest.fixture(scope="module")
def service(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    running = Service(tmp_path_factory.mktemp("raw") / "data")
    running.start()
    yield running
    running.stop()


def made(chance: random.Random, token: str) -> bytes:
    path = re.sub(r"\{\w+\}", lambda _: chance.choice(["x", "%2F", "..", "ü", "0"]), chance.choice(PATHS)).encode()
    for _ in range(chance.choice([0, 0, 0, 1, 2])):
        at = chance.randrange(len(path) + 1)
        path = path[:at] + chance.choice(PIECES) + path[at:]
    body = chance.choice(BODIES)
    headers = [b"Host: localhost", b"Authorization: Bearer " + token.encode(), b"Sec-Fetch-Site: same-origin"]
    headers += chance.sample(HEADERS, chance.choice([0, 0, 1, 1, 2]))
    if chance.random() < 0.9:
        headers.append(b"Content-Length: %d" % len(body))
    if chance.random() < 0.7:
        headers.append(b"Content-Type: application/json")
    chance.shuffle(headers)
    first = (
        chance.choice(METHODS[:5] * 3 + METHODS)
        + b" "
        + path
        + b" "
        + chance.choice([b"HTTP/1.1"] * 5 + [b"HTTP/9.9", b"HTTP/1.0", b""])
    )
    return b"\r\n".join([first, b"Connection: close", *headers, b"", body])


def status_of(port: int, sent: bytes) -> int:
    """What is answered; 0 when the line was closed without a word. Whoever waits for more is told after a moment that there is none."""
    heard = b""
    with socket.create_connection(("127.0.0.1", port), 30) as line, contextlib.suppress(ConnectionError):
        line.sendall(sent)
        line.settimeout(0.3)
        try:
            heard = line.recv(64)
        except TimeoutError:
            line.settimeout(30)
            line.shutdown(socket.SHUT_WR)
            heard = line.recv(64)
    found = re.match(rb"HTTP/1\.1 (\d{3})", heard)
    return int(found.group(1)) if found else 0


def test_whatever_is_sent_is_answered_or_let_go_and_is_no_fault_of_ours(service: Service) -> None:
    said: Counter[int] = Counter()
    for seed in range(COUNT):
        sent = made(random.Random(seed), service.token)
        if re.match(rb"POST \S*/(welcome|operators|session)", sent):
            continue
        status = status_of(service.port, sent)
        assert status < 500 or status == 503, (seed, status, sent[:300])
        said[status] += 1
    print(json.dumps({str(status): count for status, count in sorted(said.items())}))
    assert sum(said.values()) > COUNT * 0.8 and said[0] < COUNT * 0.5
    with service.client as client:
        assert client.account_list().items == [] or client.account_list().total >= 0
    log = service.log.read_text()
    assert "Traceback" not in log and "Invalid HTTP" not in log and "level='error'" not in log, log[
        max(0, log.find("Traceback") - 500) :
    ][:3000]
