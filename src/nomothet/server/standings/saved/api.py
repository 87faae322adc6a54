"""Saved standings as pages read and publish them."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.shapes import shape, shaped
from nomothet.server.standings.models import SavedStanding
from nomothet.server.standings.saved import commands


@dataclass(frozen=True)
class SavedShape:
    """A standing under a name. `address` is its public page, empty while it has none that is read."""

    id: int
    name: str
    note: str
    query: dict[str, str]
    by: str
    saved_at: datetime
    address: str
    frozen: bool
    published_at: datetime | None
    withdrawn_why: str


class SaveSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=120)
    note = serializers.CharField(max_length=2000, required=False, allow_blank=True)
    query = serializers.DictField(child=serializers.CharField(max_length=1000, allow_blank=True))


class PublishStandingSerializer(serializers.Serializer[Any]):
    # As it is now for good, or as the results are at each moment.
    frozen = serializers.BooleanField(required=False, default=True)


class WithdrawStandingSerializer(serializers.Serializer[Any]):
    why = serializers.CharField(max_length=300, allow_blank=True)


class SavedStandingsView(APIView):
    needs = {"POST": Act.FOLLOW_UP}

    @extend_schema(responses=shape(SavedShape, many=True))
    def get(self, request: Request) -> Response:
        found = SavedStanding.objects.filter(removed_at=None).select_related("by")
        return shaped([_shape(one) for one in found])

    @extend_schema(request=SaveSerializer, responses={201: shape(SavedShape)})
    def post(self, request: Request) -> Response:
        user = signed_in(request)
        require(user, Act.FOLLOW_UP)
        form = SaveSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        return shaped(_shape(commands.save(user, **form.validated_data)), status=201)


class SavedStandingView(APIView):
    needs = {"DELETE": Act.FOLLOW_UP}

    @extend_schema(responses={204: None})
    def delete(self, request: Request, saved: int) -> Response:
        commands.take_off(signed_in(request), get_object_or_404(SavedStanding, pk=saved).pk)
        return Response(status=204)


class PublishedStandingView(APIView):
    """PUT publishes a saved standing, or publishes it anew."""

    needs = {"PUT": Act.PUBLISH}

    @extend_schema(request=PublishStandingSerializer, responses=shape(SavedShape))
    def put(self, request: Request, saved: int) -> Response:
        user = signed_in(request)
        require(user, Act.PUBLISH)
        form = PublishStandingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        one = get_object_or_404(SavedStanding, pk=saved)
        return shaped(_shape(commands.publish(user, one.pk, **form.validated_data)))


class WithdrawnStandingView(APIView):
    needs = {"PUT": Act.PUBLISH}

    @extend_schema(request=WithdrawStandingSerializer, responses=shape(SavedShape))
    def put(self, request: Request, saved: int) -> Response:
        user = signed_in(request)
        require(user, Act.PUBLISH)
        form = WithdrawStandingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        one = get_object_or_404(SavedStanding, pk=saved)
        return shaped(_shape(commands.withdraw(user, one.pk, form.validated_data["why"])))


def _shape(one: SavedStanding) -> SavedShape:
    read = one.slug is not None and one.withdrawn_at is None
    return SavedShape(
        id=one.pk,
        name=one.name,
        note=one.note,
        query=one.query,
        by=one.by.display_name,
        saved_at=one.saved_at,
        address=f"/standings/{one.slug}" if read else "",
        frozen=one.frozen,
        published_at=one.published_at,
        withdrawn_why=one.withdrawn_why,
    )
