"""Routes of installations: what stands where, its secrets, its sheet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Annotated, Any

from fastapi import APIRouter, Query
from fastapi.responses import Response
from sqlmodel import col, func

from highshelf.core.errors import InputError, NotFoundError
from highshelf.core.placing.inspecting import Difference
from highshelf.engine.changing import SettingsFile
from highshelf.engine.forgetting import forget
from highshelf.schemas.models import (
    ChangeAsk,
    ChangeOut,
    DifferenceOut,
    ForgottenOut,
    InspectAsk,
    InspectionOut,
    InstallationOut,
    JobOut,
    Listing,
    PlanOut,
    Rechecked,
    RevealAsk,
    Revealed,
    RevealOut,
    ScheduleAsk,
    SettingOut,
    SettingsFileOut,
    SheetAsk,
    TakenBack,
    UndoAsk,
)
from highshelf.service.deps import In, Rooms, Wanted, Who
from highshelf.service.faults import RESPONSES
from highshelf.service.jobs import started
from highshelf.service.plans import plan_out
from highshelf.service.queues import apart
from highshelf.service.sheet import as_bookmarks, as_json, as_logins, as_markdown, render_sheet, sheet_facts
from highshelf.store.tables import AccountRow, InstallationRow, RevealRow, SecretRow, now

router = APIRouter(prefix="/installations", tags=["installations"], responses=RESPONSES)
# Of what stands no more.
GONE = ("taken_back", "replaced_by")
SORTS = {
    "application": InstallationRow.application,
    "version": InstallationRow.version,
    "account": InstallationRow.account,
    "address": InstallationRow.address,
    "since": InstallationRow.created_at,
}


def credentials_of(room: Rooms, row: InstallationRow) -> dict[str, str]:
    """Name of each secret -> where it is filed."""
    found = {"hosting": f"account/{row.account}/transfer"}
    if room.store.find(SecretRow, f"account/{row.account}/panel") is not None:
        found["panel"] = f"account/{row.account}/panel"
    if row.database:
        found["database"] = f"installation/{row.id}/database"
    if not row.facts.get("no_administrator"):
        found["application"] = f"installation/{row.id}/admin"
    for key in row.facts.get("once", {}):
        found[f"once-{key}"] = f"installation/{row.id}/once.{key}"
    return found


def installation_out(room: Rooms, row: InstallationRow) -> InstallationOut:
    told = ("job", "credentials", "replaced_by", "taken_back", "rechecked", "recheck_hours")
    shared = {n: getattr(row, n) for n in InstallationOut.model_fields if n not in told}
    back = row.facts.get("taken_back")
    return InstallationOut(
        job=row.job_id,
        replaced_by=str(row.facts.get("replaced_by", "")),
        taken_back=TakenBack(**back) if back else None,
        recheck_hours=int(row.facts.get("recheck_hours", 0)),
        rechecked=Rechecked(**row.facts["rechecked"]) if row.facts.get("rechecked") else None,
        credentials=list(credentials_of(room, row)),
        **shared,
    )


@router.get("", operation_id="installation_list")
def listing(
    room: In,
    who: Who,
    part: Wanted,
    account: str = "",
    release: Annotated[str, Query(description="a SHA-256")] = "",
    wrong: Annotated[bool, Query(description="only those in which the last look saw something wrong")] = False,
) -> Listing[InstallationOut]:
    where = [col(InstallationRow.account) == account] if account else []
    if wrong:
        told = [func.json_extract(InstallationRow.facts, f"$.{name}") for name in ("rechecked.wrong", *GONE)]
        where += [told[0] > 0, *(one.is_(None) for one in told[1:])]
    if release:
        where.append(col(InstallationRow.release) == release)
    rows, total = part.rows(
        room.store,
        InstallationRow,
        *where,
        sorts=SORTS,
        usual="-since",
        last=InstallationRow.id,
        text=[
            InstallationRow.id,
            InstallationRow.application,
            InstallationRow.version,
            InstallationRow.account,
            InstallationRow.address,
        ],
    )
    return Listing(items=[installation_out(room, r) for r in rows], total=total)


@router.get("/{number}", operation_id="installation_show")
def show(number: str, room: In, who: Who) -> InstallationOut:
    return installation_out(room, room.store.get(InstallationRow, number, "installation"))


@router.post("/{number}/inspect", operation_id="installation_inspect")
@apart("hosts")
def inspect(number: str, ask: InspectAsk, room: In, who: Who) -> InspectionOut:
    """Compare what stands on the host with the release: changed, missing and extra files. Nothing is changed."""
    found = room.inspector.inspect(number, read=ask.read)

    def some(what: Sequence[Difference]) -> list[DifferenceOut]:
        return [DifferenceOut(**asdict(d)) for d in sorted(what, key=lambda d: (bool(d.why), d.path))[: ask.shown]]

    return InspectionOut(
        how=found.how,
        same=found.same,
        unread=found.unread,
        changed_count=len(found.changed),
        missing_count=len(found.missing),
        extra_count=len(found.extra),
        unexplained=found.unexplained,
        changed=some(found.changed),
        missing=some(found.missing),
        extra=some(found.extra),
    )


@router.delete("/{number}", operation_id="installation_forget")
def let_go(number: str, room: In, who: Who) -> ForgottenOut:
    """Out of the books, its secrets out of the strongbox; nothing on the host is touched. Refused while a job is at work there."""
    return ForgottenOut(secrets=forget(room.store, number, who))


@router.get("/{number}/settings", operation_id="installation_settings")
@apart("hosts")
def settings(number: str, room: In, who: Who) -> Listing[SettingsFileOut]:
    """Its configuration files on the host, with what stands in them. Secrets have no value here."""
    files = [_settings_out(one) for one in room.changer.settings(number)]
    return Listing(items=files, total=len(files))


def _settings_out(one: SettingsFile) -> SettingsFileOut:
    rows = [
        SettingOut(
            name=s.name,
            value="" if s.start in one.hidden else s.value,
            kind=s.kind,
            secret=s.start in one.hidden,
            line=s.line,
            comment=s.comment[:300],
        )
        for s in one.settings
        if not s.off
    ]
    return SettingsFileOut(
        path=one.path, format=one.format, mode="" if one.mode is None else f"{one.mode:o}", settings=rows
    )


@router.post("/{number}/change", operation_id="installation_change")
@apart("hosts")
def change(number: str, ask: ChangeAsk, room: In, who: Who) -> ChangeOut:
    """Change settings in a configuration file on the host. When the site or the login break by it, it is put back and told."""
    done = room.changer.change(number, ask.values, ask.file)
    return ChangeOut(file=done.file, names=list(done.names), seen=list(done.seen))


@router.post("/{number}/change/undo", operation_id="installation_change_undo")
@apart("hosts")
def change_undo(number: str, room: In, who: Who) -> ChangeOut:
    """Put back what the last change found, byte for byte."""
    done = room.changer.take_back(number)
    return ChangeOut(file=done.file, names=list(done.names), seen=list(done.seen))


@router.post("/{number}/undo", operation_id="installation_undo", status_code=201)
@apart("hosts")
def undo(number: str, ask: UndoAsk, room: In, who: Who) -> PlanOut:
    """The plan that takes an installation back to what stood there before; `job_start` does it.

    One that changed since its proof is refused unless that is said; its files and its database are kept then.
    """
    return plan_out(room.undoer.plan_undo(number, changed_too=ask.changed_too, keep=ask.keep))


@router.post("/{number}/recheck", operation_id="installation_recheck", status_code=201)
def recheck(number: str, room: In, who: Who) -> JobOut:
    """Look at everything once more that was proven: a job that changes nothing on the host. What it saw is the installation's `rechecked`."""
    return started(room, room.undoer.plan_recheck(number))


@router.put("/{number}/schedule", operation_id="installation_schedule")
def schedule(number: str, ask: ScheduleAsk, room: In, who: Who) -> InstallationOut:
    """Have it looked at again by itself, every so many hours; 0 ends that."""
    with room.store.together():
        row = room.store.get(InstallationRow, number, "installation")
        facts = {**row.facts, "recheck_hours": ask.hours, "recheck_since": now().isoformat()}
        row = room.store.change(InstallationRow, number, facts=facts)
    return installation_out(room, row)


@router.post("/{number}/remove", operation_id="installation_remove", status_code=201)
def remove(number: str, room: In, who: Who) -> PlanOut:
    """The plan that removes for good what was kept of an installation when it was undone; `job_start` does it."""
    return plan_out(room.undoer.plan_removal(number))


@router.post("/{number}/restore", operation_id="installation_restore", status_code=201)
def restore(number: str, room: In, who: Who) -> PlanOut:
    """The plan that brings an installation back whose files and database were kept; `job_start` does it."""
    return plan_out(room.undoer.plan_restore(number))


def _reveal(room: Rooms, row: InstallationRow, wanted: str, who: str) -> dict[str, str]:
    known = credentials_of(room, row)
    chosen = known if wanted == "all" else {k: v for k, v in known.items() if k == wanted}
    if not chosen:
        raise NotFoundError(
            f"the installation {row.id} has no credential {wanted}", hint="it has: all, " + ", ".join(known)
        )
    for name in chosen:
        room.store.record_reveal(f"installation/{row.id}/{name}", who)
    return {name: room.store.secret(ref) for name, ref in chosen.items()}


@router.post("/{number}/reveal", operation_id="installation_reveal")
def reveal(number: str, ask: RevealAsk, room: In, who: Who) -> Revealed:
    """Show secrets. Who asked for which, and when, is recorded."""
    row = room.store.get(InstallationRow, number, "installation")
    return Revealed(secrets=_reveal(room, row, ask.credential, who))


@router.get("/{number}/reveals", operation_id="installation_reveals")
def reveals(number: str, room: In, who: Who, part: Wanted) -> Listing[RevealOut]:
    """Who saw which of its secrets, the newest first."""
    room.store.get(InstallationRow, number, "installation")
    rows, total = part.rows(
        room.store,
        RevealRow,
        col(RevealRow.what).startswith(f"installation/{number}/", autoescape=True),
        sorts={"at": RevealRow.at, "who": RevealRow.who, "what": RevealRow.what},
        usual="-at",
        last=RevealRow.id,
        text=[RevealRow.what, RevealRow.who],
    )
    items = [RevealOut(what=r.what.rpartition("/")[2], who=r.who, at=r.at) for r in rows]
    return Listing(items=items, total=total)


FORMS = {
    "html": "text/html",
    "pdf": "application/pdf",
    "markdown": "text/markdown",
    "json": "application/json",
    "logins": "text/csv",
    "bookmarks": "text/html",
}
SEALED = "application/pgp-encrypted"
LEAST_PASSPHRASE = 12
SHEET: dict[int | str, dict[str, Any]] = {
    200: {
        "description": "The sheet in the form that was asked for",
        "content": {
            kind: {"schema": {} if kind.endswith("json") else {"type": "string"}} for kind in (*FORMS.values(), SEALED)
        },
    }
}


@router.post("/{number}/sheet", operation_id="installation_sheet", response_class=Response, responses=SHEET)
def sheet(number: str, ask: SheetAsk, room: In, who: Who) -> Response:
    """The handover sheet as HTML, PDF, Markdown, JSON, a file of logins or bookmarks; secrets are masked unless asked for, which is recorded.

    The customer's part has nothing of the hosting account. With a passphrase or public keys the answer is sealed.
    """
    if ask.form == "logins" and not ask.reveal:
        raise InputError(
            "a file of logins is nothing without its passwords",
            hint="`--reveal` writes them into it, and that is recorded",
        )
    passphrase = ask.passphrase.get_secret_value() if ask.passphrase is not None else ""
    if ask.passphrase is not None and len(passphrase) < LEAST_PASSPHRASE:
        raise InputError(
            f"a passphrase has {LEAST_PASSPHRASE} characters or more", hint="several words are easy to say"
        )
    row = room.store.get(InstallationRow, number, "installation")
    account = room.store.get(AccountRow, row.account, "account")
    known = credentials_of(room, row)
    hosting = ("hosting", "panel") if ask.customer else ()
    wanted = [name for name in known if name not in hosting] if ask.reveal else []
    secrets = {name: _reveal(room, row, name, who)[name] for name in wanted}
    given = {"own_panel_password": "panel" in known, "customer": ask.customer}
    if ask.form in ("html", "pdf"):
        page = render_sheet(row, account, secrets, **given)
        content = room.printed(page) if ask.form == "pdf" else page.encode()
    else:
        as_text = {"json": as_json, "markdown": as_markdown, "logins": as_logins, "bookmarks": as_bookmarks}[ask.form]
        content = as_text(sheet_facts(row, account, secrets, **given)).encode()
    if passphrase or ask.keys:
        return Response(room.seal(content, passphrase, ask.keys), media_type=SEALED)
    return Response(content, media_type=FORMS[ask.form])
