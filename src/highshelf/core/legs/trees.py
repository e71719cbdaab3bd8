"""Small things that several legs do with files on the host."""

from __future__ import annotations

import posixpath
import re
import shlex
from collections.abc import Sequence
from enum import IntEnum
from typing import Any

from highshelf.core.errors import HighShelfError, MissingFileError, ShellError, SpaceError
from highshelf.core.legs.job import Job
from highshelf.core.placing.crew import do_all, list_tree
from highshelf.core.ports import CancelToken, Entry, HostFiles, Order, Ran, helper_traces

REMOVAL_LANES = 24

# Only what is not right already is changed: a tree that was packed here comes with its modes.
MODES = r"find . \( -type d ! -perm 755 -exec chmod 755 {} + \) -o \( -type f ! -perm 644 -exec chmod 644 {} + \)"
LISTED = "find . -type f -print0 | LC_ALL=C sort -z | xargs -0 -r sha256sum -z --"
HASH_OF_ALL = f"{MODES} && {LISTED} | sha256sum"

# How tar, tee, unzip and PHP say it.
FULL_DISK = re.compile(r"no space left|disk quota exceeded|disk full|write error", re.I)


def entries_or_none(files: HostFiles, path: str) -> list[Entry] | None:
    """A folder's listing, or None when it is not there."""
    try:
        return files.entries(path)
    except MissingFileError:
        return None


def holding_folder(job: Job) -> str:
    """Where the job's files wait: beside the document root, or inside it when nothing beside it can be written."""
    parent = job.place.beside_root if job.plan.holding_beside else job.place.root
    return posixpath.join(parent, f".hs-hold-{job.id[:8]}")


class Reach(IntEnum):
    """The folders in which a job's helper works, by the number that its calls name them with."""

    HOLDING = 0
    PLACE = 1
    ROOT = 2
    APART = 3


def helper_reaches(job: Job) -> tuple[str, ...]:
    """Those folders, as they lie from the document root, in that order; the last two only where links are made."""
    place, hold = job.place, posixpath.basename(holding_folder(job))
    found = {Reach.HOLDING: f"../{hold}" if job.plan.holding_beside else hold, Reach.PLACE: place.folder or "."}
    if place.apart:
        found |= {Reach.ROOT: ".", Reach.APART: posixpath.relpath(place.apart, place.root)}
    return tuple(found[number] for number in sorted(found))


def kept_folder(job: Job) -> str:
    """Where what an installation replaced is kept after it: beside the document root, or inside it."""
    parent = job.place.beside_root if job.plan.holding_beside else job.place.root
    return posixpath.join(parent, f".hs-kept-{job.id[:8]}")


def tree_inside(job: Job) -> str:
    """The release's own files below the holding folder."""
    return posixpath.join("tree", job.contents.wrapper).rstrip("/")


def unpacked_tree(job: Job) -> str:
    return posixpath.join(holding_folder(job), tree_inside(job))


def below(job: Job, inside: str) -> list[Entry]:
    """A folder of the installation, as it lies in the release; of a split one, its root holds what came beside the document root.

    Args:
        inside: as it lies in the release, "" is its root.
    """
    place = job.place
    found = entries_or_none(job.files(), place.path(inside)) or []
    if not place.split or inside:
        return found
    strange = set(job.journal.facts("place", "swap").get("beside_before") or [])
    own = {posixpath.basename(holding_folder(job)), posixpath.basename(kept_folder(job))}
    return [Entry(place.web, "folder", 0), *(e for e in found if e.name not in strange | own)]


def strange_names(job: Job) -> list[str]:
    """Names at the target that are somebody else's: they stood there before, and stayed."""
    facts = job.journal.facts("place", "swap")
    if facts.get("whole"):
        return []
    names: Sequence[str] = (facts.get("before") or {}).get("", [])
    aside = {path.split("/", 1)[0] for path in facts.get("aside") or []}
    return [n for n in names if n not in aside]


def remove_tree(job: Job, path: str) -> None:
    """Remove a folder and everything in it; nothing happens when it is not there.

    Raises:
        TransferError: something in it cannot be removed.
    """
    files = job.files()
    if files.stat(path) is None:
        return
    shell = job.shell()
    if shell is not None and job.way.name.startswith("shell"):
        ran = shell.run(f"rm -rf -- {shlex.quote(path)}")
        if ran.status != 0:
            raise ShellError(f"{path} could not be removed: {ran.complaint.strip()[:200]}")
        return
    if job.way.by_helper and _removed_by_helper(job, path):
        return
    _remove_file_by_file(job, path)


def _removed_by_helper(job: Job, path: str) -> bool:
    """PHP removes in seconds what takes minutes over the line; False when it cannot, or the tree is small or elsewhere."""
    inside = posixpath.relpath(path, holding_folder(job))
    if inside == ".":
        # The holding folder itself is left to the transfer login: the folders in it are what takes long.
        for entry in job.files().entries(path):
            if entry.kind == "folder":
                _removed_by_helper(job, posixpath.join(path, entry.name))
        return False
    if inside.startswith(".."):
        return False
    try:
        while not (answer := job.helper().call("remove", {"folder": Reach.HOLDING, "inside": inside}))["done"]:
            if not answer["removed"]:
                return False
        return True
    except HighShelfError:
        # On a full disk not even the helper can be put there: what it would have removed goes file by file.
        return False


def _remove_file_by_file(job: Job, path: str) -> None:
    """Over as many lanes as the account allows; it is never cancelled, since it cleans up."""
    lanes, never = job.lanes(REMOVAL_LANES), CancelToken()
    # One deep listing may leave something out; then what is left is listed folder by folder.
    left = _removed(lanes, path, never, at_once=True)
    if left is not None and job.files().stat(path) is not None:
        left = _removed(lanes, path, never, at_once=False)
        if left is not None and _php_took_its_own(job, path):
            left = _removed(lanes, path, never, at_once=False)
        if left is not None:
            raise left


def _php_took_its_own(job: Job, path: str) -> bool:
    """What PHP made as another user, in folders of its own, is nobody's to remove but PHP's; False when nothing was."""
    if not job.account.helper or job.values.get("host.other_user") == "no":
        return False
    inside = posixpath.relpath(path, holding_folder(job))
    if inside.startswith(".."):
        return False
    names = [e.name for e in job.files().entries(path) if e.kind == "folder"] if inside == "." else [inside]
    removed = 0
    try:
        for name in names:
            while not (answer := _ask_to_remove(job, name))["done"]:
                removed += int(answer["removed"])
            removed += int(answer["removed"])
    except HighShelfError as fault:
        job.say(f"PHP could not be asked to take away what it made: {fault.message}")
    return removed > 0


def _ask_to_remove(job: Job, inside: str) -> dict[str, Any]:
    answer = job.helper().call("remove", {"folder": Reach.HOLDING, "inside": inside, "own": True})
    # Out of time with nothing removed would be asked for ever.
    return answer if answer["removed"] else {**answer, "done": True}


def _removed(lanes: Sequence[HostFiles], path: str, cancel: CancelToken, *, at_once: bool) -> HighShelfError | None:
    """Remove what a listing tells; the first refusal, but for what is gone already."""
    files, folders = list_tree(lanes, path, cancel, at_once=at_once)
    orders = [Order("remove", posixpath.join(path, name)) for name in sorted(files)]
    deepest_first = sorted(folders, key=lambda f: (-f.count("/") - bool(f), f))
    orders += [Order("remove_folder", posixpath.join(path, name).rstrip("/")) for name in deepest_first]
    said = do_all(lanes, orders, cancel)
    return next((fault for fault in said if fault is not None and not isinstance(fault, MissingFileError)), None)


def take_file_away(job: Job, path: str) -> None:
    """Remove a file that may be gone already."""
    try:
        job.files().remove(path)
    except MissingFileError:
        pass


def clear_leftovers(job: Job) -> None:
    """Remove helpers, probes and folders that an interrupted step left behind; what resists stays listed."""
    files = job.files()
    for path in job.leftovers():
        for name in helper_traces(path):
            there = files.stat(name)
            if there is not None and there.kind == "folder":
                remove_tree(job, name)
            elif there is not None:
                files.remove(name)
        job.gone(path)


def run_or_fail(job: Job, command: str, *, text: str = "", timeout_seconds: float = 600) -> str:
    """Run a command on the host's shell.

    Raises:
        ShellError: no shell, or a status other than 0; the first lines of its complaint are told.
    """
    shell = job.shell()
    if shell is None:
        raise ShellError("this account has no shell")
    ran = shell.run(command, text=text, timeout_seconds=timeout_seconds)
    if ran.status != 0:
        raise command_fault("a command on the host failed", ran)
    return ran.output


def command_fault(what: str, ran: Ran) -> HighShelfError:
    """The error for a command's status: a full disk is no fault of the command."""
    told = (ran.complaint or ran.output).strip()[:300]
    if FULL_DISK.search(told):
        hint = "make room on the account, or ask the host for more"
        return SpaceError(f"the disk is full or the account's quota is used up: {told}", hint=hint)
    return ShellError(f"{what} (status {ran.status}): {told}")


# The bit by which an owner may write (chmod(2)).
OWNER_WRITES = 0o200


def write_unlocked(files: HostFiles, path: str, content: bytes, mode: int | None) -> None:
    """Write a file that is there and give it this mode; a locked one is unlocked for the moment of writing alone. None keeps its mode."""
    there = files.stat(path)
    has = there.mode if there is not None else None
    wanted = has if mode is None else mode
    unlocked = None if wanted is None else wanted | OWNER_WRITES
    if has is not None and unlocked is not None and not has & OWNER_WRITES:
        files.chmod(path, unlocked)
    files.write(path, content, unlocked)
    if wanted is not None and unlocked != wanted:
        files.chmod(path, wanted)
