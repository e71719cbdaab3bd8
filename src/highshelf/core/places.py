"""The same folder as the transfer login, PHP and the address see it."""

from __future__ import annotations

import posixpath
import re
from dataclasses import dataclass

from highshelf.core.errors import InputError


@dataclass(frozen=True)
class Place:
    """Where an installation stands.

    Attributes:
        root: the document root as the transfer login sees it.
        folder: below the root, without slashes at either end; "" is the root itself.
        address: the installation's address, ending in `/`.
    """

    root: str
    folder: str
    address: str

    @property
    def target(self) -> str:
        return posixpath.join(self.root, self.folder) if self.folder else self.root

    @property
    def beside_root(self) -> str:
        """The folder that holds the document root, outside what the web serves; "" is the login's start."""
        return posixpath.dirname(self.root.rstrip("/"))

    def url(self, path: str) -> str:
        """The address of a file of the installation."""
        return self.address + path.lstrip("/")


def place_at(root: str, site_address: str, at: str) -> Place:
    """The place for `--at`: `/` is the document root, `/visitors` a folder in it.

    Raises:
        InputError: a path that leaves the root or has characters a web address should not have.
    """
    folder = at.strip("/")
    if any(part in ("", ".", "..") for part in folder.split("/")) and folder:
        raise InputError(f"the place {at} leads out of the document root", hint="write it as / or /folder")
    if folder and not re.fullmatch(r"[A-Za-z0-9._~/-]+", folder):
        raise InputError(
            f"the place {at} has characters that do not belong in an address", hint="use letters, digits, - and _"
        )
    return Place(root, folder, site_address + (folder + "/" if folder else ""))
