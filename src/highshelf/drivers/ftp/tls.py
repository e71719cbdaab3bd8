"""ftplib's clients, mended: the TLS session reused on data connections, TLS from the first byte, Nagle's algorithm off."""

from __future__ import annotations

import ftplib
import hashlib
import select
import socket
import ssl
from collections.abc import Callable
from typing import Any

from highshelf.core.account import Transfer


class _Plain(ftplib.FTP):
    """An FTP client that spends four round trips on a small file, where the library's own spends seven.

    Rules:
    1. The type is said once, and again only when it changes (RFC 959, 3.1.1: it stays until then).
    2. The command goes out with the data connection, not after it: both are under way at once.
    3. At the end of a file the data connection is half closed, the server's last word is read, and only then it is closed: closing
       with something unread (TLS session tickets) would reset the line and lose what is still in flight.
    """

    _type = ""

    def _typed(self, cmd: str, send: Callable[[str], str]) -> str:
        if not cmd.startswith("TYPE "):
            return send(cmd)
        if cmd == self._type:
            return "200 as before"
        told = send(cmd)
        self._type = cmd
        return told

    def sendcmd(self, cmd: str) -> str:
        return self._typed(cmd, super().sendcmd)

    def voidcmd(self, cmd: str) -> str:
        return self._typed(cmd, super().voidcmd)

    def ntransfercmd(self, cmd: str, rest: int | str | None = None) -> tuple[socket.socket, int | None]:
        host, port = self.makepasv()
        if rest is not None:
            self.sendcmd(f"REST {rest}")
        self.putcmd(cmd)
        try:
            connection = socket.create_connection((host, port), self.timeout)
        except OSError:
            # A refused command takes the port along: what the server says of it counts.
            self._begun()
            raise
        try:
            connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
            self._begun()
            return self._wrapped(connection), None
        except BaseException:
            connection.close()
            raise

    def _begun(self) -> None:
        """Read the reply that a transfer begins. Raises ftplib.Error when it does not."""
        told = self.getresp()
        # Some say 2xx for a REST that was sent before (as ftplib knows, too).
        if told[0] == "2":
            told = self.getresp()
        if told[0] != "1":
            raise ftplib.error_reply(told)

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
        with self.transfercmd(cmd, rest) as connection:
            while block := fp.read(blocksize):
                connection.sendall(block)
                if callback is not None:
                    callback(block)
            _half_close(connection)
            return self.voidresp()


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


class _Tls(_Plain, ftplib.FTP_TLS):
    """FTP_TLS whose data connections offer the control connection's session."""

    def _wrapped(self, connection: socket.socket) -> socket.socket:
        if not self._prot_p:  # type: ignore[attr-defined]
            return connection
        session = self.sock.session  # type: ignore[union-attr]
        return self.context.wrap_socket(connection, server_hostname=self.host, session=session)


class _Implicit(_Tls):
    """TLS begins with the first byte: the socket is wrapped before the server's greeting is read."""

    def connect(self, host: str = "", port: int = 0, timeout: float = -999, source_address: Any = None) -> str:
        self.host, self.port, self.timeout = host, port, timeout
        raw = socket.create_connection((host, port), timeout)
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


def make_client(kind: Transfer) -> ftplib.FTP:
    """An unconnected client for the kind of login."""
    # The certificate is pinned at first use: hosting companies' transfer servers seldom have one for the name used.
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    made: ftplib.FTP
    if kind == "ftp":
        made = _Plain()
    else:
        made = (_Implicit if kind == "ftps-implicit" else _Tls)(context=context)
    made.trust_server_pasv_ipv4_address = False  # type: ignore[attr-defined]
    made.encoding = "latin-1"
    return made


def certificate_hash(sock: Any) -> str:
    return "SHA256:" + hashlib.sha256(sock.getpeercert(binary_form=True) or b"").hexdigest()
