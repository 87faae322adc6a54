"""What queries return, as JSON and in the OpenAPI document: frozen dataclasses, described once."""

from dataclasses import dataclass
from typing import Any

import msgspec
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


def plain(value: Any) -> Any:
    """A dataclass with all that it holds as plain JSON values."""
    return msgspec.to_builtins(value, str_keys=True)


@dataclass(frozen=True)
class Written:
    """A body that is JSON already; a number that is not finite is null in it."""

    json: bytes


def shaped(value: Any, status: int = 200, headers: dict[str, str] | None = None) -> Response:
    """A response with a dataclass, or a list of them, as its body."""
    return Response(Written(msgspec.json.encode(value)), status=status, headers=headers)
