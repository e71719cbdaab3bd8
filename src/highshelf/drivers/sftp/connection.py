"""One SSH connection with its own event loop thread: SFTP files and commands as plain calls.

Rules:
1. asyncssh's exceptions end here; callers see our tree.
2. The server's key is compared with the one first seen before any password leaves.
3. A dead line is noticed by keepalives (2 s, three times): asyncssh hangs without them.
"""

from __future__ import annotations

import asyncio
import contextlib
import os
import socket
import stat as stat_module
import threading
from collections.abc import Coroutine, Sequence
from concurrent.futures import Future
from typing import Any, BinaryIO, TypeVar

import asyncssh

from highshelf.core.account import Credential, TransferLogin
from highshelf.core.errors import (
    HighShelfError,
    LineDroppedError,
    LoginRefusedError,
    MissingFileError,
    ShellError,
    SpaceError,
    TooManyError,
    TransferError,
    UnreachableError,
)
from highshelf.core.identity import check_identity
from highshelf.core.ports import CancelToken, Capabilities, Entry, Order, Progress, Ran, TransferFacts, one_by_one
from highshelf.drivers.wire.dial import Dial, anywhere

T = TypeVar("T")
CONNECT_SECONDS = 20
GREETING_SECONDS = 10
BLOCK = 32_768
# OpenSSH answers 64 outstanding requests gladly; more gains nothing at 40 ms.
IN_FLIGHT = 64
# Of what a command says, for people.
ENOUGH_BYTES = 65_536

# A shell that waits for the line with its command; what comes behind that is the command's to read (`read` takes no byte more: POSIX).
WAITS = """exec sh -c 'IFS= read -r c && eval "$c"'"""
# Hosts, ports and logins that were let in by their password alone, without questions.
_BY_PASSWORD: set[tuple[str, int, str]] = set()
# So many small orders are under way at once.
BUNDLE = 64
LOST = (asyncssh.SFTPConnectionLost, asyncssh.SFTPNoConnection, asyncssh.ConnectionLost, OSError)


class SshConnection:
    """An open connection. Close it with `close()`.

    Args:
        login: whom to log in as, where.
        credential: a password, a private key's text (OpenSSH or PEM) with its passphrase, or the service's SSH agent.
        fingerprint: the server key's fingerprints as known (core/identity.py), or "" to take a new one and tell it.
        confirm: whether a new one is refused, so that a person can say yes to it first.
        dial: where connections may lead.

    Raises:
        UnreachableError, FingerprintError, UnknownServerError, LoginRefusedError, OwnNetworkError.
    """

    def __init__(
        self,
        login: TransferLogin,
        credential: Credential,
        *,
        fingerprint: str = "",
        compress: bool = False,
        confirm: bool = False,
        dial: Dial = anywhere,
    ) -> None:
        self.login, self._compress = login, compress
        self._confirm, self._dial = confirm, dial
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._loop.run_forever, name="ssh", daemon=True)
        self._thread.start()
        self.fingerprint = ""
        self._connection: asyncssh.SSHClientConnection | None = None
        self._sftp: asyncssh.SFTPClient | None = None
        try:
            self._connection = self.run(self._connect(credential, fingerprint), CONNECT_SECONDS + GREETING_SECONDS + 5)
        except BaseException:
            self.close()
            raise

    async def _connect(self, credential: Credential, fingerprint: str) -> asyncssh.SSHClientConnection:
        where = f"{self.login.host}:{self.login.port}"
        seen: list[str] = []
        refused: list[HighShelfError] = []
        greeting, asked = "", False
        # Looked at by name before anything else: the line is opened to this number, and to no other one.
        number = await asyncio.to_thread(self._dial, self.login.host, self.login.port)
        keys = [_read_key(credential)] if credential.key else []
        by_key = bool(keys) or credential.agent
        door = (self.login.host, self.login.port, self.login.login)
        straight = door in _BY_PASSWORD and not by_key and bool(credential.password)

        confirm = self._confirm

        class Client(asyncssh.SSHClient):
            def connection_made(self, conn: asyncssh.SSHClientConnection) -> None:
                if straight:
                    # Asking first which ways in there are (RFC 4252, 5.2) takes a round trip, and was answered before.
                    conn._auth_methods = [b"password"]

            def kbdint_auth_requested(self) -> Any:
                nonlocal asked
                asked = True
                return super().kbdint_auth_requested()

            def validate_host_public_key(self, host: str, addr: str, port: int, key: asyncssh.SSHKey) -> bool:
                seen.append(key.get_fingerprint())
                try:
                    check_identity(where, fingerprint, [*seen, key.get_fingerprint("md5")], confirm=confirm)
                except HighShelfError as fault:
                    refused.append(fault)
                return not refused

        stack = contextlib.AsyncExitStack()
        try:
            client_keys = keys or (await _agent_keys(stack) if credential.agent else None)
            # Whose key is known speaks SSH: its greeting is not waited for.
            line, greeting = await asyncio.to_thread(_greeted, number, self.login.port, not fingerprint)
            connection = await asyncio.wait_for(
                asyncssh.connect(
                    self.login.host,
                    self.login.port,
                    sock=line,
                    username=self.login.login,
                    password=credential.password or None,
                    client_keys=client_keys,
                    client_factory=Client,
                    known_hosts=([], [], []),
                    agent_path=None,
                    config=None,
                    preferred_auth="publickey,password,keyboard-interactive"
                    if by_key
                    else "password,keyboard-interactive",
                    # RFC 4253 6.2; OpenSSH begins with it after the login, and refuses it where the host forbids it.
                    compression_algs=["zlib@openssh.com", "none"] if self._compress else ["none"],
                    keepalive_interval=2,
                    keepalive_count_max=3,
                ),
                CONNECT_SECONDS,
            )
        except asyncssh.HostKeyNotVerifiable:
            raise refused[0] from None
        except asyncssh.PermissionDenied:
            what = "key" if by_key and not credential.password else "password"
            raise LoginRefusedError(
                f"{where} does not accept the login {self.login.login}",
                hint=f"check login and {what} with the hosting company's letter",
            ) from None
        except asyncssh.ConnectionLost as fault:
            if not seen and greeting and not greeting.startswith(("SSH-", "Exceeded")):
                hint = "does an SSH server answer at this port? FTP has another one, and ftps:// or ftp:// before it"
                raise UnreachableError(f"{where} does not speak SSH: it says “{greeting}”", hint=hint) from None
            if not seen:
                # OpenSSH drops connections at random above its MaxStartups, before any key is shown (sshd_config(5)).
                raise TooManyError(
                    f"{where} closed the connection before it said who it is: {fault}",
                    hint="too many connections at once, or this address is barred there for a while: wait and try again",
                    allowed=0,
                    told=str(fault)[:200],
                ) from None
            raise UnreachableError(
                f"{where} broke off while logging in: {fault}", hint="try again in a minute"
            ) from None
        except asyncssh.ProtocolError as fault:
            hint = "does an SSH server answer at this port? FTP has another one, and ftps:// or ftp:// before it"
            raise UnreachableError(f"{where} does not speak SSH: {fault}", hint=hint) from None
        except (OSError, asyncssh.Error, TimeoutError) as fault:
            raise no_connection(where, fault, "check host and port; is the server up?") from None
        finally:
            await stack.aclose()
        self.fingerprint = seen[0] if seen else ""
        if not by_key and not asked:
            _BY_PASSWORD.add(door)
        return connection

    def run(self, work: Coroutine[Any, Any, T], timeout_seconds: float | None = None) -> T:
        """Run a coroutine on the connection's loop and wait for it."""
        future: Future[T] = asyncio.run_coroutine_threadsafe(work, self._loop)
        try:
            return future.result(timeout_seconds)
        except TimeoutError:
            future.cancel()
            raise LineDroppedError(f"{self.login.host} did not answer within {timeout_seconds:.0f} s") from None

    def begin(self, work: Coroutine[Any, Any, T]) -> Future[T]:
        """Run a coroutine on the connection's loop without waiting for it."""
        return asyncio.run_coroutine_threadsafe(work, self._loop)

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


def _greeted(host: str, port: int, listen: bool) -> tuple[socket.socket, str]:
    """A line to the server, and what it says first, left in the line for who reads next; "" when it says nothing yet, or
    nobody is to listen.

    A server that is no SSH server may close as soon as we speak, so its greeting is looked at before (RFC 4253 4.2 lets
    both sides begin), and on this very line: another one would count against what the server allows.
    """
    line = socket.create_connection((host, port), CONNECT_SECONDS)
    line.settimeout(GREETING_SECONDS)
    said = b""
    with contextlib.suppress(OSError):
        said = line.recv(80, socket.MSG_PEEK) if listen else b""
    line.setblocking(False)
    return line, said.decode("ascii", "replace").strip()


def _read_key(credential: Credential) -> asyncssh.SSHKey:
    try:
        return asyncssh.import_private_key(credential.key, credential.passphrase or None)
    except asyncssh.KeyEncryptionError:
        hint = "give the passphrase that belongs to this key"
        raise LoginRefusedError("the private key does not open with this passphrase", hint=hint) from None
    except asyncssh.KeyImportError as fault:
        what = "needs its passphrase" if "passphrase" in str(fault).lower() else f"cannot be read: {fault}"
        hint = "give the whole text of the private key (not the .pub file), and the passphrase if it has one"
        raise LoginRefusedError(f"the private key {what}", hint=hint) from None


async def _agent_keys(stack: contextlib.AsyncExitStack) -> Sequence[asyncssh.SSHKeyPair]:
    """What the service's agent offers; the agent stays open as long as the stack does. Raises LoginRefusedError."""
    path = os.environ.get("SSH_AUTH_SOCK", "")
    hint = "start the service with SSH_AUTH_SOCK set and a key in the agent, or give the account a key or a password"
    if not path:
        raise LoginRefusedError("the service runs without an SSH agent", hint=hint)
    try:
        agent = await stack.enter_async_context(asyncssh.connect_agent(path))
        keys = await agent.get_keys()
    except (OSError, asyncssh.Error) as fault:
        raise LoginRefusedError(f"the service's SSH agent does not answer: {fault}", hint=hint) from None
    if not keys:
        raise LoginRefusedError("the service's SSH agent holds no key", hint=hint)
    return keys


def no_connection(where: str, fault: BaseException, hint: str) -> UnreachableError:
    """The error for a server that could not be reached, in words."""
    if isinstance(fault, socket.gaierror):
        name = where.rpartition(":")[0]
        return UnreachableError(f"the name {name} leads nowhere", hint="check how the host is written in the account")
    told = str(fault) or f"no answer within {CONNECT_SECONDS} s"
    return UnreachableError(f"no connection to {where}: {told}", hint=hint)


class SshShell:
    """Commands over the connection."""

    def __init__(self, ssh: SshConnection) -> None:
        self._ssh = ssh
        self._waiting: Future[asyncssh.SSHClientProcess[bytes]] | None = None

    def prepare(self) -> None:
        if self._waiting is None:
            self._waiting = self._ssh.begin(self._opened(WAITS))

    async def _opened(self, command: str) -> asyncssh.SSHClientProcess[bytes]:
        return await self._ssh.connection.create_process(command, encoding=None)

    async def _begun(self, command: str) -> asyncssh.SSHClientProcess[bytes]:
        """A process that runs the command: the one that waits for it, or a new one."""
        waiting, self._waiting = self._waiting, None
        if waiting is not None and "\n" not in command:
            try:
                process = await asyncio.wrap_future(waiting)
                process.stdin.write(command.encode() + b"\n")
            except (asyncssh.Error, OSError):
                return await self._opened(command)
            return process
        return await self._opened(command)

    def run(self, command: str, *, text: str = "", timeout_seconds: float = 120) -> Ran:
        async def work() -> Ran:
            # Nothing to read is said at once: unzip asks on a full disk whether to go on, and would wait for ever.
            given: dict[str, Any] = {"input": text} if text else {"stdin": asyncssh.DEVNULL}
            done = await self._ssh.connection.run(command, **given, encoding="utf-8", errors="replace")
            if done.exit_status is None and done.exit_signal is None:
                raise LineDroppedError(f"the connection to {self._ssh.login.host} was lost in the middle of a command")
            return Ran(
                done.exit_status if done.exit_status is not None else 255,
                str(done.stdout or ""),
                str(done.stderr or ""),
            )

        try:
            return self._ssh.run(work(), timeout_seconds)
        except (asyncssh.Error, OSError) as fault:
            raise ShellError(f"{self._ssh.login.host} runs no commands: {fault}") from None

    def stream(
        self, command: str, source: BinaryIO, *, progress: Progress | None = None, cancel: CancelToken | None = None
    ) -> Ran:
        async def work() -> Ran:
            process = await self._begun(command)
            try:
                return await self._fed(process, source, progress, cancel)
            finally:
                process.close()
                await process.wait_closed()

        try:
            return self._ssh.run(work())
        except (asyncssh.Error, OSError) as fault:
            raise LineDroppedError(f"the line to {self._ssh.login.host} broke: {fault}") from None

    async def _fed(
        self,
        process: asyncssh.SSHClientProcess[bytes],
        source: BinaryIO,
        progress: Progress | None,
        cancel: CancelToken | None,
    ) -> Ran:
        told = asyncio.gather(*(pipe.read(ENOUGH_BYTES) for pipe in (process.stdout, process.stderr)))
        # Where the line breaks nobody may come to ask for it.
        told.add_done_callback(lambda ended: ended.cancelled() or ended.exception())
        sent = 0
        try:
            while block := source.read(BLOCK):
                if cancel is not None:
                    cancel.check()
                process.stdin.write(block)
                await process.stdin.drain()
                # As long as nothing has to wait, a line that broke would not be noticed.
                await asyncio.sleep(0)
                sent += len(block)
                if progress is not None:
                    progress(sent)
            process.stdin.write_eof()
        except (BrokenPipeError, ConnectionResetError):
            # The command ended before it had read everything: what it said tells why.
            pass
        output, complaint = [one.decode("utf-8", "replace") for one in await told]
        done = await process.wait(check=False)
        if done.exit_status is None and done.exit_signal is None:
            raise LineDroppedError(f"the connection to {self._ssh.login.host} was lost in the middle of a command")
        return Ran(done.exit_status if done.exit_status is not None else 255, output, complaint)


def _asked(sftp: asyncssh.SFTPClient, order: Order) -> Coroutine[Any, Any, None]:
    if order.what == "chmod":
        return sftp.chmod(order.path, order.mode)
    if order.what == "rename":
        return sftp.posix_rename(order.path, order.new)
    return {"make_folder": sftp.mkdir, "remove": sftp.remove, "remove_folder": sftp.rmdir}[order.what](order.path)


class SftpFiles:
    """HostFiles over SFTP. Keepalives hold the line: a silence drops none."""

    idle_dropped_seconds: float | None = None

    def __init__(self, ssh: SshConnection) -> None:
        self._ssh = ssh
        self._client: asyncssh.SFTPClient | None = None
        self._closings: set[asyncio.Future[None]] = set()

    @property
    def capabilities(self) -> Capabilities:
        return Capabilities(
            atomic_replace=True, chmod=True, append=True, encrypted=True, parallel=True, bulk=True, links=True
        )

    def facts(self) -> TransferFacts:
        async def work() -> TransferFacts:
            sftp = await self._sftp()
            connection = self._ssh.connection
            try:
                room = await sftp.statvfs(".")
                free: int | None = room.bavail * room.frsize
            except asyncssh.SFTPError:
                free = None
            return TransferFacts(
                software=str(connection.get_extra_info("server_version") or ""),
                landing=str(await sftp.realpath(".")),
                free_bytes=free,
                encryption=str(connection.get_extra_info("send_cipher") or ""),
                listing="sftp",
            )

        return self._do("asking for", "the server", work())

    def _do(self, what: str, path: str, work: Coroutine[Any, Any, T], timeout_seconds: float | None = 60) -> T:
        try:
            return self._ssh.run(work, timeout_seconds)
        except asyncssh.SFTPNoSuchFile:
            raise MissingFileError(f"{what} {path}: there is no such file or folder") from None
        except (asyncssh.SFTPConnectionLost, asyncssh.SFTPNoConnection):
            raise LineDroppedError(f"{what} {path}: the connection to {self._ssh.login.host} was lost") from None
        except (asyncssh.SFTPNoSpaceOnFilesystem, asyncssh.SFTPQuotaExceeded) as fault:
            raise self._full(what, path, str(fault.reason)) from None
        except asyncssh.SFTPError as fault:
            # Version 3 of the protocol has no code for a full disk: a bare failure, and then only the room left tells.
            if (
                what in ("writing", "bringing", "making")
                and isinstance(fault, asyncssh.SFTPFailure)
                and self._is_full()
            ):
                raise self._full(what, path, str(fault.reason)) from None
            raise TransferError(f"{what} {path}: {fault.reason or fault}") from None
        except (asyncssh.Error, OSError) as fault:
            raise LineDroppedError(f"{what} {path}: {fault}") from None

    def _full(self, what: str, path: str, told: str) -> SpaceError:
        hint = "make room on the account, or ask the host for more"
        return SpaceError(f"{what} {path}: the disk is full or the account's quota is used up ({told})", hint=hint)

    def _is_full(self) -> bool:
        async def work() -> bool:
            room = await (await self._sftp()).statvfs(".")
            return room.bavail == 0

        try:
            return self._ssh.run(work(), 20)
        except (asyncssh.Error, OSError, LineDroppedError):
            return False

    async def _sftp(self) -> asyncssh.SFTPClient:
        if self._client is None:
            self._client = await self._ssh.connection.start_sftp_client()
        return self._client

    def entries(self, path: str) -> list[Entry]:
        async def work() -> list[Entry]:
            sftp = await self._sftp()
            found = [(str(sftp.decode(bytes(n.filename))), n.attrs) for n in await self._names(sftp, path or ".")]  # type: ignore[arg-type]
            return [_entry(name, attrs) for name, attrs in found if name not in (".", "..")]

        return sorted(self._do("listing", path, work()), key=lambda e: e.name)

    async def _names(self, sftp: asyncssh.SFTPClient, path: str) -> list[asyncssh.SFTPName]:
        """A folder in two round trips: both its names and their end are asked for at once, and nobody waits for the closing.

        asyncssh's own listing takes four, one after the other; of 480 folders each counts.
        """
        handler = sftp._handler
        handle = await handler.opendir(sftp.compose_path(path))
        found: list[asyncssh.SFTPName] = []
        ended = False
        try:
            while not ended:
                asked = (handler.readdir(handle), handler.readdir(handle))
                for answer in await asyncio.gather(*asked, return_exceptions=True):
                    if isinstance(answer, asyncssh.SFTPEOFError):
                        ended = True
                    elif isinstance(answer, BaseException):
                        raise answer
                    else:
                        found += answer[0]
                        ended = ended or answer[1]
        finally:
            closing = asyncio.ensure_future(handler.close(handle))
            self._closings.add(closing)
            closing.add_done_callback(self._closed)
        return found

    def _closed(self, closing: asyncio.Future[None]) -> None:
        self._closings.discard(closing)
        if not closing.cancelled():
            # What it failed with says nothing of the listing; asked for, so that nobody complains of it later.
            closing.exception()

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

    def link(self, path: str, to: str) -> None:
        async def work() -> None:
            # OpenSSH takes the two the other way round than the draft says; asyncssh knows which it speaks to.
            await (await self._sftp()).symlink(to, path)

        self._do("linking", path, work())

    def chmod(self, path: str, mode: int) -> None:
        async def work() -> None:
            await (await self._sftp()).chmod(path, mode)

        self._do("changing modes of", path, work())

    def bulk(self, orders: Sequence[Order]) -> list[HighShelfError | None]:
        found: list[HighShelfError | None] = []
        for start in range(0, len(orders), BUNDLE):
            found += self._together(orders[start : start + BUNDLE])
        return found

    def _together(self, orders: Sequence[Order]) -> list[HighShelfError | None]:
        """Sent in their order without waiting. A server may do them in another (draft-ietf-secsh-filexfer-02, 3): a folder
        that was refused, since the one above it was not there yet, is asked for once more."""

        async def work() -> list[BaseException | None]:
            sftp = await self._sftp()
            # A task sends its first packet when it is first run, and tasks are run in the order in which they were made.
            return await asyncio.gather(*(_asked(sftp, order) for order in orders), return_exceptions=True)

        said = self._do("doing", f"{len(orders)} things at once", work(), None)
        lost = next((fault for fault in said if isinstance(fault, LOST)), None)
        if lost is not None:
            raise LineDroppedError(f"doing {len(orders)} things at once: the connection was lost ({lost})")
        return [self._refused(order, fault) for order, fault in zip(orders, said, strict=True)]

    def _refused(self, order: Order, fault: BaseException | None) -> HighShelfError | None:
        if fault is None:
            return None
        if order.what == "make_folder":
            return one_by_one(self, [order])[0]
        if isinstance(fault, asyncssh.SFTPNoSuchFile):
            return MissingFileError(f"{order.what} {order.path}: there is no such file or folder")
        return TransferError(f"{order.what} {order.path}: {fault}")

    def tree(self, path: str) -> dict[str, list[Entry]] | None:
        return None

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
                faults = [fault for task in done if (fault := task.exception()) is not None]
                if faults:
                    raise faults[0]
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
        # What they failed with is the same as the first; asked for, so that nobody complains of it later.
        await asyncio.gather(*flying, return_exceptions=True)


async def _write_at(file: asyncssh.SFTPClientFile, block: bytes, at: int) -> int:
    await file.write(block, at)
    return len(block)


def _entry(name: str, attrs: asyncssh.SFTPAttrs) -> Entry:
    mode = attrs.permissions or 0
    kind = stat_module.S_IFMT(mode)
    word = {stat_module.S_IFREG: "file", stat_module.S_IFDIR: "folder", stat_module.S_IFLNK: "link"}.get(kind, "other")
    changed = "" if attrs.mtime is None else str(attrs.mtime)
    return Entry(name, word, attrs.size or 0, stat_module.S_IMODE(mode), changed)  # type: ignore[arg-type]
