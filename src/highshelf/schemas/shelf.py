"""Public forms of the shelf beside the release itself: texts, match, comparison, joining, fetching."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, SecretStr

from highshelf.schemas.models import Fault, Public

Word = Literal["links", "letter-case", "normal-form", "backslashes", "twice", "odd-names"]


class TextOut(Public):
    """A readme, installation text, changelog or licence of a release."""

    path: str
    size_bytes: int
    text: str = Field(description="empty in lists")


class Corrections(Public):
    """What an operator knows better than what was read: finding -> what it is; null takes a correction back."""

    values: dict[Annotated[str, Field(min_length=1, max_length=40)], Annotated[str, Field(max_length=2000)] | None] = (
        Field(
            min_length=1,
            max_length=20,
            description="title, version, php, php_below, extensions, wished_extensions, databases, installers, samples, dumps, writable, "
            "web_folder; several of one kind are parted by commas, an empty text is none",
            examples=[{"php": "8.1", "extensions": "gd, mbstring"}],
        )
    )


class MatchLineOut(Public):
    """A need of the release beside what the account has."""

    topic: str
    need: str
    has: str
    verdict: Literal["fits", "heed", "red", "unknown"]
    by: str = Field(description="who can mend it: panel, .user.ini, support; empty when nobody has to")
    how: str
    where: str = Field(description="file:line in the release where the need was read")
    sure: float = Field(1.0, description="how sure the verdict is, 0 to 1")


class MatchOut(Public):
    release: str
    account: str
    checked_at: datetime | None = Field(description="when the account was last surveyed")
    lines: list[MatchLineOut]
    forbids: bool = Field(
        False,
        description="whether an install is bound to fail: a red line that is sure, and that no switch of the panel mends",
    )


class NeedOut(Public):
    what: str
    before: str
    after: str


class ComparisonOut(Public):
    """From the first release to the second; lists of paths are cut at `shown`, counts are whole."""

    before: str
    after: str
    added: list[str]
    changed: list[str]
    removed: list[str]
    added_count: int
    changed_count: int
    removed_count: int
    same: int
    needs: list[NeedOut]


class JoinPart(Public):
    release: str = Field(
        min_length=1, description="a release on the shelf: SHA-256 or its start, name, or name-version"
    )
    folder: str = Field("", max_length=400, description="the folder below the root that its contents belong in")


class JoinNew(Public):
    parts: list[JoinPart] = Field(min_length=2, max_length=20, description="the first is the application itself")
    accept: list[Word] = Field(default=[])


class FetchNew(Public):
    """A release to be fetched from its makers."""

    address: str = Field(min_length=1, max_length=2000, description="https")
    accept: list[Word] = Field(default=[], description="dangers that are accepted, by their word")
    checksum: str = Field(
        "", max_length=200, description="SHA-256, SHA-384 or SHA-512 in hexadecimal; weaker ones are told so"
    )
    checksum_address: str = Field("", max_length=2000, description="a checksum file or page")
    signature_address: str = Field("", max_length=2000, description="a detached OpenPGP signature")
    key: str = Field("", max_length=200_000, description="the makers' public key, armoured")
    key_address: str = Field("", max_length=2000, description="where the makers' public key is published")
    headers: dict[str, SecretStr] = Field(
        default={}, description="what signs in, such as Cookie or Authorization; sent to the address's own origin only"
    )
    wait_seconds: float = Field(0, ge=0, le=170, description="how long to wait for its end before answering")


class FetchOut(Public):
    """A fetch. `release` is the SHA-256 once it stands on the shelf."""

    id: str
    address: str
    file_name: str
    state: Literal["queued", "fetching", "reading", "done", "failed", "cancelled"]
    done_bytes: int
    total_bytes: int | None
    tries: int = Field(description="how often it was begun again after a broken line")
    note: str = Field(description="what it is waiting for")
    release: str
    fault: Fault | None
    asked_by: str
    created_at: datetime
    finished_at: datetime | None


class LicenceNew(Public):
    release: str = Field(
        min_length=1, description="a release of the application: SHA-256 or its start, name, or name-version"
    )
    account: str = Field(min_length=1, description="the customer's account")
    key: SecretStr = Field(min_length=1, max_length=4000)
    several: bool = Field(False, strict=True, description="it may be used for more than one installation")


class LicenceChange(Public):
    several: bool | None = Field(None, strict=True)
    free: bool = Field(False, strict=True, description="nobody uses it any more")


class LicenceOut(Public):
    """A licence key without the key: `ending` is its last characters, `used_by` the jobs and installations that have it."""

    id: str
    application: str
    account: str
    ending: str
    several: bool
    used_by: list[str]
    created_at: datetime


class PrimerText(Public):
    text: str = Field(max_length=400_000)


class PrimerOut(Public):
    """A primer, and all its faults; one with faults is not used."""

    name: str
    kind: Literal["panel", "application"]
    own: bool = Field(description="an operator's own, from the data folder")
    recognise: list[str]
    faults: list[str] = Field(description="each with its line")
    text: str = Field(description="empty in lists")


class PanelTry(Public):
    """Which panel is to be tried, and by what."""

    account: str = Field(description="the account whose panel it is, and whose login is used")
    text: str = Field("", max_length=400_000, description="a primer's text; empty: the account's own primer")


class PanelTriedOut(Public):
    """What came of one of the primer's tasks."""

    task: str
    verdict: Literal["works", "refused", "described", "missing"] = Field(
        description="described: not tried, since it would change something; missing: a job asks for it, and the primer does not say how"
    )
    told: str


class PanelTriesOut(Public):
    """A panel, signed in to and looked at; nothing there was changed."""

    account: str
    panel: str
    primer: str
    tasks: list[PanelTriedOut]
