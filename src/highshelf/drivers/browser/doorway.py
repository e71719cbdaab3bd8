"""The only way from a browser to the network: a proxy on loopback, one a conversation.

Rules:
1. Whoever comes without the conversation's own word is turned away: other users of the machine are none of its guests.
2. What a request may reach, and by which number and certificate, is decided by the conversation's `Fetch` (drivers/http/fetch.py)
   as for every other driver; TLS ends here, with a certificate that only the browser sees, and begins anew there.
3. What was refused is answered, so that the page goes on without it, and is remembered.
"""

from __future__ import annotations

import asyncio
import base64
import contextlib
import datetime
import re
import secrets
import ssl
import tempfile
from collections.abc import Mapping
from functools import lru_cache
from pathlib import Path
from typing import Protocol

import h11
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from highshelf.core.errors import HighShelfError

MOST_BODY_BYTES = 8 << 20
MOST_REMEMBERED = 50
IDLE_SECONDS = 60.0
ODD = re.compile(r"[\r\n\0]")
# Of one hop only (RFC 9110, 7.6.1), or ours to say.
HOP = {
    "connection", "keep-alive", "proxy-authenticate", "proxy-authorization", "proxy-connection", "te", "trailer",
    "transfer-encoding", "upgrade", "content-length", "host", "accept-encoding",
}  # fmt: skip

# A page without anything on it.
NOTHING = b"<!doctype html><title></title>"


class PassOn(Protocol):
    """Sends one request where it may go."""

    def pass_on(
        self, method: str, url: str, content: bytes, headers: Mapping[str, str]
    ) -> tuple[int, list[tuple[str, str]], bytes]: ...


class Doorway:
    """A proxy for one conversation; lives in the event loop it was opened in.

    Attributes:
        refused: what was asked for and not let through, newest last, with the reason.
    """

    def __init__(self, line: PassOn) -> None:
        self._line = line
        self.name, self.word = "browser", secrets.token_urlsafe(18)
        self._expected = "Basic " + base64.b64encode(f"{self.name}:{self.word}".encode()).decode()
        self._server: asyncio.Server | None = None
        self.refused: list[str] = []

    async def open(self) -> str:
        """Listen; returns the proxy's address."""
        self._server = await asyncio.start_server(self._serve, "127.0.0.1", 0)
        return f"http://127.0.0.1:{self._server.sockets[0].getsockname()[1]}"

    def close(self) -> None:
        if self._server is not None:
            self._server.close()

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with contextlib.suppress(OSError, h11.ProtocolError, asyncio.TimeoutError, ssl.SSLError):
            await self._answer(reader, writer)
        writer.close()

    async def _answer(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        line = h11.Connection(h11.SERVER)
        request, body = await _request(line, reader)
        if request is None:
            return
        headers = {n.decode("latin-1"): v.decode("latin-1") for n, v in request.headers}
        if not secrets.compare_digest(headers.get("proxy-authorization", ""), self._expected):
            asks = [("Proxy-Authenticate", 'Basic realm="conversation"')]
            return await _respond(line, writer, 407, asks, b"")
        base = ""
        target = request.target.decode("latin-1")
        if request.method == b"CONNECT":
            base = f"https://{target.removesuffix(':443')}"
            writer.write(b"HTTP/1.1 200 Open\r\n\r\n")
            await writer.drain()
            await writer.start_tls(_own_tls())
            line = h11.Connection(h11.SERVER)
            request, body = await _request(line, reader)
            if request is None:
                return
            headers = {n.decode("latin-1"): v.decode("latin-1") for n, v in request.headers}
            target = request.target.decode("latin-1")
        await self._pass_on(line, writer, request.method.decode(), base + target, body, headers)

    async def _pass_on(
        self, line: h11.Connection, writer: asyncio.StreamWriter, method: str, url: str, body: bytes,
        headers: Mapping[str, str],
    ) -> None:  # fmt: skip
        if "upgrade" in headers:
            self._remember(f"{url[:200]}: a socket that stays open")
            return await _respond(line, writer, 501, [], b"")
        sent = {n: v for n, v in headers.items() if n.lower() not in HOP}
        try:
            status, told, content = await asyncio.to_thread(self._line.pass_on, method, url, body, sent)
        except HighShelfError as fault:
            self._remember(f"{url[:200]}: {fault.message}")
            # 403 is what a page can understand; the reason is for people.
            return await _respond(line, writer, 403, [("Content-Type", "text/plain")], fault.message.encode())
        kept = [(n, v) for n, v in told if n.lower() not in HOP | {"content-encoding", "alt-svc"}]
        if status >= 400 and not content and "text/html" in headers.get("accept", ""):
            # In the place of a page of failure that says nothing the browser would show a page of its own, and no status.
            kept = [*((n, v) for n, v in kept if n.lower() != "content-type"), ("Content-Type", "text/html")]
            content = NOTHING
        await _respond(line, writer, status, kept, content, bare=method == "HEAD")

    def _remember(self, what: str) -> None:
        self.refused = [*self.refused, what][-MOST_REMEMBERED:]


async def _request(line: h11.Connection, reader: asyncio.StreamReader) -> tuple[h11.Request | None, bytes]:
    """The next request and its body; None where there comes no whole one."""
    request, body = None, bytearray()
    while True:
        event = line.next_event()
        if event is h11.NEED_DATA:
            line.receive_data(await asyncio.wait_for(reader.read(64 << 10), IDLE_SECONDS))
        elif isinstance(event, h11.Request):
            request = event
            if request.method == b"CONNECT":
                return request, b""
        elif isinstance(event, h11.Data):
            body += event.data
            if len(body) > MOST_BODY_BYTES:
                return None, b""
        elif isinstance(event, h11.EndOfMessage):
            return request, bytes(body)
        else:
            return None, b""


async def _respond(
    line: h11.Connection, writer: asyncio.StreamWriter, status: int, headers: list[tuple[str, str]], content: bytes,
    *, bare: bool = False,
) -> None:  # fmt: skip
    empty = status in (204, 304)
    length = [] if empty else [("Content-Length", str(len(content)))]
    told = [*headers, *length, ("Connection", "close")]
    # A server may send what h11 would not: such a header is left out, not the whole page.
    clean = [(n.encode("latin-1", "replace"), v.encode("latin-1", "replace")) for n, v in told if not ODD.search(v)]
    out = line.send(h11.Response(status_code=max(status, 200), headers=clean)) or b""
    if not bare and not empty:
        out += line.send(h11.Data(data=content)) or b""
    writer.write(out + (line.send(h11.EndOfMessage()) or b"") if not bare else out)
    await writer.drain()


@lru_cache(maxsize=1)
def _own_tls() -> ssl.SSLContext:
    """What the browser is shown: a certificate of this process, that nobody else ever sees."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "conversation")])
    now = datetime.datetime.now(datetime.UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(days=1))
        .not_valid_after(now + datetime.timedelta(days=365))
        .sign(key, hashes.SHA256())
    )
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    with tempfile.TemporaryDirectory() as folder:
        both = Path(folder) / "own.pem"
        both.touch(0o600)
        plain = serialization.NoEncryption()
        both.write_bytes(
            key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, plain)
            + made.public_bytes(serialization.Encoding.PEM)
        )
        context.load_cert_chain(both)
    return context
