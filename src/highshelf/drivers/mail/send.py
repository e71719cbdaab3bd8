"""One letter to one mail server (RFC 5321), encrypted where it says so; where the server may be is for the rule of the service."""

from __future__ import annotations

import smtplib
import socket
import ssl
from email.message import EmailMessage

from highshelf.core.errors import LoginRefusedError, NoticeError, UnreachableError
from highshelf.core.ports import MailServer
from highshelf.drivers.wire.dial import Dial

TIMEOUT_SECONDS = 20


def send_letter(dial: Dial, server: MailServer, password: str, letter: EmailMessage) -> None:
    """Hand a letter over.

    Raises:
        UnreachableError, OwnNetworkError: no connection. LoginRefusedError. NoticeError: the server does not take it.
    """
    number = dial(server.host, server.port)
    context = ssl.create_default_context()

    class Line(smtplib.SMTP):
        """Speaks to the number that was allowed, under the name that it was asked for."""

        def _get_socket(self, host: str, port: int, timeout: float) -> socket.socket:
            raw = socket.create_connection((number, port), timeout)
            return context.wrap_socket(raw, server_hostname=host) if server.security == "tls" else raw

    try:
        with Line(server.host, server.port, timeout=TIMEOUT_SECONDS) as line:
            if server.security == "starttls":
                line.starttls(context=context)
            if server.login:
                line.login(server.login, password)
            line.send_message(letter)
    except smtplib.SMTPAuthenticationError as fault:
        raise LoginRefusedError(
            f"{server.host} does not take the login {server.login}: {_said(fault.smtp_error)}",
            hint="compare login and password with the mail provider's letter",
        ) from None
    except smtplib.SMTPResponseException as fault:
        raise NoticeError(f"{server.host} says {fault.smtp_code}: {_said(fault.smtp_error)}") from None
    except smtplib.SMTPRecipientsRefused as fault:
        told = "; ".join(f"{to}: {code} {_said(said)}" for to, (code, said) in fault.recipients.items())
        raise NoticeError(f"{server.host} takes no mail for {told}") from None
    except smtplib.SMTPException as fault:
        raise NoticeError(f"{server.host} does not take the letter: {fault}") from None
    except (OSError, ssl.SSLError) as fault:
        raise UnreachableError(
            f"{server.host}:{server.port} cannot be reached: {fault}",
            hint="is the port right, and the kind of encryption? Usual are 465 with tls and 587 with starttls",
        ) from None


def _said(text: bytes | str) -> str:
    return (text.decode("utf-8", "replace") if isinstance(text, bytes) else text).replace("\n", " ")[:200]
