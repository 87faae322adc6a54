"""People as admins see them, one-time links, and the security log."""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Count, Q
from django.http import StreamingHttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.csv_lines import csv_lines
from nomothet.server.people import members, throttle
from nomothet.server.people.account_api import OwnView
from nomothet.server.people.links import open_link, use_link
from nomothet.server.people.models import Role, SecurityEvent, User
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.people.security import events, note_security
from nomothet.server.problems import Problem
from nomothet.server.responses import csv_response
from nomothet.server.shapes import shape, shaped

_A_PAGE = 100


@dataclass(frozen=True)
class Member:
    """A person as admins see them; `state` is "active", "invited" (no password yet) or "disabled"."""

    id: int
    username: str
    display_name: str
    role: str
    state: str
    last_sign_in: datetime | None
    second_factor: bool
    sessions: int


@dataclass(frozen=True)
class OfferedShape:
    """A person with a one-time link's secret, which is told this once."""

    person: Member
    secret: str


@dataclass(frozen=True)
class WelcomeShape:
    """Whose one-time link it is, and what for: "invitation" or "reset"."""

    username: str
    display_name: str
    purpose: str


@dataclass(frozen=True)
class SecurityEventShape:
    """Something of the security log."""

    id: int
    at: datetime
    kind: str
    by: str
    about: str
    address: str
    values: str


class InviteSerializer(serializers.Serializer[Any]):
    username = serializers.CharField(max_length=40)
    display_name = serializers.CharField(max_length=120)
    role = serializers.ChoiceField(Role.choices)


class PersonSerializer(serializers.Serializer[Any]):
    role = serializers.ChoiceField(Role.choices, required=False)
    active = serializers.BooleanField(required=False)


class ResetSerializer(serializers.Serializer[Any]):
    # Whether the second factor was lost, and is taken off.
    without_second_factor = serializers.BooleanField(default=False)


class LinkSerializer(serializers.Serializer[Any]):
    secret = serializers.CharField(max_length=100)


class UseLinkSerializer(LinkSerializer):
    password = serializers.CharField(max_length=1000, trim_whitespace=False)


def _people() -> list[Member]:
    lasting = Count("visits", filter=Q(visits__expire_date__gt=timezone.now()))
    return [_person(one) for one in User.objects.annotate(lasting=lasting).order_by("-is_active", "display_name")]


def _person(user: User) -> Member:
    state = "disabled" if not user.is_active else "active" if user.has_usable_password() else "invited"
    lasting = getattr(user, "lasting", 0)
    return Member(
        user.pk, user.username, user.display_name, user.role, state, user.last_login, bool(user.totp), lasting
    )


class PeopleView(OwnView):
    @extend_schema(responses=shape(Member, many=True))
    def get(self, request: Request) -> Response:
        require(signed_in(request), Act.MANAGE_PEOPLE)
        return shaped(_people())

    @extend_schema(request=InviteSerializer, responses={201: shape(OfferedShape)})
    def post(self, request: Request) -> Response:
        form = InviteSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        user, secret = members.invite(signed_in(request), request._request, **form.validated_data)
        return shaped(OfferedShape(_person(user), secret), 201)


class PersonView(OwnView):
    @extend_schema(request=PersonSerializer, responses=shape(Member, many=True))
    def patch(self, request: Request, person: int) -> Response:
        form = PersonSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        admin, user = signed_in(request), get_object_or_404(User, pk=person)
        require(admin, Act.MANAGE_PEOPLE)
        if "role" in form.validated_data:
            members.set_role(admin, request._request, user, form.validated_data["role"])
        if "active" in form.validated_data:
            members.set_active(admin, request._request, user, form.validated_data["active"])
        return shaped(_people())


class PersonResetView(OwnView):
    """A link by which the person sets a new password."""

    @extend_schema(request=ResetSerializer, responses={201: shape(OfferedShape)})
    def post(self, request: Request, person: int) -> Response:
        form = ResetSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        require(signed_in(request), Act.MANAGE_PEOPLE)
        user = get_object_or_404(User, pk=person)
        secret = members.offer_reset(signed_in(request), request._request, user, **form.validated_data)
        return shaped(OfferedShape(_person(user), secret), 201)


class PersonSessionsView(OwnView):
    @extend_schema(responses={200: shape(Member, many=True)})
    def delete(self, request: Request, person: int) -> Response:
        require(signed_in(request), Act.MANAGE_PEOPLE)
        members.end_sessions(signed_in(request), request._request, get_object_or_404(User, pk=person))
        return shaped(_people())


class WelcomeView(APIView):
    """A one-time link: whose it is, and its password. The secret is sent in the body, where no log keeps it;
    it stands for who asks, so that there is no session that a foreign page could make use of."""

    authentication_classes = []
    permission_classes = [AllowAny]

    @extend_schema(request=LinkSerializer, responses=shape(WelcomeShape))
    def post(self, request: Request) -> Response:
        form = LinkSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        with held_back(request):
            return shaped(_welcome(form.validated_data["secret"]))

    @extend_schema(request=UseLinkSerializer, responses=shape(WelcomeShape))
    def put(self, request: Request) -> Response:
        form = UseLinkSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        with held_back(request):
            told = _welcome(form.validated_data["secret"])
        link = use_link(**form.validated_data)
        note_security("password set", by=link.user, request=request._request, link=link.purpose)
        return shaped(told)


def _hold_back(request: Request) -> None:
    held = throttle.wait_s(request._request, "one-time link")
    if held:
        raise Problem(429, "Held back", f"Too many links that are not valid. Try again in {held} s.")


@contextmanager
def held_back(request: Request) -> Iterator[None]:
    """Whoever tries secrets that are not good waits longer every time."""
    _hold_back(request)
    try:
        yield
    except Problem as problem:
        if problem.status_code == 410:
            throttle.failed(request._request, f"link from {request.META.get('REMOTE_ADDR')}")
        raise


def _welcome(secret: str) -> WelcomeShape:
    link = open_link(secret)
    return WelcomeShape(link.user.username, link.user.display_name, link.purpose)


def _event(one: SecurityEvent) -> SecurityEventShape:
    values = ", ".join(f"{key.replace('_', ' ')} {value}" for key, value in one.values.items())
    names = (one.by.username if one.by else "", one.about.username if one.about else "")
    return SecurityEventShape(one.pk, one.at, one.kind, *names, one.address, values)


class SecurityLogView(OwnView):
    @extend_schema(responses=shape(SecurityEventShape, many=True), parameters=[OpenApiParameter("before", str)])
    def get(self, request: Request) -> Response:
        require(signed_in(request), Act.READ_SECURITY_LOG)
        before = parse_datetime(request.query_params.get("before", "") or "")
        return shaped([_event(one) for one in events(before)[:_A_PAGE]])


class SecurityLogCsvView(OwnView):
    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR})
    def get(self, request: Request) -> StreamingHttpResponse:
        require(signed_in(request), Act.READ_SECURITY_LOG)
        note_security("exported", by=signed_in(request), request=request._request, what="security log")
        return csv_response(csv_lines(_log_rows()), "security-log")


def _log_rows() -> Iterator[list[object]]:
    yield ["at", "kind", "by", "about", "address", "values"]
    for one in events().iterator(chunk_size=2000):
        told = _event(one)
        yield [one.at.isoformat(), one.kind, told.by, told.about, one.address, json.dumps(one.values)]
