"""Whether an address shows what lies in a document root."""

from __future__ import annotations

import posixpath
import secrets
from collections.abc import Callable

from highshelf.core.errors import TargetError
from highshelf.core.ports import Fetch, HostFiles


def prove_root(
    files: HostFiles,
    fetch: Fetch,
    root: str,
    address: str,
    *,
    outstanding: Callable[[str], None] = lambda _: None,
    gone: Callable[[str], None] = lambda _: None,
) -> None:
    """Put an unguessable file into the document root, fetch it through the address, remove it.

    `outstanding` is told the file's path before it is written, `gone` after it was removed.

    Raises:
        TargetError: the address does not show it.
    """
    name, word = f"hs-{secrets.token_hex(12)}.txt", secrets.token_hex(16)
    path = posixpath.join(root, name)
    outstanding(path)
    files.write(path, word.encode(), 0o644)
    try:
        seen = fetch.get(address + name)
    finally:
        files.remove(path)
        gone(path)
    if seen.html.strip() != word:
        raise TargetError(
            f"{address} does not show what lies in {root} (status {seen.status})",
            hint="is the document root right? does the address lead to this account? "
            "(for a name that points elsewhere, say where it is reached: host:port)",
        )
