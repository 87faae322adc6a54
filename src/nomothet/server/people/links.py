"""One-time links, by which somebody sets the first password or a new one."""

import secrets
from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from nomothet.server.people.authentication import digest_of
from nomothet.server.people.models import OneTimeLink, User
from nomothet.server.people.passwords import set_password
from nomothet.server.problems import Problem

VALID = {OneTimeLink.Purpose.INVITATION: timedelta(days=7), OneTimeLink.Purpose.RESET: timedelta(days=1)}


def make_link(user: User, purpose: OneTimeLink.Purpose, by: User | None) -> str:
    """A link's secret, which is told this once; links of before are void."""
    secret = secrets.token_urlsafe(32)
    with transaction.atomic():
        user.links.filter(used_at=None).delete()
        OneTimeLink.objects.create(
            user=user,
            purpose=purpose,
            digest=digest_of(secret),
            made_by=by,
            expires_at=timezone.now() + VALID[purpose],
        )
    return secret


def open_link(secret: str) -> OneTimeLink:
    """The link of a secret.

    Raises
    ------
    Problem
        410, when it is not known, was used or is too old; these are not told apart.
    """
    found = OneTimeLink.objects.select_related("user").filter(digest=digest_of(secret.strip())).first()
    if found is None or found.used_at is not None or found.expires_at < timezone.now() or not found.user.is_active:
        raise Problem(410, "Not valid", "This link was used, is too old or was never made. Ask an admin for another.")
    return found


def use_link(secret: str, password: str) -> OneTimeLink:
    """Set the password of a link, which is used up by that."""
    with transaction.atomic():
        link = OneTimeLink.objects.select_for_update().get(pk=open_link(secret).pk)
        if link.used_at is not None:
            open_link(secret)
        set_password(link.user, password)
        link.used_at = timezone.now()
        link.save(update_fields=["used_at"])
    return link
