"""The catalogue of workloads, and trying out reading rules."""

from dataclasses import dataclass
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

from nomothet.formats.reading_rules import MOST_SAMPLE, Match, Rule, apply_rule
from nomothet.server.edits import edit_form
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.shapes import plain, shape, shaped
from nomothet.server.shelf.api import ImportedShape, ImportSerializer
from nomothet.server.systems.models import System
from nomothet.server.versions import IF_MATCH, entity_tag, require_match
from nomothet.server.workloads import commands, exchange
from nomothet.server.workloads.forms import RuleSerializer, WorkloadSerializer
from nomothet.server.workloads.models import Workload
from nomothet.server.workloads.queries import WorkloadShape, workload_shape, workloads


@dataclass(frozen=True)
class TriedShape:
    """What a rule has found in a sample; places are those of the sample as it was sent."""

    matches: list[Match]


class TrySerializer(serializers.Serializer[Any]):
    rule = RuleSerializer()
    sample = serializers.CharField(max_length=MOST_SAMPLE, trim_whitespace=False)


class EditionSerializer(serializers.Serializer[Any]):
    version = serializers.CharField(max_length=40)


class WorkloadsView(APIView):
    @extend_schema(responses=shape(WorkloadShape, many=True), parameters=[OpenApiParameter("archived", bool)])
    def get(self, request: Request) -> Response:
        return shaped(workloads(archived=request.query_params.get("archived") in ("true", "1")))

    @extend_schema(request=WorkloadSerializer, responses={201: shape(WorkloadShape)})
    def post(self, request: Request) -> Response:
        form = WorkloadSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        made = commands.add_workload(signed_in(request), **form.validated_data)
        return shaped(workload_shape(made), status=201)


class WorkloadView(APIView):
    @extend_schema(request=WorkloadSerializer(partial=True), parameters=[IF_MATCH], responses=shape(WorkloadShape))
    def patch(self, request: Request, workload: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_WORKLOADS)
        form = edit_form(WorkloadSerializer(data=request.data))
        form.is_valid(raise_exception=True)
        with transaction.atomic():
            found = get_object_or_404(Workload.objects.select_for_update(), pk=workload)
            require_match(request, found.edit, plain(workload_shape(found)))
            commands.edit_workload(user, found, form.validated_data)
        return shaped(workload_shape(found), headers={"ETag": entity_tag(found.edit)})

    @extend_schema(responses={204: None})
    def delete(self, request: Request, workload: int) -> Response:
        commands.delete_workload(signed_in(request), get_object_or_404(Workload, pk=workload))
        return Response(status=204)


class EditionsView(APIView):
    @extend_schema(request=EditionSerializer, responses={201: shape(WorkloadShape)})
    def post(self, request: Request, workload: int) -> Response:
        form = EditionSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(Workload, pk=workload)
        return shaped(
            workload_shape(commands.add_edition(signed_in(request), found, **form.validated_data)), status=201
        )


class WorkloadArchiveView(APIView):
    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, workload: int) -> Response:
        commands.archive_workload(signed_in(request), get_object_or_404(Workload, pk=workload), True)
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, workload: int) -> Response:
        commands.archive_workload(signed_in(request), get_object_or_404(Workload, pk=workload), False)
        return Response(status=204)


class ApprovalView(APIView):
    """PUT lets the workload's command run on a system, as it is now; DELETE takes that back."""

    @extend_schema(request=None, responses=shape(WorkloadShape))
    def put(self, request: Request, workload: int, system: int) -> Response:
        found = get_object_or_404(Workload, pk=workload)
        commands.approve(signed_in(request), found, get_object_or_404(System, pk=system))
        return shaped(workload_shape(found))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, workload: int, system: int) -> Response:
        found = get_object_or_404(Workload, pk=workload)
        commands.withdraw_approval(signed_in(request), found, get_object_or_404(System, pk=system))
        return Response(status=204)


class TryRuleView(APIView):
    """Try a reading rule on a pasted sample; nothing is stored. For those who write rules."""

    @extend_schema(request=TrySerializer, responses=shape(TriedShape))
    def post(self, request: Request) -> Response:
        require(signed_in(request), Act.EDIT_WORKLOADS)
        form = TrySerializer(data=request.data)
        form.is_valid(raise_exception=True)
        rule = form.validated_data["rule"]
        found = apply_rule(
            Rule(rule["kind"], rule["expression"], rule.get("metric", "")), form.validated_data["sample"]
        )
        return shaped(TriedShape(found))


class WorkloadsFileView(APIView):
    @extend_schema(responses={(200, "text/csv"): str, (200, "application/json"): OpenApiTypes.ANY})
    def get(self, request: Request, form: str) -> HttpResponse | StreamingHttpResponse | Response:
        name = {"Content-Disposition": f'attachment; filename="workloads.{form}"'}
        if form == "json":
            return Response(exchange.as_json(), headers=name)
        return StreamingHttpResponse(exchange.csv_lines(), content_type="text/csv; charset=utf-8", headers=name)


class WorkloadsImportView(APIView):
    @extend_schema(request=ImportSerializer, responses=shape(ImportedShape))
    def post(self, request: Request) -> Response:
        form = ImportSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        counts = exchange.import_workloads(signed_in(request), form.validated_data["text"])
        return shaped(ImportedShape(**counts))
