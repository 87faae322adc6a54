"""Bringing files in."""

import uuid
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.parsers import JSONParser, MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.formats.column_maps import ROLES
from nomothet.server.imports import commands
from nomothet.server.imports.jobs import is_wanted
from nomothet.server.imports.models import ImportJob
from nomothet.server.passes.models import ColumnMap
from nomothet.server.people.permissions import Act, signed_in
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped


@dataclass(frozen=True)
class ImportColumn:
    """A column of a file: what it is taken for and why, its bounds, and its shape as a few hundred points."""

    column: str
    role: str
    name: str
    unit: str
    why: str
    low: float | None
    high: float | None
    picture: list[float | None]


@dataclass(frozen=True)
class ImportItem:
    """A file: where it goes, and what is told of it; `problem` when it is no recording, `refusal` when it cannot be
    read with the columns as chosen."""

    name: str
    size: int
    columns: list[ImportColumn]
    test: int | None
    column: int | None
    problem: str
    remarks: list[str]
    state: str
    pass_id: str | None
    every_s: float | None = None
    refusal: str = ""


@dataclass(frozen=True)
class ImportShape:
    """An import with its files; `done` of `wanted` are stored or have failed."""

    id: str
    name: str
    state: str
    wanted: int
    done: int
    at: datetime
    items: list[ImportItem]


@dataclass(frozen=True)
class ColumnMapShape:
    id: int
    name: str
    columns: list[dict[str, Any]]


class UploadSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(allow_empty_file=True)


class UseSerializer(serializers.Serializer[Any]):
    column = serializers.CharField(max_length=300, trim_whitespace=False)
    role = serializers.ChoiceField(choices=ROLES)
    name = serializers.CharField(max_length=80, allow_blank=True, default="")
    unit = serializers.CharField(max_length=20, allow_blank=True, default="")


class ChoiceSerializer(serializers.Serializer[Any]):
    index = serializers.IntegerField(min_value=0)
    test = serializers.IntegerField(allow_null=True)
    column = serializers.IntegerField(allow_null=True)
    columns = UseSerializer(many=True, required=False, allow_null=True)
    every_s = serializers.FloatField(min_value=1e-4, max_value=86_400, required=False, allow_null=True)


class ChoicesSerializer(serializers.Serializer[Any]):
    items = serializers.ListField(child=ChoiceSerializer(), max_length=500)


class ColumnMapSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=80)
    columns = serializers.ListField(child=UseSerializer(), min_length=1, max_length=400)
    every_s = serializers.FloatField(min_value=1e-4, max_value=86_400, required=False, allow_null=True)


def _shape(job: ImportJob) -> ImportShape:
    wanted = [item for item in job.items if is_wanted(item) or item["state"] != "waiting"]
    return ImportShape(
        id=str(job.pk),
        name=job.name,
        state=job.state,
        wanted=len(wanted),
        done=sum(item["state"] != "waiting" for item in wanted),
        at=job.at,
        items=[
            ImportItem(**{**item, "columns": [ImportColumn(**column) for column in item["columns"]]})
            for item in job.items
        ],
    )


class ImportView(APIView):
    """PUT brings a file or an archive in, to be looked at; nothing becomes a pass yet."""

    needs = {"PUT": Act.IMPORT_PASSES, "PATCH": Act.IMPORT_PASSES}

    parser_classes = [MultiPartParser, JSONParser]

    @extend_schema(request={"multipart/form-data": UploadSerializer}, responses={201: shape(ImportShape)})
    def put(self, request: Request, review: int, job: uuid.UUID) -> Response:
        user = signed_in(request)
        form = UploadSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        file = form.validated_data["file"]
        made = commands.receive(user, get_object_or_404(Review, pk=review), job, file.name, file.file)
        return shaped(_shape(made), status=201)

    @extend_schema(responses=shape(ImportShape))
    def get(self, request: Request, review: int, job: uuid.UUID) -> Response:
        return shaped(_shape(get_object_or_404(ImportJob, pk=job, review=review)))

    @extend_schema(request=ChoicesSerializer, responses=shape(ImportShape))
    def patch(self, request: Request, review: int, job: uuid.UUID) -> Response:
        form = ChoicesSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(ImportJob.objects.select_related("review"), pk=job, review=review)
        return shaped(_shape(commands.choose(signed_in(request), found, form.validated_data["items"])))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, review: int, job: uuid.UUID) -> Response:
        commands.cancel(signed_in(request), get_object_or_404(ImportJob, pk=job, review=review))
        return Response(status=204)


class ImportStartView(APIView):
    @extend_schema(request=None, responses={202: shape(ImportShape)})
    def post(self, request: Request, review: int, job: uuid.UUID) -> Response:
        found = get_object_or_404(ImportJob, pk=job, review=review)
        return shaped(_shape(commands.start(signed_in(request), found)), status=202)


class ColumnMapsView(APIView):
    @extend_schema(responses=shape(ColumnMapShape, many=True))
    def get(self, request: Request) -> Response:
        return shaped([ColumnMapShape(one.pk, one.name, one.content["columns"]) for one in ColumnMap.objects.all()])

    @extend_schema(request=ColumnMapSerializer, responses={201: shape(ColumnMapShape)})
    def post(self, request: Request) -> Response:
        form = ColumnMapSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        wanted = form.validated_data
        kept = commands.keep_map(signed_in(request), wanted["name"], wanted["columns"], wanted.get("every_s"))
        return shaped(ColumnMapShape(kept.pk, kept.name, kept.content["columns"]), status=201)
