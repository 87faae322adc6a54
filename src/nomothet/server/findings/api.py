"""What a review says."""

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.findings.findings import FindingsShape, findings
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped


class FindingsView(APIView):
    @extend_schema(responses=shape(FindingsShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(findings(get_object_or_404(Review, pk=review)))
