"""What settings there are: the catalogue's, the team's own, and bundles of them."""

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.quantities import VALUE_KINDS
from nomothet.core.settings import MADE_IN, TOUCHED, UNITS
from nomothet.server.people.permissions import signed_in
from nomothet.server.shapes import shape, shaped
from nomothet.server.systems import own_settings
from nomothet.server.systems.models import Bundle, OwnSetting
from nomothet.server.systems.own_settings import BundleShape, KnownSetting


class NewSettingSerializer(serializers.Serializer[Any]):
    """A setting of the team's own: kind of value, unit, which part it acts on, where it is made, how it is verified."""

    label = serializers.RegexField(  # type: ignore[assignment]
        r"^[A-Za-z0-9][A-Za-z0-9 \-]*$",
        max_length=40,
        error_messages={"invalid": "A name is of letters, digits, spaces and hyphens."},
    )
    kind = serializers.ChoiceField(choices=VALUE_KINDS)
    touches = serializers.ChoiceField(choices=TOUCHED)
    made_in = serializers.ChoiceField(choices=list(MADE_IN))
    unit = serializers.ChoiceField(choices=["", *UNITS.values()], allow_blank=True, default="")
    choices = serializers.ListField(child=serializers.CharField(max_length=60), default=list, max_length=40)
    verify = serializers.CharField(max_length=200, allow_blank=True, default="")


class BundleSerializer(serializers.Serializer[Any]):
    family = serializers.CharField(max_length=40)
    name = serializers.CharField(max_length=40)
    settings = serializers.DictField(child=serializers.JSONField())
    workload = serializers.CharField(max_length=50, allow_blank=True, default="")


class SettingsView(APIView):
    @extend_schema(responses=shape(KnownSetting, many=True))
    def get(self, request: Request) -> Response:
        return shaped(own_settings.known_settings())

    @extend_schema(request=NewSettingSerializer, responses={201: shape(KnownSetting)})
    def post(self, request: Request) -> Response:
        form = NewSettingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        return shaped(own_settings.define_setting(signed_in(request), **form.validated_data), status=201)


class SettingView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, key: str) -> Response:
        own_settings.remove_setting(signed_in(request), get_object_or_404(OwnSetting, key=key))
        return Response(status=204)


class BundlesView(APIView):
    @extend_schema(responses=shape(BundleShape, many=True))
    def get(self, request: Request) -> Response:
        return shaped(own_settings.bundles())

    @extend_schema(request=BundleSerializer, responses={201: shape(BundleShape)})
    def post(self, request: Request) -> Response:
        form = BundleSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        return shaped(own_settings.keep_bundle(signed_in(request), **form.validated_data), status=201)


class BundleView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, bundle: int) -> Response:
        own_settings.remove_bundle(signed_in(request), get_object_or_404(Bundle, pk=bundle))
        return Response(status=204)
