"""Ladders: what they have found, declaring them, and trying them downwards."""

from dataclasses import dataclass
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.ladders import commands
from nomothet.server.ladders.models import Ladder
from nomothet.server.ladders.queries import LadderShape, ladders
from nomothet.server.people.permissions import signed_in
from nomothet.server.reviews.api import editing
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped


@dataclass(frozen=True)
class DescentShape:
    """On how many configurations a ladder is being tried now."""

    configurations: int


class LadderSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=80, allow_blank=True, default="")
    tests = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=commands.MOST_RUNGS)


class DescentSerializer(serializers.Serializer[Any]):
    columns = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=50)
    passes = serializers.IntegerField(min_value=1, max_value=20)


class LaddersView(APIView):
    @extend_schema(responses=shape(LadderShape, many=True))
    def get(self, request: Request, review: int) -> Response:
        return shaped(ladders(get_object_or_404(Review, pk=review)))

    @extend_schema(request=LadderSerializer, responses={201: shape(LadderShape, many=True)})
    def post(self, request: Request, review: int) -> Response:
        form = LadderSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        with editing(review) as found:
            commands.declare_ladder(signed_in(request), found, **form.validated_data)
        return shaped(ladders(get_object_or_404(Review, pk=review)), status=201)


class LadderView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, ladder: int) -> Response:
        commands.remove_ladder(signed_in(request), _ladder(ladder))
        return Response(status=204)


class DescentView(APIView):
    """Trying a ladder downwards, on a bench or by hand."""

    @extend_schema(request=DescentSerializer, responses={201: shape(DescentShape)})
    def post(self, request: Request, ladder: int) -> Response:
        form = DescentSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        tried = commands.begin_descent(signed_in(request), _ladder(ladder), **form.validated_data)
        return shaped(DescentShape(tried), status=201)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, ladder: int) -> Response:
        commands.stop_descent(signed_in(request), _ladder(ladder))
        return Response(status=204)


def _ladder(pk: int) -> Ladder:
    return get_object_or_404(Ladder.objects.select_related("review"), pk=pk)
