"""The first admin of an empty installation, made in the browser by whoever has the address that ./start has printed."""

import secrets
from hmac import compare_digest

from django.db import transaction

from nomothet.server.people.authentication import digest_of
from nomothet.server.people.members import new_person
from nomothet.server.people.models import Role, Team, User
from nomothet.server.people.passwords import set_password
from nomothet.server.people.security import note_security
from nomothet.server.problems import Problem


def offer_beginning() -> str | None:
    """A secret by which the first admin is made, told this once; None where somebody may sign in already."""
    if User.objects.exists():
        return None
    secret = secrets.token_urlsafe(32)
    team = Team.settings()
    team.begin_digest = digest_of(secret)
    team.save()
    return secret


def may_begin(secret: str) -> None:
    """Look at a secret.

    Raises
    ------
    Problem
        410 when it is not the one that was offered last, or somebody has begun already.
    """
    _check(secret, Team.settings())


def begin_installation(secret: str, *, team: str, username: str, display_name: str, password: str) -> User:
    """Name the team and make its first admin, once."""
    with transaction.atomic():
        own = Team.objects.select_for_update().first() or Team()
        _check(secret, own)
        user = new_person(username, display_name, Role.ADMIN)
        set_password(user, password)
        own.name, own.begin_digest = team.strip(), ""
        own.save()
        note_security("begun", by=user, about=user, role=Role.ADMIN.value)
    return user


def _check(secret: str, team: Team) -> None:
    known = team.begin_digest and compare_digest(team.begin_digest, digest_of(secret.strip()))
    if not known or User.objects.exists():
        raise Problem(
            410,
            "Not valid",
            "This address was used, or ./start has printed another one since. Whoever started it can start it again.",
        )
