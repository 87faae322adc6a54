"""The history of an object."""

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.history.queries import EventShape, history
from nomothet.server.shapes import shape, shaped


class HistoryView(APIView):
    @extend_schema(responses=shape(EventShape, many=True))
    def get(self, request: Request, kind: str, object_id: int) -> Response:
        return shaped(history(kind, object_id))
