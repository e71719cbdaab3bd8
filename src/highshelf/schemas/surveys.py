"""The public form of surveys, sites, places, and of accounts that come in a file."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import Field, SecretStr

from highshelf.schemas.models import Fault, Public


class SurveyLine(Public):
    """One line of a survey: what was found, and how."""

    topic: str
    group: str
    title: str
    text: str
    how: str = Field(description="how it was found out, such as `shell: df -Pk` or `helper`")
    state: Literal["fine", "heed", "bad", "unknown"]
    data: Any = Field(None, description="the same for programs; null when it is not known")


class SurveyOut(Public):
    """A survey of an account. `queued` and `running` ones grow while they are looked at."""

    id: str
    account: str
    state: Literal["queued", "running", "done", "failed"]
    lines: list[SurveyLine]
    fault: Fault | None
    left: list[str] = Field(description="files of ours on the account that were not seen to be gone yet")
    started_at: datetime
    finished_at: datetime | None


class SiteOut(Public):
    """A document root and the address that shows it. The first of an account is its own."""

    address: str
    root: str
    reach: str
    proven_at: datetime | None
    own: bool = Field(description="whether it is the site that the account itself names")


class SiteNew(Public):
    """A further site. Without a root, the folder that the address shows is looked for."""

    address: str
    root: str = ""
    reach: str = ""
    make: bool = Field(False, description="make it in the panel first: a subdomain, with `root` as its folder")


class RootNew(Public):
    """Make a document root that does not exist yet."""

    root: str = Field("", description="the folder; the account's own when left out")


class LocateAsk(Public):
    what: str = Field(min_length=1, max_length=2000, description="a path as any view writes it, or an address")


class ViewOut(Public):
    view: Literal["transfer", "shell", "php", "address"]
    path: str
    how: str = Field(description="how the mapping was proven, or that it was not")


class Located(Public):
    """The same place in all views, and whether it is there."""

    given: str
    views: list[ViewOut]
    there: bool
    kind: str = Field(description="file, folder, link, other, or empty")
    told: list[str] = Field(description="what is there, or which part is not and what answers instead")


class ImportAsk(Public):
    text: SecretStr = Field(description="CSV with a heading line; columns are those of a new account")
    keep: bool = Field(False, description="keep the accounts; otherwise they are only checked")


class ImportFault(Public):
    line: int
    column: str
    message: str


class ImportRow(Public):
    line: int
    name: str
    title: str
    transfer: str
    address: str


class ImportOut(Public):
    """What the file holds. Nothing is kept while there is a single fault."""

    rows: list[ImportRow]
    faults: list[ImportFault]
    kept: int


class Said(Public):
    """A text for people."""

    text: str
