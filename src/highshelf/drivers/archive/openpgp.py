"""OpenPGP by Sequoia's library: detached signatures, and sealing for somebody."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from pysequoia import Cert, Sig, encrypt, verify

from highshelf.core.errors import ArchiveError, InputError


def check_signature(path: Path, signature: bytes, key: bytes) -> str:
    """Compare a file with its makers' signature; returns the key's fingerprint and first name.

    Args:
        signature: detached, armoured or not; key: the makers' public key, likewise.

    Raises:
        InputError: signature or key cannot be read. ArchiveError: the signature is not of this file, or not by this key.
    """
    try:
        certificates = Cert.split_bytes(key)
    except Exception as fault:
        raise InputError(
            f"the key is no OpenPGP key: {_first_line(fault)}", hint="give the makers' public key"
        ) from None
    try:
        read = Sig.from_bytes(signature)
    except Exception as fault:
        told = _first_line(fault)
        raise InputError(
            f"the signature is no OpenPGP signature: {told}", hint="give the file that ends in .asc or .sig"
        ) from None

    def known(_: list[str]) -> list[Any]:
        return list(certificates)

    try:
        verify(file=str(path), store=known, signature=read)
    except Exception as fault:
        raise ArchiveError(
            f"the signature does not fit what came over: {_first_line(fault)}",
            hint="fetch it again; when it stays so, ask its makers before you use it",
        ) from None
    signer = next(
        (c for c in certificates if str(read.issuer_fpr or "").lower() == c.fingerprint.lower()), certificates[0]
    )
    names = [str(u) for u in signer.user_ids]
    return f"{signer.fingerprint}" + (f" ({names[0]})" if names else "")


def seal(content: bytes, passphrase: str, keys: Sequence[str]) -> bytes:
    """An armoured OpenPGP message (RFC 9580) that opens with the passphrase, if there is one, and for each of the keys' owners.

    Raises:
        InputError: a key cannot be read, or nothing can be sealed for it.
    """
    owners: list[Any] = []
    for number, key in enumerate(keys, 1):
        try:
            owners += Cert.split_bytes(key.encode())
        except Exception as fault:
            raise InputError(
                f"key {number} is no OpenPGP public key: {_first_line(fault)}",
                hint="give the text between BEGIN PGP PUBLIC KEY BLOCK and its end",
            ) from None
    try:
        return bytes(encrypt(bytes=content, recipients=owners, passwords=[passphrase] if passphrase else []))
    except Exception as fault:
        raise InputError(
            f"nothing can be sealed for this key: {_first_line(fault)}", hint="is it for encryption, and still valid?"
        ) from None


def _first_line(fault: Exception) -> str:
    return (str(fault).splitlines() or [type(fault).__name__])[0][:200]
