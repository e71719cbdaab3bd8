"""Which folder an address shows: guessed by names and contents, proven by a file that is put there and fetched."""

from __future__ import annotations

import posixpath
import re
import secrets
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from urllib.parse import urlsplit

from highshelf.core.errors import MissingFileError, TransferError
from highshelf.core.ports import Entry, Fetch, HostFiles

USUAL = (
    "www", "htdocs", "html", "public_html", "httpdocs", "web", "public", "site", "docroot", "webroot", "wwwroot",
    "webspace", "pub", "homepage", "content", "htdocs-ssl", "http", "public_www",
)  # fmt: skip
# Folders that hold one folder a site.
HOLDERS = (
    "domains",
    "sites",
    "vhosts",
    "websites",
    "hosts",
    "subdomains",
    "addon",
    "html",
    "www",
    "web",
    "home",
    "users",
)
NEVER = re.compile(
    r"^(\..*|logs?|tmp|temp|private|mail|maildir|backups?|cgi-bin|etc|ssl|certs?|stats|awstats|webalizer|db|databases?|cache|sessions?|bin|conf|config|data)$",
    re.I,
)
FRONT = re.compile(r"^(index|default|home)\.(php\d?|html?|shtml|phtml)$", re.I)
MOST_LISTINGS, MOST_PROOFS = 40, 12


@dataclass(frozen=True)
class Guess:
    """A folder that may be the document root; the more points, the sooner it is tried."""

    path: str
    points: int
    why: str


@dataclass(frozen=True)
class Shown:
    """What an address answered to a request for our file."""

    fits: bool
    status: int
    told: str


def listing_of(files: HostFiles, path: str) -> list[Entry]:
    """A folder's entries, or none where it cannot be listed."""
    try:
        return files.entries(path)
    except (MissingFileError, TransferError):
        return []


def guess_roots(files: HostFiles, address: str) -> list[Guess]:
    """Folders that may be the document root of an address, the likeliest first."""
    host = (urlsplit(address).hostname or "").removeprefix("www.")
    start = listing_of(files, "")
    guesses: list[Guess] = []
    listings = 0
    queue: list[tuple[str, int]] = [(e.name, 1) for e in start if _walkable(e)]
    if any(FRONT.match(e.name) for e in start) or not queue:
        guesses.append(
            Guess(".", 5, "the login lands in it, and a front page stands there" if start else "the login lands in it")
        )
    while queue and listings < MOST_LISTINGS:
        path, depth = queue.pop(0)
        listings += 1
        inside = listing_of(files, path)
        guess = _judge(path, inside, host)
        if guess is not None:
            guesses.append(guess)
        if depth < 3 and _holds_sites(path, host):
            queue += [(posixpath.join(path, e.name), depth + 1) for e in inside if _walkable(e)]
    if not any(g.path == "." for g in guesses):
        guesses.append(Guess(".", 0, "the login lands in it"))
    return sorted(guesses, key=lambda g: -g.points)


def _walkable(entry: Entry) -> bool:
    return entry.kind in ("folder", "link") and not NEVER.match(entry.name)


def _holds_sites(path: str, host: str) -> bool:
    name = posixpath.basename(path).lower()
    return name in HOLDERS or "." in name or name == host.split(".")[0]


def _judge(path: str, inside: Iterable[Entry], host: str) -> Guess | None:
    name, reasons, points = posixpath.basename(path).lower(), [], 0
    if name in USUAL:
        points, reasons = 4, ["a usual name"]
    if host and any(part in (host, host.split(".")[0]) for part in path.lower().split("/")):
        points, reasons = points + 3, [*reasons, "named like the address"]
    if any(FRONT.match(e.name) for e in inside):
        points, reasons = points + 3, [*reasons, "a front page stands there"]
    elif any(e.name == ".htaccess" for e in inside):
        points, reasons = points + 1, [*reasons, "it has an .htaccess"]
    if points == 0:
        return None
    return Guess(path, points - path.count("/"), ", ".join(reasons))


def show_test(
    files: HostFiles,
    fetch: Fetch,
    root: str,
    address: str,
    outstanding: Callable[[str], None],
    gone: Callable[[str], None],
) -> Shown:
    """Put an unguessable file into a folder, fetch it through the address, remove it.

    Raises:
        TransferError: the folder cannot be written. FetchError: the address does not answer at all.
    """
    name, word = f"hs-{secrets.token_hex(12)}.txt", secrets.token_hex(16)
    path = posixpath.join(root, name)
    outstanding(path)
    try:
        files.write(path, word.encode(), 0o644)
        seen = fetch.get(address + name)
    finally:
        # A folder that may not be written has no file either: looked at, not assumed.
        if files.stat(path) is not None:
            files.remove(path)
        gone(path)
    title = re.search(r"<title[^>]*>([^<]{1,80})", seen.html, re.I)
    told = f"status {seen.status}" + (f", a page titled “{title[1].strip()}”" if title else "")
    if seen.headers.get("server"):
        told += f", from {seen.headers['server']}"
    return Shown(seen.html.strip() == word, seen.status, told)
