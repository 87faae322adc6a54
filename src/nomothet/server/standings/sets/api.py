"""Sets of tests as pages read and keep them."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.http import StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.edits import edit_form
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.problems import unusable
from nomothet.server.responses import csv_response, number_parameter
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import plain, shape, shaped
from nomothet.server.standings.models import TestSet
from nomothet.server.standings.sets import commands
from nomothet.server.standings.sets.export import set_lines
from nomothet.server.standings.sets.items import HEAVIEST, of_tests
from nomothet.server.standings.sets.standing import SetStanding, set_standing
from nomothet.server.systems.models import Configuration
from nomothet.server.versions import IF_MATCH, entity_tag, require_match


@dataclass(frozen=True)
class SetListed:
    """A set in the list of all; the last edition of each."""

    id: int
    name: str
    edition: int
    tests: int
    archived: bool


@dataclass(frozen=True)
class SetReviewShape:
    """The review that was made of a set."""

    review: int


class SetItemSerializer(serializers.Serializer[Any]):
    """A workload with settings, or the same as a test of a review."""

    workload = serializers.IntegerField(required=False, min_value=1)
    test = serializers.IntegerField(required=False, min_value=1)
    settings = serializers.DictField(required=False, default=dict)
    metric = serializers.CharField(required=False, max_length=80)
    weight = serializers.FloatField(required=False, default=1.0, min_value=1e-6, max_value=HEAVIEST)


class SetSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=80)
    note = serializers.CharField(max_length=2000, required=False, allow_blank=True)
    margin = serializers.FloatField(required=False, min_value=0.001, max_value=0.5)
    items = SetItemSerializer(many=True, required=False)
    # In place of tests: those of this review, each with what it shows first.
    review = serializers.IntegerField(required=False, min_value=1)


class SetReviewSerializer(serializers.Serializer[Any]):
    question = serializers.CharField(max_length=300)
    configurations = serializers.ListField(
        child=serializers.IntegerField(min_value=1), allow_empty=False, max_length=20
    )


class SetsView(APIView):
    needs = {"POST": Act.EDIT_WORKLOADS}

    @extend_schema(responses=shape(SetListed, many=True))
    def get(self, request: Request) -> Response:
        found = TestSet.objects.filter(replaced_by=None)
        return shaped(
            [SetListed(one.pk, one.name, one.edition, len(one.items), one.archived_at is not None) for one in found]
        )

    @extend_schema(request=SetSerializer, responses={201: shape(SetStanding)})
    def post(self, request: Request) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_WORKLOADS)
        form = SetSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = dict(form.validated_data)
        pk = given.pop("review", None)
        if "items" not in given and pk is not None:
            review = Review.objects.filter(pk=pk).first()
            if review is None:
                raise unusable("There is no such review.", field="review")
            given["items"] = of_tests(list(review.tests.select_related("workload").order_by("position")))
        made = commands.add_set(user, given.pop("name"), given.pop("items", []), **given)
        return shaped(set_standing(made), status=201, headers={"ETag": entity_tag(made.edition)})


class SetView(APIView):
    needs = {"PATCH": Act.EDIT_WORKLOADS}

    @extend_schema(
        parameters=[
            OpenApiParameter("against", int, description="Configuration to compare with."),
            OpenApiParameter("offset", int, description="How many rows stand before the page."),
        ],
        responses=shape(SetStanding),
    )
    def get(self, request: Request, test_set: int) -> Response:
        against, offset = number_parameter(request, "against"), number_parameter(request, "offset")
        found = get_object_or_404(TestSet, pk=test_set)
        return shaped(
            set_standing(found, int(against) if against is not None else None, offset=max(0, int(offset or 0))),
            headers={"ETag": entity_tag(found.edition)},
        )

    @extend_schema(request=SetSerializer(partial=True), parameters=[IF_MATCH], responses=shape(SetStanding))
    def patch(self, request: Request, test_set: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_WORKLOADS)
        form = edit_form(SetSerializer(data=request.data))
        form.is_valid(raise_exception=True)
        with transaction.atomic():
            found = get_object_or_404(TestSet.objects.select_for_update(), pk=test_set)
            while hasattr(found, "replaced_by"):
                found = TestSet.objects.select_for_update().get(pk=found.replaced_by.pk)
            require_match(request, found.edition, plain(set_standing(found)))
            made = commands.edit_set(user, found, form.validated_data)
        return shaped(set_standing(made), headers={"ETag": entity_tag(made.edition)})


class SetCsvView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("against", int, description="Configuration to compare with.")],
        responses={(200, "text/csv"): OpenApiTypes.STR},
    )
    def get(self, request: Request, test_set: int) -> StreamingHttpResponse:
        against = number_parameter(request, "against")
        found = set_standing(
            get_object_or_404(TestSet, pk=test_set), int(against) if against is not None else None, most=None
        )
        return csv_response(set_lines(found), f"set-{found.id}-edition-{found.edition}")


class SetArchiveView(APIView):
    """PUT takes a set off the list; DELETE brings it back."""

    needs = {"PUT": Act.EDIT_WORKLOADS, "DELETE": Act.EDIT_WORKLOADS}

    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, test_set: int) -> Response:
        commands.archive_set(signed_in(request), get_object_or_404(TestSet, pk=test_set), True)
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, test_set: int) -> Response:
        commands.archive_set(signed_in(request), get_object_or_404(TestSet, pk=test_set), False)
        return Response(status=204)


class SetReviewView(APIView):
    """A review with the tests of a set."""

    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(request=SetReviewSerializer, responses={201: shape(SetReviewShape)})
    def post(self, request: Request, test_set: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_REVIEW)
        form = SetReviewSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        wanted = list(dict.fromkeys(form.validated_data["configurations"]))
        held = Configuration.objects.in_bulk(wanted)
        if strange := [pk for pk in wanted if pk not in held]:
            raise unusable(f"There is no configuration {strange[0]}.", field="configurations")
        review = commands.measure_against(
            user,
            get_object_or_404(TestSet, pk=test_set),
            [held[pk] for pk in wanted],
            form.validated_data["question"],
        )
        return shaped(SetReviewShape(review.pk), status=201)
