"""Requests, built once and without I/O: each function is an operation of the service and gives a `Call`."""

from __future__ import annotations

import base64
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, Generic, TypeVar

from pydantic import BaseModel, SecretStr

from highshelf.schemas.databases import DatabaseKnown, DatabaseNew, DatabasesOut, DumpOut
from highshelf.schemas.models import (
    AccountChange,
    AccountCheck,
    AccountNew,
    AccountOut,
    ChangeOut,
    EventOut,
    ForgottenOut,
    Health,
    InspectionOut,
    InstallationOut,
    InvitationOut,
    JobNew,
    JobOut,
    LetterOut,
    Listing,
    MemberOut,
    OperatorInvite,
    OperatorOut,
    PlanNew,
    PlanOut,
    PlanPreview,
    RecordOut,
    ReleaseOut,
    Revealed,
    RevealOut,
    SessionOut,
    SettingsFileOut,
    StrongboxOut,
    ValueOut,
)
from highshelf.schemas.notices import MailNew, NoticeOut, PlaceChange, PlaceMade, PlaceOut, Tried, WebhookNew
from highshelf.schemas.seen import PageSeen
from highshelf.schemas.shelf import (
    ComparisonOut,
    FetchNew,
    FetchOut,
    LicenceChange,
    LicenceNew,
    LicenceOut,
    MatchOut,
    PanelTriesOut,
    PrimerOut,
    TextOut,
)
from highshelf.schemas.surveys import ImportOut, Located, Said, SiteNew, SiteOut, SurveyOut

T = TypeVar("T")


@dataclass(frozen=True)
class Part:
    """Which part of a list: how many, after how many, sorted by which column (`-` turns it round), holding which text."""

    limit: int = 50
    offset: int = 0
    sort: str = ""
    q: str = ""


EVERYTHING = Part(limit=500)


@dataclass(frozen=True)
class Call(Generic[T]):
    """One request: `read` makes the answer's text into the result. `upload` is a file sent as the body.

    `slow`: the answer may take many minutes, as the reading of gigabytes does. `download`: a file that the answer's body becomes.
    """

    method: str
    path: str
    read: Callable[[bytes], T]
    params: dict[str, Any] = field(default_factory=dict)
    body: Any = None
    upload: Path | None = None
    slow: bool = False
    download: Path | None = None


def _plain(value: Any) -> Any:
    """JSON-able, with secrets opened: this is the one place where the client sends them."""
    if isinstance(value, SecretStr):
        return value.get_secret_value()
    if isinstance(value, dict):
        return {n: _plain(v) for n, v in value.items()}
    if isinstance(value, BaseModel):
        return {n: _plain(getattr(value, n)) for n in type(value).model_fields if n in value.model_fields_set}
    return value


def health() -> Call[Health]:
    return Call("GET", "/health", Health.model_validate_json)


def account_add(new: AccountNew) -> Call[AccountOut]:
    return Call("POST", "/accounts", AccountOut.model_validate_json, body=_plain(new))


def account_letter(letter: str | bytes) -> Call[LetterOut]:
    """Read a host's letter: its text, or the bytes of the file it came in."""
    body = {"text": letter} if isinstance(letter, str) else {"file": base64.b64encode(letter).decode()}
    return Call("POST", "/accounts/letter", LetterOut.model_validate_json, body=body)


def account_list(part: Part = EVERYTHING) -> Call[Listing[AccountOut]]:
    return Call("GET", "/accounts", Listing[AccountOut].model_validate_json, asdict(part))


def account_show(name: str) -> Call[AccountOut]:
    return Call("GET", f"/accounts/{name}", AccountOut.model_validate_json)


def account_change(name: str, new: AccountChange) -> Call[AccountOut]:
    return Call("PATCH", f"/accounts/{name}", AccountOut.model_validate_json, body=_plain(new))


def account_check(name: str, *, accept_identity: bool = False, wait_seconds: float = 170) -> Call[SurveyOut]:
    """Order a survey and wait so long for its end; it goes on when the wait is over."""
    body = AccountCheck(accept_identity=accept_identity, wait_seconds=wait_seconds)
    return Call("POST", f"/accounts/{name}/check", SurveyOut.model_validate_json, body=body.model_dump())


def account_survey(name: str, survey: str = "") -> Call[SurveyOut]:
    return Call("GET", f"/accounts/{name}/survey", SurveyOut.model_validate_json, {"id": survey})


def account_surveys(name: str) -> Call[Listing[SurveyOut]]:
    return Call("GET", f"/accounts/{name}/surveys", Listing[SurveyOut].model_validate_json)


def account_locate(name: str, what: str) -> Call[Located]:
    return Call("POST", f"/accounts/{name}/locate", Located.model_validate_json, body={"what": what})


def account_make_root(name: str, root: str = "") -> Call[Said]:
    return Call("POST", f"/accounts/{name}/root", Said.model_validate_json, body={"root": root})


def account_helper_text(name: str) -> Call[Said]:
    return Call("GET", f"/accounts/{name}/helper-text", Said.model_validate_json)


def account_import(text: str, *, keep: bool = False) -> Call[ImportOut]:
    """Check the accounts of a CSV text, and keep them all when `keep` says so and there is no fault."""
    return Call("POST", "/accounts/import", ImportOut.model_validate_json, body={"text": text, "keep": keep})


def site_list(account: str) -> Call[Listing[SiteOut]]:
    return Call("GET", f"/accounts/{account}/sites", Listing[SiteOut].model_validate_json)


def site_add(account: str, new: SiteNew) -> Call[SiteOut]:
    return Call("POST", f"/accounts/{account}/sites", SiteOut.model_validate_json, body=new.model_dump())


def site_remove(account: str, address: str) -> Call[None]:
    return Call("DELETE", f"/accounts/{account}/sites", lambda _: None, {"address": address})


def account_remove(name: str) -> Call[None]:
    return Call("DELETE", f"/accounts/{name}", lambda _: None)


def release_check_in(path: Path, accept: Sequence[str] = ()) -> Call[ReleaseOut]:
    """Send an archive; `accept` names dangers that may be in it (`links`, `letter-case`, …)."""
    params = {"file_name": path.name, "accept": list(accept)}
    return Call("POST", "/releases", ReleaseOut.model_validate_json, params, upload=path, slow=True)


def release_join(parts: Sequence[tuple[str, str]], accept: Sequence[str] = ()) -> Call[ReleaseOut]:
    """One release out of several on the shelf: (release, folder), the application first."""
    body = {"parts": [{"release": release, "folder": folder} for release, folder in parts], "accept": list(accept)}
    return Call("POST", "/releases/joined", ReleaseOut.model_validate_json, body=body, slow=True)


def release_correct(ref: str, values: Mapping[str, str | None]) -> Call[ReleaseOut]:
    """Say what is right where something was read wrongly; None takes a correction back."""
    return Call("PATCH", f"/releases/{ref}/findings", ReleaseOut.model_validate_json, body={"values": dict(values)})


def release_texts(ref: str) -> Call[Listing[TextOut]]:
    return Call("GET", f"/releases/{ref}/texts", Listing[TextOut].model_validate_json)


def release_read(ref: str, path: str = "") -> Call[TextOut]:
    """A text of a release; without a path the installation text or the readme."""
    return Call("GET", f"/releases/{ref}/text", TextOut.model_validate_json, {"path": path})


def release_compare(ref: str, other: str, *, shown: int = 200) -> Call[ComparisonOut]:
    params = {"other": other, "shown": shown}
    return Call("GET", f"/releases/{ref}/compare", ComparisonOut.model_validate_json, params)


def release_match(ref: str, account: str) -> Call[MatchOut]:
    return Call("GET", f"/releases/{ref}/match", MatchOut.model_validate_json, {"account": account})


def release_list(part: Part = EVERYTHING) -> Call[Listing[ReleaseOut]]:
    return Call("GET", "/releases", Listing[ReleaseOut].model_validate_json, asdict(part))


def release_show(ref: str) -> Call[ReleaseOut]:
    return Call("GET", f"/releases/{ref}", ReleaseOut.model_validate_json)


def release_files(ref: str, part: Part = EVERYTHING) -> Call[Listing[MemberOut]]:
    return Call("GET", f"/releases/{ref}/files", Listing[MemberOut].model_validate_json, asdict(part))


def primer_list() -> Call[Listing[PrimerOut]]:
    return Call("GET", "/primers", Listing[PrimerOut].model_validate_json)


def primer_show(name: str) -> Call[PrimerOut]:
    return Call("GET", f"/primers/{name}", PrimerOut.model_validate_json)


def primer_check(text: str) -> Call[PrimerOut]:
    """Whether a primer's text holds; nothing is kept."""
    return Call("POST", "/primers/check", PrimerOut.model_validate_json, body={"text": text})


def primer_try(account: str, text: str = "") -> Call[PanelTriesOut]:
    """Sign in to the account's panel by its primer, or by this one, and do what only looks."""
    body = {"account": account, "text": text}
    return Call("POST", "/primers/try", PanelTriesOut.model_validate_json, body=body)


def release_remove(ref: str) -> Call[None]:
    return Call("DELETE", f"/releases/{ref}", lambda _: None)


def release_fetch(new: FetchNew) -> Call[FetchOut]:
    """Order a release to be fetched from its makers, and wait `new.wait_seconds` for its end."""
    return Call("POST", "/fetches", FetchOut.model_validate_json, body=_plain(new))


def release_fetches(part: Part = EVERYTHING, *, unfinished: bool = False) -> Call[Listing[FetchOut]]:
    params = {**asdict(part), "unfinished": unfinished}
    return Call("GET", "/fetches", Listing[FetchOut].model_validate_json, params)


def release_fetch_show(fetch: str) -> Call[FetchOut]:
    return Call("GET", f"/fetches/{fetch}", FetchOut.model_validate_json)


def release_fetch_cancel(fetch: str) -> Call[FetchOut]:
    return Call("POST", f"/fetches/{fetch}/cancel", FetchOut.model_validate_json)


def licence_add(new: LicenceNew) -> Call[LicenceOut]:
    return Call("POST", "/licences", LicenceOut.model_validate_json, body=_plain(new))


def licence_list(part: Part = EVERYTHING, account: str = "") -> Call[Listing[LicenceOut]]:
    return Call("GET", "/licences", Listing[LicenceOut].model_validate_json, {**asdict(part), "account": account})


def licence_change(licence: str, wanted: LicenceChange) -> Call[LicenceOut]:
    return Call("PATCH", f"/licences/{licence}", LicenceOut.model_validate_json, body=_plain(wanted))


def licence_reveal(licence: str) -> Call[Revealed]:
    return Call("POST", f"/licences/{licence}/reveal", Revealed.model_validate_json)


def licence_remove(licence: str) -> Call[None]:
    return Call("DELETE", f"/licences/{licence}", lambda _: None)


def database_list(account: str, *, ask: bool = True) -> Call[DatabasesOut]:
    """The databases of an account; with `ask` its panel is asked for those whose login is not known, too."""
    return Call("GET", f"/accounts/{account}/databases", DatabasesOut.model_validate_json, {"ask": ask})


def database_make(account: str, new: DatabaseNew) -> Call[JobOut]:
    """The job that makes a database with a user of its own."""
    return Call("POST", f"/accounts/{account}/databases", JobOut.model_validate_json, body=_plain(new))


def database_add(account: str, new: DatabaseKnown) -> Call[JobOut]:
    """The job that files the login of a database that is there, after it was tried from the host."""
    return Call("POST", f"/accounts/{account}/databases/known", JobOut.model_validate_json, body=_plain(new))


def database_try(account: str, name: str) -> Call[JobOut]:
    return Call("POST", f"/accounts/{account}/databases/{name}/try", JobOut.model_validate_json)


def database_import(account: str, name: str, dump: str, *, keep: bool = False) -> Call[JobOut]:
    """The job that fills an empty database from a dump; one that was brought goes then, unless `keep`."""
    body = {"dump": dump, "keep": keep}
    return Call("POST", f"/accounts/{account}/databases/{name}/import", JobOut.model_validate_json, body=body)


def database_export(account: str, name: str) -> Call[JobOut]:
    """The job that takes a copy; its dump is in `dump_list` when it is done."""
    return Call("POST", f"/accounts/{account}/databases/{name}/export", JobOut.model_validate_json)


def database_drop(account: str, name: str) -> Call[PlanOut]:
    """The plan that drops a database that High Shelf made; `job_start` does it."""
    return Call("POST", f"/accounts/{account}/databases/{name}/drop", PlanOut.model_validate_json)


def database_forget(account: str, name: str) -> Call[ForgottenOut]:
    """Out of the books, its password out of the strongbox; nothing on the host is touched."""
    return Call("DELETE", f"/accounts/{account}/databases/{name}", ForgottenOut.model_validate_json)


def database_reveal(account: str, name: str) -> Call[Revealed]:
    return Call("POST", f"/accounts/{account}/databases/{name}/reveal", Revealed.model_validate_json)


def dump_bring(path: Path) -> Call[DumpOut]:
    """Send an SQL dump, plain or packed."""
    return Call("POST", "/dumps", DumpOut.model_validate_json, {"file_name": path.name}, upload=path, slow=True)


def dump_list(part: Part = EVERYTHING, account: str = "") -> Call[Listing[DumpOut]]:
    return Call("GET", "/dumps", Listing[DumpOut].model_validate_json, {**asdict(part), "account": account})


def dump_show(dump: str) -> Call[DumpOut]:
    return Call("GET", f"/dumps/{dump}", DumpOut.model_validate_json)


def dump_fetch(dump: str, target: Path) -> Call[Path]:
    """Write the dump into a file that is not there yet."""
    return Call("GET", f"/dumps/{dump}/file", lambda _: target, slow=True, download=target)


def dump_remove(dump: str) -> Call[None]:
    return Call("DELETE", f"/dumps/{dump}", lambda _: None)


def notice_list() -> Call[Listing[PlaceOut]]:
    return Call("GET", "/notices", Listing[PlaceOut].model_validate_json)


def notice_webhook(new: WebhookNew) -> Call[PlaceMade]:
    """Have a web address called; its key is told once."""
    return Call("POST", "/notices/webhooks", PlaceMade.model_validate_json, body=_plain(new))


def notice_mail(new: MailNew) -> Call[PlaceOut]:
    return Call("POST", "/notices/mailboxes", PlaceOut.model_validate_json, body=_plain(new))


def notice_change(place: str, wanted: PlaceChange) -> Call[PlaceOut]:
    return Call("PATCH", f"/notices/{place}", PlaceOut.model_validate_json, body=_plain(wanted))


def notice_try(place: str) -> Call[Tried]:
    """Send a trial there now."""
    return Call("POST", f"/notices/{place}/try", Tried.model_validate_json)


def notice_remove(place: str) -> Call[None]:
    return Call("DELETE", f"/notices/{place}", lambda _: None)


def notice_sent(part: Part = EVERYTHING, place: str = "") -> Call[Listing[NoticeOut]]:
    return Call("GET", "/notices/sent", Listing[NoticeOut].model_validate_json, {**asdict(part), "place": place})


def value_list() -> Call[Listing[ValueOut]]:
    return Call("GET", "/values", Listing[ValueOut].model_validate_json)


def plan_preview(new: PlanNew) -> Call[PlanPreview]:
    return Call("POST", "/plans/preview", PlanPreview.model_validate_json, body=new.model_dump())


def plan_make(new: PlanNew) -> Call[PlanOut]:
    return Call("POST", "/plans", PlanOut.model_validate_json, body=new.model_dump())


def plan_show(plan: str) -> Call[PlanOut]:
    return Call("GET", f"/plans/{plan}", PlanOut.model_validate_json)


def job_start(plan: str, *, keep: bool = False, in_spite: bool = False) -> Call[JobOut]:
    new = JobNew(plan=plan, keep=keep, in_spite=in_spite)
    return Call("POST", "/jobs", JobOut.model_validate_json, body=new.model_dump())


def job_list(account: str = "", state: tuple[str, ...] = (), part: Part = Part()) -> Call[Listing[JobOut]]:
    params = {"account": account, "state": list(state), **asdict(part)}
    return Call("GET", "/jobs", Listing[JobOut].model_validate_json, params)


def job_show(job: str) -> Call[JobOut]:
    return Call("GET", f"/jobs/{job}", JobOut.model_validate_json)


def job_answer(job: str, question: str, answer: str) -> Call[JobOut]:
    return Call(
        "POST", f"/jobs/{job}/answer", JobOut.model_validate_json, body={"question": question, "answer": answer}
    )


def job_cancel(job: str) -> Call[JobOut]:
    return Call("POST", f"/jobs/{job}/cancel", JobOut.model_validate_json)


def job_pause(job: str) -> Call[JobOut]:
    return Call("POST", f"/jobs/{job}/pause", JobOut.model_validate_json)


def job_resume(job: str) -> Call[JobOut]:
    return Call("POST", f"/jobs/{job}/resume", JobOut.model_validate_json)


def job_log(job: str, after: int = 0) -> Call[Listing[EventOut]]:
    return Call("GET", f"/jobs/{job}/log", Listing[EventOut].model_validate_json, {"after": after})


def job_pages(job: str) -> Call[Listing[PageSeen]]:
    return Call("GET", f"/jobs/{job}/pages", Listing[PageSeen].model_validate_json)


def job_page(job: str, number: int) -> Call[PageSeen]:
    return Call("GET", f"/jobs/{job}/pages/{number}", PageSeen.model_validate_json)


def job_picture(job: str, number: int) -> Call[bytes]:
    return Call("GET", f"/jobs/{job}/pages/{number}/picture", bytes)


def job_evidence(job: str) -> Call[bytes]:
    return Call("GET", f"/jobs/{job}/evidence", bytes)


def installation_list(
    account: str = "", part: Part = EVERYTHING, *, wrong: bool = False
) -> Call[Listing[InstallationOut]]:
    """`wrong`: only those in which the last look saw something wrong."""
    params = {"account": account, **({"wrong": True} if wrong else {}), **asdict(part)}
    return Call("GET", "/installations", Listing[InstallationOut].model_validate_json, params)


def installation_show(installation: str) -> Call[InstallationOut]:
    return Call("GET", f"/installations/{installation}", InstallationOut.model_validate_json)


def installation_inspect(installation: str, *, read: bool = False, shown: int = 500) -> Call[InspectionOut]:
    """Compare with the release; `read` reads every file back where nobody on the host makes hashes."""
    body = {"read": read, "shown": shown}
    return Call(
        "POST", f"/installations/{installation}/inspect", InspectionOut.model_validate_json, body=body, slow=True
    )


def installation_settings(installation: str) -> Call[Listing[SettingsFileOut]]:
    """Its configuration files on the host, with what stands in them."""
    return Call(
        "GET", f"/installations/{installation}/settings", Listing[SettingsFileOut].model_validate_json, slow=True
    )


def installation_change(installation: str, values: Mapping[str, str], file: str = "") -> Call[ChangeOut]:
    """Change settings on the host; put back when the site breaks."""
    body = {"values": dict(values), "file": file}
    return Call("POST", f"/installations/{installation}/change", ChangeOut.model_validate_json, body=body, slow=True)


def installation_change_undo(installation: str) -> Call[ChangeOut]:
    """Put back what the last change found."""
    return Call("POST", f"/installations/{installation}/change/undo", ChangeOut.model_validate_json, slow=True)


def installation_undo(installation: str, *, changed_too: bool = False, keep: bool = False) -> Call[PlanOut]:
    """The plan that takes it back to what stood there before; `job_start` does it."""
    body = {"changed_too": changed_too, "keep": keep}
    return Call("POST", f"/installations/{installation}/undo", PlanOut.model_validate_json, body=body, slow=True)


def installation_recheck(installation: str) -> Call[JobOut]:
    """Look at everything once more that was proven: a job; what it saw is the installation's `rechecked`."""
    return Call("POST", f"/installations/{installation}/recheck", JobOut.model_validate_json)


def installation_schedule(installation: str, hours: int) -> Call[InstallationOut]:
    """Have it looked at again every so many hours; 0 is never."""
    body = {"hours": hours}
    return Call("PUT", f"/installations/{installation}/schedule", InstallationOut.model_validate_json, body=body)


def installation_remove(installation: str) -> Call[PlanOut]:
    """The plan that removes what was kept of it when it was undone; `job_start` does it."""
    return Call("POST", f"/installations/{installation}/remove", PlanOut.model_validate_json)


def installation_restore(installation: str) -> Call[PlanOut]:
    """The plan that brings one back whose files and database were kept; `job_start` does it."""
    return Call("POST", f"/installations/{installation}/restore", PlanOut.model_validate_json)


def installation_reveal(installation: str, credential: str = "all") -> Call[Revealed]:
    return Call(
        "POST", f"/installations/{installation}/reveal", Revealed.model_validate_json, body={"credential": credential}
    )


def installation_forget(installation: str) -> Call[ForgottenOut]:
    """Out of the books, with its secrets; nothing on the host is touched."""
    return Call("DELETE", f"/installations/{installation}", ForgottenOut.model_validate_json)


def installation_reveals(installation: str, part: Part = EVERYTHING) -> Call[Listing[RevealOut]]:
    path = f"/installations/{installation}/reveals"
    return Call("GET", path, Listing[RevealOut].model_validate_json, asdict(part))


def operator_list() -> Call[Listing[OperatorOut]]:
    return Call("GET", "/operators", Listing[OperatorOut].model_validate_json)


def operator_invite(name: str) -> Call[InvitationOut]:
    body = OperatorInvite(name=name).model_dump()
    return Call("POST", "/operators/invite", InvitationOut.model_validate_json, body=body)


def operator_remove(name: str) -> Call[None]:
    return Call("DELETE", f"/operators/{name}", lambda _: None)


def record_list(about: str = "", part: Part = EVERYTHING) -> Call[Listing[RecordOut]]:
    return Call("GET", "/records", Listing[RecordOut].model_validate_json, {**asdict(part), "about": about})


def strongbox_verify() -> Call[StrongboxOut]:
    return Call("GET", "/strongbox", StrongboxOut.model_validate_json)


def session_list(operator: str = "") -> Call[Listing[SessionOut]]:
    return Call("GET", "/sessions", Listing[SessionOut].model_validate_json, {"operator": operator})


def session_end(session: str) -> Call[None]:
    return Call("DELETE", f"/sessions/{session}", lambda _: None)


def installation_sheet(
    installation: str,
    *,
    reveal: bool = False,
    form: str = "html",
    customer: bool = False,
    passphrase: str = "",
    keys: Sequence[str] = (),
) -> Call[bytes]:
    """The handover sheet as a file's content: `form` is html, pdf, markdown, json or logins, `customer` leaves out what is of the
    hosting account; sealed (OpenPGP, armoured) with a passphrase and for the owners of public keys, where there are any."""
    body = {"reveal": reveal, "form": form, "customer": customer, "keys": list(keys)}
    if passphrase:
        body["passphrase"] = passphrase
    return Call("POST", f"/installations/{installation}/sheet", bytes, body=body)
