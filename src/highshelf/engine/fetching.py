"""Fetching releases from their makers: durable, resumed after a break or a restart, compared before they are checked in.

Rules:
1. What came over lies in the shelf's draft of the fetch until it is checked in; a restart goes on with it.
2. A broken line is tried again, longer apart each time, as long as bytes still come; a refusal is not.
3. Nothing is checked in that does not fit what was given to compare it with.
"""

from __future__ import annotations

import hashlib
import json
import threading
import time
from collections.abc import Callable, Mapping
from pathlib import Path

import structlog

from highshelf.core.errors import ArchiveError, CancelledError, ConflictError, FaultError, FetchError, HighShelfError
from highshelf.core.ports import CancelToken, Downloads
from highshelf.core.release.fetching import (
    check_headers,
    check_source,
    checksum_kind,
    compare_checksum,
    file_name_of,
    find_checksum,
)
from highshelf.core.values import redactor
from highshelf.engine.shelving import CheckIn, keep_release
from highshelf.store.shelf import MAX_ARCHIVE_BYTES
from highshelf.store.store import Store, new_id
from highshelf.store.tables import FetchRow, ReleaseRow, now

log = structlog.get_logger()
MAX_IDLE_TRIES = 5
FIRST_PAUSE_SECONDS, LONGEST_PAUSE_SECONDS = 0.5, 20.0
NOTE_SECONDS = 0.3
FINAL = ("done", "failed", "cancelled")
CheckSignature = Callable[[Path, bytes, bytes], str]


class Fetcher:
    """Orders and does fetches. One object a process; cancel tokens live here."""

    def __init__(self, store: Store, downloads: Downloads, check_in: CheckIn, check_signature: CheckSignature) -> None:
        self._store, self._downloads = store, downloads
        self._check_in, self._check_signature = check_in, check_signature
        self._tokens: dict[str, CancelToken] = {}
        self._lock = threading.Lock()

    def order(
        self, address: str, *, accept: list[str], compare: Mapping[str, str], headers: Mapping[str, str], who: str
    ) -> FetchRow:
        """Write a fetch down.

        Args:
            compare: `checksum`, `checksum_address`, `signature_address`, `key`, `key_address`, as far as they were given.

        Raises:
            InputError: an address, a checksum or a header that cannot be.
        """
        address, headers = check_source(address), check_headers(headers)
        given = {name: text.strip() for name, text in compare.items() if text.strip()}
        if "checksum" in given:
            checksum_kind(given["checksum"])
        for name in ("checksum_address", "signature_address", "key_address"):
            if name in given:
                given[name] = check_source(given[name])
        if "signature_address" in given and not ("key" in given or "key_address" in given):
            raise ConflictError(
                "a signature needs its makers' public key", hint="give the key, or where it is published"
            )
        number = new_id()
        if headers:
            self._store.set_secret(f"fetch/{number}/headers", json.dumps(headers))
        row = FetchRow(
            id=number, address=address, file_name=file_name_of(address), accept=accept, compare=given, asked_by=who
        )
        return self._store.add(row)

    def cancel(self, fetch_id: str) -> FetchRow:
        """Stop a fetch; what came over is thrown away. Raises NotFoundError, ConflictError: it has ended."""
        row = self._store.get(FetchRow, fetch_id, "fetch")
        if row.state in FINAL:
            raise ConflictError(f"the fetch {fetch_id} has ended already ({row.state})")
        self._store.change(FetchRow, fetch_id, cancel_asked=True)
        self._token(fetch_id).cancel()
        return self._store.get(FetchRow, fetch_id, "fetch")

    def _token(self, fetch_id: str) -> CancelToken:
        with self._lock:
            return self._tokens.setdefault(fetch_id, CancelToken())

    def do(self, fetch_id: str) -> str:
        """One fetch to its end; the release's SHA-256, or "" when none came. Never raises."""
        row = self._store.find(FetchRow, fetch_id)
        if row is None or row.state in FINAL:
            return row.release if row is not None else ""
        token, draft = self._token(fetch_id), self._store.shelf.fetched(fetch_id)
        if row.cancel_asked:
            token.cancel()
        try:
            headers: dict[str, str] = json.loads(self._store.secret(f"fetch/{fetch_id}/headers") or "{}")
        except HighShelfError as caught:
            # A secret that does not open: the fetch ends and says so.
            self._end(fetch_id, caught, str)
            return ""
        hide = redactor([word for value in headers.values() for word in (value, value.rpartition(" ")[2])])
        fault: HighShelfError | None = None
        try:
            self._fetch(row, draft, headers, token)
            release = self._shelve(fetch_id, draft, headers, token)
            self._store.change(FetchRow, fetch_id, state="done", release=release.sha256, note="", finished_at=now())
        except HighShelfError as caught:
            fault = caught
        except OSError as caught:
            fault = ArchiveError(
                f"what came over could not be kept: {caught.strerror or caught}", hint="make room in the data folder"
            )
        except Exception as caught:
            log.exception("fetch", fetch=fetch_id)
            fault = FaultError(f"High Shelf itself failed in the fetch: {type(caught).__name__}: {caught}")
        if fault is not None:
            self._end(fetch_id, fault, hide)
        draft.unlink(missing_ok=True)
        self._store.drop_secret(f"fetch/{fetch_id}/headers")
        with self._lock:
            self._tokens.pop(fetch_id, None)
        return self._store.get(FetchRow, fetch_id, "fetch").release

    def _end(self, fetch_id: str, fault: HighShelfError, hide: Callable[[str], str]) -> None:
        told = {
            "code": fault.code,
            "message": hide(fault.message),
            "hint": hide(fault.hint),
            "retryable": fault.retryable,
            "context": fault.context,
        }
        state = "cancelled" if isinstance(fault, CancelledError) else "failed"
        self._store.change(FetchRow, fetch_id, state=state, error=told, note="", finished_at=now())

    def _fetch(self, row: FetchRow, draft: Path, headers: Mapping[str, str], token: CancelToken) -> None:
        """Bring the whole file over. Raises ArchiveError, FetchError, InputError, CancelledError."""
        store, idle, pause = self._store, 0, FIRST_PAUSE_SECONDS
        store.change(FetchRow, row.id, state="fetching")
        while True:
            before = draft.stat().st_size if draft.exists() else 0
            tag = store.get(FetchRow, row.id, "fetch").tag
            try:
                done = self._downloads.fetch(
                    row.address,
                    draft,
                    headers=headers,
                    tag=tag,
                    limit_bytes=MAX_ARCHIVE_BYTES,
                    told=_Notes(store, row.id),
                    cancel=token,
                )
                store.change(FetchRow, row.id, done_bytes=done.size_bytes, file_name=done.name, note="")
                return
            except FetchError as fault:
                got = draft.stat().st_size if draft.exists() else 0
                idle, pause = (0, FIRST_PAUSE_SECONDS) if got > before else (idle + 1, pause)
                if idle >= MAX_IDLE_TRIES:
                    raise
                tries = store.get(FetchRow, row.id, "fetch").tries + 1
                store.change(FetchRow, row.id, tries=tries, note=f"{fault.message}; trying again")
                _wait(pause, token)
                pause = min(pause * 2, LONGEST_PAUSE_SECONDS)

    def _shelve(self, fetch_id: str, draft: Path, headers: Mapping[str, str], token: CancelToken) -> ReleaseRow:
        store = self._store
        row = store.change(FetchRow, fetch_id, state="reading")
        compared = self._compared(row, draft, headers)
        sha256 = _digest(draft, "sha256")
        # The draft is moved to its place by the check-in: a restart in between finds the release already there.
        release = keep_release(store, self._check_in, [(draft, row.file_name, "")], row.accept, sha256, cancel=token)
        origin = {"address": row.address, "compared": compared, "at": now().isoformat()}
        return store.change(ReleaseRow, release.sha256, origin=origin)

    def _compared(self, row: FetchRow, draft: Path, headers: Mapping[str, str]) -> list[str]:
        """What was compared, for people. Raises ArchiveError: something does not fit."""
        given, told = row.compare, []
        if "checksum" in given:
            kind = checksum_kind(given["checksum"])
            told.append(compare_checksum(kind, given["checksum"], _digest(draft, kind), "the checksum that was given"))
        if "checksum_address" in given:
            text = self._beside(given["checksum_address"], row, headers).decode("utf-8", "replace")
            kind, wanted = find_checksum(text, row.file_name)
            told.append(compare_checksum(kind, wanted, _digest(draft, kind), given["checksum_address"]))
        if "signature_address" in given:
            signature = self._beside(given["signature_address"], row, headers)
            key = given["key"].encode() if "key" in given else self._beside(given["key_address"], row, headers)
            told.append(f"signed by {self._check_signature(draft, signature, key)}")
        return told

    def _beside(self, address: str, row: FetchRow, headers: Mapping[str, str]) -> bytes:
        """A small file that stands beside it; what signs in goes only to where the release itself comes from."""
        same = address.split("/")[2] == row.address.split("/")[2]
        for attempt in range(3):
            try:
                return self._downloads.text(address, headers if same else {})
            except FetchError as fault:
                if attempt == 2:
                    raise ArchiveError(f"{address} could not be read: {fault.message}", hint=fault.hint) from None
                time.sleep(FIRST_PAUSE_SECONDS)
        raise AssertionError("unreachable")


class _Notes:
    """Progress into the row, a few times a second; a new mark of the contents at once."""

    def __init__(self, store: Store, fetch_id: str) -> None:
        self._store, self._id = store, fetch_id
        self._next, self._tag = 0.0, ""

    def __call__(self, done: int, total: int | None, tag: str, name: str) -> None:
        if (at := time.monotonic()) < self._next and tag == self._tag:
            return
        self._next, self._tag = at + NOTE_SECONDS, tag
        self._store.change(FetchRow, self._id, done_bytes=done, total_bytes=total, tag=tag, file_name=name)


def _wait(seconds: float, token: CancelToken) -> None:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        token.check()
        time.sleep(0.05)


def _digest(path: Path, kind: str) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, kind).hexdigest()
