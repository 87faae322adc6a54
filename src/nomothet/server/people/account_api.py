"""One's own account: password, second factor, sessions."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.contrib.auth import update_session_auth_hash
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people import second_factor, throttle
from nomothet.server.people.authentication import BrowserAuthentication
from nomothet.server.people.models import User, Visit
from nomothet.server.people.passwords import set_password
from nomothet.server.people.permissions import signed_in
from nomothet.server.people.security import note_security
from nomothet.server.people.sessions import end_visits, visits_of
from nomothet.server.problems import Problem, unusable
from nomothet.server.shapes import shape, shaped


@dataclass(frozen=True)
class OwnSession:
    """A session of one's own; `here` is the one of this browser."""

    id: str
    address: str
    agent: str
    begun_at: datetime | None
    seen_at: datetime | None
    here: bool


@dataclass(frozen=True)
class AccountShape:
    """What there is about one's own account beside tokens."""

    second_factor: bool
    recovery_codes: int
    sessions: list[OwnSession]


@dataclass(frozen=True)
class BegunShape:
    """A second factor to take into an app; `picture` is its address as an SVG picture."""

    secret: str
    uri: str
    picture: str


@dataclass(frozen=True)
class CodesShape:
    """Recovery codes, told this once."""

    codes: list[str]


class PasswordSerializer(serializers.Serializer[Any]):
    password = serializers.CharField(max_length=1000, trim_whitespace=False)


class NewPasswordSerializer(PasswordSerializer):
    new = serializers.CharField(max_length=1000, trim_whitespace=False)


class CodeSerializer(serializers.Serializer[Any]):
    code = serializers.CharField(max_length=20)


class OwnView(APIView):
    """For people at a browser: no script's token opens it."""

    authentication_classes = [BrowserAuthentication]

    def confirmed(self, request: Request, password: str) -> User:
        """The person, who has typed the password again."""
        user = signed_in(request)
        held = throttle.wait_s(request._request, user.username)
        if held:
            raise Problem(429, "Held back", f"The password was wrong several times. Try again in {held} s.")
        before = user.password
        right = user.check_password(password)
        if user.password != before:
            # It was hashed anew with the costs of today, which must not end the session.
            update_session_auth_hash(request._request, user)
        if not right:
            throttle.failed(request._request, user.username)
            note_security("sign-in refused", about=user, request=request._request, confirming=True)
            raise unusable("This is not your password.", field="password")
        return user


def _account(request: Request) -> AccountShape:
    user, own = signed_in(request), request._request.session.session_key
    return AccountShape(
        second_factor.has_second_factor(user),
        second_factor.codes_left(user),
        [
            OwnSession(_id(one), one.address, one.agent, one.begun_at, one.seen_at, one.session_key == own)
            for one in visits_of(user)
        ],
    )


def _id(visit: Visit) -> str:
    """A session by what does not open it."""
    return throttle.digest(f"visit {visit.session_key}")[:20]


class AccountView(OwnView):
    @extend_schema(responses=shape(AccountShape))
    def get(self, request: Request) -> Response:
        return shaped(_account(request))


class PasswordView(OwnView):
    """A new password; all other sessions end."""

    @extend_schema(request=NewPasswordSerializer, responses=shape(AccountShape))
    def put(self, request: Request) -> Response:
        form = NewPasswordSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        user = self.confirmed(request, form.validated_data["password"])
        set_password(user, form.validated_data["new"], keep=request._request.session.session_key)
        update_session_auth_hash(request._request, user)
        note_security("password set", by=user, request=request._request)
        return shaped(_account(request))


class SecondFactorView(OwnView):
    @extend_schema(request=PasswordSerializer, responses={201: shape(BegunShape)})
    def post(self, request: Request) -> Response:
        form = PasswordSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        begun = second_factor.begin(self.confirmed(request, form.validated_data["password"]))
        return shaped(BegunShape(begun.secret, begun.uri, begun.picture), 201)

    @extend_schema(request=CodeSerializer, responses=shape(CodesShape))
    def put(self, request: Request) -> Response:
        form = CodeSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        codes = second_factor.confirm(signed_in(request), form.validated_data["code"])
        note_security("second factor on", by=signed_in(request), request=request._request)
        return shaped(CodesShape(codes))

    @extend_schema(request=PasswordSerializer, responses={200: shape(AccountShape)})
    def delete(self, request: Request) -> Response:
        form = PasswordSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        user = self.confirmed(request, form.validated_data["password"])
        second_factor.take_off(user)
        note_security("second factor off", by=user, about=user, request=request._request)
        return shaped(_account(request))


class RecoveryCodesView(OwnView):
    """New recovery codes; those of before are void."""

    @extend_schema(request=PasswordSerializer, responses={201: shape(CodesShape)})
    def post(self, request: Request) -> Response:
        form = PasswordSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        user = self.confirmed(request, form.validated_data["password"])
        if not second_factor.has_second_factor(user):
            raise unusable("Recovery codes stand in for a second factor, and you have none.")
        note_security("recovery codes made", by=user, request=request._request)
        return shaped(CodesShape(second_factor.new_codes(user)), 201)


class OwnSessionsView(OwnView):
    """All sessions but the one of this browser."""

    @extend_schema(operation_id="account_sessions_end_others", responses={200: shape(AccountShape)})
    def delete(self, request: Request) -> Response:
        user = signed_in(request)
        ended = end_visits(user, but=request._request.session.session_key)
        note_security("sessions ended", by=user, about=user, request=request._request, count=ended)
        return shaped(_account(request))


class OwnSessionView(OwnView):
    @extend_schema(responses={200: shape(AccountShape)})
    def delete(self, request: Request, visit: str) -> Response:
        user = signed_in(request)
        key = next((one.session_key for one in visits_of(user) if _id(one) == visit), None)
        get_object_or_404(Visit, session_key=key, user=user).delete()
        note_security("sessions ended", by=user, about=user, request=request._request, count=1)
        return shaped(_account(request))
