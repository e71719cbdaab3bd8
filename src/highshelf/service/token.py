"""The operator's token, and the first operator's link."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

from highshelf.store.store import Store


def ensure_token(folder: Path) -> Path:
    """The operator's token file, made at the first start, readable by its owner alone."""
    path = folder / "token"
    if not path.exists():
        folder.mkdir(parents=True, exist_ok=True)
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w") as file:
            file.write(secrets.token_urlsafe(32) + "\n")
    return path


def first_code(folder: Path) -> str:
    """A code for the first operator's link while there is no operator; empty otherwise. Earlier codes work no more."""
    operators = Store(folder).operators
    return operators.invite()[0] if not operators.count() else ""
