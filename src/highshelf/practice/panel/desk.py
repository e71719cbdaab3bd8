"""What all of the panel's routes share: who is visiting, pages, forms with their anti-forgery token."""

import hmac
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any

from fastapi import Depends, Form, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from highshelf.practice.faults import PracticeError
from highshelf.practice.panel.databases import Databases, Refusal
from highshelf.practice.panel.files import Files
from highshelf.practice.panel.pages import render
from highshelf.practice.panel.postgresql import PostgresqlDatabases
from highshelf.practice.panel.switches import Switches
from highshelf.practice.panel.websites import Websites

COOKIE = "boatshed"
Text = Annotated[str, Form()]


@dataclass
class Visit:
    """One browser's session: who it is (None before signing in) and its anti-forgery token."""

    number: str | None
    proof: str


@dataclass
class Desk:
    """The panel's settings (title, socket, customers, database_limit) and everybody who is visiting."""

    settings: dict[str, Any]
    visits: dict[str, Visit] = field(default_factory=dict)

    def databases(self, visit: Visit) -> Databases:
        return Databases(Path(self.settings["socket"]), visit.number or "", self.settings["database_limit"])

    def websites(self, visit: Visit) -> Websites:
        facts = self.settings["customers"][visit.number]
        return Websites(facts, Path(self.settings["sites"]), Path(self.settings["apache_pid"]))

    def files(self, visit: Visit) -> Files:
        return Files(self.settings["customers"][visit.number], self.settings["upload_limit_bytes"])

    def postgresql(self, visit: Visit) -> PostgresqlDatabases:
        facts = self.settings
        return PostgresqlDatabases(Path(facts["postgresql_socket"]), facts["postgresql_port"], visit.number or "")

    def switches(self, visit: Visit) -> Switches:
        facts = self.settings["customers"][visit.number]
        return Switches(Path(facts["switches"]), Path(self.settings["php_pid"]))

    def page(self, template: str, heading: str, visit: Visit, status: int = 200, /, **facts: object) -> Response:
        customer = self.settings["customers"].get(visit.number or "")
        base = {"title": self.settings["title"], "heading": heading, "proof": visit.proof}
        return HTMLResponse(render(template, **base, number=visit.number, customer=customer, **facts), status)


class Unwelcome(Exception):
    """Not signed in, or a form without its token."""


def desk_of(request: Request) -> Desk:
    found: Desk = request.app.state.desk
    return found


AtDesk = Annotated[Desk, Depends(desk_of)]


def visit_of(request: Request, desk: AtDesk) -> Visit:
    """The signed-in visit. Raises Unwelcome."""
    found = desk.visits.get(request.cookies.get(COOKIE, ""))
    if found is None or found.number is None:
        raise Unwelcome("Please sign in.")
    return found


Here = Annotated[Visit, Depends(visit_of)]


def checked(visit: Here, proof: Text = "") -> Visit:
    """The signed-in visit of a form with its token. Raises Unwelcome."""
    if not hmac.compare_digest(visit.proof, proof):
        raise Unwelcome("This form is out of date.")
    return visit


Sure = Annotated[Visit, Depends(checked)]


def attempt(act: Callable[[], str], otherwise: Callable[[str], Response]) -> Response:
    """Do it and lead on, or show the page again with what the panel or the database server says."""
    try:
        return RedirectResponse(act(), 303)
    except Refusal as refusal:
        return otherwise(str(refusal))
    except PracticeError as fault:
        return otherwise(f"The database server says: {fault.message}")
