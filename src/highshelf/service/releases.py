"""Routes of releases: the shelf."""

from __future__ import annotations

import os
from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query, Request
from sqlmodel import col

from highshelf.core.errors import ConflictError, InputError, NotFoundError
from highshelf.core.release.comparing import compare_releases
from highshelf.core.release.correcting import correct as corrected_findings
from highshelf.core.release.matching import forbidding
from highshelf.core.release.matching import match as match_lines
from highshelf.engine.bench import account_of, findings_of
from highshelf.engine.panels import switches_of
from highshelf.engine.planner import find_release
from highshelf.engine.shelving import joined_sha256, keep_release
from highshelf.schemas.models import Listing, MemberOut, ReleaseOut
from highshelf.schemas.shelf import ComparisonOut, Corrections, JoinNew, MatchLineOut, MatchOut, NeedOut, TextOut, Word
from highshelf.service.deps import In, Rooms, Wanted, Who
from highshelf.service.faults import RESPONSES
from highshelf.service.queues import apart
from highshelf.store.tables import AccountRow, InstallationRow, JobRow, PlanRow, ReleaseRow

router = APIRouter(prefix="/releases", tags=["releases"], responses=RESPONSES)
SORTS = {
    "name": ReleaseRow.name,
    "version": ReleaseRow.version,
    "size": ReleaseRow.size_bytes,
    "files": ReleaseRow.files,
    "checked-in": ReleaseRow.checked_in_at,
}


def release_out(row: ReleaseRow, forms: dict[str, int] | None = None, fault: str = "") -> ReleaseOut:
    kept = {n: getattr(row, n) for n in ReleaseOut.model_fields if n not in ("forms", "fault")}
    return ReleaseOut(forms=forms or {}, fault=fault, **kept)


@router.post(
    "",
    operation_id="release_check_in",
    status_code=201,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)
async def check_in(
    request: Request,
    room: In,
    who: Who,
    file_name: Annotated[str, Query(min_length=1, max_length=200)],
    accept: Annotated[list[Word] | None, Query(description="dangers that are accepted, by their word")] = None,
) -> ReleaseOut:
    """Check in an archive (the request's body). The same bytes twice are one release."""
    name = check_file_name(file_name)
    draft = await room.store.shelf.receive(request.stream(), name)
    try:
        row = await room.queues["shelf"].run(
            lambda: _have_packed(room, keep_release(room.store, room.check_in, [(draft, name, "")], accept or []))
        )
        return release_out(row)
    finally:
        draft.unlink(missing_ok=True)


def check_file_name(text: str) -> str:
    """The last part of a file's name. Raises InputError when nothing is left, or when a terminal would obey it."""
    name = Path(text).name.strip()
    if not name or not name.isprintable():
        raise InputError(
            "the file's name is empty, or has characters in it that cannot be shown",
            hint="give it a name such as ledger-1.4.2.zip",
        )
    return name


def _have_packed(room: Rooms, row: ReleaseRow) -> ReleaseRow:
    if room.steps.packer.missing(row.sha256):
        room.engine.submit_pack(row.sha256)
    return row


@router.post("/joined", operation_id="release_join", status_code=201)
@apart("shelf")
def join(new: JoinNew, room: In, who: Who) -> ReleaseOut:
    """Make one release out of several on the shelf: the first is the application, the others go into their folders."""
    rows = [find_release(room.store, p.release) for p in new.parts]
    if any(len(room.store.shelf.sources(r.sha256)) > 1 for r in rows):
        raise InputError("a joined release cannot be joined again", hint="join its parts and the further one")
    sha256 = joined_sha256([(r.sha256, p.folder) for r, p in zip(rows, new.parts, strict=True)])
    known = room.store.find(ReleaseRow, sha256)
    if known is not None:
        return release_out(known)
    folder = room.store.shelf.readies()
    sources = []
    # The parts stay what they are: the joined release has the same files under names of its own.
    for number, (row, part) in enumerate(zip(rows, new.parts, strict=True)):
        linked = folder / f"source-{number}"
        os.link(room.store.shelf.archive(row.sha256, "", row.format), linked)
        sources.append((linked, row.file_name, part.folder))
    try:
        return release_out(_have_packed(room, keep_release(room.store, room.check_in, sources, new.accept, sha256)))
    finally:
        for linked, _, _ in sources:
            linked.unlink(missing_ok=True)
        folder.rmdir()


@router.get("", operation_id="release_list")
def listing(room: In, who: Who, part: Wanted) -> Listing[ReleaseOut]:
    rows, total = part.rows(
        room.store,
        ReleaseRow,
        sorts=SORTS,
        usual="-checked-in",
        last=ReleaseRow.sha256,
        text=[ReleaseRow.name, ReleaseRow.version, ReleaseRow.file_name, ReleaseRow.sha256],
    )
    shelf = room.store.shelf
    items = [release_out(r, fault=shelf.fault(r.sha256, r.size_bytes)) for r in rows]
    return Listing(items=items, total=total)


@router.get("/{ref}", operation_id="release_show")
def show(ref: str, room: In, who: Who) -> ReleaseOut:
    """A release by SHA-256 (or its start), name, or name-version."""
    row = find_release(room.store, ref)
    shelf = room.store.shelf
    return release_out(row, shelf.forms(row.sha256), shelf.fault(row.sha256, row.size_bytes))


@router.get("/{ref}/files", operation_id="release_files")
def files(ref: str, room: In, who: Who, part: Wanted) -> Listing[MemberOut]:
    """The files of a release as they will stand on the host, by path; `sort` takes path and size."""
    row = find_release(room.store, ref)
    if part.sort.removeprefix("-") not in ("", "path", "size"):
        raise InputError(f"files cannot be sorted by {part.sort.removeprefix('-')}", hint="by path, size")
    found = [f for f in room.store.shelf.contents(row.sha256).files if part.q.lower() in f.path.lower()]
    by_size = part.sort.removeprefix("-") == "size"
    found.sort(key=lambda f: (f.size_bytes if by_size else 0, f.path), reverse=part.sort.startswith("-"))
    shown = found[part.offset : part.offset + part.limit]
    return Listing(
        items=[MemberOut(path=f.path, size_bytes=f.size_bytes, sha256=f.sha256) for f in shown], total=len(found)
    )


@router.get("/{ref}/texts", operation_id="release_texts")
def texts(ref: str, room: In, who: Who) -> Listing[TextOut]:
    """The texts for people in a release: readmes, installation texts, changelogs, licences."""
    found = room.store.shelf.texts(find_release(room.store, ref).sha256)
    order = sorted(found, key=lambda p: (p.count("/"), p.lower()))
    return Listing(items=[TextOut(path=p, size_bytes=len(found[p].encode()), text="") for p in order], total=len(found))


@router.get("/{ref}/text", operation_id="release_read")
def read(ref: str, room: In, who: Who, path: Annotated[str, Query(max_length=1024)] = "") -> TextOut:
    """One text of a release; without a path the installation text, or else the readme."""
    row = find_release(room.store, ref)
    found = room.store.shelf.texts(row.sha256)
    chosen = path or next(
        (
            p
            for start in ("install", "readme", "")
            for p in sorted(found, key=lambda p: (p.count("/"), p))
            if p.lower().split("/")[-1].startswith(start)
        ),
        "",
    )
    if chosen not in found:
        hint = "there are " + ", ".join(sorted(found)[:12]) if found else "it has no readme and no installation text"
        raise NotFoundError(f"{row.name} {row.version} has no text {path}".rstrip(), hint=hint)
    return TextOut(path=chosen, size_bytes=len(found[chosen].encode()), text=found[chosen])


@router.get("/{ref}/compare", operation_id="release_compare")
def compare(
    ref: str,
    room: In,
    who: Who,
    other: Annotated[str, Query(min_length=1)],
    shown: Annotated[int, Query(ge=0, le=10_000)] = 200,
) -> ComparisonOut:
    """What changes from this release to another one: files, and what it needs."""
    before, after = find_release(room.store, ref), find_release(room.store, other)
    found = compare_releases(*((room.store.shelf.contents(r.sha256), findings_of(r)) for r in (before, after)))
    return ComparisonOut(
        before=f"{before.name} {before.version}",
        after=f"{after.name} {after.version}",
        added=list(found.added[:shown]),
        changed=list(found.changed[:shown]),
        removed=list(found.removed[:shown]),
        added_count=len(found.added),
        changed_count=len(found.changed),
        removed_count=len(found.removed),
        same=found.same,
        needs=[NeedOut(**asdict(n)) for n in found.needs],
    )


@router.get("/{ref}/match", operation_id="release_match")
def match(ref: str, room: In, who: Who, account: Annotated[str, Query(min_length=1)]) -> MatchOut:
    """Whether a release will run on an account: what fits, what will be red, what can be mended and by whom."""
    row = find_release(room.store, ref)
    holder = room.store.get(AccountRow, account, "account")
    lines = match_lines(findings_of(row), holder.facts, unpacked_bytes=row.unpacked_bytes)
    own = account_of(holder)
    switches = switches_of(room.store, room.drivers, own, own.address)
    return MatchOut(
        release=f"{row.name} {row.version}".strip(),
        account=account,
        checked_at=holder.checked_at,
        lines=[MatchLineOut(**asdict(line)) for line in lines],
        forbids=bool(forbidding(lines, switches=bool(switches))),
    )


@router.patch("/{ref}/findings", operation_id="release_correct")
def correct(ref: str, new: Corrections, room: In, who: Who) -> ReleaseOut:
    """Say what is right where something was read wrongly; what was read is kept beside it, and plans go by the correction."""
    row = find_release(room.store, ref)
    paths = room.store.shelf.contents(row.sha256).paths()
    at = datetime.now(UTC).isoformat(timespec="seconds")
    found = corrected_findings(row.findings, new.values, paths, who, at)
    row = room.store.change(ReleaseRow, row.sha256, findings=found, version=found["version"])
    return release_out(row, room.store.shelf.forms(row.sha256), room.store.shelf.fault(row.sha256, row.size_bytes))


@router.delete("/{ref}", operation_id="release_remove", status_code=204)
def remove(ref: str, room: In, who: Who) -> None:
    """Take a release off the shelf; refused while an installation or a running job needs it."""
    row = find_release(room.store, ref)
    if room.store.all(InstallationRow, col(InstallationRow.release) == row.sha256, limit=1):
        raise ConflictError(
            f"an installation came from {row.name} {row.version}", hint="it is needed to compare and to undo"
        )
    for job in room.store.all(JobRow, col(JobRow.finished_at).is_(None)):
        if room.store.get(PlanRow, job.plan_id, "plan").release == row.sha256:
            raise ConflictError(f"the job {job.id} is installing it", hint="wait for it, or cancel it")
    room.store.delete(ReleaseRow, row.sha256)
    room.store.shelf.drop(row.sha256)
