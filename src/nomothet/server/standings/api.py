"""Standings as pages read them."""

from dataclasses import replace

from django.http import StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people.permissions import Act, signed_in
from nomothet.server.problems import Problem
from nomothet.server.responses import csv_response
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped
from nomothet.server.standings.book import BookShape, book_of
from nomothet.server.standings.catalogue import StandingsShape, workloads
from nomothet.server.standings.choice import read_choice
from nomothet.server.standings.copied import CopiedShape, copied
from nomothet.server.standings.export import standing_lines
from nomothet.server.standings.facts import Fact, facts
from nomothet.server.standings.over_time import OverTimeShape, over_time
from nomothet.server.standings.ranking import find
from nomothet.server.standings.retests import MeasuredBeforeShape, RetestShape, measure_anew, measured_before_in
from nomothet.server.standings.standing import StandingShape, standing, standing_pages
from nomothet.server.standings.tasks import make_what_is_stale
from nomothet.server.systems.models import System

CHOICE = [
    OpenApiParameter(name, kind)
    for name, kind in (
        ("settings", str), ("metric", str), ("against", str), ("words", str), ("system", str), ("review", int),
        ("since", str), ("until", str), ("having", str), ("basis", str), ("prices", str), ("offset", int),
    )
]  # fmt: skip


class StandingsView(APIView):
    @extend_schema(responses=shape(StandingsShape), operation_id="standings_all")
    def get(self, request: Request) -> Response:
        return shaped(workloads())


class MeasuredBeforeView(APIView):
    """GET: the cells of a review that were measured before an update; POST: measure the same anew in a review of its
    own."""

    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(responses=shape(MeasuredBeforeShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(measured_before_in(get_object_or_404(Review, pk=review)))

    @extend_schema(request=None, responses={201: shape(RetestShape)})
    def post(self, request: Request, review: int) -> Response:
        return shaped(measure_anew(signed_in(request), get_object_or_404(Review, pk=review)), status=201)


class CopiedView(APIView):
    @extend_schema(responses=shape(CopiedShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(copied(get_object_or_404(Review.objects.select_related("copied_from"), pk=review)))


class BookView(APIView):
    @extend_schema(responses=shape(BookShape))
    def get(self, request: Request, system: int) -> Response:
        return shaped(book_of(get_object_or_404(System, pk=system)))


class OverTimeView(APIView):
    @extend_schema(responses=shape(OverTimeShape), parameters=CHOICE)
    def get(self, request: Request, workload_key: str) -> Response:
        found = over_time(read_choice(workload_key, request.query_params))
        if found is None:
            raise _nothing()
        return shaped(found)


class FactsView(APIView):
    """In what the results of a standing differ, to choose among them."""

    @extend_schema(responses=shape(Fact, many=True), parameters=CHOICE)
    def get(self, request: Request, workload_key: str) -> Response:
        make_what_is_stale(workload_key)
        found = find(read_choice(workload_key, request.query_params))
        if found is None:
            raise _nothing()
        return shaped(facts(found.chosen))


class StandingCsvView(APIView):
    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR}, parameters=CHOICE)
    def get(self, request: Request, workload_key: str) -> StreamingHttpResponse:
        choice = replace(read_choice(workload_key, request.query_params), offset=0)
        lines = standing_lines(standing_pages(choice))
        if lines is None:
            raise _nothing()
        return csv_response(lines, f"standing-{workload_key}")


class StandingView(APIView):
    @extend_schema(responses=shape(StandingShape), parameters=CHOICE)
    def get(self, request: Request, workload_key: str) -> Response:
        found = standing(read_choice(workload_key, request.query_params))
        if found is None:
            raise _nothing()
        return shaped(found)


def _nothing() -> Problem:
    return Problem(404, "No result yet", "No pass of this workload counts yet; its first one makes a standing.")
