"""Follow-ups."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.analysis.models import Hypothesis
from nomothet.server.edits import edit_form
from nomothet.server.follow_ups import commands, feeds
from nomothet.server.follow_ups.models import FeedAddress, FollowUp, WatchItem
from nomothet.server.follow_ups.queries import FollowUpShape, follow_ups, shape_of
from nomothet.server.follow_ups.watching import WatchItemShape, set_watched, watch, watch_items, watch_shape
from nomothet.server.people.authentication import BrowserAuthentication
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, signed_in
from nomothet.server.records.models import Record
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import plain, shape, shaped
from nomothet.server.systems.models import System
from nomothet.server.versions import IF_MATCH, entity_tag, require_match


class FollowUpEditSerializer(serializers.Serializer[Any]):
    what = serializers.CharField(max_length=300)
    why = serializers.CharField(max_length=600, allow_blank=True, required=False)
    waits_for = serializers.ChoiceField(FollowUp.WaitsFor.choices, required=False)
    waits_words = serializers.CharField(max_length=200, allow_blank=True, required=False)
    due = serializers.DateField(allow_null=True, required=False)
    tests = serializers.ListField(child=serializers.IntegerField(), max_length=200, required=False)
    person = serializers.PrimaryKeyRelatedField(
        queryset=User.objects.filter(is_active=True), allow_null=True, required=False
    )


class NewFollowUpSerializer(FollowUpEditSerializer):
    review = serializers.PrimaryKeyRelatedField(queryset=Review.objects.all(), allow_null=True, required=False)
    record = serializers.SlugRelatedField(
        slug_field="slug", queryset=Record.objects.defer("content").select_related("review"), required=False
    )
    hypothesis = serializers.PrimaryKeyRelatedField(
        queryset=Hypothesis.objects.select_related("review"), allow_null=True, required=False
    )
    system = serializers.PrimaryKeyRelatedField(queryset=System.objects.all(), allow_null=True, required=False)


class EndSerializer(serializers.Serializer[Any]):
    state = serializers.ChoiceField(FollowUp.State.choices)
    outcome = serializers.CharField(max_length=600, allow_blank=True, default="")


class WatchSerializer(serializers.Serializer[Any]):
    words = serializers.CharField(max_length=200)


class PassesSerializer(serializers.Serializer[Any]):
    passes = serializers.IntegerField(min_value=1, max_value=50, default=3)


@dataclass(frozen=True)
class SeesToItShape:
    """Somebody who may sign in."""

    id: int
    display_name: str


@dataclass(frozen=True)
class MadeShape:
    """What an act on a follow-up made: passes on the docket, or a review."""

    passes: int
    review: int | None


@dataclass(frozen=True)
class FeedAddressShape:
    """Where a calendar reads follow-ups; `secret` is told once, when it is made."""

    made_at: datetime | None
    used_at: datetime | None
    secret: str


def _valid(form: serializers.Serializer[Any]) -> dict[str, Any]:
    form.is_valid(raise_exception=True)
    return dict(form.validated_data)


def _answered(one: FollowUp, status: int = 200) -> Response:
    return shaped(shape_of(one), status=status, headers={"ETag": entity_tag(one.version)})


class FollowUpsView(APIView):
    needs = {"POST": Act.FOLLOW_UP}

    @extend_schema(
        responses=shape(FollowUpShape, many=True),
        parameters=[OpenApiParameter(n, k) for n, k in (("review", int), ("system", int), ("ended", bool))],
    )
    def get(self, request: Request) -> Response:
        told = request.query_params
        numbers = {name: int(told[name]) for name in ("review", "system") if told.get(name, "").isdecimal()}
        few = {name: number for name, number in numbers.items() if number < 1 << 31}
        return shaped(follow_ups(ended=told.get("ended") in ("true", "1"), **few))

    @extend_schema(request=NewFollowUpSerializer, responses={201: shape(FollowUpShape)})
    def post(self, request: Request) -> Response:
        return _answered(
            commands.add_follow_up(signed_in(request), **_valid(NewFollowUpSerializer(data=request.data))), 201
        )


class FollowUpPeopleView(APIView):
    """Who can see to a follow-up."""

    @extend_schema(responses=shape(SeesToItShape, many=True))
    def get(self, request: Request) -> Response:
        found = User.objects.filter(is_active=True).order_by("display_name").values_list("pk", "display_name")
        return shaped([SeesToItShape(*one) for one in found])


class _OneView(APIView):
    """An act on one, locked; with If-Match where what it says is changed."""

    def locked(self, pk: int) -> FollowUp:
        get_object_or_404(FollowUp.objects.select_for_update(), pk=pk)
        return FollowUp.objects.select_related("review", "hypothesis__review", "system", "person", "by").get(pk=pk)


class FollowUpView(_OneView):
    needs = {"PATCH": Act.FOLLOW_UP}

    @extend_schema(request=FollowUpEditSerializer(partial=True), responses=shape(FollowUpShape), parameters=[IF_MATCH])
    def patch(self, request: Request, follow_up: int) -> Response:
        form = _valid(edit_form(FollowUpEditSerializer(data=request.data)))
        with transaction.atomic():
            one = self.locked(follow_up)
            require_match(request, one.version, plain(shape_of(one)))
            return _answered(commands.edit_follow_up(signed_in(request), one, form))


class FollowUpHereView(_OneView):
    """PUT: what it waited for is here; DELETE: it is not after all."""

    needs = {"PUT": Act.FOLLOW_UP, "DELETE": Act.FOLLOW_UP}

    @extend_schema(request=None, responses=shape(FollowUpShape))
    def put(self, request: Request, follow_up: int) -> Response:
        with transaction.atomic():
            return _answered(commands.say_here(signed_in(request), self.locked(follow_up), True))

    @extend_schema(responses={200: shape(FollowUpShape)})
    def delete(self, request: Request, follow_up: int) -> Response:
        with transaction.atomic():
            return _answered(commands.say_here(signed_in(request), self.locked(follow_up), False))


class FollowUpStateView(_OneView):
    needs = {"PUT": Act.FOLLOW_UP}

    @extend_schema(request=EndSerializer, responses=shape(FollowUpShape))
    def put(self, request: Request, follow_up: int) -> Response:
        form = _valid(EndSerializer(data=request.data))
        with transaction.atomic():
            return _answered(commands.end_follow_up(signed_in(request), self.locked(follow_up), **form))


class FollowUpPassesView(_OneView):
    needs = {"POST": Act.ASK_FOR_PASSES}

    @extend_schema(request=PassesSerializer, responses={201: shape(MadeShape)})
    def post(self, request: Request, follow_up: int) -> Response:
        form = _valid(PassesSerializer(data=request.data))
        with transaction.atomic():
            asked = commands.owe_its_passes(signed_in(request), self.locked(follow_up), form["passes"])
        return shaped(MadeShape(asked, None), status=201)


class FollowUpReviewView(_OneView):
    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(request=None, responses={201: shape(MadeShape)})
    def post(self, request: Request, follow_up: int) -> Response:
        with transaction.atomic():
            made = commands.make_its_review(signed_in(request), self.locked(follow_up))
        return shaped(MadeShape(0, made.pk), status=201)


class WatchItemsView(APIView):
    """What is watched on a machine, what was too; POST notes something."""

    needs = {"POST": Act.EDIT_SYSTEMS}

    @extend_schema(responses=shape(WatchItemShape, many=True))
    def get(self, request: Request, system: int) -> Response:
        return shaped(watch_items([get_object_or_404(System, pk=system).pk], ended=True))

    @extend_schema(request=WatchSerializer, responses={201: shape(WatchItemShape)})
    def post(self, request: Request, system: int) -> Response:
        form = _valid(WatchSerializer(data=request.data))
        return shaped(
            watch_shape(watch(signed_in(request), get_object_or_404(System, pk=system), form["words"])), status=201
        )


class WatchedInView(APIView):
    """What is watched on the machines of a review."""

    @extend_schema(responses=shape(WatchItemShape, many=True))
    def get(self, request: Request, review: int) -> Response:
        found = get_object_or_404(Review, pk=review)
        return shaped(watch_items(set(found.columns.values_list("configuration__system", flat=True))))


class WatchedView(APIView):
    """PUT: it is watched again; DELETE: it is watched no longer."""

    needs = {"PUT": Act.EDIT_SYSTEMS, "DELETE": Act.EDIT_SYSTEMS}

    @extend_schema(request=None, responses=shape(WatchItemShape))
    def put(self, request: Request, watch_item: int) -> Response:
        return self._set(request, watch_item, True)

    @extend_schema(responses={200: shape(WatchItemShape)})
    def delete(self, request: Request, watch_item: int) -> Response:
        return self._set(request, watch_item, False)

    def _set(self, request: Request, pk: int, watched: bool) -> Response:
        with transaction.atomic():
            get_object_or_404(WatchItem.objects.select_for_update(), pk=pk)
            one = WatchItem.objects.select_related("system", "by", "ended_by").get(pk=pk)
            return shaped(watch_shape(set_watched(signed_in(request), one, watched)))


class FeedAddressView(APIView):
    """The address of one's own calendar; no script's token opens it."""

    authentication_classes = [BrowserAuthentication]

    @extend_schema(responses=shape(FeedAddressShape))
    def get(self, request: Request) -> Response:
        held = FeedAddress.objects.filter(user=signed_in(request)).first()
        return shaped(FeedAddressShape(held.made_at if held else None, held.used_at if held else None, ""))

    @extend_schema(request=None, responses={201: shape(FeedAddressShape)})
    def post(self, request: Request) -> Response:
        user = signed_in(request)
        secret = feeds.make_address(user, request._request)
        return shaped(FeedAddressShape(FeedAddress.objects.get(user=user).made_at, None, secret), status=201)

    @extend_schema(responses={204: None})
    def delete(self, request: Request) -> Response:
        feeds.drop_address(signed_in(request), request._request)
        return Response(status=204)
