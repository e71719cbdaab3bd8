"""Connections and bodies: who is silent, slow or too large is let go, and everybody else is answered meanwhile."""

from __future__ import annotations

import asyncio
import socket
import threading
from collections.abc import Iterator
from contextlib import ExitStack
from typing import Any

import httpx
import pytest
import uvicorn
from starlette.types import Receive, Scope, Send

from highshelf.service import guard, wire
from highshelf.service.guard import Guard
from highshelf.service.settings import Settings
from tests.support import until


async def hello(scope: Scope, receive: Receive, send: Send) -> None:
    """Answers every request with what it sent; `/long` with more than anybody's buffer holds."""
    if scope["type"] != "http":
        return
    body, more = b"", True
    while more:
        message = await receive()
        body += message.get("body", b"")
        more = message.get("more_body", False)
    if scope["path"] == "/long":
        body = b"x" * (64 << 20)
    await send(
        {"type": "http.response.start", "status": 200, "headers": [(b"content-length", str(len(body)).encode())]}
    )
    await send({"type": "http.response.body", "body": body})


@pytest.fixture
def port(monkeypatch: pytest.MonkeyPatch) -> Iterator[int]:
    monkeypatch.setattr(wire, "MOST", 20)
    monkeypatch.setattr(wire, "HEADER_SECONDS", 1.0)
    monkeypatch.setattr(wire, "UNREAD_SECONDS", 0.5)
    monkeypatch.setattr(guard, "BODY_SECONDS", 0.5)
    line = socket.create_server(("127.0.0.1", 0))
    app = Guard(hello, Settings())
    server = uvicorn.Server(uvicorn.Config(app, http=wire.Connection, ws="none", lifespan="off", log_config=None))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [line]})
    thread.start()
    until(lambda: server.started, "the server did not start")
    yield line.getsockname()[1]
    server.should_exit = True
    thread.join()


def raw(port: int, sent: bytes) -> socket.socket:
    line = socket.create_connection(("127.0.0.1", port), 10)
    line.sendall(sent)
    return line


def heard(line: socket.socket) -> bytes:
    """What comes until the other side closes; nothing when it was reset."""
    found = b""
    try:
        while block := line.recv(65536):
            found += block
    except ConnectionError:
        return found
    return found


HEAD = b"Host: localhost\r\n"


def test_a_crowd_of_silent_connections_keeps_nobody_out(port: int) -> None:
    with ExitStack() as stack:
        for number in range(60):
            stack.enter_context(raw(port, b"GET / HTTP/1.1\r\n" if number % 2 else b""))
        for _ in range(5):
            assert httpx.post(f"http://127.0.0.1:{port}/", content=b"tide", timeout=5).content == b"tide"
        assert len(wire.Connection._open) <= 20


def test_headers_that_never_end_are_not_waited_for(port: int) -> None:
    with raw(port, b"GET / HTTP/1.1\r\nX-Slow: ") as line:
        assert heard(line).startswith(b"HTTP/1.1 408 ")


def test_the_second_request_of_a_connection_is_not_waited_for_either(port: int) -> None:
    with raw(port, b"GET / HTTP/1.1\r\n" + HEAD + b"\r\n") as line:
        assert line.recv(65536).startswith(b"HTTP/1.1 200 ")
        line.sendall(b"GET / HTTP/1.1\r\nX-Sl")
        assert b"408" in heard(line)


def test_a_body_that_never_ends_is_not_waited_for(port: int) -> None:
    with raw(port, b"POST / HTTP/1.1\r\n" + HEAD + b"Content-Length: 1000\r\n\r\nabc") as line:
        assert heard(line).startswith(b"HTTP/1.1 408 ")


def test_an_answer_that_nobody_reads_is_given_up(port: int) -> None:
    with raw(port, b"GET /long HTTP/1.1\r\n" + HEAD + b"\r\n") as line:
        until(lambda: bool(wire.Connection._open), "it was never there")
        until(lambda: not wire.Connection._open, "it is held for ever", 10)
        assert len(heard(line)) < 64 << 20


@pytest.mark.parametrize("how", ["length", "chunks", "nonsense", "many digits"])
def test_a_body_that_is_too_large_is_refused_before_it_is_read(port: int, how: str) -> None:
    said = {
        "length": b"Content-Length: 629145600\r\n\r\n",
        "chunks": b"Transfer-Encoding: chunked\r\n\r\n"
        + b"4000\r\n"
        + b"x" * 0x4000
        + b"\r\n"
        + b"4000\r\n"
        + b"x" * 0x4000
        + b"\r\n",
        "nonsense": b"Content-Length: -5\r\n\r\n",
        "many digits": b"Content-Length: " + b"9" * 4500 + b"\r\n\r\n",
    }[how]
    with raw(port, b"POST / HTTP/1.1\r\n" + HEAD + said) as line:
        assert heard(line)[:12] in (b"HTTP/1.1 413", b"HTTP/1.1 400")


@pytest.mark.parametrize(
    ("host", "status"),
    [("localhost", 200), ("127.0.0.1:7117", 200), ("[::1]:80", 200), ("LOCALHOST", 200), ("localhost.", 200),
     ("evil.example", 421), ("localhost.evil.example", 421), ("169.254.169.254", 421), ("localhost@evil.example", 421), ("[", 421), ("", 421)],
)  # fmt: skip
def test_only_our_own_names_are_answered(port: int, host: str, status: int) -> None:
    answer = heard(raw(port, b"GET / HTTP/1.1\r\nConnection: close\r\nHost: " + host.encode() + b"\r\n\r\n"))
    assert answer.split(b" ")[1] == str(status).encode()


def test_names_and_the_public_address_are_said_by_whoever_starts_the_service() -> None:
    settings = Settings(public="https://shelf.saltmarsh.example", names=("inner.saltmarsh.example",))
    assert settings.answers_to("shelf.saltmarsh.example") and settings.answers_to("inner.saltmarsh.example:7117")
    assert settings.encrypted and not Settings().encrypted and not settings.answers_to("other.saltmarsh.example")


@pytest.mark.parametrize(
    ("body", "fine"),
    [(b'{"a": "\\ud83d\\ude00"}', True), (b'{"a": "\xf0\x9f\x98\x80"}', True), (b"{}", True), (b"not json", True), (b"[" * 90_000, True),
     (b'{"a": "\\ud800"}', False), (b'{"\\udfff": 1}', False), (b'{"a": "\xed\xa0\x80"}', False), (b'{"a": "\xff"}', False),
     ('{"a": 1}'.encode("utf-16"), False)],
)  # fmt: skip
def test_half_a_character_is_refused_wherever_it_stands(body: bytes, fine: bool) -> None:
    told: list[int] = []

    async def once() -> Any:
        return {"type": "http.request", "body": body, "more_body": False}

    async def app(scope: Scope, receive: Receive, send: Send) -> None:
        told.append(200)

    async def send(message: Any) -> None:
        told.append(message.get("status", 0))

    headers = [
        (b"host", b"localhost"),
        (b"content-type", b"application/json"),
        (b"content-length", str(len(body)).encode()),
    ]
    scope: Any = {
        "type": "http",
        "method": "POST",
        "path": "/x",
        "headers": headers,
        "query_string": b"",
        "scheme": "http",
    }
    asyncio.run(Guard(app, Settings())(scope, once, send))
    expected = 413 if len(body) > guard.DOOR_BYTES else 200 if fine else 422
    assert told[0] == expected
