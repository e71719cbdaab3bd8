"""ftplib's clients, mended: the TLS session reused on data connections, TLS from the first byte, Nagle's algorithm off."""

from __future__ import annotations

import fcntl
import ftplib
import hashlib
import select
import socket
import ssl
import struct
import time
from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from highshelf.core.account import Transfer

T = TypeVar("T")
# A port that a server opened is not kept open by it for ever.
AHEAD_SECONDS = 5.0
SHAKE_SECONDS, PORT_SECONDS, WORD_SECONDS = 20.0, 20.0, 5.0
# Some count what they do not understand, and hang up in the end.
AHEAD_REFUSALS = 6
# How long after a file's last byte: longer than what both take on their ways differs by, and much shorter than a round trip.
AHEAD_PAUSE_SECONDS, LONGEST_AHEAD_PAUSE_SECONDS = 0.003, 0.024
UNSENT_PAUSE_SECONDS, UNSENT_LOOKS = 0.002, 100
# linux/sockios.h: what was written and not sent yet, bytes.
SIOCOUTQNSD = 0x894B
# Transfers that follow one another closer than this are many files in a row.
ROW_SECONDS = 1.0


class Client(ftplib.FTP):
    """An FTP client that spends two round trips on a small file in a row of them, three with TLS, where the library's own spends seven.

    Rules:
    1. The type is said once, and again only when it changes (RFC 959, 3.1.1: it stays until then).
    2. The command goes out with the data connection, not after it; TLS begins and the first block goes without waiting for the word
       that the transfer begins, which some servers say only then. Both lines are watched: a refusal is heard at once.
    3. In a row of files the port for the next one is asked for behind the last byte of this one, before its end is confirmed. A server
       that refuses this again and again is spared (`bears_ahead`); some refuse it before they tell the file's end.
    4. At the end of a file the data connection is half closed, the server's last word is read, and only then it is closed: closing
       with something unread (TLS session tickets) would reset the line and lose what is still in flight.
    """

    _type = ""
    bears_ahead = True
    # Whether something was sent behind the last file before its end was confirmed.
    went_ahead = False
    _ahead_refused = 0
    _ahead_borne = 0
    _ahead_pause = AHEAD_PAUSE_SECONDS
    _port_ahead: tuple[str, int, float] | None = None
    _ended_at = 0.0
    _began = True
    _connected = False

    def connect_to(self, number: str, name: str, port: int, timeout: float) -> None:
        """Connect to a number; TLS asks for the name that it was looked up by."""
        self.connect(number, port, timeout)
        self.host = name

    def _typed(self, cmd: str, send: Callable[[str], str]) -> str:
        if not cmd.startswith("TYPE "):
            return send(cmd)
        if cmd == self._type:
            return "200 as before"
        told = send(cmd)
        self._type = cmd
        return told

    def settled(self, *, secure: bool) -> None:
        """Somebody has said TYPE I, and PROT P when it is secure, in a bundle of their own."""
        self._type = "TYPE I"
        if secure:
            # ftplib's own mark that data goes in TLS.
            self._prot_p = True

    def put_together(self, lines: Sequence[str]) -> None:
        """Orders one behind the other, in as few packets as they need; their answers come one by one.

        Raises:
            ValueError: an order with the end of a line in it. OSError.
        """
        if any("\r" in line or "\n" in line for line in lines):
            raise ValueError("a name with the end of a line in it")
        assert self.sock is not None
        # Over TLS each is a record of its own: ProFTPD reads up to 4 kB of one, and waits for more to arrive while the rest is there.
        records = [f"{line}\r\n".encode(self.encoding) for line in lines]
        _cork(self.sock, on=True)
        try:
            for record in records if isinstance(self.sock, ssl.SSLSocket) else [b"".join(records)]:
                self.sock.sendall(record)
        finally:
            _cork(self.sock, on=False)

    def sendcmd(self, cmd: str) -> str:
        return self._typed(cmd, super().sendcmd)

    def voidcmd(self, cmd: str) -> str:
        return self._typed(cmd, super().voidcmd)

    def makepasv(self) -> tuple[str, int]:
        ahead, self._port_ahead = self._port_ahead, None
        if ahead is not None and time.monotonic() - ahead[2] < AHEAD_SECONDS:
            return ahead[0], ahead[1]
        return self._soon(super().makepasv)

    def _soon(self, work: Callable[[], T]) -> T:
        """What is done at once, or the session there hangs: no reason to wait for it as for the end of a long file."""
        assert self.sock is not None
        patience = self.sock.gettimeout()
        self.sock.settimeout(min(patience or PORT_SECONDS, PORT_SECONDS))
        try:
            return work()
        finally:
            if self.sock is not None:
                self.sock.settimeout(patience)

    def ntransfercmd(self, cmd: str, rest: int | str | None = None) -> tuple[socket.socket, int | None]:
        connection = self._opened(cmd, rest)
        try:
            self._begun()
        except BaseException:
            connection.close()
            raise
        return connection, None

    def _opened(self, cmd: str, rest: int | str | None) -> socket.socket:
        """The data connection of a command that was sent; whether the server takes the command may still be open."""
        host, port = self.makepasv()
        if rest is not None:
            self.sendcmd(f"REST {rest}")
        self._began = self._connected = False
        self.putcmd(cmd)
        try:
            connection = socket.create_connection((host, port), self.timeout)
            self._connected = True
        except OSError:
            # A refused command takes the port along: what the server says of it counts.
            self._heard_of_it()
            raise
        try:
            connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
            return self._wrapped(connection)
        except OSError:
            connection.close()
            self._heard_of_it()
            raise
        except BaseException:
            connection.close()
            raise

    def _heard_of_it(self) -> None:
        """What the server says of a command whose data connection failed, if it says it soon. Raises ftplib.Error when it refused it."""
        assert self.sock is not None
        patience = self.sock.gettimeout()
        self.sock.settimeout(WORD_SECONDS)
        try:
            self._begun()
        finally:
            if self.sock is not None:
                self.sock.settimeout(patience)

    @property
    def left_waiting(self) -> bool:
        """Whether the server took the last transfer's data connection, and then never said that it begins."""
        return self._connected and not self._began

    def _begun(self) -> None:
        """Read the reply that a transfer begins, unless it was. Raises ftplib.Error when it does not, TimeoutError."""
        if self._began:
            return
        told = self._soon(self.getresp)
        # Some say 2xx for a REST that was sent before (as ftplib knows, too).
        if told[0] == "2":
            told = self.getresp()
        if told[0] != "1":
            raise ftplib.error_reply(told)
        self._began = True

    def _wrapped(self, connection: socket.socket) -> socket.socket:
        return connection

    def storbinary(
        self,
        cmd: str,
        fp: Any,
        blocksize: int = 8192,
        callback: Callable[[bytes], object] | None = None,
        rest: int | str | None = None,
    ) -> str:
        self.voidcmd("TYPE I")
        in_a_row = time.monotonic() - self._ended_at < ROW_SECONDS
        with self._opened(cmd, rest) as connection:
            self._pour(connection, fp, blocksize, callback)
            return self._end(ahead=in_a_row and self.bears_ahead and self._all_under_way(connection))

    def _pour(
        self, connection: socket.socket, fp: Any, blocksize: int, callback: Callable[[bytes], object] | None
    ) -> None:
        try:
            while block := fp.read(blocksize):
                connection.sendall(block)
                if callback is not None:
                    callback(block)
                # Only the first block goes unasked, and what follows it waits.
                if len(block) == blocksize:
                    self._begun()
            _half_close(connection)
        except OSError as fault:
            if not (isinstance(fault, TimeoutError) and self.left_waiting):
                self._heard_of_it()
            raise

    def _all_under_way(self, connection: socket.socket) -> bool:
        """Wait until all of a file is on the line, and a moment more: what comes ahead of its end is refused by some, and in vain.

        False when the server has something to say before that.
        """
        control: list[Any] = [self.sock]
        for _ in range(UNSENT_LOOKS):
            if select.select(control, [], [], UNSENT_PAUSE_SECONDS if _unsent(connection) else self._ahead_pause)[0]:
                return False
            if not _unsent(connection):
                return True
        return False

    def _end(self, *, ahead: bool) -> str:
        """The server's last word on a file; with the port for the next one, when that is asked for before it."""
        self.went_ahead = ahead
        if ahead:
            self.putcmd("PASV" if self.af == socket.AF_INET else "EPSV")
        self._begun()
        told = self.voidresp() if not ahead else self._two_answers()
        self._ended_at = time.monotonic()
        return told

    def _two_answers(self) -> str:
        """The last word on the file, and the answer to PASV: some refuse that at once, before the file's end is told."""
        first, second = self._heard(), self._heard()
        ports = [said for said in (first, second) if _port_in(said)]
        ends = [said for said in (first, second) if said[:1] == "2" and not _port_in(said)]
        if ports:
            assert self.sock is not None
            self._port_ahead = self.sock.getpeername()[0], _port_in(ports[0]), time.monotonic()
            self._ahead_borne += 1
            self._ahead_pause = max(self._ahead_pause * 0.95, AHEAD_PAUSE_SECONDS)
        else:
            # Too early by so much that the next one waits longer; a server that refuses it all the same is spared.
            self._ahead_refused += 1
            self._ahead_pause = min(self._ahead_pause * 2, LONGEST_AHEAD_PAUSE_SECONDS)
            self.bears_ahead = self._ahead_refused < AHEAD_REFUSALS + self._ahead_borne
        if ends:
            return ends[0]
        wrong = next(said for said in (first, second) if said not in ports)
        raise (ftplib.error_temp if wrong[:1] == "4" else ftplib.error_perm)(wrong)

    def _heard(self) -> str:
        """An answer, refusals too."""
        try:
            return self.getresp()
        except (ftplib.error_temp, ftplib.error_perm) as fault:
            return str(fault)


def _cork(connection: socket.socket, *, on: bool) -> None:
    """Hold packets back until they are full; nothing where the system cannot."""
    if (option := getattr(socket, "TCP_CORK", None)) is not None:
        connection.setsockopt(socket.IPPROTO_TCP, option, int(on))


def _unsent(connection: socket.socket) -> int:
    """Bytes that wait for the line to take them; 0 where the system does not tell."""
    try:
        return struct.unpack("i", fcntl.ioctl(connection.fileno(), SIOCOUTQNSD, bytes(4)))[0]  # type: ignore[no-any-return]
    except OSError:
        return 0


def _port_in(answer: str) -> int:
    """The port of an answer to PASV (227) or EPSV (229), 0 when it is none."""
    try:
        if answer.startswith("227"):
            return ftplib.parse227(answer)[1]
        return ftplib.parse229(answer, ("", 0))[1] if answer.startswith("229") else 0
    except ftplib.Error:
        return 0


def _half_close(connection: socket.socket) -> None:
    """Say that nothing more comes, in TLS and in TCP, without waiting for the other side to say so too (RFC 8446, 6.1)."""
    if isinstance(connection, ssl.SSLSocket):
        patience = connection.gettimeout()
        connection.settimeout(0)
        try:
            while True:
                try:
                    connection.unwrap()
                    break
                except ssl.SSLWantWriteError:
                    select.select([], [connection], [], patience)
        except (ssl.SSLError, OSError):
            # The other side's goodbye is not there yet; ours is under way.
            pass
        connection.settimeout(patience)
    socket.socket.shutdown(connection, socket.SHUT_WR)


class _Tls(Client, ftplib.FTP_TLS):
    """FTP_TLS whose data connections offer the control connection's session.

    It is read anew until one was taken up, and kept then: CPython 3.11 never frees the copy that it hands out (5.7 kB each, which
    30,000 files make 170 MB of).
    """

    _taken_up: ssl.SSLSession | None = None

    def _wrapped(self, connection: socket.socket) -> socket.socket:
        if not self._prot_p:
            return connection
        session = self._taken_up or self.sock.session  # type: ignore[union-attr]
        wrapped = self.context.wrap_socket(
            connection, server_hostname=self.host, session=session, do_handshake_on_connect=False
        )
        self._shake(wrapped)
        self._taken_up = session if wrapped.session_reused else None
        return wrapped

    def _shake(self, wrapped: ssl.SSLSocket) -> None:
        """TLS on a data connection, with an ear for the control connection: a refused command lets the other one hang.

        Raises:
            ftplib.Error: what the server says instead of beginning; TimeoutError, ssl.SSLError.
        """
        deadline = time.monotonic() + SHAKE_SECONDS
        wrapped.settimeout(0)
        while True:
            reads: list[Any] = [] if self._began else [self.sock]
            writes: list[Any] = []
            try:
                wrapped.do_handshake()
                wrapped.settimeout(self.timeout)
                return
            except ssl.SSLWantReadError:
                reads.append(wrapped)
            except ssl.SSLWantWriteError:
                writes.append(wrapped)
            ready = select.select(reads, writes, [], max(0, deadline - time.monotonic()))
            if not ready[0] and not ready[1]:
                raise TimeoutError("the server does not answer on the data connection")
            if self.sock in ready[0]:
                self._begun()


class _Implicit(_Tls):
    """TLS begins with the first byte: the socket is wrapped before the server's greeting is read."""

    _number = ""

    def connect_to(self, number: str, name: str, port: int, timeout: float) -> None:
        self._number = number
        self.connect(name, port, timeout)

    def connect(self, host: str = "", port: int = 0, timeout: float = -999, source_address: Any = None) -> str:
        self.host, self.port, self.timeout = host, port, timeout
        raw = socket.create_connection((self._number or host, port), timeout)
        try:
            self.sock = self.context.wrap_socket(raw, server_hostname=host)
        except BaseException:
            raw.close()
            raise
        self.af = self.sock.family
        self.file = self.sock.makefile("r", encoding=self.encoding)
        self.welcome = self.getresp()
        return self.welcome

    def auth(self) -> str:
        return "TLS since the first byte"


def make_client(kind: Transfer) -> Client:
    """An unconnected client for the kind of login."""
    # The certificate is pinned at first use: hosting companies' transfer servers seldom have one for the name used.
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    made: Client
    if kind == "ftp":
        made = Client()
    else:
        made = (_Implicit if kind == "ftps-implicit" else _Tls)(context=context)
    made.trust_server_pasv_ipv4_address = False  # type: ignore[attr-defined]
    made.encoding = "latin-1"
    return made


def certificate_hash(sock: Any) -> str:
    return "SHA256:" + hashlib.sha256(sock.getpeercert(binary_form=True) or b"").hexdigest()
