"""Asking for passes and withdrawing them; what is owed, in order."""

from dataclasses import dataclass
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.docket.commands import MOST_AT_ONCE, ask_for_passes, withdraw
from nomothet.server.docket.models import Entry
from nomothet.server.docket.queries import SystemDocket, docket
from nomothet.server.people.permissions import signed_in
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped


class AskSerializer(serializers.Serializer[Any]):
    tests = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=200)
    columns = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=50)
    passes = serializers.IntegerField(min_value=1, max_value=MOST_AT_ONCE)


@dataclass(frozen=True)
class AskedShape:
    """How many passes were put on the docket."""

    asked: int


class DocketView(APIView):
    @extend_schema(responses=shape(SystemDocket, many=True))
    def get(self, request: Request, review: int) -> Response:
        return shaped(docket(get_object_or_404(Review, pk=review)))

    @extend_schema(request=AskSerializer, responses={201: shape(AskedShape)})
    def post(self, request: Request, review: int) -> Response:
        form = AskSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        asked = form.validated_data
        entries = ask_for_passes(
            signed_in(request),
            get_object_or_404(Review, pk=review),
            asked["tests"],
            asked["columns"],
            asked["passes"],
        )
        return shaped(AskedShape(len(entries)), status=201)


class EntryView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, entry: int) -> Response:
        withdraw(signed_in(request), get_object_or_404(Entry.objects.select_related("column"), pk=entry))
        return Response(status=204)
