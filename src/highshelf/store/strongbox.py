"""Where secrets are kept sealed: AES-256-GCM, the key in a file outside the database.

The reference a secret is filed under is authenticated with it: a sealed text moved to another row does not open.
"""

from __future__ import annotations

import os
import secrets
from pathlib import Path

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM

from highshelf.core.errors import StrongboxError

KEY_BYTES = 32
NONCE_BYTES = 12


class Strongbox:
    """Seals and opens. `key_file` is made on first use, readable by its owner alone.

    Raises:
        StrongboxError: the key file is not a key, or others may read it.
    """

    def __init__(self, key_file: Path) -> None:
        if not key_file.exists():
            key_file.parent.mkdir(parents=True, exist_ok=True)
            handle = os.open(key_file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            with os.fdopen(handle, "w") as file:
                file.write(secrets.token_hex(KEY_BYTES) + "\n")
        if key_file.stat().st_mode & 0o077:
            raise StrongboxError(f"others may read the strongbox key {key_file}", hint=f"chmod 600 {key_file}")
        try:
            key = bytes.fromhex(key_file.read_text().strip())
            self._cipher = AESGCM(key)
        except ValueError:
            raise StrongboxError(
                f"{key_file} does not hold a strongbox key",
                hint="restore it from the backup; without it no secret can be opened",
            ) from None

    def seal(self, ref: str, secret: str) -> tuple[bytes, bytes]:
        """Nonce and sealed text."""
        nonce = secrets.token_bytes(NONCE_BYTES)
        return nonce, self._cipher.encrypt(nonce, secret.encode(), ref.encode())

    def open(self, ref: str, nonce: bytes, sealed: bytes) -> str:
        """Raises StrongboxError when the key is another one or the text was changed."""
        try:
            return self._cipher.decrypt(nonce, sealed, ref.encode()).decode()
        except InvalidTag:
            raise StrongboxError(
                f"the secret {ref} does not open", hint="is this the key the database was used with?"
            ) from None
