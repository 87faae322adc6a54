"""What the evidence of a review amounts to: distributions, matches, completeness, pairs, memory needed."""

import uuid
from dataclasses import dataclass

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.alignment import best_match
from nomothet.core.comparable import comparability
from nomothet.server.analysis.api import PairSerializer, new_pair
from nomothet.server.analysis.computing import captures_of
from nomothet.server.analysis.models import Analysis
from nomothet.server.matrix.alike import UnlikeShape, shapes_of
from nomothet.server.matrix.api import number_parameter
from nomothet.server.matrix.completeness import CompletenessShape, completeness
from nomothet.server.matrix.distribution import DistributionShape, distribution
from nomothet.server.matrix.memory_needed import EnoughShape, memory_needed
from nomothet.server.matrix.pairs import PairShape, pairs
from nomothet.server.matrix.specified import SpecifiedShape, specified
from nomothet.server.passes.models import Pass
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped


@dataclass(frozen=True)
class MatchShape:
    """By how many seconds the second trace is to be moved so that it lies best over the first."""

    shift_s: float
    correlation: float


def _pass(pk: uuid.UUID) -> Pass:
    return get_object_or_404(Pass.objects.select_related("test__review").exclude(whole_at=None), pk=pk)


class DistributionView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("top", float, description="Upper end of the histogram in ms.")],
        responses=shape(DistributionShape),
    )
    def get(self, request: Request, pass_id: uuid.UUID) -> Response:
        top = number_parameter(request, "top")
        if top is not None and top <= 0:
            raise unusable("top must be above 0.")
        return shaped(distribution(_pass(pass_id), top))


class MatchView(APIView):
    @extend_schema(responses=shape(MatchShape))
    def get(self, request: Request, pass_id: uuid.UUID, other: uuid.UUID) -> Response:
        first, second = (captures_of(_pass(one)) for one in (pass_id, other))
        if first.frame_times_ms is None or second.frame_times_ms is None:
            raise unusable("Both passes need frames to be laid over one another.")
        found = best_match(first.frame_times_ms, second.frame_times_ms)
        shift = found.shift_s + first.starts_at_s - second.starts_at_s
        return shaped(MatchShape(round(shift, 3), round(found.correlation, 4)))


class UnlikeView(APIView):
    """In what two passes differ, as they were run; nothing is taken for the factor."""

    @extend_schema(responses=shape(UnlikeShape, many=True))
    def get(self, request: Request, pass_id: uuid.UUID, other: uuid.UUID) -> Response:
        first, second = (
            found.fingerprint if (found := Analysis.objects.filter(owner=_pass(one)).first()) else {}
            for one in (pass_id, other)
        )
        return shaped(shapes_of(comparability(first, second)))


class CompletenessView(APIView):
    @extend_schema(responses=shape(CompletenessShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(completeness(get_object_or_404(Review, pk=review)))


class PairsView(APIView):
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
