"""What the OpenAPI document says beside the views: every operation can answer with a problem object."""

from typing import Any

_PROBLEM = {
    "type": "object",
    "description": "A refusal (RFC 9457): what happened, and where one is known, the place and the remedy.",
    "required": ["type", "title", "status", "detail"],
    "properties": {
        "type": {"type": "string"},
        "title": {"type": "string"},
        "status": {"type": "integer"},
        "detail": {"type": "string"},
        "row": {"type": "integer", "description": "Line of a file that is to blame."},
        "remedy": {"type": "string"},
        "errors": {"type": "object", "additionalProperties": True, "description": "Messages by field."},
        "current": {"type": "object", "additionalProperties": True, "description": "What is stored now (412)."},
    },
}
_METHODS = {"get", "put", "post", "patch", "delete"}


def add_problems(result: dict[str, Any], **_: object) -> dict[str, Any]:
    """A hook of the document's generator: the problem object as the default response everywhere."""
    result["components"]["schemas"]["Problem"] = _PROBLEM
    answer = {
        "description": "Refused",
        "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
    }
    for path in result["paths"].values():
        for method, operation in path.items():
            if method in _METHODS:
                operation["responses"]["default"] = answer
    return result
