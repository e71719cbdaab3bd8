"""What routes are given: the rooms behind the service, a checked operator, a part of a list.

Who asks is found out so:
1. A bearer token (command line, client library) is the operator's token or nothing; no cookie is looked at then.
2. Otherwise the cookie's session. Requests that change something must come from our own page: Sec-Fetch-Site says
   `same-origin`; without it, Origin names our own address; without that too, the header X-High-Shelf has the session's word.
"""

from __future__ import annotations

import hashlib
import hmac
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Annotated, Any, Protocol, TypeVar
from urllib.parse import urlsplit

from fastapi import Depends, Query, Request, Response
from fastapi.security import APIKeyCookie, HTTPAuthorizationCredentials, HTTPBearer
from sqlmodel import SQLModel, col

from highshelf.core.errors import ForeignPageError, InputError, SignInError
from highshelf.engine.bench import Drivers
from highshelf.engine.changing import Changer
from highshelf.engine.databases import Databases
from highshelf.engine.engine import Engine
from highshelf.engine.inspecting import Inspector
from highshelf.engine.notices import Noticing
from highshelf.engine.outbox import Outbox
from highshelf.engine.planner import Planner
from highshelf.engine.rechecking import Rechecks
from highshelf.engine.shelving import CheckIn
from highshelf.engine.sites import Sites
from highshelf.engine.steps import Steps
from highshelf.engine.surveyor import Surveyor
from highshelf.engine.undoing import Undoer
from highshelf.service.queues import Endings, Figure, Queues
from highshelf.service.settings import Settings
from highshelf.service.throttle import Throttle
from highshelf.service.told import Told
from highshelf.store.operators import TOKEN_HOLDER
from highshelf.store.store import Store, contains
from highshelf.store.tables import SessionRow

R = TypeVar("R", bound=SQLModel)
COOKIE = "highshelf"
CSRF_HEADER = "X-High-Shelf"
SAFE = ("GET", "HEAD", "OPTIONS")


class DumpLook(Protocol):
    """What a look through a dump says."""

    @property
    def packed(self) -> str: ...
    @property
    def encoding(self) -> str: ...
    @property
    def unpacked_bytes(self) -> int: ...
    @property
    def kind(self) -> str: ...
    @property
    def databases(self) -> tuple[str, ...]: ...


@dataclass
class Rooms:
    """Everything a route may need."""

    store: Store
    drivers: Drivers
    planner: Planner
    steps: Steps
    surveyor: Surveyor
    sites: Sites
    inspector: Inspector
    changer: Changer
    undoer: Undoer
    databases: Databases
    look_through: Callable[[Path], DumpLook]
    # (html) -> PDF; (content, passphrase, public keys) -> an OpenPGP message.
    printed: Callable[[str], bytes]
    seal: Callable[[bytes, str, Sequence[str]], bytes]
    rechecks: Rechecks
    noticing: Noticing
    engine: Engine
    outbox: Outbox
    token: str
    check_in: CheckIn
    throttle: Throttle
    settings: Settings
    queues: Queues
    told: Told
    endings: Endings
    jobs_open: Figure


_bearer = HTTPBearer(
    auto_error=False, description="the operator's token, from the file `token` in the service's data folder"
)
# The real name has the port in it, see cookie_name.
_cookie = APIKeyCookie(name=COOKIE, auto_error=False, description="a session of the console")


def rooms(request: Request) -> Rooms:
    found: Rooms = request.app.state.rooms
    return found


def encrypted(request: Request) -> bool:
    """Whether this request came over HTTPS: to us, to a proxy that we believe, or to our public address."""
    settings = rooms(request).settings
    public = settings.encrypted and request.headers.get("host", "") == urlsplit(settings.public).netloc
    return request.url.scheme == "https" or public


def cookie_name(request: Request, what: str = COOKIE) -> str:
    """Browsers keep cookies by host alone: two services on one machine need two names. Over HTTPS the browser itself holds to
    it that nobody but this host has set the cookie (RFC 6265bis, 4.1.3.2)."""
    if encrypted(request):
        port = request.url.port
        return f"__Host-{what}" + (f"-{port}" if port not in (None, 443) else "")
    return f"{what}-{request.url.port or request.url.scheme}"


def csrf_word(key: str) -> str:
    return hashlib.sha256(f"csrf {key}".encode()).hexdigest()[:32]


def check_own_page(request: Request, key: str = "") -> None:
    """Raises ForeignPageError when a request that changes something may come from another site's page."""
    if request.method in SAFE:
        return
    site, origin = request.headers.get("Sec-Fetch-Site"), request.headers.get("Origin")
    if site is not None:
        own = site == "same-origin"
    elif origin is not None:
        parts = urlsplit(origin)
        scheme = "https" if encrypted(request) else "http"
        own = (parts.scheme, parts.netloc) == (scheme, request.url.netloc)
    else:
        own = bool(key) and hmac.compare_digest(request.headers.get(CSRF_HEADER, ""), csrf_word(key))
    if not own:
        raise ForeignPageError(
            "this request does not come from the console's own page",
            hint="open the console by its own address, and do it there",
        )


def session_of(request: Request) -> SessionRow | None:
    """The session of the request's cookie. Raises ForeignPageError."""
    key = request.cookies.get(cookie_name(request), "")
    found = rooms(request).store.operators.session(key) if key else None
    if found is not None:
        check_own_page(request, key)
    return found


def caller(request: Request) -> str:
    """Who asks: an operator's name, or `token` for the holder of the token file. Raises SignInError (HTTP 401)."""
    word = request.headers.get("Authorization")
    if word is None:
        session = session_of(request)
        if session is not None:
            return session.operator
    else:
        scheme, _, token = word.partition(" ")
        if scheme.lower() == "bearer" and hmac.compare_digest(token.strip().encode(), rooms(request).token.encode()):
            return TOKEN_HOLDER
    raise SignInError(
        "nobody is signed in",
        hint="sign in to the console, or send `Authorization: Bearer …` with the token from the service's data folder",
    )


async def _rooms(request: Request) -> Rooms:
    # In the event loop: each dependency that is a plain function waits for one of the shared threads, behind all who came before.
    return rooms(request)


async def operator(
    request: Request,
    given: Annotated[HTTPAuthorizationCredentials | None, Depends(_bearer)],
    cookie: Annotated[str | None, Depends(_cookie)],
) -> str:
    """Who asks, as the guard has found it before anything of the body was read (guard.py)."""
    who: str | None = request.scope.get("state", {}).get("who")
    # A way to a route that the guard did not know as one is asked here, and not let through.
    return who if who is not None else await rooms(request).queues["callers"].run(partial(caller, request))


async def still_in(request: Request, who: Annotated[str, Depends(operator)]) -> Callable[[], bool]:
    """For streams: whether whoever opened one is still signed in."""
    if who == TOKEN_HOLDER:
        return lambda: True
    key = request.cookies.get(cookie_name(request), "")
    return lambda: rooms(request).store.operators.session(key, touch=False) is not None


@dataclass
class Part:
    """Which part of a list is wanted."""

    request: Request
    response: Response
    limit: Annotated[int, Query(ge=1, le=500, description="how many at the most")] = 50
    offset: Annotated[int, Query(ge=0, le=2**31, description="how many to pass over")] = 0
    sort: Annotated[str, Query(description="the column to sort by; `-` before it turns the order round")] = ""
    q: Annotated[str, Query(max_length=200, description="only what holds this text")] = ""

    def order(self, columns: Mapping[str, Any], usual: str, last: Any) -> list[Any]:
        """The columns to order by; `last` decides between equals, so that pages never overlap.

        Raises:
            InputError: a column that cannot be sorted by.
        """
        wanted = self.sort or usual
        column = columns.get(wanted.removeprefix("-"))
        if column is None:
            raise InputError(
                f"the list cannot be sorted by {wanted.removeprefix('-')}", hint="by " + ", ".join(sorted(columns))
            )
        ordered = col(column).desc() if wanted.startswith("-") else col(column)
        return [ordered, col(last)]

    def rows(
        self, store: Store, kind: type[R], *where: Any, sorts: Mapping[str, Any], usual: str, last: Any, text: list[Any]
    ) -> tuple[list[R], int]:
        """The rows of this part, filtered by `q` in the text columns, and how many fit in all."""
        filters = [*where, contains(self.q, *text)] if self.q else list(where)
        found, total = store.page(
            kind, *filters, order=self.order(sorts, usual, last), limit=self.limit, offset=self.offset
        )
        self.tell(total)
        return list(found), total

    def tell(self, total: int) -> None:
        """Where the parts before and after this one are (RFC 8288), for who follows links instead of counting."""
        near = {"prev": max(self.offset - self.limit, 0) if self.offset else None}
        near["next"] = self.offset + self.limit if self.offset + self.limit < total else None
        links = []
        for name, offset in near.items():
            if offset is not None:
                there = self.request.url.include_query_params(limit=self.limit, offset=offset)
                links.append(f'<{there.path}?{there.query}>; rel="{name}"')
        if links:
            self.response.headers["Link"] = ", ".join(links)


In = Annotated[Rooms, Depends(_rooms)]
Who = Annotated[str, Depends(operator)]
StillIn = Annotated[Callable[[], bool], Depends(still_in)]
Wanted = Annotated[Part, Depends()]
