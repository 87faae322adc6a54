"""The list of reviews, asking a new question, how workloads do as tests, and the catalogue."""

from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.overview.catalogue import CatalogueShape, catalogue
from nomothet.server.overview.find import FoundShape, find
from nomothet.server.overview.reviews import ReviewItem, reviews
from nomothet.server.overview.workloads import FitnessShape, fitness
from nomothet.server.people.permissions import signed_in
from nomothet.server.reviews.api import review_response
from nomothet.server.reviews.commands.review import add_review
from nomothet.server.reviews.queries import ReviewShape
from nomothet.server.shapes import shape, shaped

_LONGEST = 200


class NewReviewSerializer(serializers.Serializer[Any]):
    question = serializers.CharField(max_length=300)
    expectation = serializers.CharField(required=False, allow_blank=True, max_length=4000)
    audience = serializers.CharField(required=False, allow_blank=True, max_length=300)
    # One configuration alone, judged by its targets.
    single = serializers.BooleanField(required=False)


class FindView(APIView):
    """Whatever has a name, by words."""

    @extend_schema(responses=shape(FoundShape, many=True), parameters=[OpenApiParameter("words", str)])
    def get(self, request: Request) -> Response:
        return shaped(find(signed_in(request), request.query_params.get("words", "")[:_LONGEST]))


class ReviewsView(APIView):
    @extend_schema(responses=shape(ReviewItem, many=True), parameters=[OpenApiParameter("archived", bool)])
    def get(self, request: Request) -> Response:
        return shaped(reviews(archived=request.query_params.get("archived") in ("true", "1")))

    @extend_schema(request=NewReviewSerializer, responses={201: shape(ReviewShape)})
    def post(self, request: Request) -> Response:
        form = NewReviewSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        return review_response(add_review(signed_in(request), **form.validated_data), status=201)


class FitnessView(APIView):
    @extend_schema(responses=shape(FitnessShape, many=True))
    def get(self, request: Request) -> Response:
        return shaped(fitness())


class CatalogueView(APIView):
    @extend_schema(responses=shape(CatalogueShape))
    def get(self, request: Request) -> Response:
        return shaped(catalogue())
