"""Fetch over httpx.

Rules:
1. No request leaves the closed list of origins; redirects are followed by us, one by one, and checked each time.
2. The real name is spoken to the override's address: Host header and TLS name stay the site's.
3. Cookies survive a restart: they can be taken out and put back as text.
4. A name is looked up once a conversation; the number it led to is what is connected to (drivers/wire/dial.py).
5. Whatever a server sends is bounded: its bytes, what they unpack to, the time it takes, and every number and address in it.
6. A certificate that does not prove itself is taken only where a check has seen that very one before.
"""

from __future__ import annotations

import hashlib
import hmac
import json
import re
import secrets
import socket
import ssl
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from http.cookiejar import Cookie, DefaultCookiePolicy
from itertools import chain
from types import TracebackType
from typing import Any
from urllib.parse import urljoin, urlsplit

import httpx

from highshelf.core.errors import FetchError, UnknownNameError
from highshelf.core.origins import Origins, origin_of
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.ports import CancelToken, FileField, Progress
from highshelf.drivers.http.bounded import content_of
from highshelf.drivers.wire.dial import Dial, anywhere

MAX_REDIRECTS = 12
# Whoever keeps cookies themselves wants none kept here.
NO_COOKIES = DefaultCookiePolicy(allowed_domains=[])
# However slowly it comes: the longest silent step seen took 31 s, and nothing behind it was ever longer than a page.
ANSWER_SECONDS = 240.0
FILE_BLOCK = 64 << 10
AGENT = "HighShelf/0.1 (installation by the site's administrator)"


class HttpFetch:
    """One conversation.

    Args:
        origins: where requests may go.
        reach: `host:port` to connect to for the origin of `address`, or "".
        address: the site's address, whose origin `reach` stands for.
        timeout_seconds: silence allowed between two bytes; installers are quiet for half a minute.
        certificate: the certificate that a check saw at `reach`, `SHA256:` and hex digits; "" takes none but what proves itself.
        dial: where connections may lead.
    """

    def __init__(
        self,
        origins: Origins,
        *,
        address: str = "",
        reach: str = "",
        timeout_seconds: float = 90,
        certificate: str = "",
        dial: Dial = anywhere,
    ) -> None:
        self._origins, self._dial = origins, dial
        self._reach = {origin_of(address): reach} if reach else {}
        self._numbers: dict[tuple[str, int], str] = {}
        self._client = httpx.Client(
            timeout=httpx.Timeout(timeout_seconds, connect=15),
            follow_redirects=False,
            headers={"User-Agent": AGENT, "Accept-Encoding": "gzip"},
            verify=pinned_tls(certificate) if certificate else _tls(),
            trust_env=False,
        )

    def get(self, url: str) -> Snapshot:
        """Raises FetchError: not on the list of origins, no answer, or redirects without end."""
        return self._follow("GET", url, None, {})

    def post(self, url: str, fields: Sequence[tuple[str, str]], *, multipart: bool = False) -> Snapshot:
        content, kind = _multipart(fields) if multipart else (_urlencoded(fields), "application/x-www-form-urlencoded")
        return self._follow("POST", url, content, {"Content-Type": kind})

    def send_file(
        self,
        url: str,
        fields: Sequence[tuple[str, str]],
        file: FileField,
        *,
        progress: Progress | None = None,
        cancel: CancelToken | None = None,
    ) -> Snapshot:
        """Raises FetchError as `get` does, or when the form is to be sent once more elsewhere; CancelledError."""
        head, tail, kind = _around_file(fields, file)
        size = len(head) + file.size_bytes + len(tail)
        content = chain([head], _blocks(file, progress, cancel), [tail])
        response = self._send("POST", url, content, {"Content-Type": kind, "Content-Length": str(size)})
        target = response.headers.get("location")
        if response.status_code in (301, 302, 303) and target is not None:
            return self.get(joined(url, target))
        if response.status_code in (307, 308):
            raise FetchError(f"{_where(url)} wants the file sent to another address", hint="look at the page by hand")
        return _snapshot(url, response)

    def send_json(
        self, url: str, body: bytes, headers: Mapping[str, str], method: str = "POST"
    ) -> tuple[int, Mapping[str, str], bytes]:
        """One request, no redirects: for the helper, and for panels that are called. Returns status, headers, body. Raises as `get`."""
        kind = {"Content-Type": "application/json"} if body else {}
        response = self._send(method, url, body or None, {**kind, **headers})
        return response.status_code, response.headers, response.content

    def pass_on(
        self, method: str, url: str, content: bytes, headers: Mapping[str, str]
    ) -> tuple[int, list[tuple[str, str]], bytes]:
        """One request for somebody who keeps cookies and follows redirects themselves: status, headers, unpacked body. Raises as `get`."""
        self._client.cookies.jar.set_policy(NO_COOKIES)
        response = self._send(method, url, content, headers)
        return response.status_code, response.headers.multi_items(), response.content

    def cookies(self) -> str:
        """The cookie jar as text; it is a secret, since sessions are."""
        return json.dumps([[c.name, c.value, c.domain, c.path, c.secure] for c in self._client.cookies.jar])

    def restore(self, cookies: str) -> None:
        for name, value, domain, path, secure in json.loads(cookies or "[]"):
            self._client.cookies.jar.set_cookie(_cookie(name, value, domain, path, secure))

    def close(self) -> None:
        self._client.close()

    def __enter__(self) -> HttpFetch:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def _follow(self, method: str, url: str, content: bytes | None, headers: dict[str, str]) -> Snapshot:
        for _ in range(MAX_REDIRECTS):
            response = self._send(method, url, content, headers)
            target = response.headers.get("location")
            if response.status_code not in (301, 302, 303, 307, 308) or target is None:
                return _snapshot(url, response)
            url = joined(url, target)
            if response.status_code not in (307, 308):
                method, content, headers = "GET", None, {}
        raise FetchError(f"{url} leads in a circle", hint="look at the address with a browser")

    def _send(
        self, method: str, url: str, content: bytes | Iterable[bytes] | None, headers: Mapping[str, str]
    ) -> httpx.Response:
        try:
            self._origins.check(url)
            url = urlsplit(url)._replace(fragment="").geturl()
            request = self._client.build_request(method, url, content=content, headers=dict(headers))
        except (ValueError, httpx.InvalidURL) as fault:
            # Names that IDNA refuses, ports beyond 65535, control characters, addresses of 100 kB.
            raise FetchError(f"{url[:200]!r} is no address that can be asked: {fault}") from None
        named = request.url
        self._aim(request)
        try:
            response = self._client.send(request, stream=True)
            try:
                content_of(response, ANSWER_SECONDS)
            finally:
                response.close()
        except httpx.ConnectError as fault:
            if isinstance(cause := _first_cause(fault), ssl.SSLCertVerificationError):
                told = cause.verify_message.rstrip(".") if hasattr(cause, "verify_message") else str(cause)
                raise FetchError(f"the certificate of {named.host} is refused: {told}", hint=_TLS_HINT) from None
            if isinstance(cause, socket.gaierror):
                raise FetchError(f"the name {named.host} leads nowhere yet", hint=_RESOLVE_HINT) from None
            raise FetchError(f"no connection to {_where(url)}: {fault}", hint=_RESOLVE_HINT) from None
        except (httpx.HTTPError, httpx.InvalidURL, ValueError) as fault:
            raise FetchError(f"{_where(url)} did not answer properly: {fault or type(fault).__name__}") from None
        self._file_cookies(response, named, request.url.host)
        return response

    def _aim(self, request: httpx.Request) -> None:
        """Connect to the number that the name (or what stands for it) leads to; speak to it by its name all the same.

        Raises:
            FetchError: it leads nowhere. OwnNetworkError.
        """
        named = request.url
        port = named.port or (443 if named.scheme == "https" else 80)
        reach = self._reach.get(origin_of(str(named)), "")
        host = named.host
        if reach:
            host, _, number = reach.rpartition(":")
            port = int(number)
        try:
            found = self._numbers.get((host, port)) or self._dial(host, port)
        except UnknownNameError:
            raise FetchError(f"the name {host} leads nowhere yet", hint=_RESOLVE_HINT) from None
        self._numbers[host, port] = found
        request.extensions["sni_hostname"] = named.host
        request.headers["Host"] = named.netloc.decode()
        request.url = named.copy_with(host=found, port=port)

    def _file_cookies(self, response: httpx.Response, named: httpx.URL, dialled: str) -> None:
        """The jar files cookies under the name that was spoken, not the number that was dialled."""
        if named.host == dialled:
            return
        response.request.url = named
        for cookie in list(self._client.cookies.jar):
            if cookie.domain in (dialled, dialled + ".local"):
                self._client.cookies.jar.clear(cookie.domain, cookie.path, cookie.name)
        self._client.cookies.extract_cookies(response)


class _Pinned(ssl.SSLContext):
    """Takes one certificate, whoever signed it and whatever name is in it."""

    wanted = ""

    def wrap_socket(self, *args: Any, **options: Any) -> ssl.SSLSocket:
        line = super().wrap_socket(*args, **options)
        seen = "SHA256:" + hashlib.sha256(line.getpeercert(binary_form=True) or b"").hexdigest()
        if not hmac.compare_digest(seen, self.wanted):
            line.close()
            raise ssl.SSLCertVerificationError(f"it is another one than the check saw ({seen[:23]}…)")
        return line


def pinned_tls(certificate: str) -> ssl.SSLContext:
    """A context for a site whose name does not lead here yet: it cannot show a certificate that proves itself."""
    context = _Pinned(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    context.wanted = certificate
    return context


@lru_cache(maxsize=1)
def _tls() -> ssl.SSLContext:
    """Loading the machine's certificates takes 50 ms: once a process."""
    return ssl.create_default_context()


def joined(url: str, target: str) -> str:
    """Where a `Location` leads. Raises FetchError when it is no address at all."""
    try:
        found = urljoin(url, target)
        _ = urlsplit(found).port
        found.encode()
        return found
    except (ValueError, UnicodeError):
        raise FetchError(
            f"{_where(url)} leads to {target[:100]!r}, which is no address", hint="look at the page with a browser"
        ) from None


_RESOLVE_HINT = "when the name does not point to this host yet, say at the account where it is reached (host:port)"

_TLS_HINT = (
    "order a right one in the panel; or say at the account where it is reached (host:port) and check it: "
    "the certificate that the check sees there is taken from then on, and no other one"
)


def _first_cause(fault: BaseException) -> BaseException:
    while (cause := fault.__cause__ or fault.__context__) is not None:
        fault = cause
    return fault


def _where(url: str) -> str:
    parts = urlsplit(url)
    return f"{parts.scheme}://{parts.netloc}{parts.path}"


def _snapshot(url: str, response: httpx.Response) -> Snapshot:
    headers = {k.lower(): v for k, v in response.headers.items() if k.lower() != "set-cookie"}
    return Snapshot(url, response.status_code, _decode(response), headers)


def _decode(response: httpx.Response) -> str:
    """Header first, then what the page says of itself, then UTF-8 (HTML standard, 13.2.3)."""
    charset = response.charset_encoding
    if not charset:
        found = re.search(rb"<meta[^>]+charset=[\"']?([\w-]+)", response.content[:2048], re.I)
        charset = found.group(1).decode() if found else "utf-8"
    try:
        return response.content.decode(charset, "replace")
    except (LookupError, ValueError):
        # A charset that Python does not know, or that is none of pages (`idna`, `zlib`).
        return response.content.decode("utf-8", "replace")


def _urlencoded(fields: Sequence[tuple[str, str]]) -> bytes:
    from urllib.parse import urlencode

    return urlencode(list(fields)).encode()


def _multipart(fields: Sequence[tuple[str, str]]) -> tuple[bytes, str]:
    boundary = "hs" + secrets.token_hex(16)
    return (_parts(boundary, fields) + f"--{boundary}--\r\n").encode(), f"multipart/form-data; boundary={boundary}"


def _parts(boundary: str, fields: Sequence[tuple[str, str]]) -> str:
    told = 'Content-Disposition: form-data; name="'
    return "".join(f'--{boundary}\r\n{told}{_quoted(n)}"\r\n\r\n{v}\r\n' for n, v in fields)


def _around_file(fields: Sequence[tuple[str, str]], file: FileField) -> tuple[bytes, bytes, str]:
    """What comes before the file's bytes, what comes after them, and the kind of it all."""
    boundary = "hs" + secrets.token_hex(16)
    told = f'Content-Disposition: form-data; name="{_quoted(file.field)}"; filename="{_quoted(file.name)}"'
    head = f"{_parts(boundary, fields)}--{boundary}\r\n{told}\r\nContent-Type: application/octet-stream\r\n\r\n"
    return head.encode(), f"\r\n--{boundary}--\r\n".encode(), f"multipart/form-data; boundary={boundary}"


def _blocks(file: FileField, progress: Progress | None, cancel: CancelToken | None) -> Iterator[bytes]:
    done = 0
    while done < file.size_bytes and (block := file.content.read(min(FILE_BLOCK, file.size_bytes - done))):
        if cancel is not None:
            cancel.check()
        yield block
        done += len(block)
        if progress is not None:
            progress(done)


def _quoted(name: str) -> str:
    return name.replace('"', "%22").replace("\r", "%0D").replace("\n", "%0A")


def _cookie(name: str, value: str, domain: str, path: str, secure: bool) -> Cookie:
    return Cookie(
        0,
        name,
        value,
        None,
        False,
        domain,
        bool(domain),
        domain.startswith("."),
        path,
        True,
        secure,
        None,
        True,
        None,
        None,
        {},
    )
