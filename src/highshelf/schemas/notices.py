"""Public forms of notices and of the places where they go."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field, SecretStr

from highshelf.schemas.models import Public

What = Literal["question", "failed", "done", "wrong"]
Security = Literal["tls", "starttls", "none"]


class WebhookNew(Public):
    """A web address that is called with JSON, sealed with a key."""

    address: str = Field(min_length=8, max_length=2000, description="https, or http inside your own network")
    what: list[What] = Field(["question", "failed", "wrong"], min_length=1, max_length=4)
    account: str = Field("", description="only of this account; empty: of all")
    key: SecretStr = Field(
        SecretStr(""), max_length=200, description="what calls are sealed with; made up when left out"
    )


class MailNew(Public):
    """A mailbox, and the mail server that takes letters for it."""

    to: str = Field(min_length=3, max_length=254, pattern=r"^[^@\s<>,;]+@[^@\s<>,;]+$")
    sender: str = Field(min_length=3, max_length=254, pattern=r"^[^@\s<>,;]+@[^@\s<>,;]+$")
    host: str = Field(min_length=1, max_length=253, pattern=r"^[^\s/]+$")
    port: int = Field(465, ge=1, le=65535, strict=True)
    security: Security = Field("tls", description="tls from the first byte, starttls, or none inside your own network")
    login: str = Field("", max_length=254)
    password: SecretStr = Field(SecretStr(""), max_length=400)
    what: list[What] = Field(["question", "failed", "wrong"], min_length=1, max_length=4)
    account: str = Field("", description="only of this account; empty: of all")


class PlaceChange(Public):
    """What is left out stays."""

    what: list[What] | None = Field(None, min_length=1, max_length=4)
    account: str | None = None
    silent: bool | None = Field(None, strict=True, description="nothing is sent there for the time being")


class PlaceOut(Public):
    """Where notices go. Its key or password is not in it."""

    id: str
    kind: Literal["webhook", "mail"]
    target: str
    what: list[What]
    account: str
    silent: bool
    server: str = Field(description="of a mailbox: its mail server")
    last_state: Literal["", "waiting", "sent", "given-up"] = Field(
        description="how the last notice went; empty: none yet"
    )
    last_error: str
    last_at: datetime | None
    created_at: datetime


class PlaceMade(PlaceOut):
    """A place that was just added. `key` is told this once; a receiver checks with it that calls are ours."""

    key: str = Field(description="of a webhook whose key was made up, else empty")


class NoticeOut(Public):
    """A notice that was sent, is on its way, or was given up."""

    id: str
    place: str
    job: str
    what: What
    title: str
    text: str
    state: Literal["waiting", "sent", "given-up"]
    tries: int
    error: str
    created_at: datetime
    ended_at: datetime | None


class Tried(Public):
    arrived: bool
    error: str = Field(description="why it did not, empty when it did")
