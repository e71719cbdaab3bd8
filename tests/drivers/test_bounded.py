"""What hostile sites answer: packed again and again, addresses that are none, numbers without end, a byte now and then."""

from __future__ import annotations

import gzip
import socket
import threading
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from highshelf.core.errors import FetchError, HighShelfError, OwnNetworkError
from highshelf.core.inside import Inside
from highshelf.core.origins import Origins
from highshelf.drivers.http import bounded, fetch
from highshelf.drivers.http.bounded import MAX_BYTES
from highshelf.drivers.http.fetch import HttpFetch, joined
from highshelf.drivers.wire.dial import dial_within

Say = Callable[[socket.socket], None]


@contextmanager
def answering(say: Say) -> Iterator[str]:
    """A server on loopback that reads a request's head and then says something, once a connection."""
    with socket.create_server(("127.0.0.1", 0)) as server:
        server.settimeout(0.1)
        over = threading.Event()

        def work() -> None:
            while not over.is_set():
                try:
                    line, _ = server.accept()
                except TimeoutError:
                    continue
                with line:
                    head = b""
                    while b"\r\n\r\n" not in head and (block := line.recv(65536)):
                        head += block
                    try:
                        say(line)
                    except OSError:
                        continue

        thread = threading.Thread(target=work, daemon=True)
        thread.start()
        try:
            yield f"http://127.0.0.1:{server.getsockname()[1]}/"
        finally:
            over.set()
            thread.join()


def page(headers: bytes, body: bytes, status: bytes = b"200 OK") -> Say:
    whole = (
        b"HTTP/1.1 "
        + status
        + b"\r\nContent-Length: %d\r\nConnection: close\r\n" % len(body)
        + headers
        + b"\r\n"
        + body
    )
    return lambda line: line.sendall(whole)


def asked(say: Say) -> str:
    with answering(say) as address, HttpFetch(Origins.of(address), address=address, timeout_seconds=5) as conversation:
        return conversation.get(address).html


def test_a_page_packed_once_is_read() -> None:
    for packed, coding in ((gzip.compress(b"tide"), b"gzip"), (zlib.compress(b"tide"), b"deflate")):
        assert asked(page(b"Content-Encoding: " + coding + b"\r\n", packed)) == "tide"
    bare = zlib.compressobj(wbits=-zlib.MAX_WBITS)
    assert asked(page(b"Content-Encoding: deflate\r\n", bare.compress(b"tide") + bare.flush())) == "tide"
    assert asked(page(b"Content-Encoding: identity\r\n", b"tide")) == "tide"


def test_what_is_packed_twice_is_not_unpacked_at_all() -> None:
    body = b"0" * (64 << 20)
    for _ in range(3):
        body = gzip.compress(body)
    assert len(body) < 1000
    with pytest.raises(FetchError, match="packed as"):
        asked(page(b"Content-Encoding: gzip, gzip, gzip\r\n", body))
    with pytest.raises(FetchError, match="packed as"):
        asked(page(b"Content-Encoding: br\r\n", body))


def test_a_bomb_unpacks_to_the_bound_and_no_further(monkeypatch: pytest.MonkeyPatch) -> None:
    made: list[int] = []
    real = bounded._inflated

    def counted(*args: object, **options: object) -> Iterator[bytes]:
        for block in real(*args, **options):  # type: ignore[arg-type]
            made.append(len(block))
            yield block

    monkeypatch.setattr(bounded, "_inflated", counted)
    bomb = gzip.compress(b"0" * (256 << 20))
    assert len(asked(page(b"Content-Encoding: gzip\r\n", bomb))) == MAX_BYTES
    assert max(made) <= bounded.STEP_BYTES and sum(made) <= MAX_BYTES + bounded.STEP_BYTES


def test_damaged_packing_is_told() -> None:
    with pytest.raises(FetchError, match="damaged"):
        asked(page(b"Content-Encoding: gzip\r\n", b"\x1f\x8b\x08 but no more"))


def test_an_answer_that_trickles_ends(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(fetch, "ANSWER_SECONDS", 0.3)
    stop = threading.Event()

    def trickle(line: socket.socket) -> None:
        line.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: 100000\r\n\r\n")
        while not stop.wait(0.05):
            line.sendall(b".")

    try:
        with pytest.raises(FetchError, match="did not come to its end"):
            asked(trickle)
    finally:
        stop.set()


@pytest.mark.parametrize(
    "location",
    [b"http://[", b"http://[::1", b"//", b"http://a:99999999/", b"http://a:port/", b"\xff\xfe://x", b"http://\x00/", b"http://" + b"a" * 70 + b".example/",
     b"http://xn--/", b"javascript:alert(1)", b"file:///etc/passwd", b"?" + b"x" * 100_000, b"http://a b/", b"http://%zz/", b"http:///x", b"http://[v1.x]/"],
)  # fmt: skip
def test_an_odd_location_is_told_and_breaks_nothing(location: bytes) -> None:
    with pytest.raises(FetchError):
        asked(page(b"Location: " + location + b"\r\n", b"", b"302 Found"))


@pytest.mark.parametrize(
    "headers",
    [b"Content-Length: " + b"9" * 5000 + b"\r\n", b"Content-Range: bytes " + b"1" * 9000 + b"-2/3\r\n", b"X: " + b"y" * 300_000 + b"\r\n",
     b"Set-Cookie: a=b; Max-Age=" + b"9" * 5000 + b"\r\n", b"Set-Cookie: a=b; Expires=Thu, 99 Foo 99999999 99:99:99\r\n",
     b"Refresh: " + b"9" * 5000 + b"; url=/x\r\n", b"Content-Type: text/html; charset=" + b"z" * 2000 + b"\r\n", b"Content-Type: text/html; charset=idna\r\n",
     b"Content-Type: text/html; charset=unicode_escape\r\n", b"Content-Type: text/html; charset=zlib\r\n", b"Content-Type: text/html; charset=utf-7\r\n"],
)  # fmt: skip
def test_odd_headers_are_a_page_or_a_fault_of_ours(headers: bytes) -> None:
    try:
        asked(page(headers, b"tide"))
    except HighShelfError:
        return


@settings(max_examples=300, deadline=None)
@given(st.text(max_size=200))
def test_no_text_as_a_location_is_more_than_a_fault_of_ours(target: str) -> None:
    try:
        found = joined("http://yard.saltmarsh.example/install/", target)
        with HttpFetch(Origins.of("http://yard.saltmarsh.example/")) as conversation:
            conversation._origins.check(found)
    except HighShelfError:
        return
    except ValueError as fault:
        raise AssertionError(f"{target!r}: {fault}") from fault


def test_our_own_network_is_spoken_to_only_where_somebody_said_so() -> None:
    with answering(page(b"", b"inside")) as address:
        port = address.rstrip("/").rpartition(":")[2]
        for allowed in ((), ("127.0.0.1:1",), ("10.0.0.0/8",)):
            with (
                HttpFetch(Origins.of(address), address=address, dial=dial_within(Inside(allowed))) as conversation,
                pytest.raises(OwnNetworkError, match="not the internet"),
            ):
                conversation.get(address)
        for allowed in (("127.0.0.1",), (f"127.0.0.1:{port}",), ("127.0.0.0/8",)):
            with HttpFetch(Origins.of(address), address=address, dial=dial_within(Inside(allowed))) as conversation:
                assert conversation.get(address).html == "inside"


def test_a_name_that_changes_its_mind_leads_nowhere_else(monkeypatch: pytest.MonkeyPatch) -> None:
    """The number that was looked at is the one that is connected to, for the whole conversation."""
    with answering(page(b"", b"first")) as address:
        port = int(address.rstrip("/").rpartition(":")[2])
        told = iter(["127.0.0.1", "169.254.169.254"])
        site = f"http://yard.saltmarsh.example:{port}/"
        with HttpFetch(Origins.of(site), address=site, dial=lambda host, port: next(told)) as conversation:
            assert [conversation.get(site).html for _ in range(3)] == ["first"] * 3
