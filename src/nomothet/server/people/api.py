"""Signing in and out."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect, ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people.authentication import BrowserAuthentication
from nomothet.server.people.commands import set_team
from nomothet.server.people.models import Team, Token, User
from nomothet.server.people.notices import tell, untold
from nomothet.server.people.permissions import Act, may, signed_in
from nomothet.server.people.signing_in import sign_in, sign_out
from nomothet.server.people.tokens import make_token, own_tokens, revoke_token
from nomothet.server.shapes import shape, shaped
from nomothet.words.signing_in import CHANGED


@dataclass(frozen=True)
class ChangedShape:
    """Something that was changed about how somebody signs in, with when; from where if it was by their account."""

    kind: str
    words: str
    at: datetime
    address: str


@dataclass(frozen=True)
class SessionShape:
    """Who is signed in, and what they may do."""

    signed_in: bool
    username: str | None
    display_name: str | None
    role: str | None
    may: list[str]
    # The team asks them for a second factor, which they have not set: until then they read.
    owes_second_factor: bool
    # The team's name; empty where nobody has given one, and for who is not signed in.
    team: str
    # What was changed about how they sign in, elsewhere and since they were last told.
    changed: list[ChangedShape]


def _session_of(request: HttpRequest) -> SessionShape:
    user = request.user
    if not isinstance(user, User):
        return SessionShape(False, None, None, None, [], False, "", [])
    team = Team.settings().name
    acts = [act.name.lower() for act in Act if may(user, act)]
    changed = [
        ChangedShape(one.kind, CHANGED[one.kind], one.at, one.address if one.by_id == user.pk else "")
        for one in untold(user, request)
    ]
    return SessionShape(True, user.username, user.display_name, user.role, acts, user.owes_second_factor, team, changed)


@dataclass(frozen=True)
class TeamShape:
    """What the team has agreed on."""

    # Empty where nobody has given one.
    name: str
    two_signatures: bool
    # Who needs a second factor: nobody, "admins" or "everybody".
    second_factor: str


class TeamSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=120, required=False, allow_blank=True)
    two_signatures = serializers.BooleanField(required=False)
    second_factor = serializers.ChoiceField(Team.SecondFactor.choices, required=False, allow_blank=True)


def _team_shape(team: Team) -> TeamShape:
    return TeamShape(team.name, team.two_signatures, team.second_factor)


class TeamView(APIView):
    @extend_schema(responses=shape(TeamShape))
    def get(self, request: Request) -> Response:
        return shaped(_team_shape(Team.settings()))

    @extend_schema(request=TeamSerializer, responses=shape(TeamShape))
    def put(self, request: Request) -> Response:
        form = TeamSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        team = set_team(signed_in(request), request._request, **form.validated_data)
        return shaped(_team_shape(team))


@dataclass(frozen=True)
class PersonalToken:
    """A personal token; `secret` is told once, when it is made."""

    id: int
    name: str
    scope: str
    made_at: datetime
    used_at: datetime | None
    secret: str


class NewTokenSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=80)
    scope = serializers.ChoiceField(Token.Scope.values)


def _token_shape(one: Token, secret: str = "") -> PersonalToken:
    return PersonalToken(one.pk, one.name, one.scope, one.made_at, one.used_at, secret)


class TokensView(APIView):
    """One's own personal tokens; a token itself does not see them."""

    authentication_classes = [BrowserAuthentication]

    @extend_schema(responses=shape(PersonalToken, many=True))
    def get(self, request: Request) -> Response:
        return shaped([_token_shape(one) for one in own_tokens(signed_in(request))])

    @extend_schema(request=NewTokenSerializer, responses={201: shape(PersonalToken)})
    def post(self, request: Request) -> Response:
        form = NewTokenSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        made, secret = make_token(signed_in(request), request._request, **form.validated_data)
        return shaped(_token_shape(made, secret), status=201)


class TokenView(APIView):
    authentication_classes = [BrowserAuthentication]

    @extend_schema(responses={204: None})
    def delete(self, request: Request, token: int) -> Response:
        user = signed_in(request)
        revoke_token(user, request._request, get_object_or_404(own_tokens(user), pk=token))
        return Response(status=204)


class ToldView(APIView):
    """PUT: they know what was changed about how they sign in."""

    authentication_classes = [BrowserAuthentication]

    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request) -> Response:
        tell(signed_in(request))
        return Response(status=204)


class SignInSerializer(serializers.Serializer[Any]):
    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=1000, trim_whitespace=False)
    # Of the second factor, or one to recover; asked for where there is one.
    code = serializers.CharField(max_length=20, required=False, allow_blank=True)


class SessionView(APIView):
    """The session of this browser."""

    permission_classes = [AllowAny]

    @extend_schema(responses=shape(SessionShape))
    @method_decorator(ensure_csrf_cookie)
    def get(self, request: Request) -> Response:
        return shaped(_session_of(request._request))

    @extend_schema(request=SignInSerializer, responses=shape(SessionShape))
    @method_decorator(csrf_protect)
    def post(self, request: Request) -> Response:
        form = SignInSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        sign_in(request._request, **form.validated_data)
        return shaped(_session_of(request._request))

    @extend_schema(responses={204: None})
    def delete(self, request: Request) -> Response:
        sign_out(request._request)
        return Response(status=204)
