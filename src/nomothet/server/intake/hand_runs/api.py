"""A pass by hand over HTTP: its sheet, its steps, its clock and its end."""

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.readings import READING_METHODS
from nomothet.formats.words import OUTCOMES
from nomothet.server.docket.models import Entry
from nomothet.server.intake.hand_runs import commands
from nomothet.server.intake.hand_runs.sheet import SHEET_NEEDS, HandRun, hand_run
from nomothet.server.intake.typing_in import Hands, Typed
from nomothet.server.people.permissions import signed_in
from nomothet.server.shapes import shape, shaped


class HandTickSerializer(serializers.Serializer[Any]):
    key = serializers.CharField(max_length=80)
    observed = serializers.CharField(max_length=80, allow_blank=True, required=False, default="")


class ClockSerializer(serializers.Serializer[Any]):
    running = serializers.BooleanField()


class HandReadingSerializer(serializers.Serializer[Any]):
    metric = serializers.CharField(max_length=120)
    text = serializers.CharField(max_length=200)
    method = serializers.ChoiceField(choices=READING_METHODS, required=False, allow_blank=True, default="")
    half_width = serializers.FloatField(required=False, allow_null=True, default=None, min_value=0, max_value=1e9)


class EndingSerializer(serializers.Serializer[Any]):
    outcome = serializers.ChoiceField(choices=list(OUTCOMES))
    readings = HandReadingSerializer(many=True, required=False)
    note = serializers.CharField(max_length=300, allow_blank=True, required=False, default="")
    action = serializers.CharField(max_length=300, allow_blank=True, required=False, default="")
    fallback = serializers.CharField(max_length=300, allow_blank=True, required=False, default="")
    duration_s = serializers.FloatField(
        required=False, allow_null=True, default=None, min_value=0.001, max_value=1_000_000
    )
    first_run = serializers.BooleanField(required=False, default=False)
    ran_by = serializers.CharField(max_length=120, allow_blank=True, required=False, default="")
    helped_by = serializers.CharField(max_length=200, allow_blank=True, required=False, default="")


def _entry(pk: int) -> Entry:
    return get_object_or_404(Entry.objects.select_related(*SHEET_NEEDS), pk=pk)


def _sheet(request: Request, pk: int, status: int = 200) -> Response:
    return shaped(hand_run(_entry(pk), signed_in(request).pk), status=status)


class HandRunView(APIView):
    """A pass by hand: GET its sheet, POST begins it, DELETE lets it be owed again."""

    @extend_schema(responses=shape(HandRun))
    def get(self, request: Request, entry: int) -> Response:
        return _sheet(request, entry)

    @extend_schema(request=None, responses={201: shape(HandRun)})
    def post(self, request: Request, entry: int) -> Response:
        commands.begin(signed_in(request), _entry(entry))
        return _sheet(request, entry, 201)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, entry: int) -> Response:
        commands.give_up(signed_in(request), _entry(entry))
        return Response(status=204)


class HandTicksView(APIView):
    @extend_schema(request=HandTickSerializer, responses=shape(HandRun))
    def put(self, request: Request, entry: int) -> Response:
        form = HandTickSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        commands.tick(signed_in(request), _entry(entry), **form.validated_data)
        return _sheet(request, entry)


class HandTickView(APIView):
    @extend_schema(responses={200: shape(HandRun)})
    def delete(self, request: Request, entry: int, key: str) -> Response:
        commands.untick(signed_in(request), _entry(entry), key)
        return _sheet(request, entry)


class HandClockView(APIView):
    @extend_schema(request=ClockSerializer, responses=shape(HandRun))
    def put(self, request: Request, entry: int) -> Response:
        form = ClockSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        commands.set_clock(signed_in(request), _entry(entry), running=form.validated_data["running"])
        return _sheet(request, entry)


class HandEndView(APIView):
    """The pass is over; it is stored with all that was read off it."""

    @extend_schema(request=EndingSerializer, responses={201: shape(HandRun)})
    def post(self, request: Request, entry: int) -> Response:
        form = EndingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = form.validated_data
        found = _entry(entry)
        ending = commands.Ending(
            outcome=given["outcome"],
            readings=[Typed(found.test_id, found.column_id, **one) for one in given.get("readings", [])],
            note=given["note"].strip(),
            action=given["action"].strip(),
            fallback=given["fallback"].strip(),
            duration_s=given["duration_s"],
            first_run=given["first_run"],
            hands=Hands(given["ran_by"].strip(), given["helped_by"].strip()),
        )
        commands.end(signed_in(request), found, ending)
        return _sheet(request, entry, 201)
