"""Downloads over httpx: https only, names pinned to checked numbers, redirects followed one by one, resumed where they broke."""

from __future__ import annotations

import re
import ssl
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from urllib.parse import urlsplit

import httpx

from highshelf.core.errors import ArchiveError, FetchError, UnknownNameError
from highshelf.core.inside import Inside
from highshelf.core.origins import origin_of
from highshelf.core.ports import CancelToken, Fetched
from highshelf.core.release.fetching import Answer, check_source, file_name_of, judge_answer
from highshelf.drivers.http.fetch import AGENT, joined
from highshelf.drivers.wire.dial import dial_within

MAX_REDIRECTS = 8
PACKED = re.compile(r"\.(zip|7z|tar|tgz|tbz2?|txz|tzst|gz|bz2|xz|zst)$", re.I)
# A server that is silent for so long is asked again from where it stopped.
SILENCE_SECONDS = 30.0


class HttpsDownload:
    """Brings files over https (port `Downloads`).

    Args:
        inside: addresses of our own network that may be asked.
        authority: a file of certificates that are trusted besides the machine's, or None.
    """

    def __init__(self, inside: Inside, authority: Path | None = None) -> None:
        self._dial = dial_within(inside)
        self._tls = ssl.create_default_context()
        if authority is not None:
            self._tls.load_verify_locations(authority)

    def fetch(
        self,
        address: str,
        target: Path,
        *,
        headers: Mapping[str, str],
        tag: str,
        limit_bytes: int,
        told: Callable[[int, int | None, str, str], None],
        cancel: CancelToken,
    ) -> Fetched:
        """Bring one file to `target`, going on with what is there while `tag` still fits; a single try.

        Args:
            told: called with bytes done, bytes in all or None, the tag to go on with, and the file's name.

        Raises:
            FetchError (retryable): the line broke or is silent. ArchiveError: refused, or larger than the limit.
            InputError: an address that may not be asked. CancelledError.
        """
        have = target.stat().st_size if tag and target.exists() else 0
        asked = {**headers, **({"Range": f"bytes={have}-", "If-Range": tag} if have else {})}
        url, response, client = self._open(check_source(address), asked, headers)
        try:
            answer = _answer_of(response)
            begin, total = judge_answer(answer, have)
            # Where a redirect ends is often a storage's own name for it, or a page to sign in.
            called = address if PACKED.search(urlsplit(address).path) else url
            name = file_name_of(called, response.headers.get("content-disposition", ""))
            if answer.status == 416:
                if begin == 0:
                    target.unlink(missing_ok=True)
                    raise FetchError("the file changed while it was being brought over; beginning anew")
                return Fetched(url, name, have)
            if total is not None and total > limit_bytes:
                raise _too_large(name, limit_bytes)
            done = _receive(response, target, begin, total, limit_bytes, name, answer.tag, told, cancel)
        finally:
            response.close()
            client.close()
        if total is not None and done < total:
            raise FetchError(f"the line broke after {done} of {total} bytes")
        if done == 0:
            raise ArchiveError(f"{name} is empty", hint="look at the makers' page for the right address")
        return Fetched(url, name, done)

    def text(self, address: str, headers: Mapping[str, str], limit_bytes: int = 1 << 20) -> bytes:
        """A small file that stands beside a download: a checksum, a signature, a key. Raises as `fetch` does."""
        url, response, client = self._open(check_source(address), headers, headers)
        try:
            judge_answer(_answer_of(response), 0)
            found = bytearray()
            for block in _blocks(response):
                found += block
                if len(found) > limit_bytes:
                    raise _too_large(file_name_of(url), limit_bytes)
            return bytes(found)
        finally:
            response.close()
            client.close()

    def _open(
        self, url: str, headers: Mapping[str, str], signing_in: Mapping[str, str]
    ) -> tuple[str, httpx.Response, httpx.Client]:
        """Follow redirects to the file; its response is open and the caller closes it with its client."""
        first = origin_of(url)
        for _ in range(MAX_REDIRECTS):
            sent = (
                dict(headers) if origin_of(url) == first else {n: v for n, v in headers.items() if n not in signing_in}
            )
            response, client = self._send(url, sent)
            target = response.headers.get("location")
            if response.status_code not in (301, 302, 303, 307, 308) or not target:
                return url, response, client
            response.close()
            client.close()
            url = check_source(joined(url, target))
        raise ArchiveError("the address leads in a circle", hint="look at it with a browser")

    def _send(self, url: str, headers: Mapping[str, str]) -> tuple[httpx.Response, httpx.Client]:
        parts = urlsplit(url)
        host, port = parts.hostname or "", parts.port or 443
        number = self._number(host, port)
        client = httpx.Client(
            timeout=httpx.Timeout(SILENCE_SECONDS, connect=15),
            follow_redirects=False,
            verify=self._tls,
            trust_env=False,
        )
        try:
            request = client.build_request(
                "GET", url, headers={"User-Agent": AGENT, "Accept-Encoding": "identity", **headers}
            )
            request.headers["Host"] = parts.netloc
            request.extensions["sni_hostname"] = host
            request.url = request.url.copy_with(host=number)
            return client.send(request, stream=True), client
        except (httpx.HTTPError, httpx.InvalidURL, ValueError) as fault:
            client.close()
            raise _refused(host, fault) from None

    def _number(self, host: str, port: int) -> str:
        try:
            return self._dial(host, port)
        except UnknownNameError as fault:
            raise FetchError(fault.message, hint=fault.hint) from None


def _answer_of(response: httpx.Response) -> Answer:
    said = response.headers
    length = said.get("content-length", "")
    tag = said.get("etag", "")
    # A weak tag promises no bytes (RFC 9110, 13.1.5).
    strong = tag if tag and not tag.startswith("W/") else said.get("last-modified", "")
    return Answer(
        response.status_code,
        int(length) if re.fullmatch(r"[0-9]{1,18}", length) else None,
        said.get("content-range", ""),
        strong,
        said.get("content-type", ""),
    )


def _receive(
    response: httpx.Response,
    target: Path,
    begin: int,
    total: int | None,
    limit_bytes: int,
    name: str,
    tag: str,
    told: Callable[[int, int | None, str, str], None],
    cancel: CancelToken,
) -> int:
    done = begin
    with target.open("r+b" if begin else "wb") as out:
        out.seek(begin)
        out.truncate()
        told(done, total, tag, name)
        for block in _blocks(response):
            cancel.check()
            done += len(block)
            if done > limit_bytes:
                raise _too_large(name, limit_bytes)
            out.write(block)
            told(done, total, tag, name)
    return done


def _blocks(response: httpx.Response) -> Iterator[bytes]:
    try:
        # As the bytes come: blocks of a size of their own would be lost half full when the line breaks.
        yield from response.iter_raw()
    except httpx.HTTPError as fault:
        raise FetchError(f"the line broke: {fault or type(fault).__name__}") from None


def _too_large(name: str, limit_bytes: int) -> ArchiveError:
    return ArchiveError(f"{name} is larger than {limit_bytes >> 20} MB", hint="that is more than a check-in takes")


def _refused(host: str, fault: Exception) -> FetchError | ArchiveError:
    cause: BaseException = fault
    while (deeper := cause.__cause__ or cause.__context__) is not None:
        cause = deeper
    if isinstance(cause, ssl.SSLCertVerificationError):
        return ArchiveError(
            f"the certificate of {host} is refused: {cause.verify_message.rstrip('.')}",
            hint="nothing was brought over; a certificate of your own authority is trusted with `serve --authority FILE`",
        )
    return FetchError(f"{host} does not answer: {fault or type(fault).__name__}", hint="is the address right?")
