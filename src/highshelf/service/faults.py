"""Errors to HTTP, in one place."""

from __future__ import annotations

from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from highshelf.core.errors import (
    ConflictError,
    FaultError,
    ForbiddenError,
    ForeignPageError,
    HighShelfError,
    InputError,
    NoRoomError,
    NotFoundError,
    SignInError,
    StrongboxError,
    TargetError,
    ThrottledError,
    UnmetError,
    UnreachableError,
)
from highshelf.schemas.models import Fault, Problem
from highshelf.service.described import describe

log = structlog.get_logger()

# The first that fits counts.
STATUS: tuple[tuple[type[HighShelfError], int], ...] = (
    (SignInError, 401),
    (ForeignPageError, 403),
    (ForbiddenError, 403),
    (ThrottledError, 429),
    (NotFoundError, 404),
    (ConflictError, 409),
    (TargetError, 409),
    (UnmetError, 409),
    (InputError, 422),
    (NoRoomError, 507),
    (StrongboxError, 500),
    (FaultError, 500),
    (UnreachableError, 502),
    (HighShelfError, 502),
)

# RFC 9457.
PROBLEM = "application/problem+json"
RESPONSES: dict[int | str, dict[str, Any]] = {
    status: {"description": text, "content": {PROBLEM: {"schema": {"$ref": "#/components/schemas/Problem"}}}}
    for status, text in (
        (401, "nobody is signed in, or a wrong token"),
        (403, "a request that another site's page made, or that only somebody else may make"),
        (404, "no such thing"),
        (409, "in use, there already, or not free"),
        (422, "input that does not hold"),
        (408, "the request did not come to its end in time"),
        (413, "the request is too large"),
        (421, "a name in the Host header that this service does not answer to"),
        (429, "too many failed sign-ins, or too many requests of this kind at once"),
        (507, "the disk of the service is full: nothing can be changed"),
        (502, "the hosting account or panel said no"),
    )
}


def fault_out(fault: HighShelfError) -> Fault:
    return Fault(
        code=fault.code, message=fault.message, hint=fault.hint, retryable=fault.retryable, context=fault.context
    )


BY_CODE = {"too-large": 413, "too-slow": 408, "foreign-host": 421}


def answer(fault: HighShelfError) -> JSONResponse:
    """An error of ours as the answer to a request."""
    status = BY_CODE.get(fault.code) or next(s for kind, s in STATUS if isinstance(fault, kind))
    headers = {"Retry-After": str(fault.context["seconds"])} if isinstance(fault, ThrottledError) else {}
    if status == 401:
        headers["WWW-Authenticate"] = 'Bearer realm="High Shelf"'
    if status in (401, 408, 413, 421):
        # What is still to come of the request is not waited for.
        headers["Connection"] = "close"
    return problem(fault_out(fault), status, headers)


def problem(fault: Fault, status: int, headers: dict[str, str] | None = None) -> JSONResponse:
    """A fault as it is sent."""
    told = Problem(
        type=f"urn:highshelf:{fault.code}",
        title=fault.code.replace("-", " "),
        status=status,
        detail=fault.message,
        **fault.model_dump(),
    )
    return JSONResponse(jsonable_encoder(told), status, headers, media_type=PROBLEM)


def add_problems(app: FastAPI) -> None:
    """What its answers of refusal look like, in its document: no route answers with it, so the framework does not know."""
    usual = app.openapi

    def document() -> dict[str, Any]:
        found = usual()
        schema = Problem.model_json_schema(ref_template="#/components/schemas/{model}")
        found["components"]["schemas"].setdefault("Problem", schema)
        describe(found)
        return found

    app.openapi = document  # type: ignore[method-assign]


def add_handlers(app: FastAPI) -> None:
    @app.exception_handler(HighShelfError)
    async def ours(request: Request, fault: HighShelfError) -> JSONResponse:
        return answer(fault)

    @app.exception_handler(RequestValidationError)
    async def invalid(request: Request, fault: RequestValidationError) -> JSONResponse:
        # What was sent may hold a secret: only the place and the complaint are told.
        faults = [f"{'.'.join(str(p) for p in e['loc'][1:]) or e['loc'][0]}: {e['msg']}" for e in fault.errors()]
        body = Fault(
            code="input", message="; ".join(faults), hint="mend these and send it again", context={"faults": faults}
        )
        return problem(body, 422)

    @app.exception_handler(HTTPException)
    async def no_route(request: Request, fault: HTTPException) -> JSONResponse:
        if fault.status_code == 400:
            # The framework's word for a body that it cannot read at all.
            body = Fault(code="input", message="the request cannot be read", hint="send JSON, as UTF-8")
            return problem(body, 422)
        code = "not-found" if fault.status_code == 404 else "input"
        told = f"{request.method} {request.url.path}: {fault.detail}"
        body = Fault(code=code, message=told, hint="/api/v1/openapi.json describes what there is")
        return problem(body, fault.status_code)

    @app.exception_handler(Exception)
    async def unknown(request: Request, fault: Exception) -> JSONResponse:
        log.error("fault", path=request.url.path, error=type(fault).__name__)
        body = Fault(
            code="fault",
            message=f"High Shelf itself failed: {type(fault).__name__}",
            hint="this is our fault; the service's log has more",
        )
        return problem(body, 500)
