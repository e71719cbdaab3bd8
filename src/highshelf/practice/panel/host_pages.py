"""The panel's routes for PostgreSQL databases and for what a customer may switch in PHP."""

from typing import Annotated

from fastapi import APIRouter, Form
from fastapi.responses import Response

from highshelf.practice.panel.desk import AtDesk, Desk, Here, Sure, Text, Visit, attempt
from highshelf.practice.panel.switches import ZONES
from highshelf.practice.servers.php import SWITCHES

router = APIRouter()


def postgresql_page(desk: Desk, visit: Visit, status: int = 200, /, **facts: object) -> Response:
    mine = desk.postgresql(visit)
    shown = {"names": mine.names(), "server": f"127.0.0.1:{mine.port}", "label": ""}
    return desk.page("postgresql", "PostgreSQL databases", visit, status, **{**shown, **facts})


@router.get("/postgresql")
def list_postgresql(desk: AtDesk, visit: Here) -> Response:
    return postgresql_page(desk, visit)


@router.post("/postgresql")
def create_postgresql(desk: AtDesk, visit: Sure, label: Text = "", secret: Text = "") -> Response:
    def act() -> str:
        desk.postgresql(visit).create(label, secret)
        return "/postgresql"

    return attempt(act, lambda refusal: postgresql_page(desk, visit, 422, label=label, refusal=refusal))


@router.post("/postgresql/{name}/drop")
def drop_postgresql(desk: AtDesk, visit: Sure, name: str) -> Response:
    def act() -> str:
        desk.postgresql(visit).drop(name)
        return "/postgresql"

    return attempt(act, lambda refusal: postgresql_page(desk, visit, 422, refusal=refusal))


def php_page(desk: Desk, visit: Visit, status: int = 200, /, **facts: object) -> Response:
    zone, extensions = desk.switches(visit).read()
    shown = {"zone": zone, "zones": ZONES, "extensions": extensions, "offered": SWITCHES}
    return desk.page("php", "PHP", visit, status, **shown, **facts)


@router.get("/php")
def show_php(desk: AtDesk, visit: Here) -> Response:
    return php_page(desk, visit)


@router.post("/php")
def change_php(desk: AtDesk, visit: Sure, zone: Text = "", on: Annotated[list[str] | None, Form()] = None) -> Response:
    def act() -> str:
        desk.switches(visit).write(zone, tuple(on or ()))
        return "/php"

    return attempt(act, lambda refusal: php_page(desk, visit, 422, refusal=refusal))
