"""Systems, their configurations and bench tokens."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.validators import UniqueValidator
from rest_framework.views import APIView

from nomothet.core.parts import ORIGINS
from nomothet.server.edits import edit_form
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.shapes import plain, shape, shaped
from nomothet.server.shelf.commands import parts_of_inventory
from nomothet.server.shelf.queries import PartShape, part_shape
from nomothet.server.systems import configurations as changing
from nomothet.server.systems.commands import EDITABLE, add_system, archive_system, ask_again, edit_system, issue_token
from nomothet.server.systems.models import Configuration, System
from nomothet.server.systems.queries import (
    ConfigurationShape,
    PopulationShape,
    SystemDetail,
    SystemShape,
    configurations,
    population_shape,
    system_detail,
    systems,
)
from nomothet.server.systems.states import SLOT, read_slot_map
from nomothet.server.versions import IF_MATCH, entity_tag, require_match


@dataclass(frozen=True)
class TokenShape:
    """A bench token; it is shown this once."""

    token: str


class NewSystemSerializer(serializers.Serializer[Any]):
    key = serializers.SlugField(
        required=False,
        max_length=50,
        validators=[UniqueValidator(System.objects.all(), message="There is a system with this key; choose another.")],
    )
    name = serializers.CharField(max_length=120)
    description = serializers.CharField(required=False, default="", allow_blank=True, max_length=2000)
    origin = serializers.ChoiceField(choices=ORIGINS, required=False)
    origin_note = serializers.CharField(required=False, allow_blank=True, max_length=200)


class SlotSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=12)
    channel = serializers.CharField(max_length=12)
    fill = serializers.IntegerField(min_value=1, max_value=64)


class SpeedLimitSerializer(serializers.Serializer[Any]):
    modules_per_channel = serializers.IntegerField(min_value=1, max_value=8)
    rate_mts = serializers.FloatField(min_value=100, max_value=20_000)


class SlotMapSerializer(serializers.Serializer[Any]):
    slots = SlotSerializer(many=True)
    max_gb = serializers.FloatField(allow_null=True, required=False, min_value=0.01, max_value=100_000)
    max_module_gb = serializers.FloatField(allow_null=True, required=False, min_value=0.01, max_value=10_000)
    speeds = SpeedLimitSerializer(many=True, required=False)
    takes_ecc = serializers.BooleanField(allow_null=True, required=False)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        read_slot_map(attrs)
        return dict(plain(attrs))


class CheckSerializer(serializers.Serializer[Any]):
    """A pre-run check; with a reading it asks for a number, which may be bounded."""

    key = serializers.SlugField(max_length=40)
    words = serializers.CharField(max_length=200)
    reading = serializers.CharField(max_length=60, required=False, allow_blank=True)
    at_most = serializers.FloatField(required=False, allow_null=True)
    unit = serializers.CharField(max_length=12, required=False, allow_blank=True)
    # Looked at before each pass that is run by hand, and not once for all of a visit.
    each_pass = serializers.BooleanField(required=False)


class SystemEditSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=120)
    description = serializers.CharField(allow_blank=True, max_length=2000)
    slot_map = SlotMapSerializer()
    connectors = serializers.ListField(child=serializers.CharField(max_length=80), max_length=40)
    origin = serializers.ChoiceField(choices=ORIGINS)
    origin_note = serializers.CharField(allow_blank=True, max_length=200)
    changes_by = serializers.ChoiceField(choices=("tester", "bench"))
    on_mismatch = serializers.ChoiceField(choices=("stop", "flag"))
    checks = CheckSerializer(many=True)


class FitSerializer(serializers.Serializer[Any]):
    part = serializers.IntegerField()
    module = serializers.IntegerField(required=False, allow_null=True, min_value=1)


class BuildSerializer(serializers.Serializer[Any]):
    """A configuration as what differs from its base."""

    name = serializers.CharField(max_length=120)
    note = serializers.CharField(required=False, allow_blank=True, max_length=200)
    base = serializers.PrimaryKeyRelatedField(queryset=Configuration.objects.all(), required=False, allow_null=True)
    settings = serializers.DictField(child=serializers.JSONField(allow_null=True), required=False)
    fitted = serializers.DictField(child=FitSerializer(allow_null=True), required=False)
    blocked = serializers.CharField(required=False, allow_blank=True, max_length=200)


class PopulateSerializer(serializers.Serializer[Any]):
    fitted = serializers.DictField(child=FitSerializer(allow_null=True))
    settings = serializers.DictField(child=serializers.JSONField(allow_null=True), required=False)


class ObservationSerializer(serializers.Serializer[Any]):
    key = serializers.CharField(max_length=80)
    value = serializers.JSONField()


def system_response(system: System) -> Response:
    return shaped(system_detail(system), headers={"ETag": entity_tag(system.version)})


def configuration_shape(configuration: Configuration) -> ConfigurationShape:
    return next(one for one in configurations(configuration.system) if one.id == configuration.pk)


class SystemsView(APIView):
    @extend_schema(responses=shape(SystemShape, many=True), parameters=[OpenApiParameter("archived", bool)])
    def get(self, request: Request) -> Response:
        return shaped(systems(archived=request.query_params.get("archived") in ("true", "1")))

    @extend_schema(request=NewSystemSerializer, responses={201: shape(SystemDetail)})
    def post(self, request: Request) -> Response:
        form = NewSystemSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        system = add_system(signed_in(request), **form.validated_data)
        return shaped(system_detail(system), status=201)


class SystemView(APIView):
    @extend_schema(responses=shape(SystemDetail))
    def get(self, request: Request, system: int) -> Response:
        return system_response(get_object_or_404(System.objects.select_related("bench"), pk=system))

    @extend_schema(request=SystemEditSerializer(partial=True), parameters=[IF_MATCH], responses=shape(SystemDetail))
    def patch(self, request: Request, system: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_SYSTEMS)
        form = edit_form(SystemEditSerializer(data=request.data))
        form.is_valid(raise_exception=True)
        with transaction.atomic():
            found = get_object_or_404(System.objects.select_for_update(), pk=system)
            require_match(request, found.version, plain(system_detail(found)))
            edit_system(
                user, found, {field: form.validated_data[field] for field in EDITABLE if field in form.validated_data}
            )
        return system_response(found)


class SystemArchiveView(APIView):
    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, system: int) -> Response:
        archive_system(signed_in(request), get_object_or_404(System, pk=system), True)
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, system: int) -> Response:
        archive_system(signed_in(request), get_object_or_404(System, pk=system), False)
        return Response(status=204)


class BenchTokenView(APIView):
    @extend_schema(request=None, responses={201: shape(TokenShape)})
    def post(self, request: Request, system: int) -> Response:
        token = issue_token(signed_in(request), get_object_or_404(System, pk=system))
        return shaped(TokenShape(token), status=201)


class SendAgainView(APIView):
    """Ask the bench of a system for what it has set aside."""

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, system: int) -> Response:
        ask_again(signed_in(request), get_object_or_404(System, pk=system))
        return Response(status=204)


class InventoryPartsView(APIView):
    """Parts as the bench of a system has told them."""

    @extend_schema(request=None, responses={201: shape(PartShape, many=True)})
    def post(self, request: Request, system: int) -> Response:
        found = get_object_or_404(System.objects.select_related("bench"), pk=system)
        inventory = found.bench.inventory if hasattr(found, "bench") else {}
        made = parts_of_inventory(signed_in(request), inventory, found.name)
        return shaped([part_shape(part) for part in made], status=201)


class PopulateView(APIView):
    """What modules would amount to in the slots of a system; nothing is stored."""

    @extend_schema(request=PopulateSerializer, responses=shape(PopulationShape))
    def post(self, request: Request, system: int) -> Response:
        found = get_object_or_404(System, pk=system)
        form = PopulateSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        fitted = changing.read_fitted(found, form.validated_data["fitted"])
        slots = {place.removeprefix(SLOT): fit for place, fit in fitted.items() if fit and place.startswith(SLOT)}
        return shaped(population_shape(found, slots, form.validated_data.get("settings", {})))


class ConfigurationsView(APIView):
    @extend_schema(request=BuildSerializer, responses={201: shape(ConfigurationShape)})
    def post(self, request: Request, system: int) -> Response:
        form = BuildSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        made = changing.add_configuration(
            signed_in(request), get_object_or_404(System, pk=system), **form.validated_data
        )
        return shaped(configuration_shape(made), status=201)


class ConfigurationView(APIView):
    @extend_schema(request=BuildSerializer(partial=True), parameters=[IF_MATCH], responses=shape(ConfigurationShape))
    def patch(self, request: Request, configuration: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_SYSTEMS)
        form = edit_form(BuildSerializer(data=request.data))
        form.is_valid(raise_exception=True)
        with transaction.atomic():
            found = get_object_or_404(
                Configuration.objects.select_for_update(),
                pk=configuration,
            )
            require_match(request, found.version, plain(configuration_shape(found)))
            stored = changing.edit_configuration(user, found, form.validated_data)
        return shaped(configuration_shape(stored), headers={"ETag": entity_tag(stored.version)})

    @extend_schema(responses={204: None})
    def delete(self, request: Request, configuration: int) -> Response:
        changing.delete_configuration(signed_in(request), get_object_or_404(Configuration, pk=configuration))
        return Response(status=204)


class ConfigurationCopyView(APIView):
    @extend_schema(request=None, responses={201: shape(ConfigurationShape)})
    def post(self, request: Request, configuration: int) -> Response:
        found = get_object_or_404(Configuration, pk=configuration)
        return shaped(configuration_shape(changing.duplicate_configuration(signed_in(request), found)), status=201)


class ConfigurationArchiveView(APIView):
    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, configuration: int) -> Response:
        changing.archive_configuration(signed_in(request), get_object_or_404(Configuration, pk=configuration), True)
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, configuration: int) -> Response:
        changing.archive_configuration(signed_in(request), get_object_or_404(Configuration, pk=configuration), False)
        return Response(status=204)


class ObservationsView(APIView):
    @extend_schema(request=ObservationSerializer, responses={201: shape(ConfigurationShape)})
    def post(self, request: Request, configuration: int) -> Response:
        form = ObservationSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(Configuration, pk=configuration)
        changing.observe(signed_in(request), found, **form.validated_data)
        return shaped(configuration_shape(found), status=201)
