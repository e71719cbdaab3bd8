"""Fetch over httpx.

Rules:
1. No request leaves the closed list of origins; redirects are followed by us, one by one, and checked each time.
2. The real name is spoken to the override's address: Host header and TLS name stay the site's.
3. Cookies survive a restart: they can be taken out and put back as text.
"""

from __future__ import annotations

import json
import re
import secrets
import socket
import ssl
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from http.cookiejar import Cookie
from itertools import chain
from types import TracebackType
from urllib.parse import urljoin, urlsplit

import httpx

from highshelf.core.errors import FetchError
from highshelf.core.origins import Origins, origin_of
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.ports import CancelToken, FileField, Progress

MAX_REDIRECTS = 12
MAX_BYTES = 8 << 20
FILE_BLOCK = 64 << 10
AGENT = "HighShelf/0.1 (installation by the site's administrator)"


class HttpFetch:
    """One conversation.

    Args:
        origins: where requests may go.
        reach: `host:port` to connect to for the origin of `address`, or "".
        address: the site's address, whose origin `reach` stands for.
        timeout_seconds: silence allowed between two bytes; installers are quiet for half a minute.
    """

    def __init__(self, origins: Origins, *, address: str = "", reach: str = "", timeout_seconds: float = 90) -> None:
        self._origins = origins
        self._reach = {origin_of(address): reach} if reach else {}
        self._client = httpx.Client(
            timeout=httpx.Timeout(timeout_seconds, connect=15),
            follow_redirects=False,
            headers={"User-Agent": AGENT},
            verify=_tls(verified=not reach),
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
            return self.get(urljoin(url, target))
        if response.status_code in (307, 308):
            raise FetchError(f"{_where(url)} wants the file sent to another address", hint="look at the page by hand")
        return _snapshot(url, response)

    def send_json(self, url: str, body: bytes, headers: Mapping[str, str]) -> tuple[int, Mapping[str, str], bytes]:
        """One POST, no redirects: for the helper. Returns status, headers, body."""
        response = self._send("POST", url, body, {"Content-Type": "application/json", **headers})
        return response.status_code, response.headers, response.content

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
            url = urljoin(url, target)
            if response.status_code not in (307, 308):
                method, content, headers = "GET", None, {}
        raise FetchError(f"{url} leads in a circle", hint="look at the address with a browser")

    def _send(
        self, method: str, url: str, content: bytes | Iterable[bytes] | None, headers: Mapping[str, str]
    ) -> httpx.Response:
        self._origins.check(url)
        url = urlsplit(url)._replace(fragment="").geturl()
        request = self._client.build_request(method, url, content=content, headers=dict(headers))
        reach = self._reach.get(origin_of(url))
        if reach:
            host, _, port = reach.rpartition(":")
            request.extensions["sni_hostname"] = request.url.host
            request.headers["Host"] = request.url.netloc.decode()
            named, request.url = request.url, request.url.copy_with(host=host, port=int(port))
        try:
            response = self._client.send(request, stream=True)
            try:
                _read_limited(response)
            finally:
                response.close()
        except httpx.ConnectError as fault:
            if isinstance(_first_cause(fault), socket.gaierror):
                raise FetchError(f"the name {request.url.host} leads nowhere yet", hint=_RESOLVE_HINT) from None
            if isinstance(cause := _first_cause(fault), ssl.SSLCertVerificationError):
                told = cause.verify_message.rstrip(".")
                raise FetchError(f"the certificate of {request.url.host} is refused: {told}", hint=_TLS_HINT) from None
            raise FetchError(
                f"no connection to {_where(url)}{' at ' + reach if reach else ''}: {fault}", hint=_RESOLVE_HINT
            ) from None
        except httpx.HTTPError as fault:
            raise FetchError(f"{_where(url)} did not answer properly: {fault or type(fault).__name__}") from None
        if reach:
            # The jar files cookies under the name that was spoken, not the address that was dialled.
            response.request.url = named
            for cookie in list(self._client.cookies.jar):
                if cookie.domain in (host, host + ".local"):
                    self._client.cookies.jar.clear(cookie.domain, cookie.path, cookie.name)
            self._client.cookies.extract_cookies(response)
        return response


@lru_cache(maxsize=2)
def _tls(*, verified: bool) -> ssl.SSLContext:
    """Loading the machine's certificates takes 50 ms: once a process."""
    context = ssl.create_default_context()
    if not verified:
        # A site whose name does not lead here yet cannot show a right certificate.
        context.check_hostname = False
        context.verify_mode = ssl.CERT_NONE
    return context


_RESOLVE_HINT = "when the name does not point to this host yet, say at the account where it is reached (host:port)"

_TLS_HINT = (
    "order a right one in the panel; or say at the account where it is reached (host:port): "
    "then it is spoken to all the same, and the check reports the certificate"
)


def _first_cause(fault: BaseException) -> BaseException:
    while (cause := fault.__cause__ or fault.__context__) is not None:
        fault = cause
    return fault


def _where(url: str) -> str:
    parts = urlsplit(url)
    return f"{parts.scheme}://{parts.netloc}{parts.path}"


def _read_limited(response: httpx.Response) -> None:
    body = bytearray()
    for block in response.iter_bytes():
        body += block
        if len(body) > MAX_BYTES:
            break
    response._content = bytes(body)


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
    except LookupError:
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
