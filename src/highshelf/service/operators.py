"""Routes of operators, their sessions, and signing in to the console."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from sqlmodel import col

from highshelf import __version__
from highshelf.core.errors import ForbiddenError, InputError
from highshelf.schemas.models import (
    Accept,
    CodeAsk,
    InvitationOut,
    Invited,
    Listing,
    OperatorInvite,
    OperatorOut,
    RecordOut,
    SessionOut,
    SignedIn,
    SignIn,
)
from highshelf.service.deps import (
    In,
    Rooms,
    Wanted,
    Who,
    check_own_page,
    cookie_name,
    csrf_word,
    encrypted,
    session_of,
)
from highshelf.service.faults import RESPONSES
from highshelf.service.queues import apart
from highshelf.service.settings import LOOPBACK
from highshelf.store.operators import DEVICE, LONGEST, TOKEN_HOLDER
from highshelf.store.tables import RecordRow, SessionRow

OPEN: dict[int | str, dict[str, Any]] = {status: RESPONSES[status] for status in (401, 403, 408, 413, 421, 422, 429)}
door = APIRouter(prefix="/session", tags=["signing in"], responses=OPEN)
operators = APIRouter(prefix="/operators", tags=["operators"], responses=RESPONSES)
records = APIRouter(prefix="/records", tags=["operators"], responses=RESPONSES)
sessions = APIRouter(prefix="/sessions", tags=["operators"], responses=RESPONSES)


DEVICE_COOKIE = "highshelf-browser"


def _sender(request: Request) -> str:
    return request.client.host if request.client else ""


def _give(request: Request, response: Response, name: str, key: str, seconds: float) -> None:
    response.set_cookie(
        name, key, max_age=int(seconds), httponly=True, samesite="strict", secure=encrypted(request), path="/"
    )


def _let_in(request: Request, response: Response, room: Rooms, name: str) -> SignedIn:
    """Open a session and give its cookie; a session that this browser had before ends."""
    news = room.store.operators.news(name)
    key, row = room.store.operators.open_session(name, request.headers.get("User-Agent", ""))
    before = request.cookies.get(cookie_name(request), "")
    old = room.store.operators.session(before, touch=False) if before else None
    if old is not None:
        room.store.operators.end_session(old.id)
    _give(request, response, cookie_name(request), key, LONGEST.total_seconds())
    device = cookie_name(request, DEVICE_COOKIE)
    known = room.store.operators.know_device(request.cookies.get(device, ""), name)
    _give(request, response, device, known, DEVICE.total_seconds())
    return _signed_in(room, row, key, news)


def _signed_in(room: Rooms, row: SessionRow | None, key: str, news: list[str] | None = None) -> SignedIn:
    if row is None:
        return SignedIn(operator="", session="", csrf="", first=room.store.operators.count() == 0, version="")
    return SignedIn(
        operator=row.operator, session=row.id, csrf=csrf_word(key), first=False, version=__version__, news=news or []
    )


@door.get("", operation_id="session_show")
def show(request: Request, room: In) -> SignedIn:
    """Whether this browser is signed in. Anybody may ask."""
    return _signed_in(room, session_of(request), request.cookies.get(cookie_name(request), ""))


@door.post("", operation_id="sign_in")
@apart("doors")
def sign_in(given: SignIn, request: Request, response: Response, room: In) -> SignedIn:
    """Sign in to the console: a session in the database, its key in a cookie."""
    check_own_page(request)
    cookie = request.cookies.get(cookie_name(request, DEVICE_COOKIE), "")
    # A browser that is known by this name is counted by itself: what strangers fail at does not keep it out.
    tried = (_sender(request), given.name, cookie if room.store.operators.is_device(cookie, given.name) else "")
    room.throttle.begin(*tried)
    row = room.store.operators.sign_in(given.name, given.password.get_secret_value())
    room.throttle.right(*tried)
    return _let_in(request, response, room, row.name)


@door.delete("", operation_id="sign_out", status_code=204)
def sign_out(request: Request, response: Response, room: In) -> None:
    """End this browser's session."""
    row = session_of(request)
    if row is not None:
        room.store.operators.end_session(row.id)
    response.delete_cookie(cookie_name(request), path="/")


@door.post("/invited", operation_id="invited")
def invited(ask: CodeAsk, request: Request, room: In) -> Invited:
    """Whose link a code is of, before it is used."""
    check_own_page(request)
    room.throttle.begin(_sender(request))
    row = room.store.operators.invited(ask.code.get_secret_value())
    room.throttle.right(_sender(request))
    return Invited(operator=row.operator, ends_at=row.ends_at)


@door.post("/accept", operation_id="accept", status_code=201)
@apart("doors")
def accept(given: Accept, request: Request, response: Response, room: In) -> SignedIn:
    """Use a link: become an operator, or set a new password. The link works no more, and the browser is signed in."""
    check_own_page(request)
    room.throttle.begin(_sender(request))
    code, name = given.code.get_secret_value(), given.name.strip()
    try:
        row = room.store.operators.accept(code, name, given.password.get_secret_value())
    except InputError:
        # The link was right; what is wrong is told, and does not count as guessing.
        room.throttle.right(_sender(request))
        raise
    room.throttle.right(_sender(request))
    return _let_in(request, response, room, row.name)


@operators.get("", operation_id="operator_list")
def listing(room: In, who: Who) -> Listing[OperatorOut]:
    rows = room.store.operators.all()
    items = [OperatorOut(name=r.name, created_at=r.created_at, signed_in_at=r.signed_in_at) for r in rows]
    return Listing(items=items, total=len(items))


def _on_this_machine(request: Request) -> bool:
    """Whether the request was made here, not handed on from elsewhere."""
    handed_on = any(n in request.headers for n in ("forwarded", "x-forwarded-for", "x-real-ip", "via"))
    return _sender(request) in LOOPBACK and not handed_on


@operators.post("/invite", operation_id="operator_invite", status_code=201)
def invite(given: OperatorInvite, request: Request, room: In, who: Who) -> InvitationOut:
    """A link that works once, for a day: for a new operator, or for one who is to set a new password.

    The second is made for oneself, or with the token on the service's own machine; it is written down either way.
    """
    theirs = who == given.name or (who == TOKEN_HOLDER and _on_this_machine(request))
    if room.store.operators.there(given.name) and not theirs:
        raise ForbiddenError(
            f"{given.name} is an operator already: only they can have a new password set",
            hint=f"they do it while signed in; or `highshelf operator invite {given.name}` on the service's own machine",
        )
    code, ends_at = room.store.operators.invite(given.name, who)
    base = room.settings.public or str(request.base_url).rstrip("/")
    return InvitationOut(operator=given.name, link=f"{base}/welcome#{code}", ends_at=ends_at)


@operators.delete("/{name}", operation_id="operator_remove", status_code=204)
def remove(name: str, room: In, who: Who) -> None:
    """Forget an operator; the sessions end at once."""
    room.store.operators.remove(name, who)


@records.get("", operation_id="record_list")
def record_listing(
    room: In,
    who: Who,
    part: Wanted,
    about: Annotated[str, Query(max_length=100, description="only what is about this operator or account")] = "",
) -> Listing[RecordOut]:
    """Who changed who may sign in, and where secrets go; the newest first."""
    rows, total = part.rows(
        room.store,
        RecordRow,
        *([col(RecordRow.about) == about] if about else []),
        sorts={"at": RecordRow.at, "who": RecordRow.who, "about": RecordRow.about},
        usual="-at",
        last=RecordRow.id,
        text=[RecordRow.who, RecordRow.about, RecordRow.text, RecordRow.kind],
    )
    items = [RecordOut(**{n: getattr(r, n) for n in RecordOut.model_fields}) for r in rows]
    return Listing(items=items, total=total)


@sessions.get("", operation_id="session_list")
def session_listing(
    room: In, who: Who, operator: Annotated[str, Query(description="only this one's")] = ""
) -> Listing[SessionOut]:
    """Browsers that are signed in, the latest use first."""
    rows = [r for r in room.store.operators.sessions() if operator in ("", r.operator)]
    items = [SessionOut(**{n: getattr(r, n) for n in SessionOut.model_fields}) for r in rows]
    return Listing(items=items, total=len(items))


@sessions.delete("/{number}", operation_id="session_end", status_code=204)
def end(number: str, room: In, who: Who) -> None:
    """Sign a browser out; its next request is refused."""
    room.store.operators.end_session(number)
