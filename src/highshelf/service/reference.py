"""The API's reference for people, made from its document: `/reference`, and the document itself, both without a token.

What the API can do is no secret: whoever has the package has it too. What it holds stays behind the token.
"""

from __future__ import annotations

import json
from functools import cache
from importlib import resources
from typing import Any

from fastapi import FastAPI
from fastapi.responses import HTMLResponse, Response
from jinja2 import Environment, select_autoescape

METHODS = ("get", "post", "put", "patch", "delete")
# What so many operations answer is told once for all.
COMMON = 0.8
PLACES = {"path": "in the address", "query": "behind the address", "header": "in the head"}
_environment = Environment(
    autoescape=select_autoescape(default=True, default_for_string=True), trim_blocks=True, lstrip_blocks=True
)


def add_reference(app: FastAPI) -> None:
    """`/reference` with its style, and `/api/v1/openapi.json`."""

    @cache
    def page() -> str:
        return render(app.openapi())

    @app.get("/reference", include_in_schema=False)
    def reference() -> HTMLResponse:
        return HTMLResponse(page())

    @app.get("/reference.css", include_in_schema=False)
    def style() -> Response:
        return Response(_own("reference.css"), media_type="text/css")

    @app.get("/api/v1/openapi.json", include_in_schema=False)
    def document() -> dict[str, Any]:
        return app.openapi()


def render(document: dict[str, Any]) -> str:
    """The document as one page of HTML, an operation a section, in the order of its nouns."""
    nouns: dict[str, list[dict[str, Any]]] = {}
    models = document.get("components", {}).get("schemas", {})
    for path, item in document["paths"].items():
        for method in METHODS:
            if method in item:
                told = item[method]
                nouns.setdefault((told.get("tags") or ["service"])[0], []).append(
                    _operation(path, method, told, models)
                )
    every = [o for operations in nouns.values() for o in operations]
    usual = {a: sum(a in o["answers"] for o in every) for o in every for a in o["answers"]}
    common = sorted(a for a, times in usual.items() if times >= COMMON * len(every) and not a[0].startswith("2"))
    for operation in every:
        operation["answers"] = [a for a in operation["answers"] if a not in common]
    return _environment.from_string(_own("reference.html")).render(
        title=document["info"]["title"], version=document["info"]["version"], nouns=nouns, common=common
    )


def _operation(path: str, method: str, told: dict[str, Any], models: dict[str, Any]) -> dict[str, Any]:
    body = told.get("requestBody", {}).get("content", {})
    kind = next(iter(body), "")
    content: dict[str, Any] = body.get(kind, {})
    return {
        "id": told["operationId"],
        "method": method.upper(),
        "path": path,
        "says": told.get("description") or told.get("summary", ""),
        "parameters": [
            {
                "name": p["name"],
                "place": PLACES.get(p["in"], p["in"]),
                "must": p.get("required", False),
                "kind": _kind(p["schema"]),
                "says": p.get("description") or p["schema"].get("description", ""),
            }
            for p in told.get("parameters", [])
        ],
        "body": kind,
        "model": _kind(content.get("schema", {})),
        "fields": _fields(models.get(_kind(content.get("schema", {})), {})),
        "example": json.dumps(content["example"], indent=2, ensure_ascii=False) if "example" in content else "",
        "answers": [
            (status, "done" if status.startswith("2") else answer["description"], _model(answer))
            for status, answer in told["responses"].items()
        ],
    }


def _fields(model: dict[str, Any]) -> list[dict[str, Any]]:
    must = model.get("required", ())
    return [
        {"name": name, "must": name in must, "kind": _kind(schema), "says": schema.get("description", "")}
        for name, schema in model.get("properties", {}).items()
    ]


def _model(answer: dict[str, Any]) -> str:
    content: dict[str, Any] = next(iter(answer.get("content", {}).values()), {})
    return _kind(content.get("schema", {}))


def _kind(schema: dict[str, Any]) -> str:
    """A schema in a word or two: the name of a model, a type, its choices."""
    if "$ref" in schema:
        return str(schema["$ref"]).rpartition("/")[2]
    if "anyOf" in schema:
        return " or ".join(dict.fromkeys(k for s in schema["anyOf"] if (k := _kind(s)) != "null"))
    if "enum" in schema:
        return ", ".join(str(one) or "nothing" for one in schema["enum"])
    if schema.get("type") == "array":
        return f"list of {_kind(schema.get('items', {}))}"
    return str(schema.get("const") or schema.get("format") or schema.get("type") or "")


def _own(name: str) -> str:
    return resources.files(__package__ or "").joinpath(name).read_text(encoding="utf-8")
