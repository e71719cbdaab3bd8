"""The public form of everything. Secrets are in no answer but `Revealed`, and in `LetterOut` those that whoever asks has just sent."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Generic, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, SecretStr

from highshelf.schemas.ways import WayWanted

T = TypeVar("T")


class Public(BaseModel):
    # A model is built when it is first used: a command uses two or three of them.
    model_config = ConfigDict(extra="forbid", defer_build=True)


class Fault(Public):
    """An error as service, client, CLI and console show it."""

    code: str
    message: str
    hint: str = ""
    retryable: bool = False
    context: dict[str, Any] = {}


class Problem(Fault):
    """An error as the API answers with it: a problem of RFC 9457, with what service and clients show."""

    type: str = Field(description="`urn:highshelf:` and the code: a name, not an address")
    title: str = Field(description="the code in words")
    status: int
    detail: str = Field(description="the message")


class Listing(Public, Generic[T]):
    """A part of a list; `total` counts all that fit the filter."""

    items: list[T]
    total: int


class Health(Public):
    version: str
    jobs_open: int
    read_only: str = Field("", description="why nothing can be changed at the moment, or empty")


class StrongboxOut(Public):
    """Whether every secret opens with the key that is there."""

    secrets: int
    unopened: list[str] = Field(description="where those that do not open are filed")


class RecordOut(Public):
    """Something that was done to who may sign in, or to where secrets go."""

    at: datetime
    who: str = Field(description="an operator, or `token`")
    kind: str
    about: str
    text: str


class SignIn(Public):
    name: str = Field(min_length=1, max_length=60)
    password: SecretStr


class Accept(Public):
    """What somebody sends who opened a link that works once."""

    code: SecretStr
    name: str = Field("", max_length=60, description="chosen by the first operator; others have the name of the link")
    password: SecretStr


class CodeAsk(Public):
    code: SecretStr


class Invited(Public):
    operator: str = Field(description="whose link it is; empty when the name is to be chosen")
    ends_at: datetime


class SignedIn(Public):
    """Whether this browser is signed in."""

    operator: str = Field(description="the name, or empty")
    session: str = Field(description="the session's id, or empty")
    csrf: str = Field(description="goes into the header X-High-Shelf of requests that change something")
    first: bool = Field(description="there is no operator yet")
    version: str
    news: list[str] = Field([], description="what was done about this sign-in since the last one; told once")


class OperatorOut(Public):
    name: str
    created_at: datetime
    signed_in_at: datetime | None


class OperatorInvite(Public):
    name: str = Field(description="of somebody new, or of an operator who is to set a new password")


class InvitationOut(Public):
    operator: str
    link: str = Field(description="works once; shown now and never again")
    ends_at: datetime


class SessionOut(Public):
    id: str
    operator: str
    agent: str
    created_at: datetime
    seen_at: datetime
    ends_at: datetime


class LetterAsk(Public):
    """A letter as text, or as the file it came in."""

    text: SecretStr = Field(SecretStr(""), description="the letter, as plain text or HTML, up to 200,000 characters")
    file: SecretStr = Field(
        SecretStr(""),
        description="or its file in base64: plain text, HTML, a mail as it was kept, or a PDF; up to 700 kB",
    )


class LetterSaid(Public):
    """One value found in a letter, and where. The text of a password is here, because whoever asks has just sent it."""

    name: str
    text: str
    line: int = Field(description="counted from 1")
    where: str = Field(description="that line's text, passwords masked")
    sure: float = Field(description="0 to 1")
    others: list[str] = Field(description="what else could be meant")
    secret: bool


class LetterAccount(Public):
    """An account as the letter has it, to be confirmed. Nothing is kept."""

    name: str
    title: str
    transfer: str
    password: str
    root: str
    address: str
    reach: str
    panel: str
    panel_login: str
    panel_password: str
    database_host: str
    fingerprint: str = ""


class LetterOut(Public):
    found: list[LetterSaid]
    doubts: list[str]
    missing: list[str] = Field(description="what an account needs and the letter does not say")
    unsure: list[str] = Field([], description="values of the account that somebody has to confirm, by their names")
    account: LetterAccount
    more: list[LetterOut] = Field([], description="the other accounts that the same letter opens")


class AccountNew(Public):
    """A hosting account to be kept. Secrets are sealed at once."""

    name: str = Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$", description="short name, small letters, digits and hyphens")
    title: str = ""
    transfer: str = Field(
        description="sftp://login@host:22, ftps://login@host:21, ftps-implicit://login@host:990 or ftp://login@host:21"
    )
    password: SecretStr = SecretStr("")
    key: SecretStr = Field(SecretStr(""), description="a private key's text, for SFTP")
    passphrase: SecretStr = Field(SecretStr(""), description="what opens that key")
    agent: bool = Field(False, description="whether the service's own SSH agent opens the login")
    root: str = Field("", description="the document root as the login sees it; looked for when left out")
    address: str = Field(description="the site's address")
    reach: str = Field("", description="host:port to connect to while the name points elsewhere")
    panel: str = ""
    panel_login: str = ""
    panel_password: SecretStr = Field(SecretStr(""), description="left out when it is the transfer password")
    panel_primer: str = ""
    database_host: str = Field(
        "localhost", description="how PHP there calls the database server, with :port if need be"
    )
    email: str = ""
    helper: bool = Field(True, description="whether the PHP helper may be used there")
    fingerprint: str = Field(
        "",
        description="the transfer server's identity as the host's letter has it, compared before the password is sent",
    )
    confirm_server: bool = Field(
        False, description="show a server that is not known yet, and send it nothing before somebody says yes"
    )
    pace_kb: int = Field(0, ge=0, le=10_000_000, description="the most that may go up in a second, kB; 0 is no limit")


class AccountChange(Public):
    """What may be changed of an account; what is left out stays."""

    title: str | None = None
    transfer: str | None = None
    password: SecretStr | None = None
    key: SecretStr | None = None
    passphrase: SecretStr | None = None
    agent: bool | None = None
    root: str | None = None
    address: str | None = None
    reach: str | None = None
    panel: str | None = None
    panel_login: str | None = None
    panel_password: SecretStr | None = None
    panel_primer: str | None = None
    database_host: str | None = None
    email: str | None = None
    helper: bool | None = None
    fingerprint: str | None = None
    confirm_server: bool | None = None
    pace_kb: int | None = Field(None, ge=0, le=10_000_000)


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
    database_host: str
    email: str
    helper: bool
    confirm_server: bool = False
    certificate: str = Field("", description="the certificate that is taken where `reach` leads, or empty")
    pace_kb: int = 0
    agent: bool
    limits: dict[str, Any] = Field(
        description="learned when the server said so: connections, pause_seconds, idle_seconds"
    )
    places: dict[str, Any] = Field(description="the document root as shell and PHP see it, proven by a survey")
    checked_at: datetime | None


class AccountCheck(Public):
    accept_identity: bool = Field(False, description="pin the server's identity anew, after asking the host")
    wait_seconds: float = Field(0, ge=0, le=170, description="answer when the survey has ended, or after so long")


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
    origin: dict[str, Any] = Field(default={}, description="for a fetched one: address, compared, at")
    forms: dict[str, int] = Field(
        default={}, description="form -> bytes: how it is packed for hosts besides; told of a single release"
    )
    fault: str = Field("", description="what is wrong with its files on the shelf, or empty")
    checked_in_at: datetime


class MemberOut(Public):
    """A file of a release; the path is below the wrapper."""

    path: str
    size_bytes: int
    sha256: str


class ValueOut(Public):
    """A value of the catalogue that an operator may set."""

    name: str
    kind: str
    about: str
    secret: bool


class PlanNew(Public):
    """What to install where. A setting of `?` makes the job ask when the value is needed."""

    account: str
    release: str = Field(description="SHA-256 (or its start), name, or name-version")
    site: str = Field("", description="the address of a further site of the account; its own when left out")
    at: str = "/"
    settings: dict[str, str] = {}
    database: Literal["", "none", "mariadb", "postgresql"] = ""
    primer: str = ""
    way: WayWanted = Field("", description="how the files go over, instead of the best way that is open")
    configure: Literal["", "installer", "sample"] = Field(
        "",
        description="who makes the configuration: the installer (when left out), or High Shelf from the release's sample",
    )
    if_there: Literal["", "beside", "merge", "replace"] = Field(
        "",
        description="what becomes of what stands at the place: beside (it stays, no name may be taken), merge (a file that both have "
        "steps aside and is kept), replace (all but the host's own steps aside and is kept); refused when left out",
    )


class PlannedActOut(Public):
    leg: str
    what: str
    by_hand: str


class PlannedQuestion(Public):
    value: str
    text: str


class WayOut(Public):
    """A way for the files to go over."""

    name: str
    archive: str = Field("", description="what goes up by it: original, zip, tar.xz, tar.zst or tar.gz")
    reason: str = ""
    seconds: float = Field(0, description="estimated, until the files lie there and are compared; 0 when not estimated")


class PlanOut(Public):
    id: str
    account: str
    site: str = ""
    release: str
    application: str
    place: str
    address: str
    target: str
    way: WayOut
    ways: list[WayOut] = Field(
        [], description="all that are open: the chosen one, then what takes its place if it fails"
    )
    if_there: str = ""
    pace_bytes: int = Field(0, description="the most that may go over in a second; 0 is no limit")
    database: str
    acts: list[PlannedActOut]
    warnings: list[str]
    forbids: list[str] = Field(
        [],
        description="needs of the release that the account surely does not meet; a job has to be started `in_spite` of them",
    )
    settings: dict[str, str]
    touches: list[str]
    there: str = Field("", description="what stands at the target now")
    asks: list[PlannedQuestion] = Field([], description="what the job will or may ask")
    fingerprint: str = Field("", description="of the target's listing, compared again before the swap")
    kind: str = Field("install", description="of the job: install, undo, remove or recheck")
    installation: str = Field("", description="the installation that it is about, or nothing")
    keeps_copy: bool = Field(False, description="whether the files and the database of what is undone are kept")
    created_at: datetime


class PlanPreview(Public):
    """A plan that is not kept, or why there is none. Address and target are told in both cases."""

    address: str
    target: str
    plan: PlanOut | None
    fault: Fault | None


class JobNew(Public):
    plan: str
    keep: bool = Field(False, description="leave everything as it is when the job fails, instead of taking it back")
    in_spite: bool = Field(False, description="start although the plan has something under `forbids`")


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


class EventOut(Public):
    """Something told of a job. `data` may hold bytes and of (bytes in all), files and of_files, act, state, hint."""

    id: int
    job: str
    at: datetime
    leg: str
    kind: str
    text: str
    data: dict[str, Any]


class LegOut(Public):
    """A leg: its state, and how many of its acts are done."""

    name: Literal["survey", "place", "database", "configure", "walk", "tidy", "prove", "undo"]
    state: Literal[
        "to-come", "running", "resting", "waiting", "done", "failed", "cut-off", "undone", "not-reached", "not-needed"
    ]
    acts_done: int
    acts: int


class JobOut(Public):
    id: str
    kind: str
    account: str
    application: str
    plan: str
    address: str
    target: str
    state: str
    error: dict[str, Any] | None
    installation: str
    question: QuestionOut | None = None
    legs: list[LegOut] = []
    acts: list[ActOut] = []
    outstanding: list[str] = []
    latest: EventOut | None = Field(None, description="the last thing told of it")
    cancel_asked: bool = False
    paused: bool = Field(False, description="whether somebody lets it rest")
    created_at: datetime
    finished_at: datetime | None


class Answer(Public):
    question: str
    answer: SecretStr


class TakenBack(Public):
    job: str = Field(description="the job that took it back")
    at: datetime
    left: list[str] = Field(description="what still stands of it, because it could not be taken back")
    kept_in: str = Field(
        description="the folder on the host where its files are kept, since they had changed, or nothing"
    )


class SeenAgain(Public):
    name: str
    state: Literal["right", "wrong", "unknown"] = Field(description="unknown: it could not be seen")
    told: str


class Rechecked(Public):
    job: str = Field(description="the job that looked")
    at: datetime
    wrong: int = Field(description="how many things are wrong")
    seen: list[SeenAgain]


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
    replaced_by: str = Field("", description="the installation that took its place on the host, or nothing")
    taken_back: TakenBack | None = Field(None, description="when it was undone: nothing of it stands any more")
    recheck_hours: int = Field(0, description="it is looked at again by itself every so many hours; 0 is never")
    rechecked: Rechecked | None = Field(None, description="what was seen when it was looked at last")
    created_at: datetime


class DifferenceOut(Public):
    path: str = Field(description="below the installation's place; a folder ends in /")
    why: str = Field("", description="what explains it, or nothing")
    count: int = Field(1, description="how many files, for a folder")


class InspectionOut(Public):
    """An installation beside its release. Each list holds at most as many as were asked for; the counts are whole."""

    how: str
    same: int
    unread: int = Field(description="how many of the same ones were compared by size alone")
    changed_count: int
    missing_count: int
    extra_count: int
    unexplained: int = Field(description="differences that nothing explains")
    changed: list[DifferenceOut]
    missing: list[DifferenceOut]
    extra: list[DifferenceOut]


class SettingOut(Public):
    """A setting as it stands in a file: its keys joined by dots. A secret has no value here."""

    name: str
    value: str
    kind: Literal["text", "number", "flag", "null"]
    secret: bool
    line: int
    comment: str = ""


class SettingsFileOut(Public):
    """A configuration file of an installation. `path` is as it lies there, `mode` in octal digits, "" where the server does not tell."""

    path: str
    format: str
    mode: str
    settings: list[SettingOut]


class ChangeAsk(Public):
    values: dict[str, str] = Field(
        min_length=1, description="setting -> value; a setting is its keys joined by dots, or the last of them"
    )
    file: str = Field("", description="the file, where several have such a setting")


class ChangeOut(Public):
    """What a change, or putting it back, did. `names` is empty when it stood there already."""

    file: str
    names: list[str]
    seen: list[str] = Field(description="what was looked at afterwards, and how it was")


class InspectAsk(Public):
    read: bool = Field(False, description="where nobody on the host makes hashes, read every file back; slow")
    shown: int = Field(500, ge=0, le=100_000, description="how many of each list to tell, unexplained ones first")


class RevealOut(Public):
    """Who saw which secret, and when."""

    what: str
    who: str
    at: datetime


class RevealAsk(Public):
    credential: str = Field(description="one of the installation's credentials, or `all`")


class ScheduleAsk(Public):
    hours: int = Field(ge=0, le=24 * 366, description="look at it again every so many hours; 0 is never")


class UndoAsk(Public):
    changed_too: bool = Field(
        False, description="also one that changed since its proof; its files and its database are kept then"
    )
    keep: bool = Field(False, description="keep its files and its database, whether it changed or not")


class ForgottenOut(Public):
    secrets: int = Field(description="how many have left the strongbox")


class Revealed(Public):
    secrets: dict[str, str]


class SheetAsk(Public):
    reveal: bool = False
    form: Literal["html", "pdf", "markdown", "json", "logins", "bookmarks"] = Field(
        "html",
        description="`logins` is a CSV file for a password manager: title, address, name, password, note; `bookmarks` a file that browsers "
        "take in: the site, its administration, the panel, and nothing secret",
    )
    passphrase: SecretStr | None = Field(
        None, max_length=1000, description="seal it so that it opens with this one, of 12 characters or more (OpenPGP)"
    )
    keys: list[Annotated[str, Field(max_length=100_000)]] = Field(
        [], max_length=10, description="seal it for the owners of these OpenPGP public keys"
    )
    customer: bool = Field(
        False, description="the customer's part: without the hosting login, the panel and the folders"
    )
