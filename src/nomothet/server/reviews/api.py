"""Reviews: the list, the brief and its edits."""

import math
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.margins import DIFFERENCE_MARGINS
from nomothet.server.edits import edit_form
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.reviews.commands.review import (
    EDITABLE,
    archive_review,
    choose_baseline,
    delete_review,
    duplicate_review,
    edit_review,
)
from nomothet.server.reviews.models import Column, Review
from nomothet.server.reviews.queries import ReviewShape, review_shape
from nomothet.server.shapes import plain, shape, shaped
from nomothet.server.versions import IF_MATCH, entity_tag, require_match


class ReviewEditSerializer(serializers.ModelSerializer[Review]):
    class Meta:
        model = Review
        fields = EDITABLE

    def validate_margins(self, value: Any) -> dict[str, float]:
        wrong = not isinstance(value, dict) or [name for name in value if name not in DIFFERENCE_MARGINS]
        if wrong:
            raise serializers.ValidationError(f"Margins are given for {', '.join(DIFFERENCE_MARGINS)}.")
        for name, margin in value.items():
            if isinstance(margin, bool) or not isinstance(margin, int | float) or not 0 < margin < 1e9:
                raise serializers.ValidationError(f"The margin for {name} must be a number above 0.")
        return {name: float(margin) for name, margin in value.items()}

    def validate_targets(self, value: Any) -> dict[str, float]:
        if not isinstance(value, dict) or len(value) > 20:
            raise serializers.ValidationError("Targets are given by unit, such as W: 90.")
        for unit, limit in value.items():
            if isinstance(limit, bool) or not isinstance(limit, int | float) or not math.isfinite(limit):
                raise serializers.ValidationError(f"The target in {unit} must be a number.")
            if not unit.strip() or len(unit) > 20:
                raise serializers.ValidationError("The unit of a target has 1 to 20 letters.")
        return {unit.strip(): float(limit) for unit, limit in value.items()}

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        unknown = set(self.initial_data) - set(EDITABLE)
        if unknown:
            raise serializers.ValidationError({name: ["This field cannot be edited."] for name in sorted(unknown)})
        return attrs


def review_response(review: Review, status: int = 200) -> Response:
    return shaped(review_shape(review), status=status, headers={"ETag": entity_tag(review.version)})


def review_of(pk: int) -> Review:
    return get_object_or_404(Review.objects.select_related("editor"), pk=pk)


@contextmanager
def editing(review: int) -> Iterator[Review]:
    """The review, locked until the act is over: two acts at once take turns and neither overwrites the other."""
    with transaction.atomic():
        yield get_object_or_404(Review.objects.select_for_update(), pk=review)


class ReviewView(APIView):
    @extend_schema(responses=shape(ReviewShape))
    def get(self, request: Request, review: int) -> Response:
        return review_response(review_of(review))

    @extend_schema(request=ReviewEditSerializer(partial=True), parameters=[IF_MATCH], responses=shape(ReviewShape))
    def patch(self, request: Request, review: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_REVIEW)
        form = edit_form(ReviewEditSerializer(data=request.data))
        form.is_valid(raise_exception=True)
        with transaction.atomic():
            found = get_object_or_404(Review.objects.select_for_update(), pk=review)
            require_match(request, found.version, plain(review_shape(found)))
            edit_review(user, found, form.validated_data)
        return review_response(found)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            delete_review(signed_in(request), found)
        return Response(status=204)


class ReviewCopyView(APIView):
    @extend_schema(request=None, responses={201: shape(ReviewShape)})
    def post(self, request: Request, review: int) -> Response:
        return review_response(duplicate_review(signed_in(request), review_of(review)), status=201)


class ReviewArchiveView(APIView):
    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            archive_review(signed_in(request), found, True)
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            archive_review(signed_in(request), found, False)
        return Response(status=204)


class BaselineView(APIView):
    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, review: int, column: int) -> Response:
        choose_baseline(signed_in(request), get_object_or_404(Column, pk=column, review=review))
        return Response(status=204)
