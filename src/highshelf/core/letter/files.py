"""A letter that came as a file, as text: mail as it was kept (RFC 5322), PDF with text in it, plain text or HTML. Pure."""

from __future__ import annotations

import email
import io
import re
from email import policy
from email.message import EmailMessage

from pypdf import PdfReader
from pypdf.errors import PyPdfError

from highshelf.core.errors import InputError

MOST_BYTES, MOST_PAGES = 700_000, 30
# A mail as it was kept begins with fields of a head, and says of itself how it is coded; what a person copied out of one does not.
FIRST = re.compile(rb"[A-Za-z][A-Za-z-]{1,40}:\s")
CODED = re.compile(rb"(?im)^(?:received|return-path|message-id|mime-version|content-type):")
CHARSET = re.compile(rb"(?i)charset=[\"']?([\w-]+)")


def text_of(data: bytes) -> str:
    """The letter's text.

    Raises:
        InputError: too long, or a PDF without text, or one that cannot be read.
    """
    if len(data) > MOST_BYTES:
        raise InputError(
            f"the letter's file has {len(data):,} bytes, more than {MOST_BYTES:,}",
            hint="paste the part with the logins",
        )
    if data[:1024].lstrip().startswith(b"%PDF-"):
        return _from_pdf(data)
    head = re.split(rb"\r?\n\r?\n", data.lstrip(b"\r\n")[:20_000], maxsplit=1)[0]
    if FIRST.match(head) and len(CODED.findall(head)) >= 2:
        return _from_mail(data.lstrip(b"\r\n"))
    return _decoded(data)


def _from_mail(data: bytes) -> str:
    message = email.message_from_bytes(data, policy=policy.default)
    assert isinstance(message, EmailMessage)
    body = message.get_body(("plain", "html"))
    if body is None:
        return _decoded(data)
    try:
        text = body.get_content()
    except (LookupError, ValueError, KeyError):
        # A character set that nobody knows, or none that fits.
        payload = body.get_payload(decode=True)
        text = _decoded(payload if isinstance(payload, bytes) else b"")
    # What the letter was called often names the site.
    return f"{message.get('subject', '')}\n\n{text}"


def _from_pdf(data: bytes) -> str:
    try:
        reader = PdfReader(io.BytesIO(data))
        pages = [page.extract_text(extraction_mode="layout") for page in reader.pages[:MOST_PAGES]]
    except (PyPdfError, ValueError, KeyError, TypeError, RecursionError, AttributeError) as fault:
        raise InputError(
            f"this PDF cannot be read: {type(fault).__name__}", hint="open it, and paste its text"
        ) from None
    text = "\n\n".join(pages)
    if not text.strip():
        raise InputError("there is no text in this PDF: it may be a picture", hint="type in what it says")
    return text


def _decoded(data: bytes) -> str:
    """By its mark, by what it says itself, as UTF-8, or in the way of Western Europe."""
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", "replace")
    said = CHARSET.search(data[:2000])
    for name in ("utf-8-sig", said[1].decode() if said else "", "cp1252"):
        try:
            return data.decode(name)
        except (UnicodeDecodeError, LookupError):
            continue
    return data.decode("latin-1")
