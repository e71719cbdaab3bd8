"""How a place's address comes to show the web folder of a release: what is known of the account, and what a look at it says."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Collection, Iterable
from itertools import chain, count

from highshelf.core.places import Place, Site, Views, tidy
from highshelf.core.placing.web import Beside, Showing, php_reads
from highshelf.store.tables import AccountRow


def beside_of(row: AccountRow, roots: Iterable[str], place: Place) -> Beside:
    """What is known of the folder that holds the document root.

    Args:
        roots: every document root of the account; "" is one that is not known.
    """
    path = tidy(place.beside_root)
    views = Views(row.root, "", row.places).all(path, "")
    by_php = next((view.path for view in views if view.view == "php"), "")
    free = bool(tidy(place.root)) and not any(Site(root, "").holds(path) for root in roots if root)
    return Beside(free, php_reads(by_php, row.facts.get("php.basedir")), lands=not path)


def fits(showing: Showing, *, beside: bool, taken: Collection[str]) -> bool:
    """Whether it can be so, now that somebody has looked: `beside` can be written, and what the release wants there is not taken."""
    return showing in ("rules", "root") or (beside and (showing == "links" or not taken))


def free_beside(place: Place, application: str, taken: Collection[str]) -> str:
    """A folder beside the document root that is not there yet, called as the application is."""
    name = re.sub(r"[^a-z0-9]+", "-", application.lower()).strip("-") or "application"
    free = next(n for n in chain([name], (f"{name}-{i}" for i in count(2))) if n not in taken)
    return posixpath.join(place.beside_root, free)


def where_beside(place: Place) -> str:
    """The folder that holds the document root, for people."""
    return place.beside_root or "the folder that the login lands in"


def warnings_of(showing: Showing, web_folder: str, place: Place, beside: Beside, taken: Collection[str]) -> list[str]:
    """What an administrator should know of it.

    Args:
        web_folder: of the release, "" without; taken: the names of its rest that stand beside the document root already.
    """
    if not web_folder or showing in ("links", "rules"):
        return []
    called = posixpath.basename(place.root.rstrip("/"))
    if showing == "split":
        unread = (
            f"nobody has looked whether PHP may read what lies in {where_beside(place)}: where it may not, the application does "
            "not work there, and the job takes everything back"
        )
        renamed = (
            f"the release calls its web folder {web_folder}, here it is {called}: code of it that looks for {web_folder}/ by name, "
            "from outside, does not find it. The proof looks at the pages; look at what is uploaded or made later yourself"
        )
        return [*([unread] if beside.reads is None else []), *([renamed] if called != web_folder else [])]
    stands = (
        f" ({', '.join(sorted(taken)[:3])} cannot come to stand beside {called}: that is there already)"
        if taken
        else ""
    )
    return [
        f"the web is to see only {web_folder}/ of this release, and here it sees all of {place.target}: "
        f"the application's address will be {place.address}{web_folder}/{stands}. Where the account's check finds that .htaccess and "
        "rewriting work, High Shelf leads the address into it; or let the panel point the site at that folder"
    ]
