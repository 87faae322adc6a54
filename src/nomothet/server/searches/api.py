"""Load searches: read, begun, answered and ended by hand, gone on with."""

import uuid
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.load_search import MOST_LOAD, Attempt
from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Pass
from nomothet.server.people.permissions import Act, signed_in
from nomothet.server.problems import unusable
from nomothet.server.searches import commands
from nomothet.server.searches.queries import SearchShape, entry_search, pass_search
from nomothet.server.shapes import shape, shaped
from nomothet.server.workloads.models import Kind


class AnswerSerializer(serializers.Serializer[Any]):
    """How an attempt went; `position` is how many attempts the tester saw."""

    position = serializers.IntegerField(min_value=0)
    load = serializers.IntegerField(min_value=0, max_value=MOST_LOAD)
    holds = serializers.BooleanField()
    hot = serializers.BooleanField(default=False)
    time_to_failure_s = serializers.FloatField(allow_null=True, default=None, min_value=0, max_value=1e7)
    reason = serializers.CharField(max_length=300, allow_blank=True, default="")


def _entry(pk: int) -> Entry:
    found = get_object_or_404(Entry.objects.select_related("test__workload", "by_hand"), pk=pk)
    if found.test.workload.kind != Kind.LOAD_SEARCH:
        raise unusable("This test is no load search.")
    return found


class EntrySearchView(APIView):
    needs = {"POST": Act.RECORD}

    @extend_schema(responses=shape(SearchShape))
    def get(self, request: Request, entry: int) -> Response:
        return shaped(entry_search(_entry(entry)))

    @extend_schema(request=None, responses={201: shape(SearchShape)})
    def post(self, request: Request, entry: int) -> Response:
        commands.begin_by_hand(signed_in(request), _entry(entry))
        return shaped(entry_search(_entry(entry)), status=201)


class AttemptsView(APIView):
    needs = {"POST": Act.RECORD}

    @extend_schema(request=AnswerSerializer, responses=shape(SearchShape))
    def post(self, request: Request, entry: int) -> Response:
        form = AnswerSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = dict(form.validated_data)
        position = given.pop("position")
        commands.answer(signed_in(request), _entry(entry), position, Attempt(**given))
        return shaped(entry_search(_entry(entry)))


class AttemptView(APIView):
    needs = {"DELETE": Act.RECORD}

    @extend_schema(responses={200: shape(SearchShape)})
    def delete(self, request: Request, entry: int, position: int) -> Response:
        commands.take_back(signed_in(request), _entry(entry), position)
        return shaped(entry_search(_entry(entry)))


class EndView(APIView):
    needs = {"POST": Act.RECORD}

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, entry: int) -> Response:
        commands.end_by_hand(signed_in(request), _entry(entry))
        return Response(status=204)


class PassSearchView(APIView):
    """The search of a pass; POST owes it again with its attempts."""

    @extend_schema(responses=shape(SearchShape))
    def get(self, request: Request, pass_id: uuid.UUID) -> Response:
        owner = get_object_or_404(Pass.objects.select_related("test__workload"), pk=pass_id)
        if owner.test.workload.kind != Kind.LOAD_SEARCH:
            raise unusable("This pass is no load search.")
        return shaped(pass_search(owner))

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, pass_id: uuid.UUID) -> Response:
        owner = get_object_or_404(Pass.objects.select_related("test__workload", "column"), pk=pass_id)
        commands.go_on(signed_in(request), owner)
        return Response(status=204)
