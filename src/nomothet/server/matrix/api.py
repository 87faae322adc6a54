"""Reading the matrix, what is missing in it, and its figures as CSV."""

import uuid

from django.http import StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.comparable import comparability
from nomothet.server.analysis.models import Analysis
from nomothet.server.evidence.api import whole_pass
from nomothet.server.matrix.alike import UnlikeShape, shapes_of
from nomothet.server.matrix.completeness import CompletenessShape, completeness
from nomothet.server.matrix.export import comparison_lines, figure_lines
from nomothet.server.matrix.matrix import MatrixShape, matrix, matrix_json
from nomothet.server.responses import csv_response, number_parameter
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped


class MatrixView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("baseline", int, description="Column to compare with."),
            OpenApiParameter("idle", bool, description="Take idle baselines off where a row has one."),
        ],
        responses=shape(MatrixShape),
    )
    def get(self, request: Request, review: int) -> Response:
        baseline = number_parameter(request, "baseline")
        found = get_object_or_404(Review, pk=review)
        idle_off = request.query_params.get("idle") in ("1", "true")
        return Response(matrix_json(found, int(baseline) if baseline is not None else None, idle_off=idle_off))


class FiguresCsvView(APIView):
    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, review: int) -> StreamingHttpResponse:
        found = get_object_or_404(Review, pk=review)
        return csv_response(figure_lines(found), f"{found.key}-figures")


class ComparisonsCsvView(APIView):
    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, review: int) -> StreamingHttpResponse:
        found = get_object_or_404(Review, pk=review)
        return csv_response(comparison_lines(found, matrix(found)), f"{found.key}-comparisons")


class UnlikeView(APIView):
    """In what two passes differ, as they were run; nothing is taken for the factor."""

    @extend_schema(responses=shape(UnlikeShape, many=True))
    def get(self, request: Request, pass_id: uuid.UUID, other: uuid.UUID) -> Response:
        first, second = (
            found.fingerprint if (found := Analysis.objects.filter(owner=whole_pass(one)).first()) else {}
            for one in (pass_id, other)
        )
        return shaped(shapes_of(comparability(first, second)))


class CompletenessView(APIView):
    @extend_schema(responses=shape(CompletenessShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(completeness(get_object_or_404(Review, pk=review)))
