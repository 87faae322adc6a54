"""The first page of an empty installation: whether its address is good, and naming the team and its first admin."""

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people.beginning import begin_installation, may_begin
from nomothet.server.people.people_api import LinkSerializer, held_back


class BeginSerializer(serializers.Serializer[Any]):
    secret = serializers.CharField(max_length=100)
    team = serializers.CharField(max_length=120)
    username = serializers.CharField(max_length=40)
    display_name = serializers.CharField(max_length=120)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class BeginningView(APIView):
    """The secret is sent in the body, where no log keeps it, and stands for who asks."""

    authentication_classes = []
    permission_classes = [AllowAny]

    @extend_schema(request=LinkSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        form = LinkSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        with held_back(request):
            may_begin(form.validated_data["secret"])
        return Response(status=204)

    @extend_schema(request=BeginSerializer, responses={204: None})
    def put(self, request: Request) -> Response:
        form = BeginSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        with held_back(request):
            begin_installation(**form.validated_data)
        return Response(status=204)
