"""Ranges set aside, hypotheses, looks at flags, trust, pairs and what recording costs."""

import uuid
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.formats.words import DOUBTS
from nomothet.server.analysis import commands, hypotheses, pairs, recorder, sensor_doubts, trust
from nomothet.server.analysis.models import AsideRange, Hypothesis, Pair, PairKind, SensorDoubt, Status
from nomothet.server.passes.models import Pass
from nomothet.server.people.permissions import Act, signed_in
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.shapes import shape, shaped
from nomothet.server.versions import IF_MATCH, entity_tag, require_match
from nomothet.server.workloads.models import Workload


class RangeSerializer(serializers.Serializer[Any]):
    start_s = serializers.FloatField(min_value=0, max_value=1e7)
    end_s = serializers.FloatField(min_value=0, max_value=1e7)
    reason = serializers.CharField(max_length=300, allow_blank=True)


class HypothesisSerializer(serializers.Serializer[Any]):
    words = serializers.CharField(max_length=400)
    status = serializers.ChoiceField(choices=Status.choices, default=Status.OPEN)
    grounds = serializers.CharField(max_length=400, allow_blank=True, default="")
    decided_by = serializers.CharField(max_length=300, allow_blank=True, default="")
    deciding_test = serializers.PrimaryKeyRelatedField(queryset=Test.objects.all(), allow_null=True, default=None)


class NewHypothesisSerializer(HypothesisSerializer):
    test = serializers.IntegerField(allow_null=True, default=None)
    column = serializers.IntegerField(allow_null=True, default=None)


class HypothesisDocketSerializer(serializers.Serializer[Any]):
    columns = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=60)


class LookSerializer(serializers.Serializer[Any]):
    flag = serializers.CharField(max_length=400)
    words = serializers.CharField(max_length=300, allow_blank=True, default="")


class DistrustSerializer(serializers.Serializer[Any]):
    reason = serializers.CharField(max_length=300, allow_blank=True)


class PairSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(choices=PairKind.choices)
    test_a = serializers.IntegerField()
    metric_a = serializers.CharField(max_length=60)
    test_b = serializers.IntegerField()
    metric_b = serializers.CharField(max_length=60)
    counts = serializers.ChoiceField(choices=["", "a", "b"], default="")
    # Of two metrics of one test, whether all tests that show both are declared with it.
    everywhere = serializers.BooleanField(default=False)


class InstrumentSerializer(serializers.Serializer[Any]):
    counts = serializers.ChoiceField(choices=["", "a", "b"])


class RecorderPairsSerializer(serializers.Serializer[Any]):
    test = serializers.IntegerField()
    column = serializers.IntegerField()
    pairs = serializers.IntegerField(min_value=1, max_value=recorder.MOST_PAIRS)


@dataclass(frozen=True)
class HypothesisShape:
    """A possible explanation; `version` is what If-Match wants."""

    id: int
    test: int | None
    column: int | None
    words: str
    status: str
    grounds: str
    decided_by: str
    deciding_test: int | None
    by: str
    at: datetime
    version: int


def _shape(one: Hypothesis) -> HypothesisShape:
    return HypothesisShape(
        one.pk,
        one.test_id,
        one.column_id,
        one.words,
        one.status,
        one.grounds,
        one.decided_by,
        one.deciding_test_id,
        one.by.display_name,
        one.at,
        one.version,
    )


def _valid(form: serializers.Serializer[Any]) -> dict[str, Any]:
    form.is_valid(raise_exception=True)
    return dict(form.validated_data)


def _test(review: int, pk: int | None) -> Test | None:
    return None if pk is None else get_object_or_404(Test.objects.select_related("workload"), pk=pk, review=review)


class DoubtSerializer(serializers.Serializer[Any]):
    sensor = serializers.CharField(max_length=80)
    kind = serializers.ChoiceField(choices=list(DOUBTS))
    reason = serializers.CharField(max_length=300)
    scope = serializers.ChoiceField(choices=sensor_doubts.SCOPES)


class RangesView(APIView):
    """Set a range of time of a pass aside."""

    @extend_schema(request=RangeSerializer, responses={201: None})
    def post(self, request: Request, pass_id: uuid.UUID) -> Response:
        given = _valid(RangeSerializer(data=request.data))
        kept = commands.set_range_aside(signed_in(request), pass_id, **given)
        return Response({"id": kept.pk}, status=201)


class RangeView(APIView):
    """Let a range count again; that it was set aside stays on record."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, kept: int) -> Response:
        commands.take_range_back(signed_in(request), get_object_or_404(AsideRange, pk=kept))
        return Response(status=204)


class DoubtsView(APIView):
    """Doubt a sensor of a pass, of its system, or of its workload; or note one that is shown and not recorded."""

    @extend_schema(request=DoubtSerializer, responses={201: None})
    def post(self, request: Request, pass_id: uuid.UUID) -> Response:
        owner = get_object_or_404(
            Pass.objects.whole().select_related("test__workload", "column__configuration__system"), pk=pass_id
        )
        made = sensor_doubts.doubt_sensor(signed_in(request), owner, **_valid(DoubtSerializer(data=request.data)))
        return Response({"id": made.pk}, status=201)


class DoubtView(APIView):
    """Let a sensor count again."""

    @extend_schema(responses={204: None})
    def delete(self, request: Request, doubt: int) -> Response:
        held = get_object_or_404(SensorDoubt.objects.select_related("owner__test"), pk=doubt)
        sensor_doubts.believe_sensor(signed_in(request), held)
        return Response(status=204)


class HypothesesView(APIView):
    @extend_schema(responses=shape(HypothesisShape, many=True))
    def get(self, request: Request, review: int) -> Response:
        return shaped([_shape(one) for one in Hypothesis.objects.filter(review=review).select_related("by")])

    @extend_schema(request=NewHypothesisSerializer, responses={201: shape(HypothesisShape)})
    def post(self, request: Request, review: int) -> Response:
        given = _valid(NewHypothesisSerializer(data=request.data))
        test = _test(review, given.pop("test"))
        column = given.pop("column")
        of_column = None if column is None else get_object_or_404(Column, pk=column, review=review)
        found = get_object_or_404(Review, pk=review)
        made = hypotheses.add_hypothesis(signed_in(request), found, test, of_column, given)
        return shaped(_shape(made), status=201, headers={"ETag": entity_tag(made.version)})


class HypothesisView(APIView):
    @extend_schema(request=HypothesisSerializer(partial=True), responses=shape(HypothesisShape), parameters=[IF_MATCH])
    def patch(self, request: Request, hypothesis: int) -> Response:
        given = _valid(HypothesisSerializer(data=request.data, partial=True))
        with transaction.atomic():
            locked = Hypothesis.objects.select_for_update().filter(pk=hypothesis).first()
            if locked is None:
                raise unusable("There is no such hypothesis any more.")
            found = Hypothesis.objects.select_related("by", "review", "deciding_test").get(pk=hypothesis)
            require_match(request, found.version, {"version": found.version})
            edited = hypotheses.edit_hypothesis(signed_in(request), found, given)
        return shaped(_shape(edited), headers={"ETag": entity_tag(edited.version)})


class HypothesisDocketView(APIView):
    """Put the test that would decide on the docket."""

    needs = {"POST": Act.ASK_FOR_PASSES}

    @extend_schema(request=HypothesisDocketSerializer, responses={201: None})
    def post(self, request: Request, hypothesis: int) -> Response:
        given = _valid(HypothesisDocketSerializer(data=request.data))
        found = get_object_or_404(Hypothesis.objects.select_related("review", "deciding_test"), pk=hypothesis)
        return Response({"asked": hypotheses.put_on_docket(signed_in(request), found, given["columns"])}, status=201)


class LookView(APIView):
    """Say that a flag was looked at."""

    @extend_schema(request=LookSerializer, responses={204: None})
    def put(self, request: Request, review: int, test: int, column: int) -> Response:
        given = _valid(LookSerializer(data=request.data))
        of_test = get_object_or_404(Test, pk=test, review=review)
        trust.look_at(signed_in(request), of_test, get_object_or_404(Column, pk=column, review=review), **given)
        return Response(status=204)


class DistrustView(APIView):
    """PUT leaves a metric of a workload out of every verdict, with a reason; DELETE lets it count again."""

    @extend_schema(request=DistrustSerializer, responses={204: None})
    def put(self, request: Request, workload: int, metric: str) -> Response:
        given = _valid(DistrustSerializer(data=request.data))
        found = get_object_or_404(Workload, pk=workload)
        trust.distrust(signed_in(request), found, metric[:60], given["reason"])
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, workload: int, metric: str) -> Response:
        trust.trust(signed_in(request), get_object_or_404(Workload, pk=workload), metric)
        return Response(status=204)


class PairView(APIView):
    """PATCH says which of two instruments counts; DELETE takes the pair off."""

    needs = {"PATCH": Act.EDIT_REVIEW}

    @extend_schema(request=InstrumentSerializer, responses={204: None})
    def patch(self, request: Request, pair: int) -> Response:
        given = _valid(InstrumentSerializer(data=request.data))
        found = get_object_or_404(Pair.objects.select_related("review"), pk=pair)
        pairs.choose_instrument(signed_in(request), found, given["counts"])
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pair: int) -> Response:
        pairs.remove_pair(signed_in(request), get_object_or_404(Pair.objects.select_related("review"), pk=pair))
        return Response(status=204)


class RecorderView(APIView):
    """GET: what recording costs; POST: put pairs of passes on the docket that show it."""

    @extend_schema(responses=shape(recorder.OverheadShape, many=True))
    def get(self, request: Request, review: int) -> Response:
        return shaped(recorder.overheads_of(get_object_or_404(Review, pk=review)))

    @extend_schema(request=RecorderPairsSerializer, responses={201: None})
    def post(self, request: Request, review: int) -> Response:
        given = _valid(RecorderPairsSerializer(data=request.data))
        asked = recorder.ask_for_pairs(signed_in(request), get_object_or_404(Review, pk=review), **given)
        return Response({"asked": asked}, status=201)


def new_pair(request: Request, review: Review) -> Pair:
    """The pair that a request asks for."""
    given = _valid(PairSerializer(data=request.data))
    a, b = (_test(review.pk, given[name]) for name in ("test_a", "test_b"))
    assert a is not None
    assert b is not None
    both = ((a, given["metric_a"]), (b, given["metric_b"]))
    if given["everywhere"]:
        return pairs.add_pair_everywhere(signed_in(request), review, given["kind"], *both, given["counts"])
    return pairs.add_pair(signed_in(request), review, given["kind"], *both, given["counts"])
