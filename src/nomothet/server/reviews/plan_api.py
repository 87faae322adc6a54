"""The plan of a review: its check, and every act that mends it."""

from dataclasses import dataclass
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.lane_statistics import STATISTICS
from nomothet.core.quantities import text_of
from nomothet.core.settings import setting_of
from nomothet.core.worked_out import BY
from nomothet.server.edits import edit_form
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.reviews.api import editing, review_of, review_response
from nomothet.server.reviews.commands import columns as columns_commands
from nomothet.server.reviews.commands import equal, factors, own_metrics, test_table
from nomothet.server.reviews.commands import tests as tests_commands
from nomothet.server.reviews.commands.combination import add_combination
from nomothet.server.reviews.commands.fitting import fit_on_columns
from nomothet.server.reviews.models import Column, Test
from nomothet.server.reviews.own_metrics import KINDS
from nomothet.server.reviews.queries import ReviewShape, column_tag, factors_tag, test_tag
from nomothet.server.shapes import shape, shaped
from nomothet.server.systems.models import Configuration
from nomothet.server.versions import IF_MATCH, require_match
from nomothet.server.workloads.forms import DIRECTIONS, SCALES
from nomothet.server.workloads.models import Workload


@dataclass(frozen=True)
class PastedChange:
    column: str
    setting: str
    before: str
    after: str


@dataclass(frozen=True)
class PastedShape:
    """What a pasted table changes, or would change."""

    changes: list[PastedChange]
    stored: bool


@dataclass(frozen=True)
class TableTestShape:
    """A test of a table: `new` where its workload would be made, of what kind; `there` where the review has it."""

    line: int
    name: str
    version: str
    detail: str
    new: bool
    kind: str
    there: bool
    problem: str


@dataclass(frozen=True)
class TestTableShape:
    tests: list[TableTestShape]
    stored: bool


class ColumnSerializer(serializers.Serializer[Any]):
    configuration = serializers.PrimaryKeyRelatedField(queryset=Configuration.objects.select_related("system"))
    label = serializers.CharField(required=False, allow_blank=True, max_length=80)  # type: ignore[assignment]
    note = serializers.CharField(required=False, allow_blank=True, max_length=200)


class ColumnEditSerializer(ColumnSerializer):
    # Its place in a chain of steps; nothing for none.
    step = serializers.IntegerField(required=False, allow_null=True, min_value=0, max_value=49)


class OrderSerializer(serializers.Serializer[Any]):
    order = serializers.ListField(child=serializers.IntegerField(), max_length=200)


class NewTestsSerializer(serializers.Serializer[Any]):
    workload = serializers.PrimaryKeyRelatedField(queryset=Workload.objects.filter(archived_at=None))
    choices = serializers.DictField(child=serializers.ListField(child=serializers.JSONField(), max_length=60))
    isolates = serializers.ChoiceField(choices=tests_commands.ISOLATES, required=False)


class TestTableSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(max_length=100_000, trim_whitespace=False)
    store = serializers.BooleanField(default=False)
    # Whether workloads that the catalogue does not know are made.
    make = serializers.BooleanField(default=False)


class ShownSerializer(serializers.Serializer[Any]):
    tests = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=200)
    add = serializers.ListField(child=serializers.CharField(max_length=60), default=list, max_length=40)
    remove = serializers.ListField(child=serializers.CharField(max_length=60), default=list, max_length=40)


class OwnMetricSerializer(serializers.Serializer[Any]):
    tests = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=200)
    kind = serializers.ChoiceField(choices=list(KINDS))
    label = serializers.CharField(max_length=60)  # type: ignore[assignment]
    unit = serializers.CharField(max_length=20, allow_blank=True, default="")
    direction = serializers.ChoiceField(choices=DIRECTIONS, default="higher")
    scale = serializers.ChoiceField(choices=SCALES, default="ratio")
    lane = serializers.CharField(max_length=80, allow_blank=True, default="")
    statistic = serializers.ChoiceField(choices=["", *STATISTICS], allow_blank=True, default="")
    of = serializers.CharField(max_length=60, allow_blank=True, default="")
    other = serializers.CharField(max_length=60, allow_blank=True, default="")
    by = serializers.ChoiceField(choices=["", *BY], allow_blank=True, default="")
    label_on = serializers.CharField(max_length=60, allow_blank=True, default="")
    label_off = serializers.CharField(max_length=60, allow_blank=True, default="")


class CopyTestSerializer(serializers.Serializer[Any]):
    review = serializers.IntegerField()


class CountsSerializer(serializers.Serializer[Any]):
    """Which marked spans count of every pass; an empty object for all of the run."""

    rule = serializers.ChoiceField(choices=["only", "without"])
    labels = serializers.ListField(child=serializers.CharField(max_length=60), min_length=1, max_length=20)


class TestEditSerializer(serializers.Serializer[Any]):
    settings = serializers.DictField(child=serializers.JSONField())
    detail = serializers.CharField(max_length=160, allow_blank=True)
    isolates = serializers.ChoiceField(choices=tests_commands.ISOLATES)
    skip_s = serializers.FloatField(min_value=0, max_value=100_000)
    end_cut_s = serializers.FloatField(min_value=0, max_value=100_000)
    shown = serializers.ListField(child=serializers.CharField(max_length=60), max_length=12)
    counts = CountsSerializer(allow_null=True)
    power = serializers.CharField(max_length=60, allow_blank=True)
    targets = serializers.DictField(child=serializers.JSONField(allow_null=True))


class DeclareSerializer(serializers.Serializer[Any]):
    aspects = serializers.ListField(child=serializers.CharField(max_length=120), min_length=1, max_length=30)
    name = serializers.CharField(required=False, allow_blank=True, max_length=80)


class FactorSerializer(serializers.Serializer[Any]):
    key = serializers.RegexField(r"^[a-z][a-z0-9_]*$", max_length=60)
    name = serializers.CharField(max_length=80)
    aspects = serializers.ListField(child=serializers.CharField(max_length=120), max_length=30)
    levels = serializers.ListField(child=serializers.CharField(max_length=200), min_length=1, max_length=50)


class FactorsSerializer(serializers.Serializer[Any]):
    factors = FactorSerializer(many=True)
    levels = serializers.DictField(child=serializers.DictField(child=serializers.CharField(max_length=200)))


class CaveatSerializer(serializers.Serializer[Any]):
    aspect = serializers.CharField(max_length=120)
    words = serializers.CharField(max_length=300)


class EqualSerializer(serializers.Serializer[Any]):
    setting = serializers.CharField(max_length=80)
    like = serializers.IntegerField()


class CombinationSerializer(serializers.Serializer[Any]):
    factor = serializers.CharField(max_length=60)
    like = serializers.IntegerField()


class FittingSerializer(serializers.Serializer[Any]):
    place = serializers.CharField(max_length=60)
    parts = serializers.DictField(child=serializers.IntegerField(allow_null=True), allow_empty=False)


class PasteSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(max_length=100_000, trim_whitespace=False)
    store = serializers.BooleanField(default=False)


def _valid(form: serializers.Serializer[Any]) -> dict[str, Any]:
    form.is_valid(raise_exception=True)
    return dict(form.validated_data)


class ColumnsView(APIView):
    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(request=ColumnSerializer, responses={201: shape(ReviewShape)})
    def post(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            columns_commands.add_column(signed_in(request), found, **_valid(ColumnSerializer(data=request.data)))
        return review_response(review_of(review), status=201)

    @extend_schema(request=OrderSerializer, responses=shape(ReviewShape))
    def put(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            columns_commands.order_columns(
                signed_in(request), found, _valid(OrderSerializer(data=request.data))["order"]
            )
        return review_response(review_of(review))


class ColumnView(APIView):
    needs = {"PATCH": Act.EDIT_REVIEW}

    @extend_schema(request=ColumnEditSerializer(partial=True), responses=shape(ReviewShape), parameters=[IF_MATCH])
    def patch(self, request: Request, review: int, column: int) -> Response:
        with editing(review):
            one = get_object_or_404(Column.objects.select_related("configuration"), pk=column, review=review)
            present = {"label": one.label, "note": one.note, "step": one.step, "tag": column_tag(one)}
            require_match(request, column_tag(one), present)
            columns_commands.edit_column(
                signed_in(request), one, _valid(edit_form(ColumnEditSerializer(data=request.data)))
            )
        return review_response(review_of(review))

    @extend_schema(responses={200: shape(ReviewShape)})
    def delete(self, request: Request, review: int, column: int) -> Response:
        with editing(review):
            columns_commands.remove_column(signed_in(request), get_object_or_404(Column, pk=column, review=review))
        return review_response(review_of(review))


class TestsView(APIView):
    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(request=NewTestsSerializer, responses={201: shape(ReviewShape)})
    def post(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            tests_commands.add_tests(signed_in(request), found, **_valid(NewTestsSerializer(data=request.data)))
        return review_response(review_of(review), status=201)

    @extend_schema(request=OrderSerializer, responses=shape(ReviewShape))
    def put(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            tests_commands.order_tests(signed_in(request), found, _valid(OrderSerializer(data=request.data))["order"])
        return review_response(review_of(review))


class TestTableView(APIView):
    """Tests from a table; without `store` it only says which they would be."""

    @extend_schema(request=TestTableSerializer, responses=shape(TestTableShape))
    def post(self, request: Request, review: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_REVIEW)
        form = _valid(TestTableSerializer(data=request.data))
        with editing(review) as found:
            if form["store"]:
                test_table.store_test_table(user, found, form["text"], make=form["make"])
                return shaped(TestTableShape([], True))
            tests = [
                TableTestShape(
                    one.line,
                    one.name,
                    one.version,
                    one.detail,
                    one.workload is None,
                    str(one.kind.label) if one.workload is None else "",
                    one.there,
                    one.problem,
                )
                for one in test_table.read_test_table(found, form["text"])
            ]
        return shaped(TestTableShape(tests, False))


class ShownView(APIView):
    """The metrics of many tests at once."""

    @extend_schema(request=ShownSerializer, responses=shape(ReviewShape))
    def put(self, request: Request, review: int) -> Response:
        form = _valid(ShownSerializer(data=request.data))
        with editing(review) as found:
            tests_commands.show_metrics(
                signed_in(request), found, form["tests"], add=form["add"], remove=form["remove"]
            )
        return review_response(review_of(review))


class OwnMetricsView(APIView):
    """A metric of their own for tests: a reading, worked out, of a part of the run, or of a toggled setting."""

    @extend_schema(request=OwnMetricSerializer, responses={201: shape(ReviewShape)})
    def post(self, request: Request, review: int) -> Response:
        form = _valid(OwnMetricSerializer(data=request.data))
        tests = form.pop("tests")
        with editing(review) as found:
            own_metrics.add_metric(signed_in(request), found, tests, form)
        return review_response(review_of(review), status=201)


class OwnMetricView(APIView):
    @extend_schema(responses={200: shape(ReviewShape)})
    def delete(self, request: Request, review: int, key: str) -> Response:
        with editing(review) as found:
            own_metrics.remove_metric(signed_in(request), found, key)
        return review_response(review_of(review))


class TestCopyView(APIView):
    """The same test in another review."""

    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(request=CopyTestSerializer, responses={201: shape(ReviewShape)})
    def post(self, request: Request, review: int, test: int) -> Response:
        one = get_object_or_404(Test.objects.select_related("workload", "review"), pk=test, review=review)
        to = _valid(CopyTestSerializer(data=request.data))["review"]
        with editing(to) as found:
            tests_commands.copy_test(signed_in(request), one, found)
        return review_response(review_of(review), status=201)


class TestView(APIView):
    needs = {"PATCH": Act.EDIT_REVIEW}

    @extend_schema(request=TestEditSerializer(partial=True), responses=shape(ReviewShape), parameters=[IF_MATCH])
    def patch(self, request: Request, review: int, test: int) -> Response:
        with editing(review):
            one = get_object_or_404(Test.objects.select_related("workload", "review"), pk=test, review=review)
            present = {field: getattr(one, field) for field in TestEditSerializer().fields.keys()}  # noqa: SIM118
            require_match(request, test_tag(one), {**present, "tag": test_tag(one)})
            tests_commands.edit_test(signed_in(request), one, _valid(edit_form(TestEditSerializer(data=request.data))))
        return review_response(review_of(review))

    @extend_schema(responses={200: shape(ReviewShape)})
    def delete(self, request: Request, review: int, test: int) -> Response:
        with editing(review):
            one = get_object_or_404(Test.objects.select_related("workload"), pk=test, review=review)
            tests_commands.remove_test(signed_in(request), one)
        return review_response(review_of(review))


class FactorsView(APIView):
    """POST declares one more factor from differences, PUT sets all of them with every configuration's levels."""

    needs = {"PUT": Act.EDIT_REVIEW}

    @extend_schema(request=DeclareSerializer, responses={201: shape(ReviewShape)})
    def post(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            factors.declare_factor(signed_in(request), found, **_valid(DeclareSerializer(data=request.data)))
        return review_response(review_of(review), status=201)

    @extend_schema(request=FactorsSerializer, responses=shape(ReviewShape), parameters=[IF_MATCH])
    def put(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            tag = factors_tag(found)
            require_match(request, tag, {"factors": found.factors, "tag": tag})
            wanted = _valid(FactorsSerializer(data=request.data))
            levels = {int(pk): one for pk, one in wanted["levels"].items() if pk.isdigit()}
            factors.set_factors(signed_in(request), found, wanted["factors"], levels)
        return review_response(review_of(review))


class FactorView(APIView):
    @extend_schema(responses={200: shape(ReviewShape)})
    def delete(self, request: Request, review: int, key: str) -> Response:
        with editing(review) as found:
            factors.withdraw_factor(signed_in(request), found, key)
        return review_response(review_of(review))


class CaveatsView(APIView):
    @extend_schema(request=CaveatSerializer, responses=shape(ReviewShape))
    def put(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            factors.accept_difference(signed_in(request), found, **_valid(CaveatSerializer(data=request.data)))
        return review_response(review_of(review))


class CaveatView(APIView):
    @extend_schema(responses={200: shape(ReviewShape)})
    def delete(self, request: Request, review: int, aspect: str) -> Response:
        with editing(review) as found:
            factors.withdraw_caveat(signed_in(request), found, aspect)
        return review_response(review_of(review))


class CombinationView(APIView):
    """The configuration that changes one factor alone."""

    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(request=CombinationSerializer, responses={201: shape(ReviewShape)})
    def post(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            wanted = _valid(CombinationSerializer(data=request.data))
            like = get_object_or_404(Column.objects.select_related("configuration"), pk=wanted["like"], review=review)
            add_combination(signed_in(request), found, wanted["factor"], like)
        return review_response(review_of(review), status=201)


class FittingView(APIView):
    """Parts at one place of the configurations."""

    needs = {"PUT": Act.EDIT_REVIEW}

    @extend_schema(request=FittingSerializer, responses=shape(ReviewShape))
    def put(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            wanted = _valid(FittingSerializer(data=request.data))
            parts = {int(pk): part for pk, part in wanted["parts"].items() if pk.isdigit()}
            fit_on_columns(signed_in(request), found, wanted["place"], parts)
        return review_response(review_of(review))


class EqualView(APIView):
    """Give every configuration the value that one has."""

    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(request=EqualSerializer, responses=shape(ReviewShape))
    def post(self, request: Request, review: int) -> Response:
        with editing(review) as found:
            wanted = _valid(EqualSerializer(data=request.data))
            like = get_object_or_404(Column.objects.select_related("configuration"), pk=wanted["like"], review=review)
            equal.make_equal(signed_in(request), found, wanted["setting"], like)
        return review_response(review_of(review))


class PasteView(APIView):
    """Settings pasted from a spreadsheet; without `store` it only says what would change."""

    @extend_schema(request=PasteSerializer, responses=shape(PastedShape))
    def post(self, request: Request, review: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_REVIEW)
        form = _valid(PasteSerializer(data=request.data))
        with editing(review) as found:
            wanted = equal.read_table(found, form["text"])
            changes = [
                PastedChange(
                    column,
                    setting_of(key).spec.label,
                    text_of(setting_of(key).spec, before),
                    text_of(setting_of(key).spec, after),
                )
                for column, key, before, after in equal.changes_in_words(found, wanted)
            ]
            if form["store"]:
                equal.set_on_columns(user, found, wanted)
        return shaped(PastedShape(changes, form["store"]))
