"""Reading an answer within bounds: 231 bytes can be made to unpack into gigabytes, and a byte a minute into a day.

Rules:
1. Packed once at the most, as gzip or deflate (RFC 9110, 8.4.1); nobody who means well packs twice.
2. Neither what comes nor what it unpacks to goes beyond `MAX_BYTES`: the rest is left where it is.
3. An answer that is not over within its time is a broken one.
"""

from __future__ import annotations

import time
import zlib
from collections.abc import Iterator

import httpx

MAX_BYTES = 8 << 20
STEP_BYTES = 256 << 10


class OddAnswerError(ValueError):
    """What came is no answer that may be read on."""


def content_of(response: httpx.Response, seconds: float) -> None:
    """Read the answer's content and keep it in the response, unpacked.

    Raises:
        OddAnswerError: packed in a way that is not known, or more than once, damaged, or too slow. httpx.HTTPError.
    """
    deadline = time.monotonic() + seconds
    body = bytearray()
    for block in _unpacked(response):
        body += block
        if len(body) > MAX_BYTES:
            del body[MAX_BYTES:]
            break
        if time.monotonic() > deadline:
            raise OddAnswerError(f"the answer did not come to its end within {seconds:.0f} s")
    response._content = bytes(body)
    # What is kept is unpacked: whoever reads it on must not unpack it again.
    response.headers.pop("content-encoding", None)


def _unpacked(response: httpx.Response) -> Iterator[bytes]:
    said = response.headers.get("content-encoding", "").lower()
    codings = [c for c in (c.strip() for c in said.split(",")) if c not in ("", "identity")]
    if not codings:
        yield from response.iter_raw()
        return
    if len(codings) > 1 or codings[0] not in ("gzip", "x-gzip", "deflate"):
        raise OddAnswerError(f"the answer is packed as {said[:60]!r}, which was not asked for")
    yield from _inflated(response.iter_raw(), gzip=codings[0] != "deflate")


def _inflated(blocks: Iterator[bytes], *, gzip: bool) -> Iterator[bytes]:
    """Unpacked in steps, so that no block makes more than a step at once."""
    # 32 more: gzip or zlib, whichever the head says. A deflate without a head is what some servers send for it.
    unpacker = zlib.decompressobj(zlib.MAX_WBITS | 32)
    first = True
    for block in blocks:
        waiting = block
        while waiting:
            try:
                made = unpacker.decompress(waiting, STEP_BYTES)
            except zlib.error as fault:
                if not first or gzip:
                    raise OddAnswerError(f"the answer is damaged: {fault}") from None
                unpacker, first = zlib.decompressobj(-zlib.MAX_WBITS), False
                continue
            first = False
            yield made
            waiting = unpacker.unconsumed_tail
        if unpacker.eof:
            return
    yield unpacker.flush()
