"""The API as a page, made of its own OpenAPI document: every route, what it takes and answers, and every schema."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ..common import page, store_of

router = APIRouter(include_in_schema=False)


@dataclass(frozen=True)
class ApiField:
    """A field or parameter. kind: its type in words; schema: the schema it refers to, empty for a plain type."""

    name: str
    kind: str
    schema: str
    message: str
    is_required: bool


@dataclass(frozen=True)
class ApiRoute:
    """A route. body: the schema of what it takes; answers: status and meaning."""

    method: str
    path: str
    message: str
    parameters: tuple[ApiField, ...]
    body: ApiField | None
    answers: tuple[tuple[str, str], ...]


@router.get("/docs")
def docs(request: Request) -> Response:
    """Show the API."""
    store = store_of(request)
    with store.connected():
        unit = store.shop_settings.get().rule
    spec = request.app.openapi()
    schemas = {name: _fields(schema) for name, schema in spec.get("components", {}).get("schemas", {}).items()}
    return page("api_docs.html", request, routes=_routes(spec), schemas=schemas, unit=unit, here="")


def _routes(spec: Mapping[str, Any]) -> list[ApiRoute]:
    return [
        ApiRoute(
            method.upper(),
            path,
            " ".join(str(row.get("description", "")).split()),
            tuple(_field(p["name"], p["schema"], p.get("required", False), p["in"]) for p in row.get("parameters", ())),
            _body(row.get("requestBody", {})),
            tuple((status, answer["description"]) for status, answer in row["responses"].items()),
        )
        for path, methods in spec["paths"].items()
        for method, row in methods.items()
    ]


def _body(asked: Mapping[str, Any]) -> ApiField | None:
    """What a route takes, of the first content type it takes."""
    content = next(iter(asked.get("content", {}).values()), None)
    return _field("body", content["schema"], asked.get("required", False), "") if content else None


def _fields(schema: Mapping[str, Any]) -> tuple[ApiField, ...]:
    required = schema.get("required", ())
    return tuple(_field(name, row, name in required, "") for name, row in schema.get("properties", {}).items())


def _field(name: str, schema: Mapping[str, Any], required: bool, where: str) -> ApiField:
    kind, refers = _kind(schema)
    limits = [
        f"{word} {schema[key]:g}"
        for key, word in (("minimum", "at least"), ("exclusiveMinimum", "above"), ("maximum", "at most"))
        if isinstance(schema.get(key), int | float)
    ]
    choices = [", ".join(str(c) for c in schema["enum"] if c != "")] if "enum" in schema else []
    default = [f"default {schema['default']}"] if schema.get("default") not in (None, "", [], {}) else []
    message = "; ".join(x for x in (where, schema.get("description", ""), *choices, *limits, *default) if x)
    return ApiField(name, kind, refers, message, required)


def _kind(schema: Mapping[str, Any]) -> tuple[str, str]:
    """The type of a schema in words, and the schema it refers to."""
    if "$ref" in schema:
        name = str(schema["$ref"]).rpartition("/")[2]
        return name, name
    for key in ("anyOf", "oneOf", "allOf"):
        if key in schema:
            found = [_kind(part) for part in schema[key]]
            return " or ".join(kind for kind, _ in found), next((name for _, name in found if name), "")
    if schema.get("type") == "array":
        kind, name = _kind(schema.get("items", {}))
        return f"list of {kind}", name
    return str(schema.get("type", schema.get("const", "any"))), ""
