"""The panel's routes: session cookie, anti-forgery token on every form, one page a thing."""

import hmac
import secrets
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any

from fastapi import Depends, FastAPI, Form, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from highshelf.practice.faults import PracticeError
from highshelf.practice.panel.databases import COLLATIONS, PRIVILEGES, Databases, Refusal
from highshelf.practice.panel.pages import render

COOKIE = "boatshed"
Text = Annotated[str, Form()]


@dataclass
class Visit:
    """One browser's session: who it is (None before signing in) and its anti-forgery token."""

    number: str | None
    proof: str


class Unwelcome(Exception):
    """Not signed in, or a form without its token."""


def create_panel(settings: dict[str, Any]) -> FastAPI:
    """The panel as an ASGI application. `settings`: title, socket, customers, database_limit."""
    panel = FastAPI(openapi_url=None)
    visits: dict[str, Visit] = {}
    customers: dict[str, dict[str, str]] = settings["customers"]

    def visit_of(request: Request) -> Visit:
        found = visits.get(request.cookies.get(COOKIE, ""))
        if found is None or found.number is None:
            raise Unwelcome("Please sign in.")
        return found

    def checked(request: Request, proof: Text = "") -> Visit:
        found = visit_of(request)
        if not hmac.compare_digest(found.proof, proof):
            raise Unwelcome("This form is out of date.")
        return found

    Here = Annotated[Visit, Depends(visit_of)]
    Sure = Annotated[Visit, Depends(checked)]

    def databases(visit: Visit) -> Databases:
        return Databases(Path(settings["socket"]), visit.number or "", settings["database_limit"])

    def page(template: str, heading: str, visit: Visit, status: int = 200, /, **facts: object) -> Response:
        customer = customers.get(visit.number or "")
        base = {
            "title": settings["title"],
            "heading": heading,
            "proof": visit.proof,
            "number": visit.number,
            "customer": customer,
        }
        return HTMLResponse(render(template, **base, **facts), status)

    def attempt(act: Callable[[], str], otherwise: Callable[[str], Response]) -> Response:
        try:
            return RedirectResponse(act(), 303)
        except Refusal as refusal:
            return otherwise(str(refusal))
        except PracticeError as fault:
            return otherwise(f"The database server says: {fault.message}")

    @panel.exception_handler(Unwelcome)
    async def unwelcome(request: Request, fault: Unwelcome) -> Response:
        return RedirectResponse("/", 303)

    @panel.get("/")
    def door(request: Request) -> Response:
        visit = visits.get(request.cookies.get(COOKIE, ""))
        if visit and visit.number:
            return RedirectResponse("/overview", 303)
        key, visit = secrets.token_urlsafe(24), Visit(None, secrets.token_urlsafe(18))
        visits[key] = visit
        answer = page("door", "Sign in", visit)
        answer.set_cookie(COOKIE, key, httponly=True, samesite="strict")
        return answer

    @panel.post("/")
    def come_in(request: Request, number: Text = "", secret: Text = "", proof: Text = "") -> Response:
        visit = visits.get(request.cookies.get(COOKIE, ""))
        if visit is None or not hmac.compare_digest(visit.proof, proof):
            raise Unwelcome("This form is out of date.")
        known = customers.get(number.strip())
        if known is None or not hmac.compare_digest(known["password"].encode(), secret.encode()):
            return page("door", "Sign in", visit, 403, refusal="Customer number and password do not belong together.")
        visit.number, visit.proof = number.strip(), secrets.token_urlsafe(18)
        return RedirectResponse("/overview", 303)

    @panel.post("/leave")
    def leave(request: Request, visit: Sure) -> Response:
        visits.pop(request.cookies.get(COOKIE, ""), None)
        return RedirectResponse("/", 303)

    @panel.get("/overview")
    def overview(visit: Here) -> Response:
        used = len(databases(visit).databases())
        return page("overview", "Overview", visit, used=used, limit=settings["database_limit"])

    @panel.get("/databases")
    def list_databases(visit: Here) -> Response:
        mine = databases(visit)
        return page("databases", "Databases", visit, rows=[(n, list(mine.attached(n))) for n in mine.databases()])

    @panel.get("/databases/new")
    def new_database(visit: Here) -> Response:
        return page("new-database", "New database", visit, collations=COLLATIONS, label="")

    @panel.post("/databases/new")
    def create_database(visit: Sure, label: Text = "", collation: Text = "") -> Response:
        def again(refusal: str) -> Response:
            return page("new-database", "New database", visit, 422, collations=COLLATIONS, label=label, refusal=refusal)

        return attempt(lambda: "/databases/" + databases(visit).create_database(label, collation), again)

    def database_page(visit: Visit, name: str, status: int = 200, /, **facts: object) -> Response:
        mine = databases(visit)
        if name not in mine.databases():
            return page(
                "databases",
                "No such database",
                visit,
                404,
                rows=[(n, list(mine.attached(n))) for n in mine.databases()],
            )
        shown = {"name": name, "attached": mine.attached(name), "users": mine.users(), "privileges": PRIVILEGES}
        return page("database", name, visit, status, **shown, **facts)

    @panel.get("/databases/{name}")
    def one_database(visit: Here, name: str) -> Response:
        return database_page(visit, name)

    @panel.post("/databases/{name}/attach")
    def attach(visit: Sure, name: str, who: Text = "", may: Annotated[list[str] | None, Form()] = None) -> Response:
        def act() -> str:
            if name not in databases(visit).databases():
                raise Refusal("There is no such database.")
            databases(visit).attach(name, who, may or [])
            return f"/databases/{name}"

        return attempt(act, lambda refusal: database_page(visit, name, 422, refusal=refusal))

    @panel.post("/databases/{name}/drop")
    def drop_database(visit: Sure, name: str, sure: Text = "") -> Response:
        def act() -> str:
            if name not in databases(visit).databases():
                raise Refusal("There is no such database.")
            if sure != "yes":
                raise Refusal("Please tick the box first.")
            databases(visit).drop_database(name)
            return "/databases"

        return attempt(act, lambda refusal: database_page(visit, name, 422, refusal=refusal))

    @panel.get("/database-users")
    def list_users(visit: Here) -> Response:
        return page("users", "Database users", visit, users=databases(visit).users())

    @panel.get("/database-users/new")
    def new_user(visit: Here) -> Response:
        return page("new-user", "New database user", visit, label="")

    @panel.post("/database-users/new")
    def create_user(visit: Sure, label: Text = "", first: Text = "", second: Text = "") -> Response:
        def act() -> str:
            if first != second:
                raise Refusal("The two passwords differ.")
            databases(visit).create_user(label, first)
            return "/database-users"

        return attempt(
            act, lambda refusal: page("new-user", "New database user", visit, 422, label=label, refusal=refusal)
        )

    @panel.post("/database-users/{name}/drop")
    def drop_user(visit: Sure, name: str) -> Response:
        def act() -> str:
            if name not in databases(visit).users():
                raise Refusal("There is no such database user.")
            databases(visit).drop_user(name)
            return "/database-users"

        return attempt(
            act,
            lambda refusal: page(
                "users", "Database users", visit, 422, users=databases(visit).users(), refusal=refusal
            ),
        )

    return panel
