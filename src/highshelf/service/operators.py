"""Routes of operators, their sessions, and signing in to the console."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response

from highshelf import __version__
from highshelf.core.errors import SignInError
from highshelf.schemas.models import (
    Accept,
    CodeAsk,
    InvitationOut,
    Invited,
    Listing,
    OperatorInvite,
    OperatorOut,
    SessionOut,
    SignedIn,
    SignIn,
)
from highshelf.service.deps import In, Rooms, Who, check_own_page, cookie_name, csrf_word, session_of
from highshelf.service.faults import RESPONSES
from highshelf.store.operators import LONGEST
from highshelf.store.tables import SessionRow

OPEN: dict[int | str, dict[str, Any]] = {status: RESPONSES[status] for status in (401, 403, 422, 429)}
door = APIRouter(prefix="/session", tags=["signing in"], responses=OPEN)
operators = APIRouter(prefix="/operators", tags=["operators"], responses=RESPONSES)
sessions = APIRouter(prefix="/sessions", tags=["operators"], responses=RESPONSES)


def _sender(request: Request) -> str:
    return request.client.host if request.client else ""


def _let_in(request: Request, response: Response, room: Rooms, name: str) -> SignedIn:
    """Open a session and give its cookie; a session that this browser had before ends."""
    key, row = room.store.operators.open_session(name, request.headers.get("User-Agent", ""))
    before = request.cookies.get(cookie_name(request), "")
    old = room.store.operators.session(before, touch=False) if before else None
    if old is not None:
        room.store.operators.end_session(old.id)
    response.set_cookie(
        cookie_name(request),
        key,
        max_age=int(LONGEST.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
        path="/",
    )
    return _signed_in(room, row, key)


def _signed_in(room: Rooms, row: SessionRow | None, key: str) -> SignedIn:
    if row is None:
        return SignedIn(operator="", session="", csrf="", first=room.store.operators.count() == 0, version="")
    return SignedIn(operator=row.operator, session=row.id, csrf=csrf_word(key), first=False, version=__version__)


@door.get("", operation_id="session_show")
def show(request: Request, room: In) -> SignedIn:
    """Whether this browser is signed in. Anybody may ask."""
    return _signed_in(room, session_of(request), request.cookies.get(cookie_name(request), ""))


@door.post("", operation_id="sign_in")
def sign_in(given: SignIn, request: Request, response: Response, room: In) -> SignedIn:
    """Sign in to the console: a session in the database, its key in a cookie."""
    check_own_page(request)
    sender = _sender(request)
    room.throttle.check(sender, given.name)
    try:
        row = room.store.operators.sign_in(given.name, given.password.get_secret_value())
    except SignInError:
        room.throttle.failed(sender, given.name)
        raise
    room.throttle.forget(sender, given.name)
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
    room.throttle.check(_sender(request))
    try:
        row = room.store.operators.invited(ask.code.get_secret_value())
    except SignInError:
        room.throttle.failed(_sender(request))
        raise
    return Invited(operator=row.operator, ends_at=row.ends_at)


@door.post("/accept", operation_id="accept", status_code=201)
def accept(given: Accept, request: Request, response: Response, room: In) -> SignedIn:
    """Use a link: become an operator, or set a new password. The link works no more, and the browser is signed in."""
    check_own_page(request)
    room.throttle.check(_sender(request))
    try:
        row = room.store.operators.accept(
            given.code.get_secret_value(), given.name.strip(), given.password.get_secret_value()
        )
    except SignInError:
        room.throttle.failed(_sender(request))
        raise
    return _let_in(request, response, room, row.name)


@operators.get("", operation_id="operator_list")
def listing(room: In, who: Who) -> Listing[OperatorOut]:
    rows = room.store.operators.all()
    items = [OperatorOut(name=r.name, created_at=r.created_at, signed_in_at=r.signed_in_at) for r in rows]
    return Listing(items=items, total=len(items))


@operators.post("/invite", operation_id="operator_invite", status_code=201)
def invite(given: OperatorInvite, request: Request, room: In, who: Who) -> InvitationOut:
    """A link that works once, for a day: for a new operator, or for one who is to set a new password."""
    code, ends_at = room.store.operators.invite(given.name)
    return InvitationOut(operator=given.name, link=f"{request.base_url}welcome#{code}", ends_at=ends_at)


@operators.delete("/{name}", operation_id="operator_remove", status_code=204)
def remove(name: str, room: In, who: Who) -> None:
    """Forget an operator; the sessions end at once."""
    room.store.operators.remove(name)


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
