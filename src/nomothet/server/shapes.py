"""What queries return, as JSON and in the OpenAPI document: frozen dataclasses, described once."""

import dataclasses
import uuid
from datetime import date, datetime
from typing import Any

from rest_framework.response import Response
from rest_framework_dataclasses.serializers import DataclassSerializer


def shape(kind: type, many: bool = False) -> Any:
    """A serializer that describes a dataclass to the OpenAPI document."""
    meta = type("Meta", (), {"dataclass": kind})
    name = kind.__name__ + "Serializer"
    return type(name, (DataclassSerializer,), {"Meta": meta, "__doc__": kind.__doc__})(many=many)


def plain(value: Any) -> Any:
    """A dataclass with all that it holds as plain JSON values."""
    if dataclasses.is_dataclass(value):
        return {name: plain(getattr(value, name)) for name in value.__dataclass_fields__}
    if isinstance(value, dict):
        return {str(key): plain(item) for key, item in value.items()}
    if isinstance(value, list | tuple):
        return [plain(item) for item in value]
    if isinstance(value, datetime | date):
        return value.isoformat()
    if isinstance(value, uuid.UUID):
        return str(value)
    return value


def shaped(value: Any, status: int = 200, headers: dict[str, str] | None = None) -> Response:
    """A response with a dataclass, or a list of them, as its body."""
    return Response(plain(value), status=status, headers=headers)
