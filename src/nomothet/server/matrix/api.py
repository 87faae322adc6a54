"""Reading the matrix, its cells, traces and exports."""

import itertools
import math
import uuid
from collections.abc import Iterable, Iterator

import zstandard
from django.http import FileResponse, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.matrix.cell import CellDetail, cell_detail
from nomothet.server.matrix.export import capture_lines, figure_lines
from nomothet.server.matrix.matrix import MatrixShape, matrix
from nomothet.server.matrix.trace import TraceShape, trace
from nomothet.server.passes.models import Pass, Series
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.shapes import shape, shaped


def number_parameter(request: Request, name: str) -> float | None:
    """A number from the address, or a refusal that names the parameter."""
    text = request.query_params.get(name)
    if text is None:
        return None
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise unusable(f"{name} is {text!r}; it must be a number.")
    return value


_LINES_A_PIECE = 2000


def _in_pieces(lines: Iterable[str]) -> Iterator[str]:
    """Lines joined by the thousand: each piece costs the server a change of threads."""
    rest = iter(lines)
    while piece := "".join(itertools.islice(rest, _LINES_A_PIECE)):
        yield piece


def csv_response(lines: Iterable[str], name: str) -> StreamingHttpResponse:
    response = StreamingHttpResponse(_in_pieces(lines), content_type="text/csv; charset=utf-8")
    response.headers["Content-Disposition"] = f'attachment; filename="{name}.csv"'
    return response


def trace_of(request: Request, owner: Pass) -> Response:
    points = number_parameter(request, "points")
    return shaped(
        trace(
            owner,
            points=int(points) if points else 2000,
            from_s=number_parameter(request, "from"),
            to_s=number_parameter(request, "to"),
        )
    )


def capture_response(series: Series) -> FileResponse | HttpResponse | StreamingHttpResponse:
    """A series as CSV; a file that somebody dropped just as it came."""
    if series.kind == "file":
        content = zstandard.ZstdDecompressor().decompressobj().decompress(bytes(series.blob or b""))
        response = HttpResponse(content, content_type="application/octet-stream")
        response.headers["Content-Disposition"] = 'attachment; filename="original.txt"'
        return response
    return csv_response(capture_lines(series), f"{series.name}-{series.owner_id}")


class MatrixView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("baseline", int, description="Column to compare with.")],
        responses=shape(MatrixShape),
    )
    def get(self, request: Request, review: int) -> Response:
        baseline = number_parameter(request, "baseline")
        found = get_object_or_404(Review, pk=review)
        return Response(matrix(found, int(baseline) if baseline is not None else None))


class CellView(APIView):
    @extend_schema(responses=shape(CellDetail))
    def get(self, request: Request, review: int, test: int, column: int) -> Response:
        found = get_object_or_404(Test.objects.select_related("workload", "review"), pk=test, review=review)
        return shaped(cell_detail(found, get_object_or_404(Column, pk=column, review=review)))


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
        owner = get_object_or_404(Pass.objects.select_related("test").exclude(whole_at=None), pk=pass_id)
        return trace_of(request, owner)


class FiguresCsvView(APIView):
    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, review: int) -> StreamingHttpResponse:
        found = get_object_or_404(Review, pk=review)
        return csv_response(figure_lines(found), f"{found.key}-figures")


class CaptureCsvView(APIView):
    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, series: int) -> FileResponse | HttpResponse | StreamingHttpResponse:
        return capture_response(get_object_or_404(Series.objects.exclude(owner__whole_at=None), pk=series))
