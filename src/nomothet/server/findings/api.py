"""What a review says: reading it, drawing it otherwise, pinning it, and taking it out as a table."""

from dataclasses import dataclass
from typing import Any

from django.http import StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.csv_lines import csv_lines
from nomothet.server.findings import commands
from nomothet.server.findings.findings import FindingsShape, finding_of, findings
from nomothet.server.findings.models import DrawnFinding, Pin
from nomothet.server.findings.owing import MOST_OF_A_CELL
from nomothet.server.people.permissions import signed_in
from nomothet.server.problems import unusable
from nomothet.server.responses import csv_response
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped


class DrawSerializer(serializers.Serializer[Any]):
    kind = serializers.CharField(max_length=20)
    choice = serializers.DictField(child=serializers.JSONField(), default=dict)


class PinSerializer(serializers.Serializer[Any]):
    key = serializers.CharField(max_length=160)
    note = serializers.CharField(max_length=400, allow_blank=True, default="")


class OwedCellSerializer(serializers.Serializer[Any]):
    test = serializers.IntegerField()
    column = serializers.IntegerField()
    passes = serializers.IntegerField(min_value=1, max_value=MOST_OF_A_CELL)


class OwedSerializer(serializers.Serializer[Any]):
    cells = serializers.ListField(child=OwedCellSerializer(), min_length=1, max_length=2000)


class PinOrderSerializer(serializers.Serializer[Any]):
    order = serializers.ListField(child=serializers.IntegerField(), max_length=commands.MOST_PINS)


@dataclass(frozen=True)
class OwedShape:
    """How many passes were put on the docket."""

    asked: int


def _valid(form: serializers.Serializer[Any]) -> dict[str, Any]:
    form.is_valid(raise_exception=True)
    return dict(form.validated_data)


def _review(pk: int) -> Review:
    return get_object_or_404(Review, pk=pk)


class FindingsView(APIView):
    @extend_schema(responses=shape(FindingsShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(findings(_review(review)))


class DrawnFindingsView(APIView):
    """Drawing another finding than the program proposes."""

    @extend_schema(request=DrawSerializer, responses={201: shape(FindingsShape)})
    def post(self, request: Request, review: int) -> Response:
        form = _valid(DrawSerializer(data=request.data))
        found = _review(review)
        commands.draw_another(signed_in(request), found, form["kind"], form["choice"])
        return shaped(findings(found), status=201)


class DrawnFindingView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, drawn: int) -> Response:
        commands.take_away(signed_in(request), get_object_or_404(DrawnFinding, pk=drawn))
        return Response(status=204)


class OwedFindingView(APIView):
    """The passes that would settle a finding, put on the docket."""

    @extend_schema(request=OwedSerializer, responses={201: shape(OwedShape)})
    def post(self, request: Request, review: int) -> Response:
        cells = _valid(OwedSerializer(data=request.data))["cells"]
        return shaped(OwedShape(commands.owe(signed_in(request), _review(review), cells)), status=201)


class PinsView(APIView):
    @extend_schema(request=PinSerializer, responses={201: shape(FindingsShape)})
    def post(self, request: Request, review: int) -> Response:
        found = _review(review)
        commands.pin(signed_in(request), found, **_valid(PinSerializer(data=request.data)))
        return shaped(findings(found), status=201)

    @extend_schema(request=PinOrderSerializer, responses=shape(FindingsShape))
    def put(self, request: Request, review: int) -> Response:
        found = _review(review)
        commands.order_pins(signed_in(request), found, _valid(PinOrderSerializer(data=request.data))["order"])
        return shaped(findings(found))


class PinView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, pin: int) -> Response:
        commands.unpin(signed_in(request), get_object_or_404(Pin.objects.kept(), pk=pin))
        return Response(status=204)


class PinSeenView(APIView):
    """Somebody has seen what changed about a pinned finding."""

    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, pin: int) -> Response:
        commands.seen(signed_in(request), get_object_or_404(Pin.objects.kept().select_related("review"), pk=pin))
        return Response(status=204)


class FindingCsvView(APIView):
    """What a finding draws, as comma-separated values."""

    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, review: int, key: str) -> StreamingHttpResponse:
        found = _review(review)
        one = finding_of(found, key)
        if one is None:
            raise unusable("There is no such finding any more; reload the sheet.")
        rows: list[list[object]] = [
            list(one.heads),
        ]
        rows += [list(line) for line in one.lines]
        rows += [[], ["finding", one.sentence]]
        rows += [["caveat", words] for words in one.caveats]
        rows += [["left out, or beside it", words] for words in one.left_out]
        rows += [["source", f"{found.question} Method, section {one.section}."]]
        return csv_response(csv_lines(iter(rows)), f"{found.key}-{one.kind}")
