"""Requests, built once and without I/O: each function is an operation of the service and gives a `Call`."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
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
    JobNew,
    JobOut,
    Listing,
    PlanNew,
    PlanOut,
    ReleaseOut,
    Revealed,
)

T = TypeVar("T")


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


def account_list() -> Call[Listing[AccountOut]]:
    return Call("GET", "/accounts", Listing[AccountOut].model_validate_json)


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


def release_list() -> Call[Listing[ReleaseOut]]:
    return Call("GET", "/releases", Listing[ReleaseOut].model_validate_json)


def release_show(ref: str) -> Call[ReleaseOut]:
    return Call("GET", f"/releases/{ref}", ReleaseOut.model_validate_json)


def plan_make(new: PlanNew) -> Call[PlanOut]:
    return Call("POST", "/plans", PlanOut.model_validate_json, body=new.model_dump())


def plan_show(plan: str) -> Call[PlanOut]:
    return Call("GET", f"/plans/{plan}", PlanOut.model_validate_json)


def job_start(plan: str, *, keep: bool = False) -> Call[JobOut]:
    return Call("POST", "/jobs", JobOut.model_validate_json, body=JobNew(plan=plan, keep=keep).model_dump())


def job_list(account: str = "", limit: int = 50) -> Call[Listing[JobOut]]:
    return Call("GET", "/jobs", Listing[JobOut].model_validate_json, {"account": account, "limit": limit})


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


def installation_list(account: str = "") -> Call[Listing[InstallationOut]]:
    return Call("GET", "/installations", Listing[InstallationOut].model_validate_json, {"account": account})


def installation_show(installation: str) -> Call[InstallationOut]:
    return Call("GET", f"/installations/{installation}", InstallationOut.model_validate_json)


def installation_reveal(installation: str, credential: str = "all") -> Call[Revealed]:
    return Call(
        "POST", f"/installations/{installation}/reveal", Revealed.model_validate_json, body={"credential": credential}
    )


def installation_sheet(installation: str, *, reveal: bool = False) -> Call[str]:
    return Call("POST", f"/installations/{installation}/sheet", bytes.decode, body={"reveal": reveal})
