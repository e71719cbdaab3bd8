"""The panel's routes: session cookie, anti-forgery token on every form, one page a thing."""

import hmac
import secrets
from typing import Annotated, Any

from fastapi import APIRouter, FastAPI, Form, Request
from fastapi.responses import RedirectResponse, Response

from highshelf.practice.panel import file_pages, host_pages
from highshelf.practice.panel.databases import COLLATIONS, PRIVILEGES, Refusal
from highshelf.practice.panel.desk import COOKIE, AtDesk, Desk, Here, Sure, Text, Unwelcome, Visit, attempt

router = APIRouter()


def create_panel(settings: dict[str, Any]) -> FastAPI:
    """The panel as an ASGI application. `settings`: title, socket, customers, database_limit."""
    panel = FastAPI(openapi_url=None)
    panel.state.desk = Desk(settings)
    panel.include_router(router)
    panel.include_router(host_pages.router)
    panel.include_router(file_pages.router)
    panel.add_exception_handler(Unwelcome, to_the_door)
    return panel


def to_the_door(request: Request, fault: Exception) -> Response:
    return RedirectResponse("/", 303)


@router.get("/")
def door(request: Request, desk: AtDesk) -> Response:
    visit = desk.visits.get(request.cookies.get(COOKIE, ""))
    if visit and visit.number:
        return RedirectResponse("/overview", 303)
    key, visit = secrets.token_urlsafe(24), Visit(None, secrets.token_urlsafe(18))
    desk.visits[key] = visit
    answer = desk.page("door", "Sign in", visit)
    answer.set_cookie(COOKIE, key, httponly=True, samesite="strict")
    return answer


@router.post("/")
def come_in(request: Request, desk: AtDesk, number: Text = "", secret: Text = "", proof: Text = "") -> Response:
    visit = desk.visits.get(request.cookies.get(COOKIE, ""))
    if visit is None or not hmac.compare_digest(visit.proof, proof):
        raise Unwelcome("This form is out of date.")
    known = desk.settings["customers"].get(number.strip())
    if known is None or not hmac.compare_digest(known["password"].encode(), secret.encode()):
        return desk.page("door", "Sign in", visit, 403, refusal="Customer number and password do not belong together.")
    visit.number, visit.proof = number.strip(), secrets.token_urlsafe(18)
    return RedirectResponse("/overview", 303)


@router.post("/leave")
def leave(request: Request, desk: AtDesk, visit: Sure) -> Response:
    desk.visits.pop(request.cookies.get(COOKIE, ""), None)
    return RedirectResponse("/", 303)


@router.get("/overview")
def overview(desk: AtDesk, visit: Here) -> Response:
    used = len(desk.databases(visit).databases())
    return desk.page("overview", "Overview", visit, used=used, limit=desk.settings["database_limit"])


def databases_page(desk: Desk, visit: Visit, heading: str, status: int = 200) -> Response:
    mine = desk.databases(visit)
    rows = [(name, list(mine.attached(name))) for name in mine.databases()]
    return desk.page("databases", heading, visit, status, rows=rows)


@router.get("/databases")
def list_databases(desk: AtDesk, visit: Here) -> Response:
    return databases_page(desk, visit, "Databases")


@router.get("/databases/new")
def new_database(desk: AtDesk, visit: Here) -> Response:
    return desk.page("new-database", "New database", visit, collations=COLLATIONS, label="")


@router.post("/databases/new")
def create_database(desk: AtDesk, visit: Sure, label: Text = "", collation: Text = "") -> Response:
    def again(refusal: str) -> Response:
        facts = {"collations": COLLATIONS, "label": label, "refusal": refusal}
        return desk.page("new-database", "New database", visit, 422, **facts)

    return attempt(lambda: "/databases/" + desk.databases(visit).create_database(label, collation), again)


def database_page(desk: Desk, visit: Visit, name: str, status: int = 200, /, **facts: object) -> Response:
    mine = desk.databases(visit)
    if name not in mine.databases():
        return databases_page(desk, visit, "No such database", 404)
    shown = {"name": name, "attached": mine.attached(name), "users": mine.users(), "privileges": PRIVILEGES}
    return desk.page("database", name, visit, status, **shown, **facts)


@router.get("/databases/{name}")
def one_database(desk: AtDesk, visit: Here, name: str) -> Response:
    return database_page(desk, visit, name)


@router.post("/databases/{name}/attach")
def attach(
    desk: AtDesk, visit: Sure, name: str, who: Text = "", may: Annotated[list[str] | None, Form()] = None
) -> Response:
    def act() -> str:
        if name not in desk.databases(visit).databases():
            raise Refusal("There is no such database.")
        desk.databases(visit).attach(name, who, may or [])
        return f"/databases/{name}"

    return attempt(act, lambda refusal: database_page(desk, visit, name, 422, refusal=refusal))


@router.post("/databases/{name}/drop")
def drop_database(desk: AtDesk, visit: Sure, name: str, sure: Text = "") -> Response:
    def act() -> str:
        if name not in desk.databases(visit).databases():
            raise Refusal("There is no such database.")
        if sure != "yes":
            raise Refusal("Please tick the box first.")
        desk.databases(visit).drop_database(name)
        return "/databases"

    return attempt(act, lambda refusal: database_page(desk, visit, name, 422, refusal=refusal))


def users_page(desk: Desk, visit: Visit, status: int = 200, /, **facts: object) -> Response:
    return desk.page("users", "Database users", visit, status, users=desk.databases(visit).users(), **facts)


@router.get("/database-users")
def list_users(desk: AtDesk, visit: Here) -> Response:
    return users_page(desk, visit)


@router.get("/database-users/new")
def new_user(desk: AtDesk, visit: Here) -> Response:
    return desk.page("new-user", "New database user", visit, label="")


@router.post("/database-users/new")
def create_user(desk: AtDesk, visit: Sure, label: Text = "", first: Text = "", second: Text = "") -> Response:
    def act() -> str:
        if first != second:
            raise Refusal("The two passwords differ.")
        desk.databases(visit).create_user(label, first)
        return "/database-users"

    def again(refusal: str) -> Response:
        return desk.page("new-user", "New database user", visit, 422, label=label, refusal=refusal)

    return attempt(act, again)


@router.post("/database-users/{name}/drop")
def drop_user(desk: AtDesk, visit: Sure, name: str) -> Response:
    def act() -> str:
        if name not in desk.databases(visit).users():
            raise Refusal("There is no such database user.")
        desk.databases(visit).drop_user(name)
        return "/database-users"

    return attempt(act, lambda refusal: users_page(desk, visit, 422, refusal=refusal))


def websites_page(desk: Desk, visit: Visit, status: int = 200, /, **facts: object) -> Response:
    mine = desk.websites(visit)
    return desk.page("websites", "Websites", visit, status, names=mine.names(), domain=mine.domain, **facts)


@router.get("/websites")
def list_websites(desk: AtDesk, visit: Here) -> Response:
    return websites_page(desk, visit)


@router.get("/websites/new")
def new_website(desk: AtDesk, visit: Here) -> Response:
    return desk.page("new-website", "New website", visit, label="", folder="", domain=desk.websites(visit).domain)


@router.post("/websites/new")
def create_website(desk: AtDesk, visit: Sure, label: Text = "", folder: Text = "") -> Response:
    def act() -> str:
        desk.websites(visit).create(label, folder.strip("/"))
        return "/websites"

    def again(refusal: str) -> Response:
        facts = {"label": label, "folder": folder, "domain": desk.websites(visit).domain, "refusal": refusal}
        return desk.page("new-website", "New website", visit, 422, **facts)

    return attempt(act, again)


@router.post("/websites/{name}/drop")
def drop_website(desk: AtDesk, visit: Sure, name: str) -> Response:
    def act() -> str:
        desk.websites(visit).drop(name)
        return "/websites"

    return attempt(act, lambda refusal: websites_page(desk, visit, 422, refusal=refusal))
