"""What was changed about how somebody signs in, told to them when they come next (ASVS 4.0, 2.2.3)."""

from django.db.models import Q
from django.http import HttpRequest
from django.utils import timezone

from nomothet.server.people.models import SecurityEvent, User
from nomothet.server.people.sessions import begun_at
from nomothet.words.signing_in import CHANGED

_MOST = 20


def untold(user: User, request: HttpRequest) -> list[SecurityEvent]:
    """What was changed about how somebody signs in since they were last told, before this session or by somebody else.

    The latest first.
    """
    began = begun_at(request) or timezone.now()
    found = SecurityEvent.objects.filter(kind__in=CHANGED).filter(Q(about=user) | Q(by=user, about=None))
    found = found.filter(Q(at__lt=began) | ~Q(by=user))
    if user.told_until:
        found = found.filter(at__gt=user.told_until)
    # Setting the password of an invitation is how an account begins.
    return [one for one in found[:_MOST] if one.values.get("link") != "invitation"]


def tell(user: User) -> None:
    """They know of all that was changed until now."""
    user.told_until = timezone.now()
    user.save(update_fields=["told_until"])
