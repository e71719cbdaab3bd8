"""The public form of what a job saw of an installer."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from highshelf.schemas.models import Public


class FilledOut(Public):
    """A field, and the name of the value that went into it; never the value itself."""

    field: str
    value: str


class PageSeen(Public):
    """A page of the conversation with an installer, and what was done on it."""

    number: int
    url: str
    status: int
    title: str
    topic: str = Field("", description="what the page is about, such as database, checks, finished")
    state: str = Field("", description="what it was judged to be, such as asks, refuses, done")
    outcome: str = Field("", description="what it says of the step before: failure, success or nothing")
    confidence: float = 0.0
    speaks_for: list[str] = Field([], description="the page's own words behind the judgement")
    against: list[str] = Field([], description="what on it speaks against an end")
    did: str = Field("", description="what was done on it, and why")
    filled: list[FilledOut] = Field([])
    witness: str = Field("", description="what the host said that the installer made so far")
    arrived_at: datetime | None = Field(None, description="when it had come")
    answered_seconds: float = Field(0.0, description="how long the host took to answer, redirects included")
    pictured: bool = Field(False, description="whether there is a picture of it: a browser has shown it")
    text: str = Field("", description="its prose, without what stands on its controls")
    html: str = Field("", description="as it came, with secrets masked; given for a single page")
