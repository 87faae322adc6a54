"""Records of foreign origin: the list, bringing one in by its package, and taking it off."""

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.foreign.commands import bring, remove
from nomothet.server.foreign.models import ForeignRecord
from nomothet.server.foreign.queries import ForeignShape, foreign_records, foreign_shape
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.shapes import shape, shaped


class PackageSerializer(serializers.Serializer[Any]):
    file = serializers.FileField()


class ForeignRecordsView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(responses=shape(ForeignShape, many=True))
    def get(self, request: Request) -> Response:
        return shaped(foreign_records())

    @extend_schema(request={"multipart/form-data": PackageSerializer}, responses={201: shape(ForeignShape)})
    def post(self, request: Request) -> Response:
        # Asked before the upload is read.
        require(signed_in(request), Act.EDIT_REVIEW)
        form = PackageSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        return shaped(foreign_shape(bring(signed_in(request), form.validated_data["file"].file)), 201)


class ForeignRecordView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, record: int) -> Response:
        remove(signed_in(request), get_object_or_404(ForeignRecord, pk=record, removed_at=None))
        return Response(status=204)
