"""A release whose web folder lies below its root: the place's address shows that folder, and the rest of it is not served.

Rules:
1. Where the last check saw links at work, and something can stand beside the document root, the release stands there as a whole, and the
   address shows its web folder by links: one, where nothing stands at the place, else one for every name in the web folder. The login
   makes them, or PHP through the helper.
2. Else, where the account's last check saw rules and rewriting in `.htaccess` at work, a file of ours above the web folder leads every address
   into it. Where it did not, the release stands as it is, and the plan says what is served.
3. A release that brings an `.htaccess` of its own up there knows better; and beside somebody else's files nothing is led away.
4. If rewriting is switched off later, the server refuses every address there: nothing of the rest is shown.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Mapping
from typing import Any

from highshelf.core.placing.furniture import FURNITURE
from highshelf.core.placing.packages import AUTOLOAD

RULES_FILE = ".htaccess"


def leads(web_folder: str, paths: Collection[str], facts: Mapping[str, Any], if_there: str) -> bool:
    """Whether rules of ours will lead into the web folder.

    Args:
        paths: the release's files; facts: the account's, as its last check kept them; if_there: as in a plan.
    """
    works = facts.get("web.htaccess") == "honoured" and facts.get("web.rewriting") is True
    return bool(web_folder) and works and RULES_FILE not in paths and if_there not in ("beside", "merge")


def links(web_folder: str, facts: Mapping[str, Any], if_there: str, *, by_login: bool, by_helper: bool) -> bool:
    """Whether links will show the web folder, and the release's root stands outside what is served. Arguments as of `leads`.

    Args:
        by_login, by_helper: who may make links, as things are now.
    """
    confined = bool(facts.get("php.basedir"))
    seen = facts.get("web.links") is True and (by_login or by_helper)
    return bool(web_folder) and seen and not confined and if_there == ""


def brought(paths: Iterable[str], web_folder: str, *, apart: bool, packages: str = "") -> list[str]:
    """What comes to the target itself: the release's files with our rules, or the names of links.

    Args:
        web_folder: what the address will show, "" for the release's root; apart: by links.
        packages: as in a plan.
    """
    if not apart:
        return [*paths, *([RULES_FILE] if web_folder else []), *([AUTOLOAD] if packages else [])]
    inside = web_folder + "/"
    return sorted({p.removeprefix(inside).split("/", 1)[0] for p in paths if p.startswith(inside)})


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
