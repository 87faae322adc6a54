"""What queries return, as JSON and in the OpenAPI document: frozen dataclasses, described once."""

import dataclasses
import uuid
from datetime import date, datetime
from functools import cache
from typing import Any

from rest_framework.fields import JSONField
from rest_framework.response import Response
from rest_framework_dataclasses.serializers import DataclassSerializer


class ShapeSerializer(DataclassSerializer):  # type: ignore[type-arg]
    """Describes dataclasses; a field of any type is plain JSON."""

    serializer_field_mapping = {**DataclassSerializer.serializer_field_mapping, Any: JSONField}


# Dataclasses within dataclasses are described the same way.
setattr(ShapeSerializer, "serializer_dataclass_field", ShapeSerializer)  # noqa: B010


def shape(kind: type, many: bool = False) -> Any:
    """A serializer that describes a dataclass to the OpenAPI document."""
    meta = type("Meta", (), {"dataclass": kind})
    name = kind.__name__ + "Serializer"
    return type(name, (ShapeSerializer,), {"Meta": meta, "__doc__": kind.__doc__})(many=many)


_AS_IT_IS = frozenset({int, float, str, bool, type(None)})


@cache
def _fields(kind: type) -> tuple[str, ...] | None:
    return tuple(field.name for field in dataclasses.fields(kind)) if dataclasses.is_dataclass(kind) else None


def plain(value: Any) -> Any:
    """A dataclass with all that it holds as plain JSON values."""
    kind = type(value)
    if kind in _AS_IT_IS:
        return value
    if kind is list or kind is tuple:
        return [plain(item) for item in value]
    if kind is dict:
        return {str(key): plain(item) for key, item in value.items()}
    names = _fields(kind)  # type: ignore[arg-type]
    if names is not None:
        return {name: plain(getattr(value, name)) for name in names}
    if isinstance(value, datetime | date):
        return value.isoformat()
    return str(value) if isinstance(value, uuid.UUID) else value


def shaped(value: Any, status: int = 200, headers: dict[str, str] | None = None) -> Response:
    """A response with a dataclass, or a list of them, as its body."""
    return Response(plain(value), status=status, headers=headers)
