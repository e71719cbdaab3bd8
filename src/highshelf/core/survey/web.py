"""What the web server does: tried with a folder of our own inside the document root, gone again at the end."""

from __future__ import annotations

import posixpath
from collections.abc import Callable
from dataclasses import dataclass

from highshelf.core.errors import HelperError, HighShelfError, TransferError
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.ports import Fetch, Helper, HostFiles
from highshelf.core.survey.lines import Survey

HOW = "web: tried with a folder of our own"
TOPICS = ("web.server", "web.htaccess", "web.rewriting", "web.links", "web.user_ini")
COLOUR = "#1b4f72"
LINKED = "linked.txt"


@dataclass(frozen=True)
class Probe:
    """Our folder: as the transfer login sees it, its address, and the word in its file `real.txt`."""

    folder: str
    address: str
    word: str

    def path(self, name: str) -> str:
        return posixpath.join(self.folder, name)


def tell_server(survey: Survey, page: Snapshot) -> None:
    """What the server calls itself, and PHP when a page at the address tells."""
    names = [page.headers[n] for n in ("server", "x-powered-by") if page.headers.get(n)]
    if names:
        survey.say("web.server", ", ".join(names), "web: headers of an answer", data=names)
    else:
        survey.say("web.server", "does not say", "web: headers of an answer", "unknown")


def tell_htaccess(survey: Survey, files: HostFiles, fetch: Fetch, probe: Probe) -> None:
    """Whether `.htaccess` is read and whether addresses can be rewritten there."""
    rules = (
        f'ErrorDocument 404 "{probe.word}-missing"\n'
        "<IfModule mod_rewrite.c>\nRewriteEngine On\nRewriteRule ^turned\\.txt$ real.txt [L]\n</IfModule>\n"
    )
    files.write(probe.path(".htaccess"), rules.encode(), 0o644)
    try:
        missing, turned, plain = (_get(fetch, probe.address + n) for n in ("none.txt", "turned.txt", "real.txt"))
        itself = _get(fetch, probe.address + ".htaccess")
    finally:
        files.remove(probe.path(".htaccess"))
    if plain is not None and plain.status >= 500:
        survey.say("web.htaccess", "read, but the host allows little in it (status 500)", HOW, "heed", "limited")
        survey.say("web.rewriting", "not allowed in .htaccess", HOW, "heed", False)
        return
    honoured = missing is not None and f"{probe.word}-missing" in missing.html
    works = turned is not None and turned.html.strip() == probe.word
    if honoured or works:
        survey.say("web.htaccess", "honoured", HOW, data="honoured")
    else:
        text = "not honoured"
        if itself is not None and "ErrorDocument" in itself.html:
            text += ", and shown to visitors"
        survey.say("web.htaccess", text, HOW, "heed", "ignored")
    survey.say("web.rewriting", "works" if works else "does not work", HOW, "fine" if works else "heed", works)


def tell_links(survey: Survey, files: HostFiles, fetch: Fetch, probe: Probe, beside: str) -> None:
    """Whether the web server follows a link that the login makes out of the document root.

    Args:
        beside: path of a file with the probe's word beside the document root, "" when none can be put there.
    """
    if not beside:
        survey.say("web.links", "cannot be used: nothing can be put beside the document root", HOW, data=False)
    elif not files.capabilities.links:
        survey.say("web.links", "cannot be used: this login makes no links", HOW, data=False)
    else:
        _try_link(survey, files, fetch, probe, beside, HOW, lambda to: files.link(probe.path(LINKED), to))


def tell_links_by_helper(
    survey: Survey, files: HostFiles, helper: Helper, fetch: Fetch, probe: Probe, beside: str
) -> None:
    """The same for a link that PHP makes; the helper works in the document root (0) and in the folder beside it (1)."""

    def make(to: str) -> None:
        inside = f"{posixpath.basename(probe.folder)}/{LINKED}"
        shows = {"shows": 1, "shows_inside": posixpath.basename(beside)}
        helper.call("link", {"folder": 0, "inside": inside, "to": to, **shows})

    _try_link(survey, files, fetch, probe, beside, "helper: tried with a link of ours", make)


def _try_link(
    survey: Survey,
    files: HostFiles,
    fetch: Fetch,
    probe: Probe,
    beside: str,
    how: str,
    make: Callable[[str], object],
) -> None:
    """`make` is given what the link has to say."""
    try:
        make(posixpath.relpath(beside, probe.folder))
    except (TransferError, HelperError) as fault:
        survey.say("web.links", f"cannot be made: {fault.message}", how, data=False)
        return
    try:
        seen = _get(fetch, probe.address + LINKED)
    finally:
        # While it leads somewhere: some servers hide a link that does not, and then the folder cannot be removed.
        files.remove(probe.path(LINKED))
    followed = seen is not None and seen.html.strip() == probe.word
    survey.say("web.links", "are followed" if followed else "are not followed", how, data=followed)


def _get(fetch: Fetch, url: str) -> Snapshot | None:
    try:
        return fetch.get(url)
    except HighShelfError:
        return None
