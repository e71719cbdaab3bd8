"""The public form of everything. Secrets are in no answer but `Revealed`."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Generic, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, SecretStr

T = TypeVar("T")


class Public(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Fault(Public):
    """An error as service, client, CLI and console show it."""

    code: str
    message: str
    hint: str = ""
    retryable: bool = False
    context: dict[str, Any] = {}


class Listing(Public, Generic[T]):
    items: list[T]


class Health(Public):
    version: str
    jobs_open: int


class AccountNew(Public):
    """A hosting account to be kept. Secrets are sealed at once."""

    name: str = Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$", description="short name, small letters, digits and hyphens")
    title: str = ""
    transfer: str = Field(description="sftp://login@host:22, ftps://login@host:21 or ftp://login@host:21")
    password: SecretStr = SecretStr("")
    key: SecretStr = Field(SecretStr(""), description="a private key's text, for SFTP")
    root: str = Field(min_length=1, description="the document root as the login sees it")
    address: str = Field(description="the site's address")
    reach: str = Field("", description="host:port to connect to while the name points elsewhere")
    panel: str = ""
    panel_login: str = ""
    panel_password: SecretStr = Field(SecretStr(""), description="left out when it is the transfer password")
    panel_primer: str = ""
    email: str = ""
    helper: bool = Field(True, description="whether the PHP helper may be used there")


class AccountChange(Public):
    """What may be changed of an account; what is left out stays."""

    title: str | None = None
    transfer: str | None = None
    password: SecretStr | None = None
    key: SecretStr | None = None
    root: str | None = None
    address: str | None = None
    reach: str | None = None
    panel: str | None = None
    panel_login: str | None = None
    panel_password: SecretStr | None = None
    panel_primer: str | None = None
    email: str | None = None
    helper: bool | None = None


class AccountOut(Public):
    name: str
    title: str
    transfer: str
    root: str
    address: str
    reach: str
    fingerprint: str
    panel: str
    panel_login: str
    panel_primer: str
    email: str
    helper: bool
    facts: dict[str, Any]
    checked_at: datetime | None


class AccountCheck(Public):
    accept_identity: bool = Field(False, description="pin the server's identity anew, after asking the host")


class ReleaseOut(Public):
    sha256: str
    name: str
    version: str
    file_name: str
    format: str
    size_bytes: int
    unpacked_bytes: int
    files: int
    wrapper: str
    findings: dict[str, Any]
    checked_in_at: datetime


class PlanNew(Public):
    """What to install where. A setting of `?` makes the job ask when the value is needed."""

    account: str
    release: str = Field(description="SHA-256 (or its start), name, or name-version")
    at: str = "/"
    settings: dict[str, str] = {}
    database: Literal["", "none", "mariadb", "postgresql"] = ""
    primer: str = ""


class PlannedActOut(Public):
    leg: str
    what: str
    by_hand: str


class PlanOut(Public):
    id: str
    account: str
    release: str
    application: str
    place: str
    address: str
    target: str
    way: dict[str, str]
    database: str
    acts: list[PlannedActOut]
    warnings: list[str]
    settings: dict[str, str]
    touches: list[str]
    created_at: datetime


class JobNew(Public):
    plan: str
    keep: bool = Field(False, description="leave everything as it is when the job fails, instead of taking it back")


class ActOut(Public):
    leg: str
    name: str
    state: str
    told: str
    started_at: datetime
    finished_at: datetime | None


class QuestionOut(Public):
    id: str
    leg: str
    value: str
    text: str
    options: list[str]
    secret: bool


class JobOut(Public):
    id: str
    kind: str
    account: str
    application: str
    plan: str
    state: str
    error: dict[str, Any] | None
    installation: str
    question: QuestionOut | None = None
    acts: list[ActOut] = []
    outstanding: list[str] = []
    created_at: datetime
    finished_at: datetime | None


class EventOut(Public):
    id: int
    at: datetime
    leg: str
    kind: str
    text: str
    data: dict[str, Any]


class Answer(Public):
    question: str
    answer: SecretStr


class InstallationOut(Public):
    id: str
    job: str
    account: str
    application: str
    version: str
    address: str
    login_address: str
    target: str
    admin_name: str
    database: str
    database_user: str
    credentials: list[str] = Field(description="names of the secrets that can be revealed")
    facts: dict[str, Any]
    created_at: datetime


class RevealAsk(Public):
    credential: str = Field(description="one of the installation's credentials, or `all`")


class Revealed(Public):
    secrets: dict[str, str]


class SheetAsk(Public):
    reveal: bool = False
