"""Whether an address shows what lies in a document root."""

from __future__ import annotations

from collections.abc import Callable

from highshelf.core.errors import TargetError
from highshelf.core.ports import Fetch, HostFiles
from highshelf.core.survey.roots import show_test


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
    shown = show_test(files, fetch, root, address, outstanding, gone)
    if not shown.fits:
        raise TargetError(
            f"{address} does not show what lies in {root} ({shown.told})",
            hint="is the document root right? does the address lead to this account? "
            "(for a name that points elsewhere, say where it is reached: host:port)",
        )
