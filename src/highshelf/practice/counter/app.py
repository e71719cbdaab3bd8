"""Routes of the order counter.

POST   /passes           {"customer", "word"} -> a pass, to be shown as `Counter-Pass` with everything else
GET    /stores           the customer's stores
POST   /orders           {"label"} -> an order, at work at first
GET    /orders/NUMBER    its state: taken, at-work, ready (with the store and its secret, this once), declined (and why)
DELETE /stores/SCHEMA

Whoever asks too often is told to wait. `weather.json` in its folder says what goes wrong, for tests: how many answers are a page instead
of JSON (`pages`), get lost after the thing was done (`lost`), how many calls a pass is good for (`good_for`), how many looks an order
takes (`looks`), what each order is declined for (`declined`).
"""

from __future__ import annotations

import hmac
import json
import secrets
import threading
import time
from collections import deque
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from pydantic import BaseModel, ConfigDict

from highshelf.practice.counter.stores import Declined, Store, Stores
from highshelf.practice.faults import PracticeError

# So many calls in so many seconds; then it says for how long to wait.
CALLS, WINDOW_SECONDS = 12, 2.0
USUAL_LOOKS = 2
TIRED = "<html><body><h1>We are busy</h1><p>Please come back in a moment.</p></body></html>"


class Door(BaseModel):
    model_config = ConfigDict(extra="forbid")
    customer: str
    word: str


class Order(BaseModel):
    model_config = ConfigDict(extra="forbid")
    label: str


@dataclass
class Pass:
    number: str
    calls: deque[float] = field(default_factory=deque)
    used: int = 0


@dataclass
class Work:
    """An order: how often it was looked at, and what came of it."""

    number: str
    label: str
    looks: int = 0
    store: Store | None = None
    why: str = ""
    told: bool = False


class Turned(Exception):
    """An answer in place of what was asked."""

    def __init__(self, status: int, message: str, **headers: str) -> None:
        super().__init__(message)
        self.status, self.headers = status, {k.replace("_", "-"): v for k, v in headers.items()}


class Counter:
    """The settings (socket, server, customers, folder), the passes and the orders."""

    def __init__(self, settings: dict[str, Any]) -> None:
        self.settings = settings
        self.passes: dict[str, Pass] = {}
        self.orders: list[Work] = []
        self.lock = threading.RLock()

    def weather(self, what: str) -> int | str:
        """What goes wrong now; a number is used up by one."""
        file = Path(self.settings["folder"]) / "weather.json"
        with self.lock:
            told = json.loads(file.read_text()) if file.exists() else {}
            value = told.get(what, 0)
            if isinstance(value, int) and value and what in ("pages", "lost"):
                file.write_text(json.dumps({**told, what: value - 1}))
        return value if isinstance(value, int | str) else 0

    def stores(self, visit: Pass) -> Stores:
        return Stores(Path(self.settings["socket"]), visit.number)

    def known(self, request: Request) -> Pass:
        """Raises Turned: no pass, one that was used up, or too many calls."""
        visit = self.passes.get(request.headers.get("counter-pass", ""))
        if visit is None:
            raise Turned(401, "show your pass")
        visit.used += 1
        good_for = self.weather("good_for")
        if good_for and visit.used > int(good_for):
            raise Turned(401, "this pass is used up, get another one")
        now = time.monotonic()
        while visit.calls and now - visit.calls[0] > WINDOW_SECONDS:
            visit.calls.popleft()
        if len(visit.calls) >= CALLS:
            raise Turned(429, "one at a time, please", Retry_After="1")
        visit.calls.append(now)
        if self.weather("pages"):
            raise Turned(503, "")
        return visit


def create_counter(settings: dict[str, Any]) -> FastAPI:
    """The counter as an ASGI application."""
    app = FastAPI(openapi_url=None, docs_url=None, redoc_url=None)
    counter = Counter(settings)

    @app.exception_handler(Turned)
    def turned(request: Request, fault: Turned) -> Response:
        if not str(fault):
            return HTMLResponse(TIRED, fault.status)
        return JSONResponse({"problem": {"message": str(fault)}}, fault.status, fault.headers)

    @app.exception_handler(Declined)
    def declined(request: Request, fault: Declined) -> Response:
        return JSONResponse({"problem": {"message": str(fault)}}, 422)

    @app.exception_handler(PracticeError)
    def failed(request: Request, fault: PracticeError) -> Response:
        return JSONResponse({"problem": {"message": fault.message}}, 500)

    @app.get("/")
    def front() -> Response:
        return JSONResponse({"counter": "Saltmarsh order counter", "passes": "POST /passes with customer and word"})

    @app.post("/passes")
    def come_in(door: Door) -> Response:
        known = settings["customers"].get(door.customer)
        if known is None or not hmac.compare_digest(known["password"].encode(), door.word.encode()):
            raise Turned(401, "customer and word do not belong together")
        key = secrets.token_urlsafe(24)
        counter.passes[key] = Pass(door.customer)
        return JSONResponse({"pass": {"key": key}}, 201)

    @app.get("/stores")
    def stores(request: Request) -> Response:
        visit = counter.known(request)
        rows = [{**_shown(counter, one), "state": "open"} for one in counter.stores(visit).all()]
        return JSONResponse({"stores": rows})

    @app.post("/orders")
    def order(order: Order, request: Request) -> Response:
        visit = counter.known(request)
        counter.stores(visit).check(order.label)
        work = Work(visit.number, order.label)
        if counter.weather("lost"):
            work.store = counter.stores(visit).make(order.label)
            raise Turned(502, "")
        counter.orders.append(work)
        return JSONResponse({"order": {"number": len(counter.orders), "state": "taken"}}, 202)

    @app.get("/orders/{number}")
    def look(number: int, request: Request) -> Response:
        visit = counter.known(request)
        work = counter.orders[number - 1] if 0 < number <= len(counter.orders) else None
        if work is None or work.number != visit.number:
            raise Turned(404, "there is no such order")
        return JSONResponse({"order": {"number": number, **_go_on(counter, visit, work)}})

    @app.delete("/stores/{schema}")
    def drop(schema: str, request: Request) -> Response:
        counter.stores(counter.known(request)).drop(schema)
        return Response(status_code=204)

    return app


def _go_on(counter: Counter, visit: Pass, work: Work) -> dict[str, Any]:
    """An order is worked at while somebody waits for it."""
    work.looks += 1
    if work.looks <= int(counter.weather("looks") or USUAL_LOOKS):
        return {"state": "at-work"}
    with counter.lock:
        if work.store is None and not work.why:
            try:
                work.why = str(counter.weather("declined") or "")
                work.store = None if work.why else counter.stores(visit).make(work.label)
            except Declined as fault:
                work.why = str(fault)
    if work.store is None:
        return {"state": "declined", "why": work.why}
    secret = {} if work.told else {"secret": work.store.secret}
    work.told = True
    return {"state": "ready", "store": {**_shown(counter, work.store), **secret}}


def _shown(counter: Counter, store: Store) -> dict[str, Any]:
    facts = asdict(store)
    facts.pop("secret")
    return {**facts, "server": counter.settings["server"]}
