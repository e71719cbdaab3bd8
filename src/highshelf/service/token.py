"""The operator's token, and the first operator's link."""

from __future__ import annotations

import secrets
from pathlib import Path

from highshelf.core.errors import NoRoomError
from highshelf.store.disk import write_private
from highshelf.store.store import Store


def ensure_token(folder: Path) -> Path:
    """The operator's token file, made at the first start, readable by its owner alone."""
    path = folder / "token"
    if not path.exists():
        folder.mkdir(parents=True, exist_ok=True)
        write_private(path, secrets.token_urlsafe(32) + "\n")
    return path


def first_code(folder: Path) -> str:
    """A code for the first operator's link while there is no operator; empty otherwise. Earlier codes work no more.

    Raises:
        StoreError, StrongboxError: the data folder is not to be opened.
    """
    store = Store(folder)
    try:
        return store.operators.invite()[0] if not store.operators.count() else ""
    except NoRoomError:
        # On a full disk everything can be read all the same: the link comes with the next start.
        return ""
    finally:
        store.close()
