"""Requests, built once and without I/O: each function is an operation of the service and gives a `Call`."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, Generic, TypeVar

from pydantic import BaseModel, SecretStr

from highshelf.schemas.models import (
    AccountChange,
    AccountCheck,
    AccountNew,
    AccountOut,
    EventOut,
    Health,
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
    ReleaseOut,
    Revealed,
    RevealOut,
    SessionOut,
    ValueOut,
)

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
    """One request: `read` makes the answer's text into the result. `upload` is a file sent as the body."""

    method: str
    path: str
    read: Callable[[bytes], T]
    params: dict[str, Any] = field(default_factory=dict)
    body: Any = None
    upload: Path | None = None


def _plain(value: Any) -> Any:
    """JSON-able, with secrets opened: this is the one place where the client sends them."""
    if isinstance(value, SecretStr):
        return value.get_secret_value()
    if isinstance(value, BaseModel):
        return {n: _plain(getattr(value, n)) for n in type(value).model_fields if n in value.model_fields_set}
    return value


def health() -> Call[Health]:
    return Call("GET", "/health", Health.model_validate_json)


def account_add(new: AccountNew) -> Call[AccountOut]:
    return Call("POST", "/accounts", AccountOut.model_validate_json, body=_plain(new))


def account_letter(text: str) -> Call[LetterOut]:
    return Call("POST", "/accounts/letter", LetterOut.model_validate_json, body={"text": text})


def account_list(part: Part = EVERYTHING) -> Call[Listing[AccountOut]]:
    return Call("GET", "/accounts", Listing[AccountOut].model_validate_json, asdict(part))


def account_show(name: str) -> Call[AccountOut]:
    return Call("GET", f"/accounts/{name}", AccountOut.model_validate_json)


def account_change(name: str, new: AccountChange) -> Call[AccountOut]:
    return Call("PATCH", f"/accounts/{name}", AccountOut.model_validate_json, body=_plain(new))


def account_check(name: str, *, accept_identity: bool = False) -> Call[AccountOut]:
    body = AccountCheck(accept_identity=accept_identity)
    return Call("POST", f"/accounts/{name}/check", AccountOut.model_validate_json, body=body.model_dump())


def account_remove(name: str) -> Call[None]:
    return Call("DELETE", f"/accounts/{name}", lambda _: None)


def release_check_in(path: Path) -> Call[ReleaseOut]:
    return Call("POST", "/releases", ReleaseOut.model_validate_json, {"file_name": path.name}, upload=path)


def release_list(part: Part = EVERYTHING) -> Call[Listing[ReleaseOut]]:
    return Call("GET", "/releases", Listing[ReleaseOut].model_validate_json, asdict(part))


def release_show(ref: str) -> Call[ReleaseOut]:
    return Call("GET", f"/releases/{ref}", ReleaseOut.model_validate_json)


def release_files(ref: str, part: Part = EVERYTHING) -> Call[Listing[MemberOut]]:
    return Call("GET", f"/releases/{ref}/files", Listing[MemberOut].model_validate_json, asdict(part))


def release_remove(ref: str) -> Call[None]:
    return Call("DELETE", f"/releases/{ref}", lambda _: None)


def value_list() -> Call[Listing[ValueOut]]:
    return Call("GET", "/values", Listing[ValueOut].model_validate_json)


def plan_preview(new: PlanNew) -> Call[PlanPreview]:
    return Call("POST", "/plans/preview", PlanPreview.model_validate_json, body=new.model_dump())


def plan_make(new: PlanNew) -> Call[PlanOut]:
    return Call("POST", "/plans", PlanOut.model_validate_json, body=new.model_dump())


def plan_show(plan: str) -> Call[PlanOut]:
    return Call("GET", f"/plans/{plan}", PlanOut.model_validate_json)


def job_start(plan: str, *, keep: bool = False) -> Call[JobOut]:
    return Call("POST", "/jobs", JobOut.model_validate_json, body=JobNew(plan=plan, keep=keep).model_dump())


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


def job_log(job: str, after: int = 0) -> Call[Listing[EventOut]]:
    return Call("GET", f"/jobs/{job}/log", Listing[EventOut].model_validate_json, {"after": after})


def installation_list(account: str = "", part: Part = EVERYTHING) -> Call[Listing[InstallationOut]]:
    params = {"account": account, **asdict(part)}
    return Call("GET", "/installations", Listing[InstallationOut].model_validate_json, params)


def installation_show(installation: str) -> Call[InstallationOut]:
    return Call("GET", f"/installations/{installation}", InstallationOut.model_validate_json)


def installation_reveal(installation: str, credential: str = "all") -> Call[Revealed]:
    return Call(
        "POST", f"/installations/{installation}/reveal", Revealed.model_validate_json, body={"credential": credential}
    )


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


def session_list(operator: str = "") -> Call[Listing[SessionOut]]:
    return Call("GET", "/sessions", Listing[SessionOut].model_validate_json, {"operator": operator})


def session_end(session: str) -> Call[None]:
    return Call("DELETE", f"/sessions/{session}", lambda _: None)


def installation_sheet(installation: str, *, reveal: bool = False) -> Call[str]:
    return Call("POST", f"/installations/{installation}/sheet", bytes.decode, body={"reveal": reveal})
