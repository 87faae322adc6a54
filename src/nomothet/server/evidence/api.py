"""Reading a cell and what its passes hold: traces, distributions, matches, captures, pairs, memory needed."""

import uuid
from collections.abc import Collection
from dataclasses import dataclass

import zstandard
from django.db.models import Count
from django.http import FileResponse, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.alignment import best_match
from nomothet.formats.output import OUTPUT, text_of
from nomothet.server.analysis.api import PairSerializer, new_pair
from nomothet.server.analysis.computing import captures_of
from nomothet.server.evidence.capture_lines import capture_lines
from nomothet.server.evidence.cell import CellDetail, cell_detail
from nomothet.server.evidence.distribution import DistributionShape, distribution
from nomothet.server.evidence.memory_needed import EnoughShape, memory_needed
from nomothet.server.evidence.pairs import PairShape, pairs
from nomothet.server.evidence.specified import SpecifiedShape, specified
from nomothet.server.evidence.system_log import SystemLog, system_log
from nomothet.server.evidence.trace import TraceFrame, TraceShape, trace
from nomothet.server.passes.models import Pass, Series
from nomothet.server.people.permissions import Act
from nomothet.server.problems import unusable
from nomothet.server.responses import csv_response, number_parameter
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.shapes import shape, shaped
from nomothet.server.systems.models import System


def whole_pass(pk: uuid.UUID) -> Pass:
    """A pass that is all in, or the answer that there is none."""
    return get_object_or_404(Pass.objects.whole().select_related("test__review"), pk=pk)


def trace_of(
    request: Request, owner: Pass, frame: TraceFrame | None = None, only: Collection[int] | None = None
) -> Response:
    """The trace that a request asks for; `only` are the captures that it may show, all without it."""
    points = number_parameter(request, "points")
    return shaped(
        trace(
            owner,
            points=int(points) if points else 2000,
            from_s=number_parameter(request, "from"),
            to_s=number_parameter(request, "to"),
            frame=frame,
            only=only,
        )
    )


def capture_response(series: Series) -> FileResponse | HttpResponse | StreamingHttpResponse:
    """A series as CSV; a file that somebody dropped, and what a program has written, just as it came."""
    if series.kind == OUTPUT:
        # As plain text, which no browser takes for a page.
        return HttpResponse(text_of(series.content), content_type="text/plain; charset=utf-8")
    if series.kind == "file":
        content = zstandard.ZstdDecompressor().decompressobj().decompress(series.content)
        response = HttpResponse(content, content_type="application/octet-stream")
        response.headers["Content-Disposition"] = 'attachment; filename="original.txt"'
        return response
    return csv_response(capture_lines(series), f"{series.name}-{series.owner_id}")


class CellView(APIView):
    @extend_schema(responses=shape(CellDetail))
    def get(self, request: Request, review: int, test: int, column: int) -> Response:
        found = get_object_or_404(Test.objects.select_related("workload", "review"), pk=test, review=review)
        return shaped(cell_detail(found, get_object_or_404(Column, pk=column, review=review)))


@dataclass(frozen=True)
class RecordedSensor:
    """A sensor that passes of a review have recorded, and in how many of them."""

    name: str
    unit: str
    passes: int


class SensorsView(APIView):
    @extend_schema(responses=shape(RecordedSensor, many=True))
    def get(self, request: Request, review: int) -> Response:
        lanes = Series.objects.filter(owner__test__review=review, kind="sensor", owner__whole_at__isnull=False)
        found = lanes.order_by("name").values_list("name", "unit").annotate(Count("pk"))
        return shaped([RecordedSensor(*one) for one in found])


class SystemLogView(APIView):
    """Visits of a system that are over, and what failed on it."""

    @extend_schema(responses=shape(SystemLog))
    def get(self, request: Request, system: int) -> Response:
        return shaped(system_log(get_object_or_404(System, pk=system)))


class TraceView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("points", int, description="Most points to send."),
            OpenApiParameter("from", float, description="First second shown."),
            OpenApiParameter("to", float, description="Last second shown."),
        ],
        responses=shape(TraceShape),
    )
    def get(self, request: Request, pass_id: uuid.UUID) -> Response:
        return trace_of(request, whole_pass(pass_id))


class CaptureCsvView(APIView):
    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, series: int) -> FileResponse | HttpResponse | StreamingHttpResponse:
        return capture_response(get_object_or_404(Series.objects.exclude(owner__whole_at=None), pk=series))


@dataclass(frozen=True)
class MatchShape:
    """By how many seconds the second trace is to be moved so that it lies best over the first."""

    shift_s: float
    correlation: float


class DistributionView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("top", float, description="Upper end of the histogram in ms.")],
        responses=shape(DistributionShape),
    )
    def get(self, request: Request, pass_id: uuid.UUID) -> Response:
        top = number_parameter(request, "top")
        if top is not None and top <= 0:
            raise unusable("top must be above 0.")
        return shaped(distribution(whole_pass(pass_id), top))


class MatchView(APIView):
    @extend_schema(responses=shape(MatchShape))
    def get(self, request: Request, pass_id: uuid.UUID, other: uuid.UUID) -> Response:
        first, second = (captures_of(whole_pass(one)) for one in (pass_id, other))
        if first.frame_times_ms is None or second.frame_times_ms is None:
            raise unusable("Both passes need frames to be laid over one another.")
        found = best_match(first.frame_times_ms, second.frame_times_ms)
        shift = found.shift_s + first.starts_at_s - second.starts_at_s
        return shaped(MatchShape(round(shift, 3), round(found.correlation, 4)))


class PairsView(APIView):
    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(responses=shape(PairShape, many=True))
    def get(self, request: Request, review: int) -> Response:
        return shaped(pairs(get_object_or_404(Review, pk=review)))

    @extend_schema(request=PairSerializer, responses={201: None})
    def post(self, request: Request, review: int) -> Response:
        return Response({"id": new_pair(request, get_object_or_404(Review, pk=review)).pk}, status=201)


class EnoughView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("quantity", str, description="graphics memory used, or memory used."),
            OpenApiParameter("reserve", float, description="Per cent that is to stay free; 20 without it."),
            OpenApiParameter("idle", bool, description="Whether to say what is over the idle baseline."),
        ],
        responses=shape(EnoughShape),
    )
    def get(self, request: Request, review: int) -> Response:
        reserve = number_parameter(request, "reserve")
        quantity = request.query_params.get("quantity", "graphics memory used")
        over_idle = request.query_params.get("idle") in ("1", "true")
        found = get_object_or_404(Review, pk=review)
        return shaped(memory_needed(found, quantity, 0.2 if reserve is None else reserve / 100, over_idle))


class SpecifiedView(APIView):
    @extend_schema(responses=shape(SpecifiedShape, many=True))
    def get(self, request: Request, review: int) -> Response:
        return shaped(specified(get_object_or_404(Review, pk=review)))
