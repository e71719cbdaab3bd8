"""What stands at the target, and whether an installation may go there."""

from __future__ import annotations

import hashlib
import posixpath
import re
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field, replace

from highshelf.core.errors import TargetError
from highshelf.core.places import Place
from highshelf.core.placing.furniture import FURNITURE, OURS, PLACEHOLDERS
from highshelf.core.placing.swapping import IfThere, Swap, Tree, plan_swap
from highshelf.core.ports import Entry

# A page the host puts into an empty document root says so, in a few words of its customers' languages.
PLACEHOLDER_WORDS = re.compile(
    r"reserved|coming soon|under construction|parked|placeholder|default (web ?)?page|will be here|webspace|web space|it works|"
    r"im aufbau|platzhalter|reserviert|hier entsteht|en construction|r[eé]serv[eé]|en construcci[oó]n|pr[oó]ximamente|reservado",
    re.I,
)
PLACEHOLDER_BYTES = 16_384
APPLICATION_MARKS = re.compile(
    r"(^index\.php$|\.php$|^composer\.json$|^\.htaccess$|^vendor$|^(config|settings)[\w.-]*$)", re.I
)


@dataclass(frozen=True)
class Target:
    """What was seen: whether the folder is there, the host's furniture that stays, placeholders that step aside.

    `others` is what else stands there; `swap` is what will move, where the release was known.
    """

    exists: bool
    furniture: tuple[str, ...]
    placeholders: tuple[str, ...]
    fingerprint: str
    others: tuple[str, ...] = ()
    swap: Swap = field(default_factory=Swap)


def describe_target(path: str, target: Target) -> str:
    """What stands at the place, in a sentence for people."""
    if not target.exists:
        return f"nothing: the folder {path} will be made"
    parts = [f"{target.placeholders[0]} (the host's placeholder page, it steps aside)"] if target.placeholders else []
    if target.others:
        parts.append(f"{len(target.others)} other files and folders ({_names(target.others)})")
    if target.furniture:
        parts.append(", ".join(target.furniture) + " (the host's own, stays)")
    return "; ".join(parts) or f"the folder {path}, empty"


def fingerprint_of(entries: Sequence[Entry] | None) -> str:
    """A short hash of a folder's listing, to tell whether something changed; None is a folder that is not there."""
    if entries is None:
        return "absent"
    seen = [e for e in entries if not OURS.fullmatch(e.name)]
    lines = sorted(f"{e.name}\0{e.kind}\0{e.size_bytes if e.kind == 'file' else ''}" for e in seen)
    return hashlib.sha256("\n".join(lines).encode()).hexdigest()[:16]


def judge_target(
    path: str,
    entries: Sequence[Entry] | None,
    read: Callable[[str], bytes],
    *,
    if_there: IfThere = "",
    known: str = "",
) -> Target:
    """Look at a listing and say what may stay and what steps aside.

    Args:
        if_there: what the administrator chose for what stands there; "" refuses it.
        known: the application that stands there, where it is known by name.

    Raises:
        TargetError: something stands there that is not the host's furniture; nothing was touched.
    """
    if entries is None:
        return Target(False, (), (), fingerprint_of(None))
    furniture, placeholders, foreign = [], [], []
    for entry in sorted(entries, key=lambda e: e.name):
        if entry.name in FURNITURE:
            furniture.append(entry.name)
        elif OURS.fullmatch(entry.name):
            continue
        elif entry.name in PLACEHOLDERS and entry.kind == "file" and _is_placeholder(entry, read):
            placeholders.append(entry.name)
        else:
            foreign.append(entry)
    if foreign and not if_there:
        raise TargetError(
            f"{path} is not empty: {_describe(foreign, known)}",
            hint="choose another place; or say what is to become of it: beside (it stays, the release may bring no name that is taken), "
            "merge (a file that both have steps aside) or replace (all of it steps aside); what steps aside is kept",
            entries=[e.name for e in foreign[:20]],
        )
    others = tuple(e.name + ("/" if e.kind == "folder" else "") for e in foreign)
    return Target(True, tuple(furniture), tuple(placeholders), fingerprint_of(entries), others)


def look_at(
    place: Place,
    listing: Callable[[str], list[Entry] | None],
    read: Callable[[str], bytes],
    wanted: Tree,
    if_there: IfThere = "",
    *,
    own: Collection[str] = (),
    known: Callable[[Sequence[Entry]], str] = lambda _: "",
) -> Target:
    """What stands at a place, and what a swap would move there.

    Args:
        listing, read: a folder's entries (None: not there) and a file's first bytes, by path as the login sees it.
        wanted: the release, as `swapping.tree_of` makes it.
        own: names that come and go with this very job.
        known: names the application that stands there, from its entries.

    Raises:
        TargetError: what stands there forbids it.
    """
    path = place.target
    entries = listing(path)
    if entries is not None:
        entries = [e for e in entries if e.name not in own]
    if entries is None:
        return judge_target(path, None, read)
    name = known(entries) if not if_there else ""
    target = judge_target(path, entries, lambda name: read(posixpath.join(path, name)), if_there=if_there, known=name)
    seen = [e.name for e in entries if OURS.fullmatch(e.name)]

    def below(folder: str) -> list[Entry]:
        return (listing(posixpath.join(path, folder)) or []) if folder else entries

    swap = plan_swap(wanted, below, target.placeholders, if_there, seen)
    prints = target.fingerprint + (f"-{swap.fingerprint}" if swap.fingerprint else "")
    return replace(target, swap=swap, fingerprint=prints)


def _is_placeholder(entry: Entry, read: Callable[[str], bytes]) -> bool:
    if entry.size_bytes > PLACEHOLDER_BYTES:
        return False
    return bool(PLACEHOLDER_WORDS.search(read(entry.name).decode("utf-8", "replace")))


def _names(names: Sequence[str]) -> str:
    more = f" and {len(names) - 6} more" if len(names) > 6 else ""
    return ", ".join(names[:6]) + more


def _describe(foreign: Sequence[Entry], known: str) -> str:
    names = _names([e.name + ("/" if e.kind == "folder" else "") for e in foreign])
    if known:
        return f"another application stands there: {known} ({names})"
    looks = (
        "another application stands there"
        if any(APPLICATION_MARKS.search(e.name) for e in foreign)
        else "other files stand there"
    )
    return f"{looks} ({names})"
