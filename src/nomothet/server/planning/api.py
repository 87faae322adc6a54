"""The check of a review's plan, with what the plan takes, and what is to be decided about changed configurations."""

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.planning.check import PlanShape, plan
from nomothet.server.planning.splits import ANSWERS, SplitShape, settle_split, splits
from nomothet.server.reviews.api import review_of, review_response
from nomothet.server.reviews.models import Column
from nomothet.server.reviews.queries import ReviewShape
from nomothet.server.shapes import shape, shaped


class PlanView(APIView):
    @extend_schema(responses=shape(PlanShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(plan(review_of(review)))


class SplitSerializer(serializers.Serializer[Any]):
    answer = serializers.ChoiceField(choices=list(ANSWERS))


class SplitsView(APIView):
    """Configurations that were changed while passes of them are owed."""

    @extend_schema(responses=shape(SplitShape, many=True))
    def get(self, request: Request, review: int) -> Response:
        return shaped(splits(review_of(review)))


class SplitView(APIView):
    """What becomes of the passes that are owed of a changed configuration."""

    needs = {"PUT": Act.EDIT_REVIEW}

    @extend_schema(request=SplitSerializer, responses=shape(ReviewShape))
    def put(self, request: Request, review: int, column: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_REVIEW)
        form = SplitSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        settle_split(user, get_object_or_404(Column, pk=column, review=review), form.validated_data["answer"])
        return review_response(review_of(review))
