"""Parts, prices and what is known about them."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.parts import KINDS, SOURCES
from nomothet.server.edits import edit_form
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.shapes import plain, shape, shaped
from nomothet.server.shelf import commands, exchange
from nomothet.server.shelf.models import Part, Price
from nomothet.server.shelf.pasted import PastedPartsShape, look_at_parts, store_parts
from nomothet.server.shelf.queries import PartShape, part_shape, parts
from nomothet.server.versions import IF_MATCH, entity_tag, require_match


@dataclass(frozen=True)
class ImportedShape:
    """How many objects an import has added, brought up to date, and found the same."""

    added: int
    updated: int
    unchanged: int


class AttributeSerializer(serializers.Serializer[Any]):
    key = serializers.CharField(max_length=60)
    value = serializers.JSONField(allow_null=True)
    source = serializers.CharField(max_length=10)  # type: ignore[assignment]
    unit = serializers.CharField(required=False, allow_blank=True, max_length=20)
    label = serializers.CharField(required=False, allow_blank=True, max_length=60)  # type: ignore[assignment]


class PartSerializer(serializers.ModelSerializer[Part]):
    attributes = AttributeSerializer(many=True, required=False)

    class Meta:
        model = Part
        fields = ("kind", "name", "attributes", "origin", "origin_note", "note")
        # The command says in words when a name is taken.
        validators: list[Any] = []


class PriceSerializer(serializers.ModelSerializer[Price]):
    euro_rate = serializers.DecimalField(max_digits=14, decimal_places=6, required=False, min_value=Decimal("0.000001"))
    currency = serializers.RegexField(
        "^[A-Z]{3}$", error_messages={"invalid": "A currency is three capital letters, such as EUR."}
    )

    class Meta:
        model = Price
        fields = ("amount", "currency", "on", "basis", "euro_rate", "note")

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        currency, rate = attrs["currency"], attrs.get("euro_rate")
        if currency != "EUR" and rate is None:
            raise serializers.ValidationError({"euro_rate": f"Say how many EUR one {currency} was on that day."})
        if currency == "EUR" and rate not in (None, 1):
            raise serializers.ValidationError({"euro_rate": "A price in EUR needs no rate."})
        return attrs


class ImportSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(max_length=5_000_000, trim_whitespace=False)


class PastedPartsSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(choices=list(KINDS))
    text = serializers.CharField(max_length=100_000, trim_whitespace=False)
    source = serializers.ChoiceField(choices=SOURCES, default="unknown")  # type: ignore[assignment]
    store = serializers.BooleanField(default=False)


class PastedPartsView(APIView):
    """Several parts of one kind from a table; without `store` it only says which they would be."""

    @extend_schema(request=PastedPartsSerializer, responses=shape(PastedPartsShape))
    def post(self, request: Request) -> Response:
        form = PastedPartsSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = dict(form.validated_data)
        if given.pop("store"):
            return shaped(store_parts(signed_in(request), **given))
        require(signed_in(request), Act.EDIT_SHELF)
        return shaped(look_at_parts(**given))


class PartsView(APIView):
    @extend_schema(
        responses=shape(PartShape, many=True),
        parameters=[OpenApiParameter("archived", bool, description="Archived ones too.")],
    )
    def get(self, request: Request) -> Response:
        return shaped(parts(archived=request.query_params.get("archived") in ("true", "1")))

    @extend_schema(request=PartSerializer, responses={201: shape(PartShape)})
    def post(self, request: Request) -> Response:
        form = PartSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        return shaped(part_shape(commands.add_part(signed_in(request), **form.validated_data)), status=201)


class PartView(APIView):
    @extend_schema(responses=shape(PartShape))
    def get(self, request: Request, part: int) -> Response:
        found = get_object_or_404(Part, pk=part)
        return shaped(part_shape(found), headers={"ETag": entity_tag(found.version)})

    @extend_schema(request=PartSerializer(partial=True), parameters=[IF_MATCH], responses=shape(PartShape))
    def patch(self, request: Request, part: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_SHELF)
        form = edit_form(PartSerializer(data=request.data))
        form.is_valid(raise_exception=True)
        with transaction.atomic():
            found = get_object_or_404(Part.objects.select_for_update(), pk=part)
            require_match(request, found.version, plain(part_shape(found)))
            commands.edit_part(user, found, form.validated_data)
        return shaped(part_shape(found), headers={"ETag": entity_tag(found.version)})

    @extend_schema(responses={204: None})
    def delete(self, request: Request, part: int) -> Response:
        commands.delete_part(signed_in(request), get_object_or_404(Part, pk=part))
        return Response(status=204)


class PartCopyView(APIView):
    @extend_schema(request=None, responses={201: shape(PartShape)})
    def post(self, request: Request, part: int) -> Response:
        return shaped(
            part_shape(commands.duplicate_part(signed_in(request), get_object_or_404(Part, pk=part))), status=201
        )


class PartArchiveView(APIView):
    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, part: int) -> Response:
        commands.archive_part(signed_in(request), get_object_or_404(Part, pk=part), True)
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, part: int) -> Response:
        commands.archive_part(signed_in(request), get_object_or_404(Part, pk=part), False)
        return Response(status=204)


class PricesView(APIView):
    needs = {"POST": Act.EDIT_SHELF}

    @extend_schema(request=PriceSerializer, responses={201: shape(PartShape)})
    def post(self, request: Request, part: int) -> Response:
        form = PriceSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(Part, pk=part)
        commands.add_price(signed_in(request), found, **form.validated_data)
        return shaped(part_shape(found), status=201)


class PriceView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, price: int) -> Response:
        commands.remove_price(signed_in(request), get_object_or_404(Price, pk=price))
        return Response(status=204)


class PartsFileView(APIView):
    @extend_schema(responses={(200, "text/csv"): str, (200, "application/json"): OpenApiTypes.ANY})
    def get(self, request: Request, form: str) -> HttpResponse | StreamingHttpResponse | Response:
        name = {"Content-Disposition": f'attachment; filename="shelf.{form}"'}
        if form == "json":
            return Response(exchange.as_json(), headers=name)
        return StreamingHttpResponse(exchange.csv_lines(), content_type="text/csv; charset=utf-8", headers=name)


class PartsImportView(APIView):
    @extend_schema(request=ImportSerializer, responses=shape(ImportedShape))
    def post(self, request: Request) -> Response:
        form = ImportSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        return shaped(ImportedShape(**exchange.import_parts(signed_in(request), form.validated_data["text"])))
