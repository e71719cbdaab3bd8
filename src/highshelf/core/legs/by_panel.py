"""The archive goes up through the control panel, which unpacks it: for hosts with neither a shell nor a PHP that may do it.

Rules:
1. Panels unpack an archive where it lies: for that long it is moved into the tree, and out again before anything is compared.
2. Some panels unpack behind the visitor's back: what has appeared is counted until all is there, or nothing more comes.
3. A panel cannot go on with half a file: what was cut off goes up again.
"""

from __future__ import annotations

import posixpath

from highshelf.core.errors import FetchError, MissingFileError, PanelError
from highshelf.core.legs.carrying import LANES, Teller
from highshelf.core.legs.job import Done, Job, More, Result
from highshelf.core.legs.trees import holding_folder
from highshelf.core.placing.crew import list_tree
from highshelf.core.sizes import size_text

LOOK_SECONDS = 1.0
# A panel that works behind one's back begins within this time, and lets no longer pass between two files.
SILENT_LOOKS = 15


def carry_by_panel(job: Job, name: str) -> Result:
    """Raises PanelError when the panel does not take it, or something else has arrived."""
    folder = holding_folder(job)
    with job.archive(job.way.archive) as archive:
        size = archive.seek(0, 2)
        archive.seek(0)
        teller = Teller(job, size)
        source = job.pace().reader(archive)
        try:
            job.panel().send_file(folder, name, source, size, progress=teller, cancel=job.cancel)
        except FetchError as fault:
            raise PanelError(f"the panel did not take the archive: {fault.message}", hint=fault.hint) from None
    there = job.files().stat(posixpath.join(folder, name))
    if there is None or there.size_bytes != size:
        seen = "it is not there" if there is None else f"{there.size_bytes} bytes of it are there"
        raise PanelError(
            f"the panel took the archive of {size} bytes, and in {folder} {seen}",
            hint="does the panel see the same folders as the transfer login? look at it by hand",
        )
    return Done(f"archive of {size_text(size)} brought over through the panel in {teller.ended()}", {"bytes": size})


def unpack_by_panel(job: Job, name: str) -> Result:
    """Raises PanelError when the panel refuses, or stops before all files are there."""
    facts = job.journal.facts("place", "unpack")
    tree = posixpath.join(holding_folder(job), "tree")
    if not facts.get("asked"):
        _move(job, posixpath.join(holding_folder(job), name), posixpath.join(tree, name))
        try:
            job.panel().unpack(tree, name)
        except (PanelError, FetchError) as fault:
            _move(job, posixpath.join(tree, name), posixpath.join(holding_folder(job), name))
            raise PanelError(fault.message, hint=fault.hint, **fault.context) from None
        facts = {"asked": True, "files": 0, "silent": 0}
        job.journal.keep("place", "unpack", facts)
    wanted = len(job.contents.files)
    there = _count(job, tree, name, wanted)
    if there < wanted and facts["silent"] < SILENT_LOOKS:
        silent = 0 if there > facts["files"] else facts["silent"] + 1
        job.journal.keep("place", "unpack", {"asked": True, "files": there, "silent": silent})
        job.cancel.rest(LOOK_SECONDS)
        return More(f"the panel has unpacked {there} of {wanted} files", {"files": there, "of_files": wanted})
    _move(job, posixpath.join(tree, name), posixpath.join(holding_folder(job), name))
    if there < wanted:
        raise PanelError(f"the panel has unpacked {there} of {wanted} files, and no more of them come")
    return Done(f"unpacked by the panel ({there} files)", {"files": there})


def _count(job: Job, tree: str, name: str, wanted: int) -> int:
    """The files there; one deep listing may leave some out, so what it says of too few is looked into."""
    found = 0
    for at_once in (True, False):
        files, _ = list_tree(job.lanes(LANES), tree, job.cancel, at_once=at_once)
        found = len(files) - (name in files)
        if found >= wanted:
            break
    return found


def _move(job: Job, old: str, new: str) -> None:
    """Nothing happens when it has moved already."""
    try:
        job.files().rename(old, new)
    except MissingFileError:
        if job.files().stat(new) is None:
            raise
