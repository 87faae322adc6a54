"""Systems and their bench tokens."""

from dataclasses import dataclass
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.validators import UniqueValidator
from rest_framework.views import APIView

from nomothet.server.people.permissions import signed_in
from nomothet.server.shapes import shape, shaped
from nomothet.server.systems.commands import add_system, issue_token
from nomothet.server.systems.models import System
from nomothet.server.systems.queries import SystemShape, systems


@dataclass(frozen=True)
class TokenShape:
    """A bench token; it is shown this once."""

    token: str


class NewSystemSerializer(serializers.Serializer[Any]):
    key = serializers.SlugField(
        max_length=50,
        validators=[UniqueValidator(System.objects.all(), message="There is a system with this key; choose another.")],
    )
    name = serializers.CharField(max_length=120)
    description = serializers.CharField(required=False, default="", allow_blank=True, max_length=2000)


class SystemsView(APIView):
    @extend_schema(responses=shape(SystemShape, many=True))
    def get(self, request: Request) -> Response:
        return shaped(systems())

    @extend_schema(request=NewSystemSerializer, responses={201: None})
    def post(self, request: Request) -> Response:
        form = NewSystemSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        system = add_system(signed_in(request), **form.validated_data)
        return Response({"id": system.pk}, status=201)


class BenchTokenView(APIView):
    @extend_schema(request=None, responses={201: shape(TokenShape)})
    def post(self, request: Request, system: int) -> Response:
        token = issue_token(signed_in(request), get_object_or_404(System, pk=system))
        return shaped(TokenShape(token), status=201)
