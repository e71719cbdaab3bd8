"""The same place in all views, and why something is "not found": which part of a path does not match, what answers instead."""

from __future__ import annotations

import difflib
import re
from collections.abc import Callable
from dataclasses import dataclass
from urllib.parse import unquote, urlsplit

from highshelf.core.errors import HighShelfError, InputError
from highshelf.core.places import Site, View, Views
from highshelf.core.ports import Entry, Fetch, HostFiles
from highshelf.core.survey.roots import listing_of


@dataclass(frozen=True)
class Found:
    """Where something is. `told` is for people: what is there, or which part is not and what answers instead."""

    views: tuple[View, ...]
    there: bool
    kind: str
    told: tuple[str, ...]


def locate(given: str, views: Views, sites: list[Site], files: HostFiles, fetch_of: Callable[[Site], Fetch]) -> Found:
    """Find a path or address of an account in every view. `fetch_of` opens a conversation with a site.

    Raises:
        InputError: the address is none of this account's, or the path belongs to no view.
    """
    site: Site | None
    if is_address(given):
        site, path = transfer_path(given, sites)
    else:
        path = views.from_any(given)
        site = _site_of(path, sites)
    told: list[str] = []
    kind, there = _walk(path, files, told)
    address = site.address_of(path) if site is not None else ""
    if address and kind == "folder" and not address.endswith("/"):
        address += "/"
    if address and site is not None:
        told.append(_ask(address, there, fetch_of(site)))
    else:
        told.append(f"it lies outside the document root{'s' if len(sites) > 1 else ''}: no address shows it")
    return Found(tuple(views.all(path, address)), there, kind, tuple(told))


def is_address(text: str) -> bool:
    return bool(re.match(r"https?://", text.strip(), re.I))


def transfer_path(address: str, sites: list[Site]) -> tuple[Site, str]:
    """The site an address belongs to, and the path as the transfer login sees it.

    Raises:
        InputError: which part of the address is not this account's.
    """
    parts = urlsplit(address.strip())
    wanted = (parts.hostname or "", parts.port or {"http": 80, "https": 443}[parts.scheme.lower()])
    by_name = [s for s in sites if s.host == wanted[0]]
    if not by_name:
        near = difflib.get_close_matches(wanted[0], [s.host for s in sites], 1, 0.7)
        raise InputError(
            f"the name {wanted[0]} is none of this account's",
            hint=f"did you mean {near[0]}?" if near else "its addresses: " + ", ".join(s.address for s in sites),
        )
    fitting = [s for s in by_name if s.port == wanted[1]]
    if not fitting:
        raise InputError(
            f"{wanted[0]} is this account's, but not at port {wanted[1]}",
            hint="its addresses: " + ", ".join(s.address for s in by_name),
        )
    path = unquote(parts.path) or "/"
    inside = [s for s in fitting if (path + "/").startswith(unquote(urlsplit(s.address).path))]
    site = max(inside or fitting, key=lambda s: len(s.address))
    base = unquote(urlsplit(site.address).path)
    return site, site.path_of(path[len(base) :] if inside else path.lstrip("/"))


def _site_of(path: str, sites: list[Site]) -> Site | None:
    """The site whose root is nearest above a path."""
    inside = [s for s in sites if s.holds(path)]
    return max(inside, key=lambda s: len(s.root), default=None)


def _walk(path: str, files: HostFiles, told: list[str]) -> tuple[str, bool]:
    """What stands at the path; the first part that is not there is named, with what is there instead."""
    if path in ("", "."):
        return "folder", True
    parts = path.split("/")
    entry = Entry("", "folder", 0)
    for depth, name in enumerate(parts):
        if entry.kind == "file":
            told.append(f"{'/'.join(parts[:depth])} is a file: nothing can be in it")
            return "", False
        seen = files.stat("/".join(parts[: depth + 1]))
        if seen is None:
            told.append(_missing(files, "/".join(parts[:depth]), name))
            return "", False
        entry = seen
    told.append(f"{path} is there: a {entry.kind}" + (f" of {entry.size_bytes} bytes" if entry.kind == "file" else ""))
    return entry.kind, True


def _missing(files: HostFiles, folder: str, name: str) -> str:
    names = [e.name for e in listing_of(files, folder)]
    where = f"{folder} is there, but it holds no {name}" if folder else f"the login sees no {name}"
    same = [n for n in names if n.casefold() == name.casefold()]
    near = same or difflib.get_close_matches(name, names, 2, 0.6)
    if same:
        return f"{where}; it holds {same[0]}: capital and small letters count there"
    if near:
        return f"{where}; did you mean {' or '.join(near)}?"
    if not names:
        return f"{where}; it is empty"
    return f"{where}; it holds {', '.join(names[:8])}" + (f" and {len(names) - 8} more" if len(names) > 8 else "")


def _ask(address: str, there: bool, fetch: Fetch) -> str:
    try:
        page = fetch.get(address)
    except HighShelfError as fault:
        return f"{address} does not answer: {fault.message}"
    finally:
        fetch.close()
    title = re.search(r"<title[^>]*>([^<]{1,80})", page.html, re.I)
    named = f" with a page titled “{title[1].strip()}”" if title else ""
    moved = f", from {page.url}" if page.url != address else ""
    text = f"{address} answers {page.status}{named}{moved}"
    if page.status == 403 and there:
        text += ": it is there, and the web server refuses it (a rule in .htaccess, its modes, or a folder without a front page)"
    elif page.status == 404 and there:
        text += ": it is there, and yet not shown: does the address lead to this account?"
    elif page.status == 200 and not there:
        text += ": an application or a rule answers for what is no file"
    return text
