"""What routes are given: the rooms behind the service, and a checked operator."""

from __future__ import annotations

import hmac
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Literal, Protocol

from fastapi import Depends, Request
from fastapi.security import HTTPAuthorizationCredentials, HTTPBearer

from highshelf.core.errors import HighShelfError
from highshelf.core.release.contents import Contents
from highshelf.engine.bench import Drivers
from highshelf.engine.engine import Engine
from highshelf.engine.planner import Planner
from highshelf.engine.steps import Steps
from highshelf.store.store import Store


class SignInError(HighShelfError):
    code = "sign-in"


class OpenedArchive(Protocol):
    """What the archive driver gives back: format, contents, and a way to read small files."""

    @property
    def format(self) -> Literal["zip", "tar"]: ...
    @property
    def contents(self) -> Contents: ...
    @property
    def peek(self) -> Callable[[str], bytes]: ...


@dataclass
class Rooms:
    """Everything a route may need."""

    store: Store
    drivers: Drivers
    planner: Planner
    steps: Steps
    engine: Engine
    token: str
    open_archive: Callable[[Path, str], OpenedArchive]
    make_zip: Callable[[Path, Path], None]


_bearer = HTTPBearer(
    auto_error=False, description="the operator's token, from the file `token` in the service's data folder"
)


def rooms(request: Request) -> Rooms:
    found: Rooms = request.app.state.rooms
    return found


def operator(request: Request, given: Annotated[HTTPAuthorizationCredentials | None, Depends(_bearer)]) -> str:
    """The operator's name. Raises SignInError (HTTP 401)."""
    if given is None or not hmac.compare_digest(given.credentials.encode(), rooms(request).token.encode()):
        raise SignInError(
            "the service wants an operator's token",
            hint="send it as `Authorization: Bearer …`; it lies in the service's data folder",
        )
    return "operator"


In = Annotated[Rooms, Depends(rooms)]
Who = Annotated[str, Depends(operator)]
