"""What testers record by hand: typed figures, marks, impressions and pictures."""

import uuid
from dataclasses import dataclass
from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.readings import READING_METHODS
from nomothet.formats.words import GRADES
from nomothet.server.docket.models import Entry
from nomothet.server.intake import marking, typing_in
from nomothet.server.intake.reading_again import ReadAgainShape, read_again
from nomothet.server.intake.typing_in.looking import MOST_CELLS
from nomothet.server.passes import pictures
from nomothet.server.passes.marks import marks_of
from nomothet.server.passes.models import Mark, Pass, Picture
from nomothet.server.people.permissions import Act, signed_in
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import plain_key, typable
from nomothet.server.shapes import shape, shaped


class TypedCellSerializer(serializers.Serializer[Any]):
    test = serializers.IntegerField()
    column = serializers.IntegerField()
    metric = serializers.CharField(max_length=80)
    text = serializers.CharField(max_length=2000, trim_whitespace=True)
    method = serializers.ChoiceField(choices=READING_METHODS, required=False, allow_blank=True, default="")
    half_width = serializers.FloatField(required=False, allow_null=True, default=None, min_value=0, max_value=1e9)
    # The number of the pass that it belongs to; left out, it goes onto the first pass that has no such figure.
    onto = serializers.IntegerField(required=False, allow_null=True, default=None, min_value=1)
    # The run of a pasted table that it belongs to.
    run = serializers.IntegerField(required=False, allow_null=True, default=None, min_value=1)


class TypedSerializer(serializers.Serializer[Any]):
    cells = serializers.ListField(child=TypedCellSerializer(), min_length=1, max_length=MOST_CELLS)
    # Who ran it, where that is not who types, and who helped or ran it elsewhere.
    ran_by = serializers.CharField(max_length=120, allow_blank=True, required=False, default="")
    helped_by = serializers.CharField(max_length=200, allow_blank=True, required=False, default="")


class CorrectionSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(max_length=200)
    reason = serializers.CharField(max_length=250)


class MethodSerializer(serializers.Serializer[Any]):
    method = serializers.ChoiceField(choices=READING_METHODS)
    half_width = serializers.FloatField(allow_null=True, default=None, min_value=0, max_value=1e9)
    # For all rows of the review that show this metric and were not told otherwise.
    everywhere = serializers.BooleanField(required=False, default=False)


class MarkSerializer(serializers.Serializer[Any]):
    label = serializers.CharField(max_length=60)  # type: ignore[assignment]
    words = serializers.CharField(max_length=300, allow_blank=True, default="")
    grade = serializers.IntegerField(min_value=0, max_value=len(GRADES) - 1, allow_null=True, default=None)
    start_s = serializers.FloatField(min_value=0, max_value=1e7, allow_null=True, default=None)
    end_s = serializers.FloatField(min_value=0, max_value=1e7, allow_null=True, default=None)


class PictureSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(allow_empty_file=True)
    caption = serializers.CharField(max_length=200, allow_blank=True, default="")
    at_s = serializers.FloatField(min_value=0, max_value=1e7, allow_null=True, default=None, required=False)


@dataclass(frozen=True)
class LandingShape:
    """One reading and where it goes; `value` is in the row's unit."""

    value: float | None
    half_width: float | None
    bound: str
    outcome: str
    missing: str
    number: int
    new: bool
    # Whether it is a pass that was owed.
    settles: bool
    warnings: list[str]
    reason: str
    action: str
    fallback: str


@dataclass(frozen=True)
class LookedShape:
    test: int
    column: int
    metric: str
    text: str
    unit: str
    method: str
    half_width: float | None
    asks_method: bool
    error: str
    landings: list[LandingShape]


@dataclass(frozen=True)
class MarkShape:
    id: int
    label: str
    words: str
    grade: int | None
    start_s: float
    end_s: float | None
    by: str


def mark_shape(mark: Mark) -> MarkShape:
    by = mark.by.display_name if mark.by else ""
    return MarkShape(mark.pk, mark.label, mark.words, mark.grade, mark.start_s, mark.end_s, by)


def looked_shape(one: typing_in.Looked) -> LookedShape:
    return LookedShape(
        one.typed.test,
        one.typed.column,
        one.typed.metric,
        one.typed.text,
        one.unit,
        one.typed.method,
        one.typed.half_width,
        one.asks_method,
        one.error,
        [
            LandingShape(
                landing.reading.value,
                landing.reading.half_width,
                landing.reading.bound,
                landing.reading.outcome,
                landing.reading.missing,
                landing.number,
                landing.new,
                landing.settles is not None,
                landing.warnings,
                landing.reading.reason,
                landing.reading.action,
                landing.reading.fallback,
            )
            for landing in one.landings
        ],
    )


class TypedLookView(APIView):
    """What typed text would become; nothing is stored."""

    needs = {"POST": Act.RECORD}

    @extend_schema(request=TypedSerializer, responses=shape(LookedShape, many=True))
    def post(self, request: Request, review: int) -> Response:
        form = TypedSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(Review, pk=review)
        return shaped(
            [looked_shape(one) for one in typing_in.look(found, typing_in.typed_of(form.validated_data["cells"]))]
        )


class TypedView(APIView):
    """Store typed figures under an id that the client made; DELETE undoes them."""

    for_scripts = True

    @extend_schema(request=TypedSerializer, responses={201: shape(LookedShape, many=True)})
    def put(self, request: Request, review: int, batch: uuid.UUID) -> Response:
        form = TypedSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(Review, pk=review)
        hands = typing_in.Hands(form.validated_data["ran_by"].strip(), form.validated_data["helped_by"].strip())
        cells = typing_in.typed_of(form.validated_data["cells"])
        stored = typing_in.store(signed_in(request), found, batch, cells, hands)
        return shaped([looked_shape(one) for one in stored], status=201)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, review: int, batch: uuid.UUID) -> Response:
        typing_in.take_back_batch(signed_in(request), get_object_or_404(Review, pk=review), batch)
        return Response(status=204)


class ReadingMethodView(APIView):
    """How the readings of a row are taken; asked once and remembered."""

    @extend_schema(request=MethodSerializer, responses={204: None})
    def put(self, request: Request, review: int, test: int, metric: str) -> Response:
        form = MethodSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(Test, pk=test, review=review)
        if metric not in typable(found):
            raise unusable(f"This test does not show {metric}.")
        typing_in.remember_method(signed_in(request), found, plain_key(metric), **form.validated_data)
        return Response(status=204)


class CorrectionView(APIView):
    """Put a typed figure right, with a reason."""

    @extend_schema(request=CorrectionSerializer, responses={204: None})
    def put(self, request: Request, pass_id: uuid.UUID, metric: str) -> Response:
        form = CorrectionSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        owner = get_object_or_404(Pass.objects.select_related("test"), pk=pass_id)
        typing_in.correct(signed_in(request), owner, metric, form.validated_data["text"], form.validated_data["reason"])
        return Response(status=204)


class ReadAgainView(APIView):
    """Read the kept output of a pass by the reading rules of today."""

    @extend_schema(request=None, responses=shape(ReadAgainShape))
    def post(self, request: Request, pass_id: uuid.UUID) -> Response:
        return shaped(read_again(signed_in(request), pass_id))


class RunningMarksView(APIView):
    """Marks of a running pass."""

    @extend_schema(responses=shape(MarkShape, many=True))
    def get(self, request: Request, entry: int) -> Response:
        found = get_object_or_404(Entry, pk=entry)
        held = marks_of([found.pass_id]) if found.pass_id else {}
        return shaped([mark_shape(mark) for mark in held.get(str(found.pass_id), [])])

    @extend_schema(request=MarkSerializer, responses={201: shape(MarkShape)})
    def post(self, request: Request, entry: int) -> Response:
        form = MarkSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = get_object_or_404(Entry.objects.select_related("test"), pk=entry)
        return shaped(mark_shape(marking.mark_running(signed_in(request), found, **form.validated_data)), status=201)


class PassMarksView(APIView):
    @extend_schema(request=MarkSerializer, responses={201: shape(MarkShape)})
    def post(self, request: Request, pass_id: uuid.UUID) -> Response:
        form = MarkSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        owner = get_object_or_404(Pass.objects.select_related("test"), pk=pass_id)
        return shaped(mark_shape(marking.mark_pass(signed_in(request), owner, **form.validated_data)), status=201)


class MarkView(APIView):
    """POST ends a span of a running pass now; DELETE takes the mark off."""

    @extend_schema(request=None, responses=shape(MarkShape))
    def post(self, request: Request, mark: int) -> Response:
        return shaped(mark_shape(marking.end_span(signed_in(request), get_object_or_404(Mark, pk=mark))))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, mark: int) -> Response:
        found = get_object_or_404(Mark.objects.select_related("owner__test"), pk=mark)
        marking.take_off(signed_in(request), found)
        return Response(status=204)


class MarkBackView(APIView):
    """Put a mark back that was taken off."""

    needs = {"PUT": Act.RECORD}

    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, mark: int) -> Response:
        found = get_object_or_404(Mark.every.select_related("owner__test").exclude(off_at=None), pk=mark)
        marking.put_back(signed_in(request), found)
        return Response(status=204)


class PictureBackView(APIView):
    """Put a picture back that was taken off."""

    needs = {"PUT": Act.RECORD}

    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, picture: int) -> Response:
        off = Picture.every.select_related("owner__test").defer("blob", "thumbnail").exclude(off_at=None)
        pictures.put_picture_back(signed_in(request), get_object_or_404(off, pk=picture))
        return Response(status=204)


class PicturesView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(request=PictureSerializer, responses={201: None})
    def post(self, request: Request, pass_id: uuid.UUID) -> Response:
        form = PictureSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = form.validated_data
        owner = get_object_or_404(Pass.objects.select_related("test"), pk=pass_id)
        kept = pictures.add_picture(
            signed_in(request), owner, given["file"].file, caption=given["caption"], at_s=given.get("at_s")
        )
        return Response({"id": kept.pk}, status=201)


class PictureView(APIView):
    """A picture, or its small copy with `?small`."""

    @extend_schema(responses={(200, "image/*"): OpenApiTypes.BINARY})
    def get(self, request: Request, picture: int) -> HttpResponse:
        small = "small" in request.query_params
        field = "thumbnail" if small else "blob"
        found = get_object_or_404(Picture.objects.only("media_type", field), pk=picture)
        media = "image/jpeg" if small else found.media_type
        response = HttpResponse(bytes(getattr(found, field)), content_type=media)
        # A picture never changes; only signed-in people may keep it.
        response.headers["Cache-Control"] = "private, max-age=31536000, immutable"
        return response

    @extend_schema(responses={204: None})
    def delete(self, request: Request, picture: int) -> Response:
        found = get_object_or_404(Picture.objects.select_related("owner__test").defer("blob", "thumbnail"), pk=picture)
        pictures.take_picture_off(signed_in(request), found)
        return Response(status=204)
