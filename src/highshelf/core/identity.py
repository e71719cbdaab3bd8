"""A server's identity as hosts write it in letters and programs show it: fingerprints of SSH keys and of certificates.

Forms: `SHA256:` and 43 characters of base64 (RFC 4648, as OpenSSH shows keys), `SHA256:` and 64 hex digits (a certificate),
`MD5:` and 16 pairs of hex digits; hex with or without colons. A host with several keys has several, with spaces between.
"""

from __future__ import annotations

import re

from highshelf.core.errors import FingerprintError, InputError, UnknownServerError

_PAIRS = r"(?:[0-9A-Fa-f]{2}:)"
FORMS = re.compile(
    rf"(?<![\w+/])(?:SHA256:[A-Za-z0-9+/]{{43}}(?![A-Za-z0-9+/])=?|(?:SHA-?256:)?\s?{_PAIRS}{{31}}[0-9A-Fa-f]{{2}}"
    rf"|SHA256:[0-9A-Fa-f]{{64}}|(?:MD5:)?{_PAIRS}{{15}}[0-9A-Fa-f]{{2}})(?![:\w])"
)


def normal(fingerprint: str) -> str:
    """One writing for what is the same: `SHA256:base64`, `SHA256:hex`, or `MD5:hex`, hex small and without colons."""
    found = re.sub(r"(?i)^sha-?256:\s*", "SHA256:", fingerprint.strip())
    text = found.removeprefix("SHA256:").removeprefix("MD5:")
    plain = text.replace(":", "").lower()
    if re.fullmatch(r"[0-9a-f]{64}", plain):
        return "SHA256:" + plain
    if re.fullmatch(r"[0-9a-f]{32}", plain):
        return "MD5:" + plain
    return "SHA256:" + text.rstrip("=")


def fingerprints_in(text: str) -> list[str]:
    """All fingerprints that stand in a text, each once, in its order."""
    return list(dict.fromkeys(normal(m[0]) for m in FORMS.finditer(text)))


def check_fingerprint(text: str) -> str:
    """What an operator gives, in one writing; "" is none. Raises InputError."""
    found = fingerprints_in(text)
    if text.strip() and (not found or FORMS.sub("", text).strip(" ,;\n\r\t")):
        raise InputError(
            f"{text[:100]!r} is no fingerprint",
            hint="such as SHA256:… of the SSH key (ssh-keygen -lf), or of the certificate, as the host's letter has it",
        )
    return " ".join(found)


def check_identity(where: str, wanted: str, seen: list[str], *, confirm: bool) -> None:
    """Compare a server with the identity that is known, before a password is sent.

    Args:
        wanted: fingerprints of which one has to fit, with spaces between; "" when the server is a new one.
        seen: the server's, in every form it can be given in; none for a line that shows no identity.
        confirm: whether a person wants to say yes to a new one.

    Raises:
        FingerprintError: it shows another one. UnknownServerError: it is new, and nobody said yes yet.
    """
    if wanted:
        if not {normal(w) for w in wanted.split()} & {normal(s) for s in seen}:
            raise FingerprintError(
                f"{where} shows another identity than before: was {wanted}, is {seen[0] if seen else 'none'}",
                hint="nothing was sent. Ask the hosting company whether it changed; then check the account and take the new "
                "identity (--accept-identity)",
                before=wanted,
                now=seen[0] if seen else "",
            )
    elif confirm:
        now = seen[0] if seen else ""
        raise UnknownServerError(
            f"{where} is a new server, and shows the identity {now}"
            if now
            else f"{where} shows no identity (plain FTP)",
            hint="nothing was sent. Compare it with the hosting company's letter; then say yes to it: check the account with "
            "--accept-identity, or give it with `highshelf account change --fingerprint`",
            now=now,
        )
