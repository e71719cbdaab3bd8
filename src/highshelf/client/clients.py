"""Two thin senders over httpx: everything else is shared."""

from __future__ import annotations

import contextlib
import json
import os
import time
from collections.abc import AsyncIterator, Callable, Coroutine, Iterator
from pathlib import Path
from typing import IO, Any, Concatenate, ParamSpec, TypeVar

import httpx
from pydantic import ValidationError

from highshelf.client import calls
from highshelf.client.calls import Call
from highshelf.client.environment import operator_token, service_url
from highshelf.client.errors import ServiceError, ServiceUnreachableError
from highshelf.schemas.models import EventOut, Fault

P = ParamSpec("P")
T = TypeVar("T")
Sent = Callable[[int], None]
# A check signs in to servers that may be slow to refuse.
TIMEOUT = httpx.Timeout(180, connect=5)
# The service reads 2 GB of tar.xz in about six minutes, and gives up itself long before this.
SLOW_TIMEOUT = httpx.Timeout(3600, connect=5)
BLOCK = 1 << 20
RECONNECT_SECONDS = 1
# The service sends a beat every five seconds: three missed mean that the line is dead.
STREAM_TIMEOUT = httpx.Timeout(16, connect=5)


def _sync(build: Callable[P, Call[T]]) -> Callable[Concatenate[Client, P], T]:
    def method(self: Client, /, *args: P.args, **kwargs: P.kwargs) -> T:
        return self.send(build(*args, **kwargs))

    method.__name__, method.__doc__ = build.__name__, build.__doc__
    return method


def _async(build: Callable[P, Call[T]]) -> Callable[Concatenate[AsyncClient, P], Coroutine[Any, Any, T]]:
    async def method(self: AsyncClient, /, *args: P.args, **kwargs: P.kwargs) -> T:
        return await self.send(build(*args, **kwargs))

    method.__name__, method.__doc__ = build.__name__, build.__doc__
    return method


def _options(url: str, token: str) -> dict[str, Any]:
    return {
        "base_url": url.rstrip("/") + "/api/v1",
        "headers": {"Authorization": f"Bearer {token}"},
        "timeout": TIMEOUT,
        "trust_env": False,
        # Reading all authorities takes as long as a whole call; where nothing is encrypted there is nobody to be believed.
        "verify": not url.lower().startswith("http://"),
    }


def _request(call: Call[Any]) -> dict[str, Any]:
    request: dict[str, Any] = {"method": call.method, "url": call.path, "params": call.params}
    if call.body is not None:
        request["json"] = call.body
    if call.slow:
        request["timeout"] = SLOW_TIMEOUT
    return request


def _result(call: Call[T], status: int, content: bytes) -> T:
    if status >= 400:
        raise ServiceError(_fault(status, content), status)
    return call.read(content)


def _fault(status: int, content: bytes) -> Fault:
    try:
        # Whatever else a problem has (RFC 9457) is for other programs.
        told = json.loads(content)
        return Fault(**{name: told[name] for name in Fault.model_fields if name in told})
    except (ValueError, TypeError, ValidationError):
        return Fault(
            code="fault",
            message=f"the service answered with status {status}",
            hint=content[:200].decode("utf-8", "replace"),
        )


@contextlib.contextmanager
def _new_file(target: Path) -> Iterator[IO[bytes]]:
    """A file that only its owner may read, gone again when its block ends badly. Raises FileExistsError."""
    handle = os.open(target, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    try:
        with os.fdopen(handle, "wb") as out:
            yield out
    except BaseException:
        target.unlink(missing_ok=True)
        raise


class _Lines:
    """Server-sent events out of lines (HTML standard, 9.2.6), as far as the service uses them."""

    def __init__(self) -> None:
        self._data: list[str] = []
        self._kind = ""

    def feed(self, line: str) -> EventOut | None:
        if line.startswith("data:"):
            self._data.append(line[5:].strip())
        elif line.startswith("event:"):
            self._kind = line[6:].strip()
        elif not line:
            text, kind = "\n".join(self._data), self._kind
            self._data, self._kind = [], ""
            if text and kind not in ("beat", "end"):
                return EventOut.model_validate(json.loads(text))
        return None


class Client:
    """The service's operations, blocking. Close it, or use it as a context manager.

    Raises (every method): ServiceError with the service's fault; ServiceUnreachableError.
    """

    def __init__(self, url: str, token: str) -> None:
        self.url = url
        self._http = httpx.Client(**_options(url, token))

    @classmethod
    def from_environment(cls) -> Client:
        """The service and the token that the environment tells of (`client/environment.py`).

        Raises:
            OSError: no token is told, and there is no file with one.
        """
        return cls(service_url(), operator_token())

    def __enter__(self) -> Client:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        self._http.close()

    def send(self, call: Call[T], sent: Sent | None = None) -> T:
        """Send a call; `sent` is told the number of bytes of an upload that went out."""
        request = _request(call)
        if call.upload is not None:
            request["content"] = _blocks(call.upload, sent)
        try:
            if call.download is not None:
                return self._written(call, call.download, request)
            response = self._http.request(**request)
        except httpx.TransportError as fault:
            raise ServiceUnreachableError(self.url, str(fault) or type(fault).__name__) from None
        return _result(call, response.status_code, response.content)

    def _written(self, call: Call[T], target: Path, request: dict[str, Any]) -> T:
        """The body of an answer as a file, never over one that is there: whole, or not there."""
        with self._http.stream(**request) as response:
            if response.status_code >= 400:
                raise ServiceError(_fault(response.status_code, response.read()), response.status_code)
            with _new_file(target) as out:
                for block in response.iter_bytes(BLOCK):
                    out.write(block)
        return call.read(b"")

    def job_events(self, job: str, after: int = 0) -> Iterator[EventOut]:
        """Live events until the job ends; goes on by itself after a dropped line or a restart of the service."""
        return self._events(f"/jobs/{job}/events", after)

    def watch(self, after: int = -1) -> Iterator[EventOut]:
        """What all jobs tell, from now on or after an event; never ends by itself."""
        return self._events("/watch", after)

    def _events(self, path: str, after: int) -> Iterator[EventOut]:
        last, fails = after, 0
        while True:
            try:
                with self._http.stream("GET", path, params={"after": last}, timeout=STREAM_TIMEOUT) as response:
                    if response.status_code >= 400:
                        raise ServiceError(_fault(response.status_code, response.read()), response.status_code)
                    lines = _Lines()
                    for line in response.iter_lines():
                        event = lines.feed(line)
                        if event is not None:
                            last, fails = event.id, 0
                            yield event
                    return
            except httpx.TransportError as fault:
                fails += 1
                if fails > 30:
                    raise ServiceUnreachableError(self.url, str(fault)) from None
                time.sleep(RECONNECT_SECONDS)

    health = _sync(calls.health)
    account_add = _sync(calls.account_add)
    account_letter = _sync(calls.account_letter)
    account_list = _sync(calls.account_list)
    account_show = _sync(calls.account_show)
    account_change = _sync(calls.account_change)
    account_check = _sync(calls.account_check)
    account_survey = _sync(calls.account_survey)
    account_surveys = _sync(calls.account_surveys)
    account_locate = _sync(calls.account_locate)
    account_make_root = _sync(calls.account_make_root)
    account_helper_text = _sync(calls.account_helper_text)
    account_import = _sync(calls.account_import)
    site_list = _sync(calls.site_list)
    site_add = _sync(calls.site_add)
    site_remove = _sync(calls.site_remove)
    account_remove = _sync(calls.account_remove)
    release_check_in = _sync(calls.release_check_in)
    release_join = _sync(calls.release_join)
    release_correct = _sync(calls.release_correct)
    release_texts = _sync(calls.release_texts)
    release_read = _sync(calls.release_read)
    release_compare = _sync(calls.release_compare)
    release_match = _sync(calls.release_match)
    release_list = _sync(calls.release_list)
    release_show = _sync(calls.release_show)
    plan_make = _sync(calls.plan_make)
    plan_show = _sync(calls.plan_show)
    job_start = _sync(calls.job_start)
    job_list = _sync(calls.job_list)
    job_show = _sync(calls.job_show)
    job_answer = _sync(calls.job_answer)
    job_cancel = _sync(calls.job_cancel)
    job_pause = _sync(calls.job_pause)
    job_resume = _sync(calls.job_resume)
    job_log = _sync(calls.job_log)
    job_pages = _sync(calls.job_pages)
    job_page = _sync(calls.job_page)
    job_picture = _sync(calls.job_picture)
    job_evidence = _sync(calls.job_evidence)
    installation_list = _sync(calls.installation_list)
    installation_show = _sync(calls.installation_show)
    installation_reveal = _sync(calls.installation_reveal)
    installation_inspect = _sync(calls.installation_inspect)
    installation_settings = _sync(calls.installation_settings)
    installation_change = _sync(calls.installation_change)
    installation_change_undo = _sync(calls.installation_change_undo)
    installation_sheet = _sync(calls.installation_sheet)
    release_files = _sync(calls.release_files)
    release_remove = _sync(calls.release_remove)
    primer_list = _sync(calls.primer_list)
    primer_show = _sync(calls.primer_show)
    primer_check = _sync(calls.primer_check)
    primer_try = _sync(calls.primer_try)
    value_list = _sync(calls.value_list)
    plan_preview = _sync(calls.plan_preview)
    installation_reveals = _sync(calls.installation_reveals)
    installation_forget = _sync(calls.installation_forget)
    installation_undo = _sync(calls.installation_undo)
    installation_recheck = _sync(calls.installation_recheck)
    installation_schedule = _sync(calls.installation_schedule)
    installation_remove = _sync(calls.installation_remove)
    installation_restore = _sync(calls.installation_restore)
    operator_list = _sync(calls.operator_list)
    operator_invite = _sync(calls.operator_invite)
    operator_remove = _sync(calls.operator_remove)
    session_list = _sync(calls.session_list)
    record_list = _sync(calls.record_list)
    strongbox_verify = _sync(calls.strongbox_verify)
    session_end = _sync(calls.session_end)
    release_fetch = _sync(calls.release_fetch)
    release_fetches = _sync(calls.release_fetches)
    release_fetch_show = _sync(calls.release_fetch_show)
    release_fetch_cancel = _sync(calls.release_fetch_cancel)
    database_list = _sync(calls.database_list)
    database_make = _sync(calls.database_make)
    database_add = _sync(calls.database_add)
    database_try = _sync(calls.database_try)
    database_import = _sync(calls.database_import)
    database_export = _sync(calls.database_export)
    database_drop = _sync(calls.database_drop)
    database_forget = _sync(calls.database_forget)
    database_reveal = _sync(calls.database_reveal)
    dump_bring = _sync(calls.dump_bring)
    dump_list = _sync(calls.dump_list)
    dump_show = _sync(calls.dump_show)
    dump_fetch = _sync(calls.dump_fetch)
    dump_remove = _sync(calls.dump_remove)
    notice_list = _sync(calls.notice_list)
    notice_webhook = _sync(calls.notice_webhook)
    notice_mail = _sync(calls.notice_mail)
    notice_change = _sync(calls.notice_change)
    notice_try = _sync(calls.notice_try)
    notice_remove = _sync(calls.notice_remove)
    notice_sent = _sync(calls.notice_sent)
    licence_add = _sync(calls.licence_add)
    licence_list = _sync(calls.licence_list)
    licence_change = _sync(calls.licence_change)
    licence_reveal = _sync(calls.licence_reveal)
    licence_remove = _sync(calls.licence_remove)


class AsyncClient:
    """The same for asyncio and trio programs."""

    def __init__(self, url: str, token: str) -> None:
        self.url = url
        self._http = httpx.AsyncClient(**_options(url, token))

    async def __aenter__(self) -> AsyncClient:
        return self

    async def __aexit__(self, *_: object) -> None:
        await self._http.aclose()

    async def send(self, call: Call[T]) -> T:
        request = _request(call)
        if call.upload is not None:
            request["content"] = _async_blocks(call.upload)
        try:
            if call.download is not None:
                return await self._written(call, call.download, request)
            response = await self._http.request(**request)
        except httpx.TransportError as fault:
            raise ServiceUnreachableError(self.url, str(fault) or type(fault).__name__) from None
        return _result(call, response.status_code, response.content)

    async def _written(self, call: Call[T], target: Path, request: dict[str, Any]) -> T:
        """As the blocking client's."""
        async with self._http.stream(**request) as response:
            if response.status_code >= 400:
                raise ServiceError(_fault(response.status_code, await response.aread()), response.status_code)
            with _new_file(target) as out:
                async for block in response.aiter_bytes(BLOCK):
                    out.write(block)
        return call.read(b"")

    def job_events(self, job: str, after: int = 0) -> AsyncIterator[EventOut]:
        """Live events until the job ends or the line drops; go on with `after` the last event's id."""
        return self._events(f"/jobs/{job}/events", after)

    def watch(self, after: int = -1) -> AsyncIterator[EventOut]:
        """What all jobs tell, until the line drops; go on with `after` the last event's id."""
        return self._events("/watch", after)

    async def _events(self, path: str, after: int) -> AsyncIterator[EventOut]:
        async with self._http.stream("GET", path, params={"after": after}, timeout=STREAM_TIMEOUT) as response:
            if response.status_code >= 400:
                raise ServiceError(_fault(response.status_code, await response.aread()), response.status_code)
            lines = _Lines()
            async for line in response.aiter_lines():
                event = lines.feed(line)
                if event is not None:
                    yield event

    health = _async(calls.health)
    account_add = _async(calls.account_add)
    account_letter = _async(calls.account_letter)
    account_list = _async(calls.account_list)
    account_show = _async(calls.account_show)
    account_change = _async(calls.account_change)
    account_check = _async(calls.account_check)
    account_survey = _async(calls.account_survey)
    account_surveys = _async(calls.account_surveys)
    account_locate = _async(calls.account_locate)
    account_make_root = _async(calls.account_make_root)
    account_helper_text = _async(calls.account_helper_text)
    account_import = _async(calls.account_import)
    site_list = _async(calls.site_list)
    site_add = _async(calls.site_add)
    site_remove = _async(calls.site_remove)
    account_remove = _async(calls.account_remove)
    release_check_in = _async(calls.release_check_in)
    release_join = _async(calls.release_join)
    release_correct = _async(calls.release_correct)
    release_texts = _async(calls.release_texts)
    release_read = _async(calls.release_read)
    release_compare = _async(calls.release_compare)
    release_match = _async(calls.release_match)
    release_list = _async(calls.release_list)
    release_show = _async(calls.release_show)
    plan_make = _async(calls.plan_make)
    plan_show = _async(calls.plan_show)
    job_start = _async(calls.job_start)
    job_list = _async(calls.job_list)
    job_show = _async(calls.job_show)
    job_answer = _async(calls.job_answer)
    job_cancel = _async(calls.job_cancel)
    job_pause = _async(calls.job_pause)
    job_resume = _async(calls.job_resume)
    job_log = _async(calls.job_log)
    job_pages = _async(calls.job_pages)
    job_page = _async(calls.job_page)
    job_picture = _async(calls.job_picture)
    job_evidence = _async(calls.job_evidence)
    installation_list = _async(calls.installation_list)
    installation_show = _async(calls.installation_show)
    installation_reveal = _async(calls.installation_reveal)
    installation_inspect = _async(calls.installation_inspect)
    installation_settings = _async(calls.installation_settings)
    installation_change = _async(calls.installation_change)
    installation_change_undo = _async(calls.installation_change_undo)
    installation_sheet = _async(calls.installation_sheet)
    release_files = _async(calls.release_files)
    release_remove = _async(calls.release_remove)
    primer_list = _async(calls.primer_list)
    primer_show = _async(calls.primer_show)
    primer_check = _async(calls.primer_check)
    primer_try = _async(calls.primer_try)
    value_list = _async(calls.value_list)
    plan_preview = _async(calls.plan_preview)
    installation_reveals = _async(calls.installation_reveals)
    installation_forget = _async(calls.installation_forget)
    installation_undo = _async(calls.installation_undo)
    installation_recheck = _async(calls.installation_recheck)
    installation_schedule = _async(calls.installation_schedule)
    installation_remove = _async(calls.installation_remove)
    installation_restore = _async(calls.installation_restore)
    operator_list = _async(calls.operator_list)
    operator_invite = _async(calls.operator_invite)
    operator_remove = _async(calls.operator_remove)
    session_list = _async(calls.session_list)
    record_list = _async(calls.record_list)
    strongbox_verify = _async(calls.strongbox_verify)
    session_end = _async(calls.session_end)
    release_fetch = _async(calls.release_fetch)
    release_fetches = _async(calls.release_fetches)
    release_fetch_show = _async(calls.release_fetch_show)
    release_fetch_cancel = _async(calls.release_fetch_cancel)
    database_list = _async(calls.database_list)
    database_make = _async(calls.database_make)
    database_add = _async(calls.database_add)
    database_try = _async(calls.database_try)
    database_import = _async(calls.database_import)
    database_export = _async(calls.database_export)
    database_drop = _async(calls.database_drop)
    database_forget = _async(calls.database_forget)
    database_reveal = _async(calls.database_reveal)
    dump_bring = _async(calls.dump_bring)
    dump_list = _async(calls.dump_list)
    dump_show = _async(calls.dump_show)
    dump_fetch = _async(calls.dump_fetch)
    dump_remove = _async(calls.dump_remove)
    notice_list = _async(calls.notice_list)
    notice_webhook = _async(calls.notice_webhook)
    notice_mail = _async(calls.notice_mail)
    notice_change = _async(calls.notice_change)
    notice_try = _async(calls.notice_try)
    notice_remove = _async(calls.notice_remove)
    notice_sent = _async(calls.notice_sent)
    licence_add = _async(calls.licence_add)
    licence_list = _async(calls.licence_list)
    licence_change = _async(calls.licence_change)
    licence_reveal = _async(calls.licence_reveal)
    licence_remove = _async(calls.licence_remove)


def _blocks(path: Path, sent: Sent | None) -> Iterator[bytes]:
    count = 0
    with path.open("rb") as file:
        while block := file.read(BLOCK):
            yield block
            count += len(block)
            if sent is not None:
                sent(count)


async def _async_blocks(path: Path) -> AsyncIterator[bytes]:
    for block in _blocks(path, None):
        yield block
