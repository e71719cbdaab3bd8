"""The helper from our side: put it there, speak to it in signed requests, take it away.

Rules (the threat model is in docs/architecture.md):
1. One file a capability, under an unguessable name, with a key made for this one file.
2. Requests are signed over method, body, nonce and the host's own time; replies and refusals are signed over our nonce.
   What is not signed is not the helper's, whatever it says.
3. The name is told to `outstanding` before the file is written, and taken back only when the file was seen to be gone.
4. The host's clock is believed within `SANE_CLOCK_SECONDS`. A file is used for `LIFETIME_SECONDS` of our own time, whatever
   it was told of its end, and for so many requests.
5. Nobody but its owner may read the file, where PHP runs as that owner: that is tried, and remembered for the site.
"""

from __future__ import annotations

import contextlib
import hashlib
import hmac
import json
import re
import secrets
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from importlib import resources
from typing import Any

from highshelf.core.errors import (
    HelperBusyError,
    HelperError,
    HelperRefusedError,
    MissingFileError,
    SpaceError,
    TransferError,
)
from highshelf.core.ports import Fetch, HostFiles, given_nonces, helper_traces

LIFETIME_SECONDS = 900
# A wrong time zone is fourteen hours at the most; beyond two days nobody knows what such a clock will say next.
SANE_CLOCK_SECONDS = 2 * 24 * 3600
# How many requests a file answers: what is asked in pieces is asked often.
USES = {"report": 24, "login": 1_000, "dump": 1_000, "link": 1_000}
MANY_USES = 20_000
NARROW, READABLE = 0o600, 0o644
# Sites whose PHP runs as another user than the login, and cannot read a narrow file.
_READ_BY_OTHERS: set[str] = set()
PARTS = {
    "report": ("common.php", "host_report.php", "report.php"),
    "fetch": ("common.php", "fetch.php"),
    "unpack": ("common.php", "join.php", "unpack.php"),
    "untar": ("common.php", "tree.php", "join.php", "untar.php"),
    "hashes": ("common.php", "tree.php", "hashes.php"),
    "remove": ("common.php", "remove.php"),
    "link": ("common.php", "link.php"),
    "login": ("common.php", "database_login.php", "login.php"),
    "dump": ("common.php", "database_login.php", "database_dump.php", "database_dump_postgresql.php", "dump.php"),
}


def part(name: str) -> str:
    return resources.files(__package__).joinpath("php", name).read_text(encoding="utf-8")


def source_of(capability: str) -> str:
    """The file for one capability, still with %KEY%, %UNTIL%, %USES% and %FOLDERS% in it."""
    return "".join(part(p) for p in PARTS[capability])


class HostHelper:
    """Helpers of one step; `remove()` takes all of them away.

    Args:
        files, fetch: ways to the account's files and to its site.
        folder: a web-served folder as the transfer login sees it, and its `address`, ending in `/`.
        reaches: folders it may work in, relative to its own.
        outstanding: told each file's path before it is written.
        gone: told each path that was seen to be gone.
    """

    def __init__(
        self,
        files: HostFiles,
        fetch: Fetch,
        *,
        folder: str,
        address: str,
        reaches: Sequence[str],
        outstanding: Callable[[str], None],
        gone: Callable[[str], None],
    ) -> None:
        self._files, self._fetch = files, fetch
        self._folder, self._address, self._reaches = folder.rstrip("/"), address, tuple(reaches)
        self._outstanding, self._gone = outstanding, gone
        self._placed: dict[str, tuple[str, str]] = {}
        self._ends: dict[str, float] = {}
        self._unasked: set[str] = set()
        self._clock_offset: int | None = None

    def call(self, capability: str, body: Mapping[str, Any]) -> dict[str, Any]:
        """Ask the helper; puts it there first when it is not.

        Raises:
            HelperError: the host does not run it, refuses it, or answers without a right signature.
        """
        text = json.dumps(dict(body)).encode()
        if time.monotonic() > self._ends.get(capability, float("inf")):
            self._remove_one(capability)
        name, key = self._placed.get(capability, ("", ""))
        try:
            if not name:
                name, key = self._place(capability)
                return self._ask_first(name, key, text)
            if capability in self._unasked:
                self._unasked.discard(capability)
                return self._ask_first(name, key, text)
            return self._ask_with_nonces(name, key, text)
        except HelperError as fault:
            if fault.context.get("status") is None or self._files.stat(f"{self._folder}/{name}") is not None:
                raise
            raise HelperError(
                "the host took the helper away as soon as it was there: a scanner for harmful files, most likely",
                hint="send the host the text of `highshelf account helper-text`, or forbid the helper for this account",
            ) from None
        except _Expired:
            # The host's clock is far ahead, or the file has answered often enough: a new one gets a right end.
            self._remove_one(capability)
            name, key = self._place(capability)
            return self._ask_first(name, key, text)

    def put_there(self, capability: str) -> None:
        """Write the file, and ask nothing yet. Raises TransferError."""
        if capability not in self._placed:
            self._place(capability)
            self._unasked.add(capability)

    def ask(self, capability: str, body: Mapping[str, Any]) -> dict[str, Any]:
        """Ask a helper that answered before, without a word over the transfer login: somebody else may be using that.

        Raises:
            HelperError: as `call`, or it is not there.
        """
        if capability not in self._placed:
            raise HelperError(f"the helper for {capability} is not there")
        name, key = self._placed[capability]
        try:
            if time.monotonic() > self._ends[capability]:
                raise _Expired
            return self._ask(name, key, json.dumps(dict(body)).encode())
        except _Expired:
            raise HelperError("the helper's time is over") from None

    @contextlib.contextmanager
    def over(self, files: HostFiles) -> Iterator[None]:
        """What is called in here goes over this connection; nobody else may call meanwhile."""
        before, self._files = self._files, files
        try:
            yield
        finally:
            self._files = before

    def _ask_first(self, name: str, key: str, text: bytes) -> dict[str, Any]:
        """Its mode is made narrow while it is asked for the first time: that takes a round trip, and mostly changes nothing."""
        narrow = self._address not in _READ_BY_OTHERS
        faults: list[TransferError] = []

        def put_right() -> None:
            try:
                self._files.chmod(f"{self._folder}/{name}", NARROW if narrow else READABLE)
            except TransferError as fault:
                faults.append(fault)

        at_once = threading.Thread(target=put_right, name="mode", daemon=True)
        at_once.start()
        try:
            # Nothing else may be said over the transfer login before that is done: what wants a list of nonces, or a look, waits.
            answer = self._ask(name, key, text)
            at_once.join()
        except (HelperError, _Expired) as fault:
            at_once.join()
            # A file that may not be read, or that others may write, is refused in one of these ways.
            unread = isinstance(fault, HelperError) and fault.context.get("status") in (401, 403, 404, 500)
            if not unread:
                raise
            return self._asked_wider(name, key, text) if narrow else self._ask_with_nonces(name, key, text)
        finally:
            at_once.join()
            if faults and not isinstance(faults[0], MissingFileError):
                raise faults[0]
        return answer

    def _asked_wider(self, name: str, key: str, text: bytes) -> dict[str, Any]:
        """PHP may be another user, who cannot read the file: it is asked once more with a mode that lets it."""
        try:
            # It may only want its list of nonces.
            return self._ask_with_nonces(name, key, text)
        except HelperError as fault:
            if fault.context.get("status") not in (401, 403, 404, 500):
                raise
        with contextlib.suppress(MissingFileError):
            self._files.chmod(f"{self._folder}/{name}", READABLE)
        answer = self._ask_with_nonces(name, key, text)
        _READ_BY_OTHERS.add(self._address)
        return answer

    def _ask_with_nonces(self, name: str, key: str, text: bytes) -> dict[str, Any]:
        try:
            return self._ask(name, key, text)
        except _NoNonceFile:
            # PHP runs as another user and may not make files in this folder: it gets one to write into.
            path = given_nonces(f"{self._folder}/{name}")
            self._files.write(path, b"")
            self._files.chmod(path, 0o666)
            return self._ask(name, key, text)

    def files(self) -> Sequence[str]:
        return [f"{self._folder}/{name}" for name, _ in self._placed.values()]

    def remove(self) -> None:
        """Take every file of ours away and see that it is gone.

        Raises:
            TransferError: a file could not be removed; it stays listed as outstanding.
        """
        for capability in list(self._placed):
            self._remove_one(capability)

    def _remove_one(self, capability: str) -> None:
        path = f"{self._folder}/{self._placed[capability][0]}"
        remove_helper(self._files, path)
        self._gone(path)
        del self._placed[capability]
        self._ends.pop(capability, None)
        self._unasked.discard(capability)

    def _place(self, capability: str) -> tuple[str, str]:
        name, key = f"hs-{secrets.token_hex(12)}.php", secrets.token_hex(32)
        path = f"{self._folder}/{name}"
        self._outstanding(path)
        try:
            self._files.write(path, self._source(capability, key).encode())
        except TransferError:
            # A full disk takes the name and not the content: that goes too. What cannot be removed stays listed.
            with contextlib.suppress(TransferError):
                remove_helper(self._files, path)
                self._gone(path)
            raise
        self._placed[capability] = name, key
        self._ends[capability] = time.monotonic() + LIFETIME_SECONDS
        return name, key

    def _source(self, capability: str, key: str) -> str:
        text = source_of(capability)
        folders = ", ".join("'" + r.replace("\\", "\\\\").replace("'", "\\'") + "'" for r in self._reaches)
        until = int(time.time()) + LIFETIME_SECONDS + (self._clock_offset or 0)
        uses = str(USES.get(capability, MANY_USES))
        filled = text.replace("%KEY%", key).replace("%UNTIL%", str(until)).replace("%USES%", uses)
        return filled.replace("%FOLDERS%", folders)

    def _ask(self, name: str, key: str, body: bytes) -> dict[str, Any]:
        url = self._address + name
        for _ in range(2):
            nonce = secrets.token_hex(16)
            moment = str(int(time.time()) + (self._clock_offset or 0))
            seal = _seal(key, b"POST\n" + body + f"\n{nonce}\n{moment}".encode())
            status, headers, answer = self._fetch.send_json(
                url, body, {"X-Helper-Nonce": nonce, "X-Helper-Time": moment, "X-Helper-Seal": seal}
            )
            why, told = _refusal(key, nonce, status, headers, answer)
            if why == "used up":
                raise _Expired
            if why in ("time", "expired") and self._clock_offset is None:
                self._clock_offset = _sane_offset(told)
                if why == "expired":
                    raise _Expired
                continue
            return _checked(url, key, nonce, status, headers, answer)
        raise HelperError("the helper does not accept the time it told itself", hint="is the host's clock jumping?")


def _sane_offset(told: int) -> int:
    """How far the host's clock is ahead of ours, seconds. Raises HelperError."""
    offset = told - int(time.time())
    if abs(offset) > SANE_CLOCK_SECONDS:
        raise HelperError(
            f"the host's clock is {abs(offset) // 3600} hours {'ahead' if offset > 0 else 'behind'}: the helper is not used with such a clock",
            hint="ask the host to set its clock; or forbid the helper for this account",
        )
    return offset


def _refusal(key: str, nonce: str, status: int, headers: Mapping[str, str], answer: bytes) -> tuple[str, int]:
    """(why, the host's time) of a refusal that the helper itself has signed; ("", 0) for anything else."""
    told = headers.get("x-helper-time", "")
    if status != 403 or not re.fullmatch(r"[0-9]{1,12}", told):
        return "", 0
    right = _seal(key, f"refused\n{nonce}\n{told}\n".encode() + answer)
    if not hmac.compare_digest(right, headers.get("x-helper-seal", "")):
        return "", 0
    return str(json.loads(answer).get("refused", "")), int(told)


class _NoNonceFile(HelperError):
    """PHP cannot keep its list of nonces."""


class _Expired(Exception):
    """The file's end lies in the past by the host's clock, or it has answered as often as it may."""


def remove_helper(files: HostFiles, path: str) -> None:
    """Remove a helper and its list of nonces; all may be gone already."""
    for one in helper_traces(path):
        take_away(files, one)


def take_away(files: HostFiles, path: str) -> None:
    """Remove a file that may be gone already."""
    try:
        files.remove(path)
    except MissingFileError:
        return
    except TransferError:
        if files.stat(path) is not None:
            raise


def _seal(key: str, message: bytes) -> str:
    return hmac.new(key.encode(), message, hashlib.sha256).hexdigest()


DIED = re.compile(rb"(?i)fatal error|maximum execution time|allowed memory size")


def _checked(url: str, key: str, nonce: str, status: int, headers: Mapping[str, str], answer: bytes) -> dict[str, Any]:
    why, _ = _refusal(key, nonce, status, headers, answer)
    if why == "nonce file":
        raise _NoNonceFile("PHP on this host may not make files beside the helper", status=status)
    if why:
        raise HelperError(f"the helper refuses the request: {why}", hint="run the job again")
    right = _seal(key, f"reply\n{nonce}\n{status}\n".encode() + answer)
    if not hmac.compare_digest(right, headers.get("x-helper-seal", "")):
        if status in (502, 503, 504):
            raise HelperBusyError(
                f"the host's web server does not reach its PHP (status {status} at the helper's address)",
                hint="try again in a minute; if it stays so, ask the host",
                status=status,
            )
        # A request that died there is another matter: less of it, or another capability, may do. PHP says so with 200, too.
        died = status >= 500 or not answer.strip() or DIED.search(answer) is not None
        raise (HelperError if died else HelperRefusedError)(
            f"the host does not run the helper (status {status} at its address)",
            hint="does the address lead to this account's document root, and does PHP run there?",
            status=status,
        )
    body: dict[str, Any] = json.loads(answer)
    if "error" in body and status == 507:
        raise SpaceError(f"PHP on the host: {body['error']}", hint="make room on the account, or ask the host for more")
    if "error" in body and status >= 400:
        raise HelperError(f"the helper says: {body['error']}")
    return body
