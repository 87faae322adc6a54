"""Reviews: the list, the brief and its edits."""

from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.reviews.commands import EDITABLE, choose_baseline, edit_review
from nomothet.server.reviews.models import Column, Review
from nomothet.server.reviews.queries import ReviewItem, ReviewShape, review_shape, reviews
from nomothet.server.shapes import plain, shape, shaped
from nomothet.server.versions import entity_tag, require_match

IF_MATCH = OpenApiParameter("If-Match", str, OpenApiParameter.HEADER, description="The ETag that was read.")


class ReviewEditSerializer(serializers.ModelSerializer[Review]):
    class Meta:
        model = Review
        fields = EDITABLE

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        unknown = set(self.initial_data) - set(EDITABLE)
        if unknown:
            raise serializers.ValidationError({name: ["This field cannot be edited."] for name in sorted(unknown)})
        return attrs


def review_response(review: Review) -> Response:
    return shaped(review_shape(review), headers={"ETag": entity_tag(review.version)})


class ReviewsView(APIView):
    @extend_schema(responses=shape(ReviewItem, many=True))
    def get(self, request: Request) -> Response:
        return shaped(reviews())


class ReviewView(APIView):
    @extend_schema(responses=shape(ReviewShape))
    def get(self, request: Request, review: int) -> Response:
        return review_response(get_object_or_404(Review.objects.select_related("editor"), pk=review))

    @extend_schema(request=ReviewEditSerializer(partial=True), parameters=[IF_MATCH], responses=shape(ReviewShape))
    def patch(self, request: Request, review: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_REVIEW)
        form = ReviewEditSerializer(data=request.data, partial=True)
        form.is_valid(raise_exception=True)
        with transaction.atomic():
            found = get_object_or_404(Review.objects.select_for_update(), pk=review)
            require_match(request, found.version, plain(review_shape(found)))
            edit_review(user, found, form.validated_data)
        return review_response(found)


class BaselineView(APIView):
    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, review: int, column: int) -> Response:
        choose_baseline(signed_in(request), get_object_or_404(Column, pk=column, review=review))
        return Response(status=204)
