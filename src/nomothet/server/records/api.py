"""Publishing, and the public pages' data, which need no sign-in."""

import uuid
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import msgspec
from django.http import FileResponse, Http404, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.evidence.api import capture_response, trace_of
from nomothet.server.evidence.trace import TraceFrame, TraceShape
from nomothet.server.passes.models import Picture, Series
from nomothet.server.people.permissions import signed_in
from nomothet.server.problems import Problem
from nomothet.server.records.commands import publish, withdraw
from nomothet.server.records.content import RecordContent
from nomothet.server.records.earlier import readable
from nomothet.server.records.models import Record
from nomothet.server.records.raw_files import RawChoice, RawFiles, choices
from nomothet.server.responses import csv_response
from nomothet.server.reviews.models import Review
from nomothet.server.reviews.queries import RecordShape
from nomothet.server.shapes import shape, shaped

# Parts of a record's content that are downloaded and not shown.
_FILES = ("figures_csv", "comparisons_csv")


class PublishSerializer(serializers.Serializer[Any]):
    change_note = serializers.CharField(max_length=300, allow_blank=True, default="")
    # Made by who asks, so that a request that is sent twice publishes once.
    request = serializers.UUIDField(required=False)
    # Names of sensors whose captures stay inside, and whether original files go out.
    without_sensors = serializers.ListField(child=serializers.CharField(max_length=80), max_length=500, default=list)
    with_files = serializers.BooleanField(default=False)


@dataclass(frozen=True)
class EditionShape:
    """A record: its content and the other editions of the same review."""

    slug: str
    edition: int
    published_at: datetime
    change_note: str
    content: RecordContent
    editions: list[RecordShape]


def _record_shape(record: Record) -> RecordShape:
    return RecordShape(
        record.slug,
        record.edition,
        record.published_at,
        record.publisher,
        record.change_note,
        record.withdrawn_why,
    )


class PublishView(APIView):
    @extend_schema(request=PublishSerializer, responses={201: shape(RecordShape)})
    def post(self, request: Request, review: int) -> Response:
        form = PublishSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = form.validated_data
        raw = RawFiles(frozenset(given["without_sensors"]), given["with_files"])
        found = get_object_or_404(Review, pk=review)
        record = publish(signed_in(request), found, given["change_note"], given.get("request"), raw)
        return shaped(_record_shape(record), 201)


class RawFilesView(APIView):
    """What raw captures a record of the review could hold, to choose from before publishing."""

    @extend_schema(responses=shape(RawChoice, many=True))
    def get(self, request: Request, review: int) -> Response:
        return shaped(choices(get_object_or_404(Review, pk=review)))


def standing(slug: str) -> Record:
    """A record that is not withdrawn.

    Raises
    ------
    Problem
        410, with why it was withdrawn.
    """
    record = get_object_or_404(Record, slug=slug)
    if record.withdrawn_at is not None:
        raise Problem(410, "Withdrawn", f"This record was withdrawn: {record.withdrawn_why}")
    return record


class WithdrawSerializer(serializers.Serializer[Any]):
    why = serializers.CharField(max_length=400)


class WithdrawView(APIView):
    @extend_schema(request=WithdrawSerializer, responses=shape(RecordShape))
    def put(self, request: Request, slug: str) -> Response:
        form = WithdrawSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(Record, slug=slug)
        return shaped(_record_shape(withdraw(signed_in(request), found, form.validated_data["why"])))


class PublicView(APIView):
    """Reading without sign-in; no session is looked at."""

    authentication_classes = []
    permission_classes = [AllowAny]


class RecordView(PublicView):
    @extend_schema(responses=shape(EditionShape))
    def get(self, request: Request, slug: str) -> Response:
        record = standing(slug)
        editions = Record.objects.filter(review=record.review_id).defer("content")
        content = {name: value for name, value in readable(record.content).items() if name not in _FILES}
        return shaped(
            {
                "slug": record.slug,
                "edition": record.edition,
                "published_at": record.published_at,
                "change_note": record.change_note,
                "content": content,
                "editions": [_record_shape(edition) for edition in editions],
            }
        )


class RecordFiguresView(PublicView):
    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, slug: str) -> StreamingHttpResponse:
        record = standing(slug)
        return csv_response([record.content["figures_csv"]], f"{slug}-figures")


class RecordComparisonsView(PublicView):
    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, slug: str) -> StreamingHttpResponse:
        record = standing(slug)
        return csv_response([record.content.get("comparisons_csv", "")], f"{slug}-comparisons")


class RecordPictureView(PublicView):
    @extend_schema(responses={(200, "image/*"): OpenApiTypes.BINARY})
    def get(self, request: Request, slug: str, picture: int) -> HttpResponse:
        record = standing(slug)
        shown = {one["id"] for owner in record.content["passes"] for one in owner.get("pictures", [])}
        if picture not in shown:
            raise Http404
        found = get_object_or_404(Picture, pk=picture, owner__in=record.passes.all())
        small = "small" in request.query_params
        kind = "image/jpeg" if small else found.media_type
        return HttpResponse(bytes(found.thumbnail if small else found.blob), content_type=kind)


class RecordTraceView(PublicView):
    @extend_schema(responses=shape(TraceShape))
    def get(self, request: Request, slug: str, pass_id: uuid.UUID) -> Response:
        record = standing(slug)
        owner = get_object_or_404(record.passes.select_related("test"), pk=pass_id)
        published: dict[str, Any] = next((one for one in record.content["passes"] if one["id"] == str(pass_id)), {})
        kept = published.get("frame")
        captures = published.get("captures")
        only = None if captures is None else {capture["id"] for capture in captures}
        return trace_of(request, owner, msgspec.convert(kept, TraceFrame) if kept else None, only)


class RecordCaptureView(PublicView):
    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request, slug: str, series: int) -> FileResponse | HttpResponse | StreamingHttpResponse:
        record = standing(slug)
        # What a program has written, and what was left out, stays inside, whoever guesses its number.
        if series not in {one["id"] for owner in record.content["passes"] for one in owner.get("captures", [])}:
            raise Http404
        return capture_response(get_object_or_404(Series, pk=series, owner__in=record.passes.all()))
