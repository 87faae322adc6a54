"""Saving standings under a name, publishing them, and taking them back."""

import secrets
from collections.abc import Mapping
from typing import Any

from django.core.cache import cache
from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify

from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.people.security import note_security
from nomothet.server.problems import conflict, unusable
from nomothet.server.standings.models import SavedStanding
from nomothet.server.standings.saved.content import content_of, read_query

MOST = 300


def save(user: User, name: str, query: Mapping[str, Any], note: str = "") -> SavedStanding:
    """Keep what somebody looks at under a name, for the team."""
    require(user, Act.FOLLOW_UP)
    if SavedStanding.objects.filter(removed_at=None).count() >= MOST:
        raise unusable(f"{MOST} standings are saved already; take one off first.", field="name")
    with transaction.atomic():
        made = SavedStanding.objects.create(name=name, note=note, query=read_query(query), by=user)
        _tell(user, made, "saved")
    return made


def take_off(user: User, pk: int) -> None:
    """Take a standing off the list; one that is published is withdrawn first."""
    require(user, Act.FOLLOW_UP)
    with transaction.atomic():
        one = _locked(pk)
        if one.slug and one.withdrawn_at is None:
            raise conflict("It is published; withdraw it first, and say why.")
        if one.removed_at is None:
            one.removed_at = timezone.now()
            one.save(update_fields=["removed_at"])
            _tell(user, one, "taken off")


def publish(user: User, pk: int, *, frozen: bool) -> SavedStanding:
    """Give a standing a page for everybody: as it is now for good, or as the results are at each moment."""
    require(user, Act.PUBLISH)
    with transaction.atomic():
        one = _locked(pk)
        one.slug = one.slug or f"{slugify(one.name)[:60] or 'standing'}-{secrets.token_hex(4)}"
        one.frozen, one.content = frozen, content_of(one.query)
        one.published_by, one.published_at = user, timezone.now()
        one.withdrawn_at, one.withdrawn_why = None, ""
        one.save()
        _tell(user, one, "published")
        note_security("published", by=user, record=f"standing {one.slug}")
    cache.delete(page_key(one.slug))
    return one


def withdraw(user: User, pk: int, why: str) -> SavedStanding:
    """Take a public page back; its address says why."""
    require(user, Act.PUBLISH)
    if not why.strip():
        raise unusable("Say why it is withdrawn; readers see it.", field="why")
    with transaction.atomic():
        one = _locked(pk)
        if not one.slug or one.withdrawn_at is not None:
            raise conflict("It is not published.")
        one.withdrawn_at, one.withdrawn_why = timezone.now(), why.strip()
        one.save(update_fields=["withdrawn_at", "withdrawn_why"])
        _tell(user, one, "withdrawn")
        note_security("withdrawn", by=user, record=f"standing {one.slug}")
    cache.delete(page_key(one.slug or ""))
    return one


def page_key(slug: str) -> str:
    """Under which a page that follows the results is kept for a minute."""
    return f"standing-page-{slug}"


def _locked(pk: int) -> SavedStanding:
    return SavedStanding.objects.select_for_update().get(pk=pk)


def _tell(user: User, one: SavedStanding, act: str) -> None:
    remember(user, "saved_standing", one.pk, act, {"name": [None, one.name]})
    announce("standings")
