"""Signing in with a name, a password and, where there is one, a second factor; and signing out."""

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest

from nomothet.server.people import sessions, throttle
from nomothet.server.people.models import User
from nomothet.server.people.second_factor import check_code, has_second_factor
from nomothet.server.people.security import note_security
from nomothet.server.problems import Problem

_WRONG = "Wrong name or password."


def sign_in(request: HttpRequest, username: str, password: str, code: str = "") -> User:
    """Begin a session.

    Raises
    ------
    Problem
        401 where something is wrong, with `second_factor` where a code is asked for; 429 where signing in is held back.
    """
    held = throttle.wait_s(request, username)
    known = User.objects.filter(username=username).first()
    if held:
        note_security("sign-in held back", about=known, request=request, seconds=held)
        raise Problem(
            429, "Held back", f"Signing in has failed several times. Try again in {held} s.", retry_after_s=held
        )
    user = authenticate(request, username=username, password=password)
    if not isinstance(user, User):
        throttle.failed(request, username)
        note_security("sign-in refused", about=known, request=request)
        raise Problem(401, "Not signed in", _WRONG)
    if has_second_factor(user):
        _ask_for_code(request, user, code)
    throttle.succeeded(request, username)
    login(request, user)
    sessions.begin(request)
    note_security("signed in", by=user, request=request)
    return user


def sign_out(request: HttpRequest) -> None:
    """End the session of this browser."""
    if isinstance(request.user, User):
        note_security("signed out", by=request.user, request=request)
    logout(request)


def _ask_for_code(request: HttpRequest, user: User, code: str) -> None:
    if not code.strip():
        raise Problem(401, "A code is asked for", "Type the code that your device shows now.", second_factor=True)
    how = check_code(user, code)
    if not how:
        throttle.failed(request, user.username)
        note_security("sign-in refused", about=user, request=request, second_factor=True)
        raise Problem(401, "Not signed in", "This code is wrong, or was used already.", second_factor=True)
    if how == "recovery":
        note_security("recovery code used", by=user, request=request)
