"""Where secrets are kept sealed: AES-256-GCM, the key in a file outside the database.

Rules:
1. The reference a secret is filed under is authenticated with it: a sealed text moved to another row does not open.
2. A key is made only for a strongbox that holds nothing. One that is missing or another one is never replaced.
"""

from __future__ import annotations

import secrets
from pathlib import Path

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM

from highshelf.core.errors import StrongboxError
from highshelf.store.disk import write_private

KEY_BYTES = 32
NONCE_BYTES = 12
# Sealed when the key is made: with another key it does not open.
CHECK_REF, CHECK_TEXT = "strongbox/check", "this is the key"


class Strongbox:
    """Seals and opens.

    Args:
        key_file: readable by its owner alone.
        empty: nothing is sealed with any key yet; then a missing key file is made.

    Raises:
        StrongboxError: the key file is missing, is not a key, or others may read it.
    """

    def __init__(self, key_file: Path, *, empty: bool = True) -> None:
        if not key_file.exists():
            if not empty:
                raise StrongboxError(
                    f"the strongbox key {key_file} is missing, and there are secrets sealed with it",
                    hint="put the key back from its backup; without it none of them opens, and no new one is made in its place",
                )
            key_file.parent.mkdir(parents=True, exist_ok=True)
            write_private(key_file, secrets.token_hex(KEY_BYTES) + "\n")
        if key_file.stat().st_mode & 0o077:
            raise StrongboxError(f"others may read the strongbox key {key_file}", hint=f"chmod 600 {key_file}")
        self._file = key_file
        try:
            key = bytes.fromhex(key_file.read_text().strip())
            if len(key) != KEY_BYTES:
                raise ValueError
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

    def check(self, nonce: bytes, sealed: bytes) -> None:
        """Raises StrongboxError when the check value was sealed with another key."""
        try:
            self.open(CHECK_REF, nonce, sealed)
        except StrongboxError:
            raise StrongboxError(
                f"{self._file} is not the key that this database was used with",
                hint="put the right key back from its backup; with this one no secret opens",
            ) from None
