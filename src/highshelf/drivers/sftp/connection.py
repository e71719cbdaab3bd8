"""One SSH connection with its own event loop thread: SFTP files and commands as plain calls.

Rules:
1. asyncssh's exceptions end here; callers see our tree.
2. The server's key is compared with the one first seen before any password leaves.
3. A dead line is noticed by keepalives (2 s, three times): asyncssh hangs without them.
"""

from __future__ import annotations

import asyncio
import contextlib
import stat as stat_module
import threading
from collections.abc import Coroutine
from concurrent.futures import Future
from typing import Any, BinaryIO, TypeVar

import asyncssh

from highshelf.core.account import TransferLogin
from highshelf.core.errors import (
    FingerprintError,
    LineDroppedError,
    LoginRefusedError,
    MissingFileError,
    ShellError,
    TransferError,
    UnreachableError,
)
from highshelf.core.ports import CancelToken, Capabilities, Entry, Progress, Ran

T = TypeVar("T")
CONNECT_SECONDS = 20
BLOCK = 32_768
# OpenSSH answers 64 outstanding requests gladly; more gains nothing at 40 ms.
IN_FLIGHT = 64


class SshConnection:
    """An open connection. Close it with `close()`.

    Args:
        login: whom to log in as, where.
        password: the password, or "" when `key` is given.
        key: a private key's text (OpenSSH or PEM), or "".
        fingerprint: the server key's fingerprint as first seen, or "" to accept and tell it.

    Raises:
        UnreachableError, FingerprintError, LoginRefusedError.
    """

    def __init__(self, login: TransferLogin, *, password: str = "", key: str = "", fingerprint: str = "") -> None:
        self.login = login
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._loop.run_forever, name="ssh", daemon=True)
        self._thread.start()
        self.fingerprint = ""
        self._connection: asyncssh.SSHClientConnection | None = None
        self._sftp: asyncssh.SFTPClient | None = None
        try:
            self._connection = self.run(self._connect(password, key, fingerprint), CONNECT_SECONDS + 5)
        except BaseException:
            self.close()
            raise

    async def _connect(self, password: str, key: str, fingerprint: str) -> asyncssh.SSHClientConnection:
        where = f"{self.login.host}:{self.login.port}"
        seen: list[str] = []

        class Client(asyncssh.SSHClient):
            def validate_host_public_key(self, host: str, addr: str, port: int, key: asyncssh.SSHKey) -> bool:
                seen.append(key.get_fingerprint())
                return not fingerprint or seen[0] == fingerprint

        try:
            keys = [asyncssh.import_private_key(key)] if key else None
            connection = await asyncio.wait_for(
                asyncssh.connect(
                    self.login.host,
                    self.login.port,
                    username=self.login.login,
                    password=password or None,
                    client_keys=keys,
                    client_factory=Client,
                    known_hosts=([], [], []),
                    agent_path=None,
                    config=None,
                    preferred_auth="publickey,password" if keys else "password,keyboard-interactive",
                    keepalive_interval=2,
                    keepalive_count_max=3,
                ),
                CONNECT_SECONDS,
            )
        except asyncssh.HostKeyNotVerifiable:
            raise changed_fingerprint(where, fingerprint, seen[0] if seen else "none") from None
        except asyncssh.PermissionDenied:
            raise LoginRefusedError(
                f"{where} does not accept the login {self.login.login}",
                hint="check login and password with the hosting company's letter",
            ) from None
        except (OSError, asyncssh.Error, TimeoutError) as fault:
            told = str(fault) or f"no answer within {CONNECT_SECONDS} s"
            raise UnreachableError(
                f"no connection to {where}: {told}", hint="check host and port; is the server up?"
            ) from None
        self.fingerprint = seen[0] if seen else ""
        return connection

    def run(self, work: Coroutine[Any, Any, T], timeout_seconds: float | None = None) -> T:
        """Run a coroutine on the connection's loop and wait for it."""
        future: Future[T] = asyncio.run_coroutine_threadsafe(work, self._loop)
        try:
            return future.result(timeout_seconds)
        except TimeoutError:
            future.cancel()
            raise LineDroppedError(f"{self.login.host} did not answer within {timeout_seconds:.0f} s") from None

    @property
    def connection(self) -> asyncssh.SSHClientConnection:
        assert self._connection is not None
        return self._connection

    def close(self) -> None:
        if self._loop.is_closed():
            return
        if self._connection is not None:
            with contextlib.suppress(Exception):
                self.run(_gone(self._connection), 3)
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(5)
        if not self._loop.is_running():
            self._loop.close()


async def _gone(connection: asyncssh.SSHClientConnection) -> None:
    connection.close()
    await asyncio.wait_for(connection.wait_closed(), 2)


def changed_fingerprint(where: str, before: str, now: str) -> FingerprintError:
    return FingerprintError(
        f"{where} shows another identity than before: was {before}, is {now}",
        hint="nothing was sent. Ask the hosting company whether it changed; then check the account and take the new identity (--accept-identity)",
        before=before,
        now=now,
    )


class SshShell:
    """Commands over the connection."""

    def __init__(self, ssh: SshConnection) -> None:
        self._ssh = ssh

    def run(self, command: str, *, text: str = "", timeout_seconds: float = 120) -> Ran:
        async def work() -> Ran:
            done = await self._ssh.connection.run(command, input=text, encoding="utf-8", errors="replace")
            return Ran(
                done.exit_status if done.exit_status is not None else 255,
                str(done.stdout or ""),
                str(done.stderr or ""),
            )

        try:
            return self._ssh.run(work(), timeout_seconds)
        except (asyncssh.Error, OSError) as fault:
            raise ShellError(f"{self._ssh.login.host} runs no commands: {fault}") from None


class SftpFiles:
    """HostFiles over SFTP."""

    def __init__(self, ssh: SshConnection) -> None:
        self._ssh = ssh
        self._client: asyncssh.SFTPClient | None = None

    @property
    def capabilities(self) -> Capabilities:
        return Capabilities(atomic_replace=True, chmod=True, append=True, encrypted=True)

    def _do(self, what: str, path: str, work: Coroutine[Any, Any, T], timeout_seconds: float | None = 60) -> T:
        try:
            return self._ssh.run(work, timeout_seconds)
        except asyncssh.SFTPNoSuchFile:
            raise MissingFileError(f"{what} {path}: there is no such file or folder") from None
        except asyncssh.SFTPConnectionLost:
            raise LineDroppedError(f"{what} {path}: the connection to {self._ssh.login.host} was lost") from None
        except asyncssh.SFTPError as fault:
            raise TransferError(f"{what} {path}: {fault.reason or fault}") from None
        except (asyncssh.Error, OSError) as fault:
            raise LineDroppedError(f"{what} {path}: {fault}") from None

    async def _sftp(self) -> asyncssh.SFTPClient:
        if self._client is None:
            self._client = await self._ssh.connection.start_sftp_client()
        return self._client

    def entries(self, path: str) -> list[Entry]:
        async def work() -> list[Entry]:
            sftp = await self._sftp()
            return [
                _entry(str(n.filename), n.attrs)
                for n in await sftp.readdir(path or ".")
                if n.filename not in (".", "..")
            ]

        return sorted(self._do("listing", path, work()), key=lambda e: e.name)

    def stat(self, path: str) -> Entry | None:
        async def work() -> Entry:
            return _entry(path.rsplit("/", 1)[-1], await (await self._sftp()).lstat(path or "."))

        try:
            return self._do("looking at", path, work())
        except MissingFileError:
            return None

    def read(self, path: str, limit_bytes: int = 1 << 20) -> bytes:
        async def work() -> bytes:
            async with (await self._sftp()).open(path, "rb") as file:
                content = await file.read(limit_bytes)
                return content if isinstance(content, bytes) else content.encode()

        return self._do("reading", path, work())

    def write(self, path: str, content: bytes, mode: int | None = None) -> None:
        async def work() -> None:
            sftp = await self._sftp()
            attrs = asyncssh.SFTPAttrs(permissions=mode) if mode is not None else asyncssh.SFTPAttrs()
            async with sftp.open(path, "wb", attrs) as file:
                await file.write(content)
            if mode is not None:
                await sftp.chmod(path, mode)

        self._do("writing", path, work())

    def upload(
        self,
        path: str,
        source: BinaryIO,
        *,
        offset: int = 0,
        progress: Progress | None = None,
        cancel: CancelToken | None = None,
    ) -> None:
        async def work() -> None:
            sftp = await self._sftp()
            async with sftp.open(path, "r+b" if offset else "wb") as file:
                await _send_blocks(file, source, offset, progress, cancel)

        self._do("bringing", path, work(), None)

    def rename(self, old: str, new: str) -> None:
        async def work() -> None:
            await (await self._sftp()).posix_rename(old, new)

        self._do("renaming", old, work())

    def remove(self, path: str) -> None:
        async def work() -> None:
            await (await self._sftp()).remove(path)

        self._do("removing", path, work())

    def make_folder(self, path: str) -> None:
        async def work() -> None:
            await (await self._sftp()).mkdir(path)

        self._do("making", path, work())

    def remove_folder(self, path: str) -> None:
        async def work() -> None:
            await (await self._sftp()).rmdir(path)

        self._do("removing", path, work())

    def chmod(self, path: str, mode: int) -> None:
        async def work() -> None:
            await (await self._sftp()).chmod(path, mode)

        self._do("changing modes of", path, work())

    def close(self) -> None:
        self._ssh.close()


async def _send_blocks(
    file: asyncssh.SFTPClientFile, source: BinaryIO, offset: int, progress: Progress | None, cancel: CancelToken | None
) -> None:
    """Write blocks at their offsets, many in flight; what is reported is what the server confirmed."""
    source.seek(offset)
    at, confirmed = offset, offset
    flying: set[asyncio.Task[int]] = set()
    try:
        while True:
            block = source.read(BLOCK)
            if block:
                flying.add(asyncio.ensure_future(_write_at(file, block, at)))
                at += len(block)
            while flying and (not block or len(flying) >= IN_FLIGHT):
                done, flying = await asyncio.wait(flying, return_when=asyncio.FIRST_COMPLETED)
                confirmed += sum(task.result() for task in done)
                if progress is not None:
                    progress(confirmed)
            if cancel is not None:
                cancel.check()
            if not block:
                return
    finally:
        for task in flying:
            task.cancel()


async def _write_at(file: asyncssh.SFTPClientFile, block: bytes, at: int) -> int:
    await file.write(block, at)
    return len(block)


def _entry(name: str, attrs: asyncssh.SFTPAttrs) -> Entry:
    mode = attrs.permissions or 0
    kind = stat_module.S_IFMT(mode)
    word = {stat_module.S_IFREG: "file", stat_module.S_IFDIR: "folder", stat_module.S_IFLNK: "link"}.get(kind, "other")
    return Entry(name, word, attrs.size or 0, stat_module.S_IMODE(mode))  # type: ignore[arg-type]
