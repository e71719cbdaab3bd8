"""Swap: what steps aside is kept, what was prepared comes in by rename, front pages last; and the way back.

Rules:
1. What moves is settled and journalled before the first move; what moved already is told by where it is now.
2. What steps aside is moved, never copied or removed: its time, mode and owner come back with it.
3. Placeholder pages wait in the holding folder and are in the journal as well. All else waits in a folder of its own that outlives
   the job, outside what the web serves where that can be.
4. Taking back takes out what came in and what the application can have made since. A page, or a folder with one, that nothing of the
   release explains is somebody else's: it stays, and is told.
"""

from __future__ import annotations

import base64
import posixpath
import re
from collections import defaultdict
from typing import Any

from highshelf.core.errors import LineDroppedError, MissingFileError, TargetError, TransferError
from highshelf.core.legs.job import Done, Job, Result
from highshelf.core.legs.survey import look_at_target, rest_beside, what_comes
from highshelf.core.legs.trees import Reach, entries_or_none, holding_folder, kept_folder, remove_tree, unpacked_tree
from highshelf.core.placing.inspecting import is_configuration
from highshelf.core.placing.target import Target
from highshelf.core.ports import Entry

# PHP's own log, settings that applications write for it, and rules for the web server.
MADE_BY_PHP = ("error_log", "php_errorlog", ".user.ini", ".htaccess")
PAGES = re.compile(r"(^index\.\w+|\.html?)$", re.I)
DENY = b"<IfModule mod_authz_core.c>\nRequire all denied\n</IfModule>\n<IfModule !mod_authz_core.c>\nDeny from all\n</IfModule>\n"


def swap(job: Job) -> Result:
    place = job.place
    facts = job.journal.facts("place", "swap")
    fresh = not facts
    if fresh:
        # The holding folder stands beside or in the document root: that is there.
        facts = _settled(job, look_at_target(job, with_root=False))
        job.journal.intend("place", "swap", facts)
    if place.apart:
        _stand_apart(job)
    if facts["whole"]:
        _swap_whole(job, facts, fresh=fresh)
        told = f"swapped into {place.target} in one move"
    else:
        _step_aside(job, facts)
        _come_in(job, facts)
        told = f"swapped into {place.target}: {len(facts['come'])} entries, the front page last"
    if place.apart:
        told += f"; they are links to {place.apart}/{place.web}"
    if facts.get("beside"):
        told += f"; the rest of the release, {len(facts['beside'])} entries, stands beside it"
    if facts["kept"]:
        told += f"; {_count(facts)} that stood there wait in {facts['kept']}"
    return Done(told, facts)


def _count(facts: dict[str, Any]) -> str:
    count = 1 if facts["whole"] else len(set(facts["aside"]) - set(facts["placeholders"]))
    return "1 entry" if count == 1 else f"{count} entries"


def _settled(job: Job, target: Target) -> dict[str, Any]:
    files, place = job.files(), job.place
    listed = entries_or_none(files, place.target) if target.placeholders else None
    there = {e.name: e for e in listed or []}
    kept = {n: base64.b64encode(files.read(posixpath.join(place.target, n))).decode() for n in target.placeholders}
    # A folder below the document root is replaced in one move: what is called as the host's own is the old application's there.
    old_whole = job.plan.if_there == "replace" and bool(place.folder) and target.exists
    aside = target.swap.aside
    keeps = old_whole or bool(set(aside) - set(kept))
    return {
        **(_settled_beside(job) if place.split else {}),
        "whole": not target.exists or old_whole,
        "old_whole": old_whole,
        "placeholders": kept,
        "modes": {n: there[n].mode for n in kept if n in there},
        "before": {folder: list(names) for folder, names in target.swap.before.items()},
        "aside": list(aside),
        "come": list(target.swap.come),
        "made": _missing_parents(job),
        "kept": kept_folder(job) if keeps else "",
    }


def _settled_beside(job: Job) -> dict[str, Any]:
    """What comes to stand beside the document root, and what stood there."""
    own = posixpath.basename(holding_folder(job))
    names = [e.name for e in entries_or_none(job.files(), job.place.beside_root) or [] if e.name != own]
    return {"beside": rest_beside(job), "beside_before": sorted(names)}


def _source(job: Job) -> str:
    """What comes to the target lies here until it does."""
    return posixpath.join(unpacked_tree(job), job.place.web) if job.place.split else unpacked_tree(job)


def _missing_parents(job: Job) -> list[str]:
    """Folders between the document root and the target that have to be made, outermost first."""
    parts = job.place.folder.split("/")[:-1] if job.place.folder else []
    paths = [posixpath.join(job.place.root, *parts[: i + 1]) for i in range(len(parts))]
    return [p for p in paths if job.files().stat(p) is None]


def _stand_apart(job: Job) -> None:
    """The release comes to stand beside the document root; links will show its web folder."""
    if job.files().stat(job.place.apart) is None:
        job.files().rename(unpacked_tree(job), job.place.apart)


def aside_again(job: Job, facts: dict[str, Any]) -> None:
    """What stepped aside before, as far as it stands there, steps aside once more."""
    _step_aside(job, facts)


def link_again(job: Job, facts: dict[str, Any]) -> None:
    """The links that show what stands beside the document root, as far as they are not there."""
    target = job.place.target
    if facts["whole"]:
        above, name = posixpath.split(target)
        if name not in _links_in(job, above):
            _link(job, target, "")
        return
    there = _links_in(job, target)
    for name in facts["come"]:
        if name not in there:
            _link(job, posixpath.join(target, name), name)


def _link(job: Job, path: str, inside: str) -> None:
    """A link at a path below the document root to something inside the web folder: by the login where that can, else by PHP.

    Raises:
        TransferError, HelperError: neither can, or something stands there.
    """
    files, place = job.files(), job.place
    shows = posixpath.join(place.web, inside).rstrip("/")
    to = posixpath.relpath(posixpath.join(place.apart, shows), posixpath.dirname(path))
    if files.capabilities.links:
        try:
            return files.link(path, to)
        except LineDroppedError:
            raise
        except TransferError:
            if not job.account.helper:
                raise
    made = {"folder": Reach.ROOT, "inside": posixpath.relpath(path, place.root)}
    job.helper().call("link", {**made, "to": to, "shows": Reach.APART, "shows_inside": shows})
    return None


def _links_in(job: Job, folder: str) -> set[str]:
    return {e.name for e in entries_or_none(job.files(), folder) or [] if e.kind == "link"}


def _swap_whole(job: Job, facts: dict[str, Any], *, fresh: bool) -> None:
    """One move. `fresh`: the target was looked at a moment ago, and nothing of ours can have moved yet."""
    files, place = job.files(), job.place
    for parent in facts["made"]:
        make_if_missing(job, parent)
    if facts["old_whole"] and files.stat(unpacked_tree(job)) is not None:
        old = posixpath.join(facts["kept"], "whole")
        make_kept_folder(job, facts["kept"])
        if files.stat(old) is None:
            files.rename(place.target, old)
    if fresh or files.stat(place.target) is None:
        if place.apart:
            _link(job, place.target, "")
        else:
            files.rename(unpacked_tree(job), place.target)
    elif not _came_in_whole(job):
        _stays_free(job, posixpath.dirname(place.target), {posixpath.basename(place.target)})


def _came_in_whole(job: Job) -> bool:
    """Whether it is ours that stands at the target: our link, or the tree that waits no more."""
    above, name = posixpath.split(job.place.target)
    return name in _links_in(job, above) if job.place.apart else job.files().stat(unpacked_tree(job)) is None


def make_if_missing(job: Job, path: str) -> None:
    if job.files().stat(path) is None:
        job.files().make_folder(path)


def make_kept_folder(job: Job, path: str) -> None:
    make_if_missing(job, path)
    if not job.plan.holding_beside:
        job.files().write(posixpath.join(path, ".htaccess"), DENY, 0o644)


def _aside_path(job: Job, facts: dict[str, Any], path: str) -> str:
    if path in facts["placeholders"]:
        return posixpath.join(holding_folder(job), "aside-" + path)
    return posixpath.join(facts["kept"], "old", path)


def _step_aside(job: Job, facts: dict[str, Any]) -> None:
    files, target = job.files(), job.place.target
    for path in facts["aside"]:
        away = _aside_path(job, facts, path)
        if files.stat(away) is not None or files.stat(posixpath.join(target, path)) is None:
            continue
        if path not in facts["placeholders"]:
            make_kept_folder(job, facts["kept"])
            _make_way(job, facts["kept"], posixpath.relpath(posixpath.dirname(away), facts["kept"]))
        files.rename(posixpath.join(target, path), away)


def _make_way(job: Job, base: str, below: str) -> None:
    """All folders of a path below a base."""
    path = base
    for part in below.split("/"):
        if part not in ("", "."):
            path = posixpath.join(path, part)
            make_if_missing(job, path)


def _come_in(job: Job, facts: dict[str, Any]) -> None:
    files, target, source = job.files(), job.place.target, _source(job)
    _come_beside(job, facts)
    if job.place.apart:
        link_again(job, facts)
        return
    waiting: dict[str, set[str]] = {}
    coming: dict[str, set[str]] = defaultdict(set)
    for path in facts["come"]:
        coming[posixpath.dirname(path)].add(posixpath.basename(path))
    for path in facts["come"]:
        folder, name = posixpath.split(path)
        if folder not in waiting:
            waiting[folder] = {e.name for e in entries_or_none(files, posixpath.join(source, folder).rstrip("/")) or []}
            _stays_free(job, posixpath.join(target, folder).rstrip("/"), waiting[folder] & coming[folder])
        # What is not in the holding folder any more came in already.
        if name in waiting[folder]:
            files.rename(posixpath.join(source, path), posixpath.join(target, path))


def _come_beside(job: Job, facts: dict[str, Any]) -> None:
    """What the front page will ask for stands there before it."""
    files, source = job.files(), unpacked_tree(job)
    if not facts.get("beside"):
        return
    waiting = {e.name for e in entries_or_none(files, source) or []} & set(facts["beside"])
    _stays_free(job, job.place.beside_root, waiting)
    for name in sorted(waiting):
        files.rename(posixpath.join(source, name), posixpath.join(job.place.beside_root, name))


def _stays_free(job: Job, folder: str, names: set[str]) -> None:
    """Raise TargetError where somebody put something in the way meanwhile: a server may rename over a file without a word."""
    taken = sorted(names & {e.name for e in entries_or_none(job.files(), folder) or []}) if names else []
    if taken:
        told = f"{', '.join(taken[:5])} came to stand in {folder or 'the folder that the login lands in'} while the job ran"
        raise TargetError(told, hint="it is not touched: make a new plan and look at it")


def unswap(job: Job, facts: dict[str, Any]) -> None:
    """Take out what came in (and what the application made since), put back what stepped aside."""
    files, hold_path = job.files(), holding_folder(job)
    if files.stat(hold_path) is None:
        files.make_folder(hold_path)
        if not job.plan.holding_beside:
            files.write(posixpath.join(hold_path, ".htaccess"), DENY, 0o644)
    if facts["whole"]:
        left = _take_whole_out(job, facts)
    else:
        _take_out(job, facts)
        _take_out_beside(job, facts)
        left = _put_back(job, facts)
    if job.place.apart:
        _take_apart_out(job)
    if left:
        job.say(
            f"{', '.join(left)} could not come back, since something else stands there now: it waits in {facts['kept']}"
        )
    elif facts.get("kept"):
        remove_tree(job, facts["kept"])


def _take_apart_out(job: Job) -> None:
    """What stands beside the document root goes back, when it came from the holding folder at all."""
    files = job.files()
    if files.stat(unpacked_tree(job)) is None and files.stat(job.place.apart) is not None:
        files.rename(job.place.apart, _free(job, posixpath.join(holding_folder(job), "apart")))


def _take_whole_out(job: Job, facts: dict[str, Any]) -> list[str]:
    """Our folder or link goes, what stood there comes back. Returns what cannot, because somebody else's stands there by now."""
    files, place = job.files(), job.place
    undone = posixpath.join(holding_folder(job), "undone")
    old = posixpath.join(facts["kept"], "whole") if facts.get("old_whole") else ""
    if old and files.stat(old) is None:
        # It never stepped aside, or is back already.
        return []
    # Whatever else stands there by now is not ours.
    ours = _came_in_whole(job)
    if ours and place.apart:
        files.remove(place.target)
    elif ours and files.stat(place.target) is not None and files.stat(undone) is None:
        files.rename(place.target, undone)
    if old and files.stat(place.target) is not None:
        return [place.target]
    if old:
        files.rename(old, place.target)
    for parent in reversed(facts["made"]):
        if not entries_or_none(files, parent):
            _remove_if_there(job, parent)
    return []


def _take_out(job: Job, facts: dict[str, Any]) -> None:
    """Folder by folder, the deepest first: what was not there before goes; what stepped aside and came back stays."""
    files, target = job.files(), job.place.target
    undone = posixpath.join(holding_folder(job), "undone")
    make_if_missing(job, undone)
    ours = {posixpath.basename(holding_folder(job)), posixpath.basename(facts["kept"])}
    away: dict[str, set[str]] = defaultdict(set)
    for path in facts["aside"]:
        if files.stat(_aside_path(job, facts, path)) is not None:
            away[posixpath.dirname(path)].add(posixpath.basename(path))
    come = set(facts["come"])
    waiting: dict[str, set[str]] = {}
    for folder in sorted(facts["before"], key=lambda f: -f.count("/") - bool(f)):
        stays = set(facts["before"][folder]) - away[folder]
        source = posixpath.join(_source(job), folder).rstrip("/")
        waiting[folder] = {e.name for e in entries_or_none(files, source) or []}
        for entry in entries_or_none(files, posixpath.join(target, folder).rstrip("/")) or []:
            path = posixpath.join(folder, entry.name)
            # A placeholder whose copy aside was lost: what stands there came in when it waits in the holding folder no more.
            came_in = (
                path in come and entry.name not in waiting[folder] and (not job.place.apart or entry.kind == "link")
            )
            lost = path in facts["placeholders"] and path in come and came_in
            if (not folder and entry.name in ours) or (entry.name in stays and not lost):
                continue
            # Where the release's own still waits, or a link was to come, this is somebody else's, whatever it is called.
            foreign = path in come and not came_in
            made = came_in or lost or _explained(job, path)
            if foreign or (not made and _is_a_page(job, entry, posixpath.join(target, path))):
                job.say(f"{posixpath.join(target, path)} came while the job ran and is not the application's: it stays")
                continue
            if job.place.apart and came_in:
                # Not moved: where it leads nowhere, some servers show it to nobody.
                files.remove(posixpath.join(target, path))
                continue
            _make_way(job, undone, folder)
            files.rename(posixpath.join(target, path), _free(job, posixpath.join(undone, path)))


def _take_out_beside(job: Job, facts: dict[str, Any]) -> None:
    """What came to stand beside the document root, and what the application can have made there since."""
    if "beside" not in facts:
        return
    files, base = job.files(), job.place.beside_root
    undone = posixpath.join(holding_folder(job), "undone-beside")
    make_if_missing(job, undone)
    stays = {*facts["beside_before"], *(posixpath.basename(p) for p in (holding_folder(job), facts["kept"]))}
    waiting = {e.name for e in entries_or_none(files, unpacked_tree(job)) or []} & set(facts["beside"])
    for entry in entries_or_none(files, base) or []:
        ours = entry.name in facts["beside"] and entry.name not in waiting
        # As long as some of it waits, the application cannot have run: what is called as its own is somebody else's.
        made = not waiting and _is_made(job, entry.name)
        if entry.name not in stays and (ours or made):
            files.rename(posixpath.join(base, entry.name), _free(job, posixpath.join(undone, entry.name)))


def _is_a_page(job: Job, entry: Entry, path: str) -> bool:
    """A page for visitors, or a folder with a front page: what people upload. Installers drop other things."""
    if entry.kind == "folder":
        return any(PAGES.search(e.name) for e in entries_or_none(job.files(), path) or [])
    return bool(PAGES.search(entry.name))


def _explained(job: Job, path: str) -> bool:
    """Whether the application may have made it: somebody else's upload in the same folder is not ours to take out."""
    tops = {p.split("/", 1)[0] for p in what_comes(job)}
    inside = posixpath.join(job.place.web, path) if job.place.split else path
    return _is_made(job, inside) or _is_below(path, [*tops, *MADE_BY_PHP])


def _is_made(job: Job, inside: str) -> bool:
    """Whether it is called as what this application makes; given as it lies in the release."""
    known = (job.values.get("configuration.files") or "").split("\n")
    return is_configuration(inside) or _is_below(inside, [*job.findings.writable, *known])


def _is_below(path: str, places: list[str]) -> bool:
    return any(path == p.rstrip("/") or path.startswith(p.rstrip("/") + "/") for p in places if p)


def _free(job: Job, path: str) -> str:
    """The path, or one beside it when an earlier try to take back left something there."""
    number = 0
    while job.files().stat(found := f"{path}.{number}" if number else path) is not None:
        number += 1
    return found


def _put_back(job: Job, facts: dict[str, Any]) -> list[str]:
    """What stepped aside comes back. Returns what cannot, because somebody else's stands there by now."""
    files, target = job.files(), job.place.target
    left = []
    for path in facts["aside"]:
        stands, away = posixpath.join(target, path), _aside_path(job, facts, path)
        if files.stat(stands) is not None:
            if path not in facts["placeholders"] and files.stat(away) is not None:
                left.append(path)
        elif files.stat(away) is not None:
            files.rename(away, stands)
        elif path in facts["placeholders"]:
            mode = facts["modes"].get(path) or 0o644
            files.write(stands, base64.b64decode(facts["placeholders"][path]), mode)
    return left


def _remove_if_there(job: Job, folder: str) -> None:
    try:
        job.files().remove_folder(folder)
    except MissingFileError:
        pass
