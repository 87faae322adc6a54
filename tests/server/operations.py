"""Every operation of the OpenAPI document, with a body made from the document's own description."""

import uuid
from dataclasses import dataclass
from functools import cache
from typing import Any

from drf_spectacular.generators import SchemaGenerator

METHODS = ("get", "put", "post", "patch", "delete")


@dataclass(frozen=True)
class Operation:
    """A path of the document with its method."""

    method: str
    path: str
    described: dict[str, Any]

    @property
    def name(self) -> str:
        return f"{self.method.upper()} {self.path}"

    @property
    def takes(self) -> str:
        """The media type of its body; empty when it has none."""
        content = self.described.get("requestBody", {}).get("content", {})
        return next(iter(content), "")


@cache
def document() -> dict[str, Any]:
    """The OpenAPI document."""
    return dict(SchemaGenerator().get_schema(request=None, public=True))


def operations() -> list[Operation]:
    """All operations, by path."""
    return [
        Operation(method, path, described[method])
        for path, described in sorted(document()["paths"].items())
        for method in METHODS
        if method in described
    ]


NOWHERE = 10**9


def example(schema: dict[str, Any], ids: dict[str, Any], name: str = "") -> Any:
    """The smallest value that a schema takes; numbers that `ids` knows by the name of their field lead somewhere."""
    schema = _resolved(schema)
    if "enum" in schema:
        return next((value for value in schema["enum"] if value), schema["enum"][0])
    kind = schema.get("type", "object")
    if isinstance(kind, list):
        kind = kind[0]
    if kind == "object":
        wanted = schema.get("required", [])
        return {
            key: example(schema["properties"][key], ids, key) for key in wanted if key in schema.get("properties", {})
        }
    if kind == "array":
        return [example(schema["items"], ids, name)] * schema.get("minItems", 0)
    if kind == "string":
        return _text(schema)
    if kind in ("integer", "number"):
        known = ids.get(name, NOWHERE) if kind == "integer" else 1
        return max(schema.get("minimum", 1), min(known, schema.get("maximum", known)))
    return {"boolean": True}.get(kind)


def body_of(operation: Operation, ids: dict[str, Any]) -> Any:
    """The smallest body that the document allows for an operation; None when it takes none."""
    content = operation.described.get("requestBody", {}).get("content", {})
    described = content.get("application/json", {}).get("schema")
    return None if described is None else example(described, ids)


def _resolved(schema: dict[str, Any]) -> dict[str, Any]:
    while "$ref" in schema:
        schema = document()["components"]["schemas"][schema["$ref"].rpartition("/")[2]]
    for joined in ("allOf", "oneOf", "anyOf"):
        if joined in schema:
            return _resolved(schema[joined][0])
    return schema


def _text(schema: dict[str, Any]) -> str:
    known = {"uuid": str(uuid.uuid4()), "date-time": "2026-05-04T10:00:00Z", "date": "2026-05-04", "decimal": "1.00"}
    if schema.get("format") in known:
        return known[schema["format"]]
    if "0-9a-f" in schema.get("pattern", ""):
        return "0" * 64
    return "x" * max(1, schema.get("minLength", 1))
