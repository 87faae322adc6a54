"""Asking for passes and withdrawing them; what is owed, in order."""

from dataclasses import dataclass
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.docket import changeovers
from nomothet.server.docket.benches import BenchGlance, benches
from nomothet.server.docket.commands import MOST_AT_ONCE, ask_for_passes, withdraw
from nomothet.server.docket.live import LIVE_NEEDS, LiveShape, live
from nomothet.server.docket.models import Changeover, Entry
from nomothet.server.docket.queries import SystemDocket, docket, system_docket
from nomothet.server.people.permissions import Act, signed_in
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped
from nomothet.server.systems.models import Configuration, System


class AskSerializer(serializers.Serializer[Any]):
    tests = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=200)
    columns = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=50)
    passes = serializers.IntegerField(min_value=1, max_value=MOST_AT_ONCE)


class WorkOrderSerializer(serializers.Serializer[Any]):
    mode = serializers.ChoiceField(choices=changeovers.MODES)
    seed = serializers.IntegerField(required=False, default=0, min_value=0, max_value=2**31 - 1)
    by_hand = serializers.ListField(child=serializers.IntegerField(), required=False, max_length=200)


class TickSerializer(serializers.Serializer[Any]):
    key = serializers.CharField(max_length=120)
    observed = serializers.JSONField(required=False, allow_null=True)


class ReleaseSerializer(serializers.Serializer[Any]):
    configuration = serializers.PrimaryKeyRelatedField(queryset=Configuration.objects.all())
    key = serializers.CharField(max_length=80)
    observed = serializers.JSONField()
    words = serializers.CharField(max_length=300)


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


class BenchesView(APIView):
    """All systems at a glance."""

    @extend_schema(responses=shape(BenchGlance, many=True))
    def get(self, request: Request) -> Response:
        return shaped(benches())


class LiveView(APIView):
    """A running pass with what was told of it in the last minutes."""

    @extend_schema(responses=shape(LiveShape))
    def get(self, request: Request, entry: int) -> Response:
        return shaped(live(get_object_or_404(Entry.objects.select_related(*LIVE_NEEDS), pk=entry)))


def _system(pk: int) -> System:
    return get_object_or_404(System.objects.select_related("bench", "present"), pk=pk)


class SystemDocketView(APIView):
    """The order of work on one system, whatever the review."""

    @extend_schema(responses=shape(SystemDocket))
    def get(self, request: Request, system: int) -> Response:
        return shaped(system_docket(_system(system)))

    @extend_schema(request=WorkOrderSerializer, responses=shape(SystemDocket))
    def put(self, request: Request, system: int) -> Response:
        form = WorkOrderSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        changeovers.set_order(signed_in(request), _system(system), **form.validated_data)
        return shaped(system_docket(_system(system)))


class ChangeoversView(APIView):
    """Begin the change to what comes next on a system."""

    @extend_schema(request=None, responses={201: shape(SystemDocket)})
    def post(self, request: Request, system: int) -> Response:
        changeovers.begin_changeover(signed_in(request), _system(system))
        return shaped(system_docket(_system(system)), status=201)


class ChangeoverView(APIView):
    @extend_schema(responses={200: shape(SystemDocket)})
    def delete(self, request: Request, changeover: int) -> Response:
        found = get_object_or_404(Changeover, pk=changeover)
        changeovers.give_up_changeover(signed_in(request), found)
        return shaped(system_docket(_system(found.system_id)))


class TicksView(APIView):
    @extend_schema(request=TickSerializer, responses=shape(SystemDocket))
    def put(self, request: Request, changeover: int) -> Response:
        form = TickSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(Changeover, pk=changeover)
        changeovers.tick(signed_in(request), found, form.validated_data["key"], form.validated_data.get("observed"))
        return shaped(system_docket(_system(found.system_id)))


class TickView(APIView):
    @extend_schema(responses={200: shape(SystemDocket)})
    def delete(self, request: Request, changeover: int, key: str) -> Response:
        found = get_object_or_404(Changeover, pk=changeover)
        changeovers.untick(signed_in(request), found, key)
        return shaped(system_docket(_system(found.system_id)))


class ReleasesView(APIView):
    """Go on with an observed value that is not what was set."""

    needs = {"POST": Act.TICK_STEPS}

    @extend_schema(request=ReleaseSerializer, responses=shape(SystemDocket))
    def post(self, request: Request, system: int) -> Response:
        form = ReleaseSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        changeovers.release(signed_in(request), **form.validated_data)
        return shaped(system_docket(_system(system)))
