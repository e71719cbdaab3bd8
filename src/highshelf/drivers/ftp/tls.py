"""ftplib's clients, mended: the TLS session reused on data connections, TLS from the first byte, Nagle's algorithm off."""

from __future__ import annotations

import ftplib
import hashlib
import socket
import ssl
from typing import Any

from highshelf.core.account import Transfer


class _Tls(ftplib.FTP_TLS):
    """FTP_TLS whose data connections offer the control connection's session."""

    def ntransfercmd(self, cmd: str, rest: int | str | None = None) -> tuple[socket.socket, int | None]:
        connection, size = ftplib.FTP.ntransfercmd(self, cmd, rest)
        connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        if self._prot_p:  # type: ignore[attr-defined]
            session = self.sock.session  # type: ignore[union-attr]
            connection = self.context.wrap_socket(connection, server_hostname=self.host, session=session)
        return connection, size


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
        made = ftplib.FTP()
    else:
        made = (_Implicit if kind == "ftps-implicit" else _Tls)(context=context)
    made.trust_server_pasv_ipv4_address = False  # type: ignore[attr-defined]
    made.encoding = "latin-1"
    return made


def certificate_hash(sock: Any) -> str:
    return "SHA256:" + hashlib.sha256(sock.getpeercert(binary_form=True) or b"").hexdigest()
