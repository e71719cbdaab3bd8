"""The same folder as the transfer login, the shell, PHP and the address see it."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Literal
from urllib.parse import quote, urlsplit

from highshelf.core.errors import InputError


@dataclass(frozen=True)
class Place:
    """Where an installation stands.

    Attributes:
        root: the document root as the transfer login sees it.
        folder: below the root, without slashes at either end; "" is the root itself.
        address: the installation's address, ending in `/`.
        web: the folder of the release that the address shows, "" when it shows the release's root.
        apart: where the release's root stands when the address shows its web folder by links, "" when it stands at the target.
        split: the document root itself is the web folder, and the rest of the release stands in the folder above it.
        below: the folder of the release that the address ends in, where the web sees all of the release.
    """

    root: str
    folder: str
    address: str
    web: str = ""
    apart: str = ""
    split: bool = False
    below: str = ""

    @property
    def base(self) -> str:
        """Where the release's own files stand, as the transfer login sees it; of a split one, where its web folder stands."""
        return self.apart or self.target

    def path(self, inside: str) -> str:
        """Where a file or folder of the release stands, as the transfer login sees it; given as it lies in the release."""
        if not self.split:
            return posixpath.join(self.base, inside)
        if inside == self.web or inside.startswith(self.web + "/"):
            return posixpath.join(self.target, inside[len(self.web) + 1 :]).rstrip("/")
        return posixpath.join(self.beside_root, inside)

    def inside(self, path: str) -> str | None:
        """The other way round: how a path that the transfer login sees lies in the release; None when it is no part of it."""
        if not self.split:
            return _below(path, self.base)
        shown = _below(path, self.target)
        if shown is not None:
            return posixpath.join(self.web, shown).rstrip("/")
        return _below(path, self.beside_root)

    @property
    def target(self) -> str:
        return posixpath.join(self.root, self.folder) if self.folder else self.root

    @property
    def beside_root(self) -> str:
        """The folder that holds the document root, outside what the web serves; "" is the login's start."""
        return posixpath.dirname(self.root.rstrip("/"))

    def url(self, path: str) -> str:
        """The address of a file of the installation, given as it lies in the release."""
        path = path.lstrip("/")
        if self.below and path:
            return self.address.removesuffix(self.below + "/") + path
        return self.route(path)

    def route(self, path: str) -> str:
        """An address that the application answers, told from its front page; its web folder may be told with it."""
        shown = self.web or self.below
        return self.address + path.lstrip("/").removeprefix(shown + "/" if shown else "")


def _below(path: str, folder: str) -> str | None:
    """A path as it lies below a folder, "" for the folder itself; None when it lies elsewhere."""
    path, folder = path.rstrip("/"), folder.rstrip("/")
    if path == folder:
        return ""
    return (
        path.removeprefix(folder + "/" if folder else "") if path.startswith(folder + "/" if folder else "") else None
    )


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


ViewName = Literal["transfer", "shell", "php", "address"]


@dataclass(frozen=True)
class View:
    """A place as one view writes it, and how that is known."""

    view: ViewName
    path: str
    how: str


@dataclass(frozen=True)
class Site:
    """A document root, as the transfer login sees it, and the address that shows it, ending in `/`."""

    root: str
    address: str

    @property
    def host(self) -> str:
        return urlsplit(self.address).hostname or ""

    @property
    def port(self) -> int:
        parts = urlsplit(self.address)
        return parts.port or (443 if parts.scheme == "https" else 80)

    def holds(self, path: str) -> bool:
        root = tidy(self.root)
        return root == "" or path == root or path.startswith(root + "/")

    def path_of(self, below: str) -> str:
        """The transfer login's path of something below the address."""
        return tidy(posixpath.join(tidy(self.root), below.lstrip("/")))

    def address_of(self, path: str) -> str:
        """The address of a path in the document root; "" for one outside."""
        if not self.holds(path):
            return ""
        root = tidy(self.root)
        below = path[len(root) :].lstrip("/") if root else path
        return self.address + quote(below, safe="/~!$&'()*+,;=:@")


class Views:
    """How one account's folders look from each side.

    Args:
        root: the document root as the transfer login sees it.
        landing: the folder the login lands in, as its server calls it.
        proven: view -> {path, how}: the document root as shell and PHP see it, from a survey.
    """

    def __init__(self, root: str, landing: str, proven: Mapping[str, Mapping[str, Any]]) -> None:
        self._root, self._landing = tidy(root), landing.rstrip("/")
        self._bases: dict[ViewName, tuple[str, str]] = {}
        for view in ("shell", "php"):
            seen = proven.get(view)
            if seen and seen.get("path"):
                self._bases[view] = (_base(str(seen["path"]), tidy(root)), str(seen["how"]))

    def from_any(self, given: str) -> str:
        """The transfer login's path of a path that any view may have written.

        Raises:
            InputError: an absolute path outside everything this account sees.
        """
        text = given.strip()
        for base, _ in self._bases.values():
            if text == base or text.startswith(base + "/"):
                return tidy(text[len(base) :])
        if self._landing and (text == self._landing or text.startswith(self._landing + "/")):
            return tidy(text[len(self._landing) :])
        if text.startswith("/") and self._landing:
            below = posixpath.join(self._root, text.lstrip("/")) or "."
            hint = f"its own folder is {self._landing}; if it is meant below the document root, write {below}"
            raise InputError(f"{text} is outside what this account sees", hint=hint)
        if any(part == ".." for part in text.split("/")):
            raise InputError(f"{text} leads out of the account", hint="write it without ..")
        return tidy(text)

    def all(self, path: str, address: str) -> Iterator[View]:
        """The place in every view that is known."""
        yield View("transfer", path or ".", "as the login sees it")
        for view, (base, how) in self._bases.items():
            yield View(view, posixpath.join(base, path) if path else base, how)
        if address:
            yield View("address", address, "the document root was proven at its address")


def _base(seen: str, root: str) -> str:
    """Where the login lands, in another view: what is left of the document root's path there without the root's own."""
    if root and seen.endswith("/" + root):
        return seen[: -len(root) - 1]
    # Under another name there (a link, a mount): only what is below the root can be said of that view.
    return seen if not root else posixpath.join(seen, *[".."] * len(root.split("/")))


def tidy(path: str) -> str:
    """Without `.`, doubled slashes and slashes at the ends; "" is where the login lands."""
    found = posixpath.normpath("/" + path).strip("/")
    return "" if found == "." else found
