"""A release whose web folder lies below its root: the place's address shows that folder, and the rest of it is not served.

Rules:
1. Where the last check saw links at work, and something can stand beside the document root, the release stands there as a whole, and the
   address shows its web folder by links: one, where nothing stands at the place, else one for every name in the web folder. The login
   makes them, or PHP through the helper.
2. Else, where the account's last check saw rules and rewriting in `.htaccess` at work, a file of ours above the web folder leads every address
   into it.
3. Else, where the account was checked and the place is a document root, what lies in the web folder comes into it, and the rest of the
   release into the folder above it: unless PHP was seen not to read there, a site shows that folder, or a name is taken in it.
4. Else the release stands as it is, and the plan says what is served.
5. A release that brings an `.htaccess` of its own up there knows better; and beside somebody else's files nothing is led away.
6. If rewriting is switched off later, the server refuses every address there: nothing of the rest is shown.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from highshelf.core.placing.furniture import FURNITURE
from highshelf.core.placing.packages import AUTOLOAD

RULES_FILE = ".htaccess"
# Servers that confine a login to the folder it lands in guard what they themselves load below it.
GUARDED = frozenset({"etc", "lib"})
Showing = Literal["links", "rules", "split", "root"]


def leads(web_folder: str, paths: Collection[str], facts: Mapping[str, Any], if_there: str) -> bool:
    """Whether rules of ours will lead into the web folder.

    Args:
        paths: the release's files; facts: the account's, as its last check kept them; if_there: as in a plan.
    """
    works = facts.get("web.htaccess") == "honoured" and facts.get("web.rewriting") is True
    return bool(web_folder) and works and RULES_FILE not in paths and if_there not in ("beside", "merge")


@dataclass(frozen=True)
class Beside:
    """The folder that holds the document root.

    Attributes:
        free: no site shows it.
        reads: whether PHP may read what lies in it; None where nobody has looked.
        lands: the login lands in it.
    """

    free: bool
    reads: bool | None
    lands: bool


def php_reads(path: str, confined_to: Collection[str] | None) -> bool | None:
    """Whether PHP may read a folder, given as PHP sees it ("": nobody knows), from its `open_basedir`; None: nobody has looked."""
    if not confined_to:
        return None if confined_to is None else True
    return any((path + "/").startswith(folder.rstrip("/") + "/") for folder in confined_to) if path else False


def ways_to_show(
    web_folder: str,
    paths: Collection[str],
    facts: Mapping[str, Any],
    if_there: str,
    beside: Beside,
    *,
    at_root: bool,
    may_link: bool,
) -> list[Showing]:
    """How the place's address can come to show the web folder, the best first; at the end always `root`: not at all.

    Args:
        paths, facts, if_there: as of `leads`.
        at_root: the place is the document root itself, not a folder in it.
        may_link: somebody may make links, as things are now.
    """
    if not web_folder:
        return ["root"]
    found: list[Showing] = []
    untouched = beside.free and if_there == ""
    if untouched and may_link and facts.get("web.links") is True and beside.reads is not False:
        found.append("links")
    if leads(web_folder, paths, facts, if_there):
        found.append("rules")
    # The release's root has to be the folder right above its web folder: its code goes up one step.
    guarded = beside.lands and GUARDED & set(rest_of(paths, web_folder))
    checked = "web.htaccess" in facts and beside.reads is not False
    if untouched and checked and at_root and "/" not in web_folder and not guarded:
        found.append("split")
    return [*found, "root"]


def rest_of(paths: Iterable[str], web_folder: str, packages: str = "") -> list[str]:
    """The names at the release's root but for its web folder."""
    return sorted({p.split("/", 1)[0] for p in [*paths, *([AUTOLOAD] if packages else [])]} - {web_folder})


def brought(paths: Iterable[str], web_folder: str, shown: Showing, packages: str = "") -> list[str]:
    """What comes to the target itself: the release's files with our rules, what lies in its web folder, or the names of links.

    Args:
        web_folder: of the release; packages: as in a plan.
    """
    if shown in ("root", "rules"):
        return [*paths, *([RULES_FILE] if shown == "rules" else []), *([AUTOLOAD] if packages else [])]
    inside = web_folder + "/"
    found = [p.removeprefix(inside) for p in paths if p.startswith(inside)]
    return found if shown == "split" else sorted({p.split("/", 1)[0] for p in found})


def rules(web_folder: str) -> bytes:
    """The text of the file above the web folder. What is the host's own, and what High Shelf asks for itself, is reached as before."""
    folder = re.escape(web_folder)
    own = "|".join(re.escape(name) for name in sorted(FURNITURE))
    return (
        f"# Put here by High Shelf: visitors see only the folder {web_folder}/ of this application, at the address of this one.\n"
        "RewriteEngine On\n"
        f"RewriteRule ^({folder}|{own})(/|$) - [L]\n"
        r"RewriteRule ^hs-[0-9a-f]{24}[^/]*$ - [L]" + "\n"
        f'RewriteRule ^(.*)$ "{web_folder}/$1" [L]\n'
    ).encode()
