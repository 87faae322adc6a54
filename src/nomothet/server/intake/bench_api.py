"""What benches say to the server: hello, next pass, progress, and the upload of a pass in steps."""

import json
import uuid
from dataclasses import dataclass
from typing import Any, cast

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.parsers import BaseParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.formats.addresses import without_credentials
from nomothet.formats.output import OUTPUT
from nomothet.formats.words import OUTCOMES
from nomothet.server.docket.changeovers import note_readings
from nomothet.server.docket.commands import give_back_lost, report_progress, take
from nomothet.server.docket.models import Entry
from nomothet.server.intake.uploads import (
    BadUpload,
    announce_upload,
    append_chunk,
    finish_upload,
    received,
    start_over,
)
from nomothet.server.passes.models import Pass
from nomothet.server.problems import conflict, unusable
from nomothet.server.systems.authentication import BenchAuthentication, IsBench, bench_of
from nomothet.server.systems.commands import hear, turn_rival_away
from nomothet.server.systems.states import effective_settings
from nomothet.server.workloads.approvals import approved_program
from nomothet.server.workloads.command_rules import allowed_values

MOST_CHUNK = 8 * 1024 * 1024
MOST_WAIT_S = 25.0
MOST_INVENTORY = 64 * 1024


class SetAsideOnBenchSerializer(serializers.Serializer[Any]):
    """A pass that the server would not take, as its bench keeps it."""

    id = serializers.CharField(max_length=36)
    reason = serializers.CharField(max_length=500, allow_blank=True)
    at = serializers.CharField(max_length=40)


class ClockSerializer(serializers.Serializer[Any]):
    """What a bench shows of its clock; one of an earlier version shows nothing."""

    clock = serializers.DateTimeField(required=False)


class HelloSerializer(ClockSerializer):
    inventory = serializers.DictField()

    def validate_inventory(self, told: dict[str, Any]) -> dict[str, Any]:
        """What a machine has fits into some pages; more is a mistake of its bench."""
        if len(json.dumps(told)) > MOST_INVENTORY:
            raise serializers.ValidationError(f"An inventory may have {MOST_INVENTORY // 1024} KiB as JSON.")
        return told

    # Ids of the passes that wait in the bench's spool.
    holding = serializers.ListField(child=serializers.UUIDField(), default=list)
    set_aside = SetAsideOnBenchSerializer(many=True, default=list)
    # Which process it is; told since two processes may have been given one token.
    instance = serializers.CharField(max_length=36, allow_blank=True, default="")


class NextSerializer(ClockSerializer):
    pass_id = serializers.UUIDField()
    # What the bench reads off its machine before a pass; answers the pre-run checks that ask for it.
    readings = serializers.DictField(child=serializers.FloatField(), default=dict)
    instance = serializers.CharField(max_length=36, allow_blank=True, default="")
    # How long to wait for work where there is none; intake.waiting answers such a request.
    wait_s = serializers.FloatField(min_value=0, max_value=MOST_WAIT_S, default=0.0)


class AttemptSerializer(serializers.Serializer[Any]):
    """One attempt of a load search, as the bench keeps it."""

    load = serializers.IntegerField(min_value=0)
    holds = serializers.BooleanField()
    hot = serializers.BooleanField(default=False)
    time_to_failure_s = serializers.FloatField(allow_null=True, default=None)
    reason = serializers.CharField(max_length=300, allow_blank=True, default="")
    phase = serializers.CharField(max_length=20, allow_blank=True, default="")
    use = serializers.DictField(default=dict)


class ProgressSerializer(serializers.Serializer[Any]):
    phase = serializers.CharField(max_length=60)
    elapsed_s = serializers.FloatField(min_value=0)
    left_s = serializers.FloatField(allow_null=True)
    readings = serializers.DictField(child=serializers.FloatField(allow_null=True), default=dict)
    attempts = AttemptSerializer(many=True, required=False)


class ReportedFigureSerializer(serializers.Serializer[Any]):
    metric = serializers.CharField(max_length=60)
    unit = serializers.CharField(max_length=20, allow_blank=True)
    direction = serializers.ChoiceField(choices=["higher", "lower"])
    scale = serializers.ChoiceField(choices=["ratio", "difference"])
    value = serializers.FloatField()


class AnnouncedSeriesSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=80)
    kind = serializers.ChoiceField(choices=["frames", "sensor", OUTPUT])
    unit = serializers.CharField(max_length=20, allow_blank=True, default="")
    place = serializers.CharField(max_length=80, allow_blank=True, default="")
    source = serializers.CharField(max_length=160, allow_blank=True, default="")  # type: ignore[assignment]
    capacity = serializers.FloatField(allow_null=True, default=None)
    starts_at_s = serializers.FloatField(default=0.0)
    size = serializers.IntegerField(min_value=1, max_value=1 << 30)
    sha256 = serializers.RegexField(r"^[0-9a-f]{64}$")

    def validate_source(self, text: str) -> str:
        """A bench shows no credentials; one of an earlier version may."""
        return without_credentials(text)


class PhaseSerializer(serializers.Serializer[Any]):
    """A phase of a soak, on the clock of the pass."""

    label = serializers.CharField(max_length=60)  # type: ignore[assignment]
    start_s = serializers.FloatField(min_value=0)
    end_s = serializers.FloatField(min_value=0)


class ManifestSerializer(ClockSerializer):
    entry = serializers.IntegerField()
    outcome = serializers.ChoiceField(choices=list(OUTCOMES.items()))
    note = serializers.CharField(max_length=2000, allow_blank=True, default="")
    started_at = serializers.DateTimeField()
    duration_s = serializers.FloatField(min_value=0)
    environment = serializers.DictField(default=dict)
    owe_again = serializers.BooleanField(default=False)
    figures = ReportedFigureSerializer(many=True, default=list)
    attempts = AttemptSerializer(many=True, default=list)
    series = AnnouncedSeriesSerializer(many=True, default=list)
    phases = serializers.ListField(child=PhaseSerializer(), default=list, max_length=100)
    # Small series by name, base64 (RFC 4648, section 4); the rest comes in chunks.
    inline = serializers.DictField(child=serializers.CharField(), default=dict)


class BytesParser(BaseParser):
    """Raw bytes of a chunk."""

    media_type = "application/octet-stream"

    def parse(self, stream: Any, media_type: Any = None, parser_context: Any = None) -> Any:
        data: bytes = stream.read(MOST_CHUNK + 1)
        if len(data) > MOST_CHUNK:
            raise unusable(f"A chunk may have {MOST_CHUNK} bytes at most.")
        return data


class BenchView(APIView):
    """Endpoints for benches, which sign in with their token."""

    authentication_classes = [BenchAuthentication]
    permission_classes = [IsBench]


class HelloView(BenchView):
    @extend_schema(request=HelloSerializer, responses={200: None})
    def post(self, request: Request) -> Response:
        form = HelloSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        bench = bench_of(request)
        told = form.validated_data
        hear(bench, told["inventory"], set_aside=told["set_aside"], instance=told["instance"], clock=told.get("clock"))
        give_back_lost(bench, form.validated_data["holding"])
        return Response({"system": bench.system.name, "key": bench.system.key})


@dataclass(frozen=True)
class Waits:
    """Who would wait for work, and for how long."""

    system: int
    wait_s: float


class NextView(BenchView):
    """The next owed pass of this bench's system, or 204 when nothing is owed."""

    @extend_schema(request=NextSerializer, responses={200: None, 204: None})
    def post(self, request: Request) -> Response:
        form = NextSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        bench = bench_of(request)
        if turn_rival_away(bench, form.validated_data["instance"]):
            raise conflict(
                "Another bench speaks with the same token. Give each machine a token of its own; this one waits until "
                "the other is silent."
            )
        hear(bench, instance=form.validated_data["instance"], clock=form.validated_data.get("clock"))
        if bench.send_again:
            bench.send_again = False
            bench.save(update_fields=["send_again"])
            return Response({"send_again": True})
        if form.validated_data["readings"]:
            note_readings(bench, form.validated_data["readings"])
        entry = take(bench, form.validated_data["pass_id"])
        if entry is None:
            nothing = Response(status=204)
            nothing.waits = Waits(bench.system_id, form.validated_data["wait_s"])  # type: ignore[attr-defined]
            return nothing
        workload = entry.test.workload
        return Response(
            {
                "entry": entry.pk,
                "number": entry.number,
                "workload": {
                    "key": workload.key,
                    "version": workload.version,
                    "kind": workload.kind,
                    "runner": workload.runner,
                    "rules": workload.rules,
                    "command": workload.command or None,
                    # What may stand for each placeholder: a list, or null for any single value.
                    "allowed": allowed_values(workload) if workload.command else {},
                    "metrics": workload.metrics,
                    "program": approved_program(workload, bench.system_id) if workload.command else "",
                },
                "attempts": entry.attempts,
                "recorder": entry.recorder,
                "test": {"id": entry.test_id, "settings": entry.test.settings},
                "configuration": {
                    "name": entry.column.configuration.name,
                    "settings": effective_settings(entry.column.configuration),
                },
            }
        )


class ProgressView(BenchView):
    @extend_schema(request=ProgressSerializer, responses={200: None})
    def post(self, request: Request, entry: int) -> Response:
        form = ProgressSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(Entry.objects.select_related("column"), pk=entry)
        bench = bench_of(request)
        hear(bench)
        return Response({"stop": report_progress(bench, found, form.validated_data)})


class UploadView(BenchView):
    @extend_schema(request=ManifestSerializer, responses={200: None})
    def put(self, request: Request, pass_id: uuid.UUID) -> Response:
        form = ManifestSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        hear(bench_of(request), clock=form.validated_data.get("clock"))
        owner = announce_upload(bench_of(request), pass_id, form.validated_data)
        return Response({"whole": owner.whole_at is not None, "received": received(owner)})


class ChunkView(BenchView):
    parser_classes = [BytesParser]

    @extend_schema(
        request={"application/octet-stream": bytes},
        parameters=[OpenApiParameter("offset", int, required=True)],
        responses={200: None},
    )
    def put(self, request: Request, pass_id: uuid.UUID, name: str) -> Response:
        offset = request.query_params.get("offset", "")
        if not offset.isdigit():
            raise unusable("offset must say at which byte the chunk begins.")
        return Response(
            {"received": append_chunk(bench_of(request), pass_id, name, int(offset), cast(bytes, request.data))}
        )


class FinishView(BenchView):
    @extend_schema(request=None, responses={200: None})
    def post(self, request: Request, pass_id: uuid.UUID) -> Response:
        bench = bench_of(request)
        try:
            owner = finish_upload(bench, pass_id)
        except BadUpload as error:
            start_over(pass_id, error.name)
            upload = Pass.objects.get(pk=pass_id)
            raise conflict(str(error), received=received(upload)) from None
        return Response({"whole": owner.whole_at is not None})
