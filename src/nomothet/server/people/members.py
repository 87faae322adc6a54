"""What admins do with people: invite, set a role, disable, offer a new password, end sessions."""

import re

from django.db import IntegrityError, transaction
from django.http import HttpRequest

from nomothet.server.feed.commands import announce
from nomothet.server.people import second_factor
from nomothet.server.people.links import make_link
from nomothet.server.people.models import OneTimeLink, Role, User
from nomothet.server.people.permissions import Act, require
from nomothet.server.people.security import note_security
from nomothet.server.people.sessions import end_visits
from nomothet.server.problems import conflict, unusable

_USERNAME = re.compile(r"[a-z0-9][a-z0-9_.-]{0,39}")


def invite(admin: User, request: HttpRequest | None, username: str, display_name: str, role: str) -> tuple[User, str]:
    """A person who sets the first password by a link; returns the link's secret too."""
    require(admin, Act.MANAGE_PEOPLE)
    user = new_person(username, display_name, role)
    note_security("invited", by=admin, about=user, request=request, role=role)
    return user, make_link(user, OneTimeLink.Purpose.INVITATION, admin)


def new_person(username: str, display_name: str, role: str) -> User:
    """A person without a password."""
    name = username.strip().lower()
    if not _USERNAME.fullmatch(name):
        raise unusable(
            "A name to sign in with has lower-case letters, digits, dots, hyphens and underscores, 40 at most.",
            field="username",
        )
    if not display_name.strip():
        raise unusable("Say how the person is called.", field="display_name")
    try:
        with transaction.atomic():
            user = User(username=name, display_name=display_name.strip()[:120], role=role)
            user.set_unusable_password()
            user.save()
            announce("people", id=user.pk)
    except IntegrityError:
        raise conflict(f"The name {name} is taken already; choose another.", field="username") from None
    return user


def set_role(admin: User, request: HttpRequest, user: User, role: str) -> None:
    """Another role, from the next request on."""
    require(admin, Act.MANAGE_PEOPLE)
    with transaction.atomic():
        _keep_an_admin(user, is_still=role == Role.ADMIN)
        note_security("role set", by=admin, about=user, request=request, before=user.role, after=role)
        user.role = role
        user.save(update_fields=["role"])
        announce("people", id=user.pk)


def set_active(admin: User, request: HttpRequest, user: User, active: bool) -> None:
    """Let somebody sign in or not; what they did stays under their name. A disabled account has no session left."""
    require(admin, Act.MANAGE_PEOPLE)
    with transaction.atomic():
        _keep_an_admin(user, is_still=active)
        user.is_active = active
        user.save(update_fields=["is_active"])
        if not active:
            end_visits(user)
            user.links.filter(used_at=None).delete()
        note_security("enabled" if active else "disabled", by=admin, about=user, request=request)
        announce("people", id=user.pk)


def offer_reset(admin: User, request: HttpRequest, user: User, *, without_second_factor: bool) -> str:
    """A link for a new password, and an end to all sessions; the second factor is taken off where it was lost."""
    require(admin, Act.MANAGE_PEOPLE)
    if not user.is_active:
        raise conflict(f"{user.display_name} is disabled; enable the account first.")
    with transaction.atomic():
        end_visits(user)
        if without_second_factor:
            second_factor.take_off(user)
            note_security("second factor off", by=admin, about=user, request=request)
        note_security("reset offered", by=admin, about=user, request=request)
        never = not user.has_usable_password()
        announce("people", id=user.pk)
        return make_link(user, OneTimeLink.Purpose.INVITATION if never else OneTimeLink.Purpose.RESET, admin)


def end_sessions(admin: User, request: HttpRequest, user: User) -> int:
    """Sign somebody out everywhere."""
    require(admin, Act.MANAGE_PEOPLE)
    ended = end_visits(user)
    note_security("sessions ended", by=admin, about=user, request=request, count=ended)
    return ended


def _keep_an_admin(user: User, *, is_still: bool) -> None:
    """Somebody must be left who can manage people."""
    admins = User.objects.select_for_update().filter(role=Role.ADMIN, is_active=True)
    if not is_still and user.role == Role.ADMIN and user.is_active and not admins.exclude(pk=user.pk).exists():
        raise conflict(f"{user.display_name} is the only admin who can sign in; make another one first.")
