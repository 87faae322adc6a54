"""A pasted table: how it is understood, row by row and column by column, before any of it is stored."""

from dataclasses import dataclass
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.readings import READING_METHODS
from nomothet.formats.pasted import Correction, Line, Says
from nomothet.server.intake.record_api import LookedShape, looked_shape
from nomothet.server.intake.typing_in.pasting import Anchor, Placed, Way, read_pasted
from nomothet.server.people.permissions import Act
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped

_MOST_TEXT = 400_000


class AnchorSerializer(serializers.Serializer[Any]):
    test = serializers.IntegerField()
    metric = serializers.CharField(max_length=120)
    column = serializers.IntegerField()


class SaysSerializer(serializers.Serializer[Any]):
    test = serializers.IntegerField(allow_null=True, default=None)
    configuration = serializers.IntegerField(allow_null=True, default=None)
    metric = serializers.CharField(max_length=120, allow_null=True, default=None)
    run = serializers.IntegerField(allow_null=True, default=None, min_value=1, max_value=999)
    unit = serializers.CharField(max_length=12, allow_blank=True, default="")
    skip = serializers.BooleanField(default=False)


class CorrectionOfLineSerializer(serializers.Serializer[Any]):
    axis = serializers.ChoiceField(choices=("row", "column"))
    label = serializers.CharField(max_length=2000, allow_blank=True)  # type: ignore[assignment]
    block = serializers.IntegerField(min_value=0)
    at = serializers.IntegerField(min_value=0)
    says = SaysSerializer()


class WaySerializer(serializers.Serializer[Any]):
    # "" is for every metric that is not named.
    metric = serializers.CharField(max_length=120, allow_blank=True)
    method = serializers.ChoiceField(choices=READING_METHODS)
    half_width = serializers.FloatField(allow_null=True, default=None, min_value=0, max_value=1e9)


class PastedTableSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(max_length=_MOST_TEXT, trim_whitespace=False)
    at = AnchorSerializer(required=False, allow_null=True, default=None)
    corrections = CorrectionOfLineSerializer(many=True, required=False)
    ways = WaySerializer(many=True, required=False)


@dataclass(frozen=True)
class PastedLine:
    """A row or a column with what it is of; each null where it does not tell."""

    label: str
    unknown: bool
    test: int | None
    configuration: int | None
    metric: str | None
    run: int | None
    unit: str
    skip: bool


@dataclass(frozen=True)
class PastedBlock:
    title: str
    rows: list[PastedLine]
    columns: list[PastedLine]


@dataclass(frozen=True)
class PastedValue:
    """A value with its place in the table; without `looked` it has none in the matrix, and `problem` says why."""

    block: int
    row: int
    column: int
    text: str
    run: int | None
    problem: str
    looked: LookedShape | None


@dataclass(frozen=True)
class PastedTableShape:
    blocks: list[PastedBlock]
    values: list[PastedValue]


def _line(line: Line) -> PastedLine:
    says = line.says
    return PastedLine(
        line.label, line.unknown, says.test, says.configuration, says.metric, says.run, says.unit, says.skip
    )


def _value(one: Placed) -> PastedValue:
    run = one.typed.run if one.typed else None
    looked = looked_shape(one.looked) if one.looked else None
    return PastedValue(one.block, one.row, one.column, one.text, run, one.problem, looked)


class PastedView(APIView):
    needs = {"POST": Act.RECORD}

    @extend_schema(request=PastedTableSerializer, responses=shape(PastedTableShape))
    def post(self, request: Request, review: int) -> Response:
        form = PastedTableSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = form.validated_data
        corrections = [Correction(**{**one, "says": Says(**one["says"])}) for one in given.get("corrections", [])]
        pasted = read_pasted(
            get_object_or_404(Review, pk=review),
            given["text"],
            Anchor(**given["at"]) if given["at"] else None,
            corrections,
            {one["metric"]: Way(one["method"], one["half_width"]) for one in given.get("ways", [])},
        )
        blocks = [
            PastedBlock(block.title, [_line(one) for one in block.rows], [_line(one) for one in block.columns])
            for block in pasted.blocks
        ]
        return shaped(PastedTableShape(blocks, [_value(one) for one in pasted.values]))
