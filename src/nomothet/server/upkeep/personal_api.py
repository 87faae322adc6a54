"""A person's data taken out, by themselves or by an admin, and their name taken away."""

from dataclasses import dataclass
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from nomothet.server.people.account_api import OwnView
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.people.security import note_security
from nomothet.server.problems import unusable
from nomothet.server.shapes import shape, shaped
from nomothet.server.upkeep.personal_data import erase, file_name, known_of


@dataclass(frozen=True)
class ErasedShape:
    """The name that stands for somebody from now on, and how many entries named them."""

    name: str
    changed: int


class ErasingSerializer(serializers.Serializer[Any]):
    # The name to sign in with, typed again: there is no way back.
    username = serializers.CharField(max_length=150)
    in_records = serializers.BooleanField(default=False)
    # Other names that stand for them, such as the one before an earlier erasing.
    also = serializers.ListField(child=serializers.CharField(max_length=120), max_length=10, default=list)


class OwnDataView(OwnView):
    """All that is known of who asks."""

    @extend_schema(responses={(200, "application/json"): OpenApiTypes.OBJECT})
    def get(self, request: Request) -> Response:
        return _taken_out(request, signed_in(request))


class PersonDataView(OwnView):
    """All that is known of somebody; DELETE takes their name out of it, for good."""

    needs = {"DELETE": Act.MANAGE_PEOPLE}

    @extend_schema(responses={(200, "application/json"): OpenApiTypes.OBJECT})
    def get(self, request: Request, person: int) -> Response:
        require(signed_in(request), Act.MANAGE_PEOPLE)
        return _taken_out(request, get_object_or_404(User, pk=person))

    @extend_schema(request=ErasingSerializer, responses={200: shape(ErasedShape)})
    def delete(self, request: Request, person: int) -> Response:
        form = ErasingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        user = get_object_or_404(User, pk=person)
        if form.validated_data["username"] != user.username:
            raise unusable(f"Type {user.username} to say that it is meant.", field="username")
        wanted = {key: form.validated_data[key] for key in ("in_records", "also")}
        erased = erase(signed_in(request), request._request, user, **wanted)
        return shaped(ErasedShape(erased.name, erased.changed))


def _taken_out(request: Request, user: User) -> Response:
    note_security("exported", by=signed_in(request), about=user, request=request._request, what="a person's data")
    disposition = f'attachment; filename="{file_name(user)}.json"'
    return Response(known_of(user), headers={"Content-Disposition": disposition})
