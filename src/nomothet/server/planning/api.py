"""The check of a review's plan, with what the plan takes."""

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.planning.check import PlanShape, plan
from nomothet.server.reviews.api import review_of
from nomothet.server.shapes import shape, shaped


class PlanView(APIView):
    @extend_schema(responses=shape(PlanShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(plan(review_of(review)))
