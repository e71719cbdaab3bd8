"""Outside over plain sockets: names, certificates, greetings. Nothing is sent but the start of TLS."""

from __future__ import annotations

import hashlib
import socket
import ssl

from cryptography import x509

from highshelf.core.errors import HighShelfError
from highshelf.core.ports import Certificate
from highshelf.drivers.wire.dial import Dial, anywhere

LOOK_SECONDS = 6.0


class SocketOutside:
    """Port `Outside`.

    Args:
        dial: where connections may lead; what lies elsewhere is not seen.
    """

    def __init__(self, dial: Dial = anywhere) -> None:
        self._dial = dial

    def resolve(self, name: str) -> tuple[str, ...]:
        try:
            found = socket.getaddrinfo(name, None, type=socket.SOCK_STREAM)
        except (OSError, UnicodeError):
            return ()
        return tuple(dict.fromkeys(str(entry[4][0]) for entry in found))

    def certificate(self, host: str, port: int, name: str) -> Certificate | None:
        try:
            number = self._dial(host, port)
            _handshake(number, port, name, ssl.create_default_context())
            problem = ""
        except ssl.SSLCertVerificationError as fault:
            problem = fault.verify_message.rstrip(".")
        except (OSError, ValueError, HighShelfError):
            return None
        blind = ssl.create_default_context()
        blind.check_hostname = False
        blind.verify_mode = ssl.CERT_NONE
        try:
            shown = _handshake(number, port, name, blind)
        except (OSError, ValueError):
            return None
        read = x509.load_der_x509_certificate(shown)
        return Certificate(
            problem=problem,
            subject=_names(read),
            issuer=_common(read.issuer),
            ends_at=f"{read.not_valid_after_utc:%Y-%m-%d}",
            sha256="SHA256:" + hashlib.sha256(shown).hexdigest(),
        )

    def greeting(self, host: str, port: int) -> str | None:
        try:
            with socket.create_connection((self._dial(host, port), port), 2.0) as line:
                line.settimeout(2.0)
                return line.recv(256).decode("ascii", "replace")
        except (OSError, HighShelfError):
            return None


def _handshake(host: str, port: int, name: str, context: ssl.SSLContext) -> bytes:
    with (
        socket.create_connection((host, port), LOOK_SECONDS) as raw,
        context.wrap_socket(raw, server_hostname=name) as line,
    ):
        return line.getpeercert(binary_form=True) or b""


def _names(read: x509.Certificate) -> str:
    try:
        names = read.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        return ", ".join(str(n) for n in names.get_values_for_type(x509.DNSName)[:4])
    except x509.ExtensionNotFound:
        return _common(read.subject)


def _common(name: x509.Name) -> str:
    found = name.get_attributes_for_oid(x509.NameOID.COMMON_NAME) or name.get_attributes_for_oid(
        x509.NameOID.ORGANIZATION_NAME
    )
    return str(found[0].value) if found else ""
