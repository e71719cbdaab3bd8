"""Which way the release's files come to the host."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Literal

from highshelf.core.errors import TargetError

WayName = Literal["shell-unzip", "shell-tar", "shell-php", "helper"]


@dataclass(frozen=True)
class Way:
    """A way and why it was chosen. `archive` is which form of the release goes up: as it came, or as a zip."""

    name: WayName
    archive: Literal["original", "zip"]
    reason: str

    @property
    def by_hand(self) -> str:
        """How a person would do the same."""
        if self.name == "helper":
            return "bring the archive over, put a small unpacking script beside it, open it in the browser, remove both"
        tool = {"shell-unzip": "unzip", "shell-tar": "tar xf", "shell-php": "php with ZipArchive"}[self.name]
        return f"bring the archive over, log in by SSH, run {tool}, remove the archive"


def choose_way(archive_format: str, tools: Collection[str], *, helper: bool) -> Way:
    """The fastest way this host allows.

    Args:
        archive_format: `zip` or `tar`.
        tools: what the account's shell has; empty without a shell.
        helper: whether the account's site runs PHP for us.

    Raises:
        TargetError: no way is open.
    """
    if archive_format == "tar" and "tar" in tools:
        return Way("shell-tar", "original", "the account has a shell with tar, and the release is a tar archive")
    if "unzip" in tools:
        return Way("shell-unzip", "zip", "the account has a shell with unzip")
    if "php" in tools:
        return Way("shell-php", "zip", "the account has a shell with PHP")
    if helper:
        return Way("helper", "zip", "the account has no shell; PHP unpacks through the helper")
    raise TargetError(
        "there is no way to unpack on this account: no shell, and the helper is not allowed",
        hint="allow the helper for this account",
    )
