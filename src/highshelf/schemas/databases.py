"""Public forms of databases and dumps."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, SecretStr

from highshelf.schemas.models import Public

Server = Literal["mariadb", "postgresql"]
# As servers take them; what panels allow is less, and they say so.
Name = Annotated[str, Field(max_length=64, pattern=r"^[^\x00-\x1f`\"'\\/]*$")]


class DatabaseNew(Public):
    """A database to be made; names are before the panel adds to them, made up where they are empty."""

    kind: Server = "mariadb"
    name: Name = ""
    user: Name = ""


class DatabaseKnown(Public):
    """The login of a database that is there."""

    name: Name = Field(min_length=1, description="its whole name")
    user: Name = Field(min_length=1, description="the whole name of its user")
    password: SecretStr = Field(min_length=1, max_length=400)
    kind: Server = "mariadb"
    host: Annotated[str, Field(max_length=255)] = Field("", description="as PHP there sees it; empty: the account's")
    port: Annotated[str, Field(max_length=5, pattern=r"^\d*$")] = Field("", description="empty: the usual one")


class DatabaseOut(Public):
    """One database of an account."""

    name: str
    kind: str = Field(description="mariadb, postgresql, or empty when nothing is known but its name")
    user: str
    host: str
    port: str
    number: str = Field(description="in the books; empty when its login is not known, or is an installation's")
    installation: str = Field(description="the installation that it belongs to, or empty")
    application: str
    made_here: bool = Field(description="High Shelf made it, and may drop it")
    there: bool | None = Field(description="whether the panel lists it; null when nobody could ask")
    proven: bool = Field(description="whether its login worked from the host when it was tried last")
    tables: int | None = Field(description="as many as there were then")
    tried_at: datetime | None


class DatabasesOut(Public):
    items: list[DatabaseOut]
    total: int
    unasked: str = Field(description="why the panel's own list is not in it; empty when it is")


class FillAsk(Public):
    dump: str = Field(min_length=1, description="a dump that was brought or taken: its number")
    keep: bool = Field(
        False, strict=True, description="keep a dump that was brought when it is imported; one that was taken stays"
    )


class DumpOut(Public):
    """An SQL dump in the data folder."""

    id: str
    name: str
    account: str = Field(description="where it was taken, or is to be imported")
    database: str
    job: str = Field(description="the job that took it, empty when it was brought")
    kind: str = Field(description="the server that it is for, empty when nothing in it says")
    packed: str = Field(description="gz, bz2, xz, zst or empty")
    insists: str = Field(description="the name of a database that it chooses by itself, or empty")
    size_bytes: int
    unpacked_bytes: int
    sha256: str
    created_at: datetime
