"""SQLModel tables. Secrets are only in `secret`, sealed; everything else may be read by anyone with the file."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, Column, Index, LargeBinary, UniqueConstraint
from sqlmodel import Field, SQLModel


def now() -> datetime:
    return datetime.now(UTC)


class AccountRow(SQLModel, table=True):
    __tablename__ = "account"
    name: str = Field(primary_key=True)
    title: str
    transfer_kind: str
    transfer_host: str
    transfer_port: int
    transfer_login: str
    fingerprint: str = ""
    root: str
    address: str
    reach: str = ""
    panel: str = ""
    panel_login: str = ""
    panel_primer: str = ""
    database_host: str = "localhost"
    email: str = ""
    helper: bool = True
    agent: bool = False
    # Whether a server that is not known yet is shown to a person before it is given the password.
    confirm_server: bool = False
    # The certificate that the check saw where `reach` leads, when it does not prove itself: SHA256:hex, or "".
    certificate: str = ""
    # The most that may go up in a second, kB; 0 is no limit.
    pace_kb: int = 0
    # Learned when a server said so: connections, pause_seconds, idle_seconds, told; and what the line did last: up_bytes_per_second.
    limits: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    # The document root as other views see it, proven by a survey: view -> {path, how}.
    places: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    # What the last survey found, for programs: topic -> data.
    facts: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    created_at: datetime = Field(default_factory=now)
    checked_at: datetime | None = None


class SiteRow(SQLModel, table=True):
    """A further site of an account, beside the one that the account itself names."""

    __tablename__ = "site"
    account: str = Field(primary_key=True)
    address: str = Field(primary_key=True)
    root: str
    reach: str = ""
    # As the account's own: the certificate that was seen where `reach` leads.
    certificate: str = ""
    proven_at: datetime | None = None


class SurveyRow(SQLModel, table=True):
    """One survey of an account. `state`: queued, running, done, failed; `lines` as core/survey/lines.py has them.

    `kind`: `check`, or `probe` for a single question that puts a file there (does this address show that folder?).
    """

    __tablename__ = "survey"
    id: str = Field(primary_key=True)
    kind: str = "check"
    account: str = Field(index=True)
    state: str = "queued"
    accept_identity: bool = False
    lines: list[dict[str, Any]] = Field(default_factory=list, sa_column=Column(JSON, nullable=False))
    error: dict[str, Any] | None = Field(default=None, sa_column=Column(JSON))
    started_at: datetime = Field(default_factory=now)
    finished_at: datetime | None = None


class SecretRow(SQLModel, table=True):
    """A sealed secret. `ref` says whose it is, such as `account/ferry/transfer` or `job/ID/admin.password`."""

    __tablename__ = "secret"
    ref: str = Field(primary_key=True)
    nonce: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    sealed: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    created_at: datetime = Field(default_factory=now)


class ReleaseRow(SQLModel, table=True):
    __tablename__ = "release"
    sha256: str = Field(primary_key=True)
    name: str = Field(index=True)
    version: str
    file_name: str
    format: str
    size_bytes: int
    unpacked_bytes: int
    files: int
    wrapper: str
    findings: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    # Where it was fetched from and what was compared: address, compared (texts), at. Empty for a file that was brought.
    origin: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    checked_in_at: datetime = Field(default_factory=now)


class FetchRow(SQLModel, table=True):
    """A release on its way from where its makers publish it. `state`: queued, fetching, reading, done, failed, cancelled.

    What signs in is sealed under `fetch/ID/headers`.
    """

    __tablename__ = "fetch"
    id: str = Field(primary_key=True)
    address: str
    file_name: str = ""
    state: str = Field(default="queued", index=True)
    accept: list[str] = Field(default_factory=list, sa_column=Column(JSON, nullable=False))
    # What is compared: checksum, checksum_address, signature_address, key, key_address.
    compare: dict[str, str] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    done_bytes: int = 0
    total_bytes: int | None = None
    # The server's mark of the file's contents: with it a broken download goes on where it stopped.
    tag: str = ""
    tries: int = 0
    note: str = ""
    cancel_asked: bool = False
    error: dict[str, Any] | None = Field(default=None, sa_column=Column(JSON))
    release: str = ""
    asked_by: str = ""
    created_at: datetime = Field(default_factory=now)
    finished_at: datetime | None = None


class LicenceRow(SQLModel, table=True):
    """A licence key of one application for one customer's account; the key is sealed under `licence/ID`.

    `used_by`: the job or installation that has it, "" while it is free; `several`: it may be used more than once.
    """

    __tablename__ = "licence"
    id: str = Field(primary_key=True)
    application: str = Field(index=True)
    account: str = Field(index=True)
    ending: str
    several: bool = False
    used_by: list[str] = Field(default_factory=list, sa_column=Column(JSON, nullable=False))
    created_at: datetime = Field(default_factory=now)


class PlanRow(SQLModel, table=True):
    __tablename__ = "plan"
    id: str = Field(primary_key=True)
    account: str = Field(index=True)
    release: str
    body: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    created_at: datetime = Field(default_factory=now)


class JobRow(SQLModel, table=True):
    """`state`: queued, running, waiting, undoing, done, failed, cancelled."""

    __tablename__ = "job"
    __table_args__ = (Index("ix_job_created_at", "created_at", "id"), Index("ix_job_finished_at", "finished_at"))
    id: str = Field(primary_key=True)
    kind: str = "install"
    plan_id: str = Field(index=True)
    account: str = Field(index=True)
    application: str
    state: str = Field(default="queued", index=True)
    keep: bool = False
    cancel_asked: bool = False
    # While somebody lets it rest: the mark of this pause, which wakes the legs that wait for its end.
    pause: str = ""
    # How often the engine began it anew after its workflow had broken.
    run: int = 0
    error: dict[str, Any] | None = Field(default=None, sa_column=Column(JSON))
    installation: str = ""
    created_at: datetime = Field(default_factory=now)
    finished_at: datetime | None = None


class OutboxRow(SQLModel, table=True):
    """What the engine is still to be told; written with the change that it follows from, removed when it was told.

    `what`: start, answered, resumed; `mark`: the question's id, or that of the pause which is over.
    """

    __tablename__ = "outbox"
    id: int | None = Field(default=None, primary_key=True)
    what: str
    job_id: str = Field(index=True)
    leg: str = ""
    mark: str = ""
    created_at: datetime = Field(default_factory=now)


class EpochRow(SQLModel, table=True):
    """One row: how often a service was started on this data folder. An older number may write nothing any more."""

    __tablename__ = "epoch"
    id: int = Field(default=1, primary_key=True)
    number: int


class ValueRow(SQLModel, table=True):
    """A value of a job; a secret one has an empty text here and lies in the strongbox."""

    __tablename__ = "value"
    job_id: str = Field(primary_key=True)
    name: str = Field(primary_key=True)
    text: str = ""
    secret: bool = False


class ActRow(SQLModel, table=True):
    """The journal: `state` is intended, done, undone or undo-failed; `seq` is the order of first intents."""

    __tablename__ = "act"
    __table_args__ = (UniqueConstraint("job_id", "leg", "name"),)
    seq: int | None = Field(default=None, primary_key=True)
    job_id: str = Field(index=True)
    leg: str
    name: str
    state: str = "intended"
    facts: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    told: str = ""
    started_at: datetime = Field(default_factory=now)
    finished_at: datetime | None = None


class OutstandingRow(SQLModel, table=True):
    """A file of ours that is on a host for a moment: written down before it is put there, until it was seen to be gone."""

    __tablename__ = "outstanding"
    job_id: str = Field(primary_key=True)
    path: str = Field(primary_key=True)
    since: datetime = Field(default_factory=now)


class EventRow(SQLModel, table=True):
    __tablename__ = "event"
    __table_args__ = (Index("ix_event_job_id_id", "job_id", "id"),)
    id: int | None = Field(default=None, primary_key=True)
    job_id: str = Field(index=True)
    at: datetime = Field(default_factory=now)
    leg: str = ""
    kind: str = "note"
    text: str = ""
    data: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))


class QuestionRow(SQLModel, table=True):
    __tablename__ = "question"
    id: str = Field(primary_key=True)
    job_id: str = Field(index=True)
    leg: str
    value: str
    text: str
    options: list[str] = Field(default_factory=list, sa_column=Column(JSON, nullable=False))
    secret: bool = False
    asked_at: datetime = Field(default_factory=now)
    answered_at: datetime | None = None


class InstallationRow(SQLModel, table=True):
    __tablename__ = "installation"
    id: str = Field(primary_key=True)
    job_id: str = Field(index=True)
    account: str = Field(index=True)
    release: str
    application: str
    version: str
    address: str
    login_address: str
    target: str
    admin_name: str
    database: str = ""
    database_user: str = ""
    facts: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    created_at: datetime = Field(default_factory=now)


class DatabaseRow(SQLModel, table=True):
    """A database that belongs to no installation; its password is sealed under `database/ID/password`.

    `made_by`: the job that made it, "" for one that was there already and was only filed: that one is never dropped.
    `facts`: what was seen when its login was tried last: proven, version, charset, tables, rows, at.
    """

    __tablename__ = "database"
    __table_args__ = (UniqueConstraint("account", "name"),)
    id: str = Field(primary_key=True)
    account: str = Field(index=True)
    name: str
    user: str
    kind: str
    host: str
    port: str
    made_by: str = ""
    facts: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    created_at: datetime = Field(default_factory=now)


class DumpRow(SQLModel, table=True):
    """An SQL dump in the data folder, `dumps/ID`: brought for an import (`job` is ""), or taken by a job.

    `kind`: the server it is for, "" when nothing in it says; `insists`: the name of a database that it chooses itself.
    """

    __tablename__ = "dump"
    id: str = Field(primary_key=True)
    name: str
    account: str = Field(default="", index=True)
    database: str = ""
    job: str = ""
    kind: str = ""
    packed: str = ""
    encoding: str = "utf-8"
    insists: str = ""
    size_bytes: int = 0
    unpacked_bytes: int = 0
    sha256: str = ""
    created_at: datetime = Field(default_factory=now)


class NoticePlaceRow(SQLModel, table=True):
    """Where notices go: a web address that is called, or somebody's mailbox. `what`: which notices; `account`: only of this one, or "".

    `server`: of a mailbox, as MailServer has it. Sealed under `notice/ID/secret`: the key of the calls, or the mail server's password.
    """

    __tablename__ = "notice_place"
    id: str = Field(primary_key=True)
    kind: str
    target: str
    what: list[str] = Field(default_factory=list, sa_column=Column(JSON, nullable=False))
    account: str = ""
    server: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    silent: bool = False
    created_at: datetime = Field(default_factory=now)


class NoticeRow(SQLModel, table=True):
    """A notice on its way to one place. `state`: waiting, sent, given-up; `notice`: what it says, `due_at`: when it is tried next."""

    __tablename__ = "notice"
    id: str = Field(primary_key=True)
    place: str = Field(index=True)
    job: str = ""
    notice: dict[str, Any] = Field(default_factory=dict, sa_column=Column(JSON, nullable=False))
    state: str = Field(default="waiting", index=True)
    tries: int = 0
    error: str = ""
    created_at: datetime = Field(default_factory=now)
    due_at: datetime = Field(default_factory=now)
    ended_at: datetime | None = None


class ReadUpToRow(SQLModel, table=True):
    """How far somebody has read the events: `notices`."""

    __tablename__ = "read_up_to"
    name: str = Field(primary_key=True)
    event: int


class OperatorRow(SQLModel, table=True):
    """Somebody who signs in to the console; `password` is an argon2 hash."""

    __tablename__ = "operator"
    name: str = Field(primary_key=True)
    password: str
    created_at: datetime = Field(default_factory=now)
    signed_in_at: datetime | None = None


class InvitationRow(SQLModel, table=True):
    """A link that works once. `operator` is empty for the first one, who chooses the name; only a hash of the code is kept."""

    __tablename__ = "invitation"
    code_hash: str = Field(primary_key=True)
    operator: str = ""
    created_at: datetime = Field(default_factory=now)
    ends_at: datetime


class SessionRow(SQLModel, table=True):
    """A browser that is signed in. The cookie holds a key of which only a hash is kept here."""

    __tablename__ = "session"
    id: str = Field(primary_key=True)
    key_hash: str = Field(index=True, unique=True)
    operator: str = Field(index=True)
    agent: str = ""
    created_at: datetime = Field(default_factory=now)
    seen_at: datetime = Field(default_factory=now)
    ends_at: datetime


class RevealRow(SQLModel, table=True):
    """Who asked to see which secret, when."""

    __tablename__ = "reveal"
    id: int | None = Field(default=None, primary_key=True)
    what: str
    who: str
    at: datetime = Field(default_factory=now)


class RecordRow(SQLModel, table=True):
    """What was done to who may sign in, and to where secrets go. `about` is an operator's or an account's name."""

    __tablename__ = "record"
    id: int | None = Field(default=None, primary_key=True)
    at: datetime = Field(default_factory=now)
    who: str
    kind: str = Field(index=True)
    about: str = Field(index=True)
    text: str


class DeviceRow(SQLModel, table=True):
    """A browser in which an operator has signed in before; only a hash of its cookie is kept."""

    __tablename__ = "device"
    key_hash: str = Field(primary_key=True)
    operator: str = Field(index=True)
    ends_at: datetime
