"""Signing in that fails again and again is held back, by name and by address, for longer each time.

Whether there is such a name is never told: one that nobody has is held back like any other.
"""

import hashlib
import hmac
from datetime import timedelta

from django.conf import settings
from django.db import transaction
from django.db.models import F
from django.http import HttpRequest
from django.utils import timezone

from nomothet.server.people.models import Failures
from nomothet.server.people.sessions import address_of

# So many failures in a row are free, for a name and for an address that several people may share.
FREE_OF_NAME = 5
FREE_OF_ADDRESS = 20
LONGEST_S = 900
# After so long without a failure, counting begins anew.
_FORGOTTEN = timedelta(hours=12)


def wait_s(request: HttpRequest, name: str) -> int:
    """How long this name, or this address, is still held back, in s; 0 for not at all."""
    now = timezone.now()
    waits = [0]
    for key, free in _keys(request, name):
        found = Failures.objects.filter(key=key, last_at__gt=now - _FORGOTTEN).first()
        if found is not None and found.count >= free:
            held = timedelta(seconds=min(LONGEST_S, 2 ** (found.count - free)))
            waits.append(-int((now - found.last_at - held).total_seconds() // 1))
    return max(waits)


def failed(request: HttpRequest, name: str) -> None:
    """Count a failure."""
    now = timezone.now()
    for key, _ in _keys(request, name):
        with transaction.atomic():
            found, made = Failures.objects.select_for_update().get_or_create(key=key, defaults={"last_at": now})
            again = 1 if made or found.last_at < now - _FORGOTTEN else F("count") + 1
            Failures.objects.filter(pk=found.pk).update(count=again, last_at=now)


def succeeded(request: HttpRequest, name: str) -> None:
    """Forget the failures of a name; those of an address stay, as others may be behind it."""
    Failures.objects.filter(key=_keys(request, name)[0][0]).delete()


def _keys(request: HttpRequest, name: str) -> list[tuple[str, int]]:
    return [
        (digest(f"name {name.strip().lower()}"), FREE_OF_NAME),
        (digest(f"address {address_of(request)}"), FREE_OF_ADDRESS),
    ]


def digest(text: str) -> str:
    """A text as it is kept: nobody without this installation's secret can tell which one it was."""
    return hmac.new(settings.SECRET_KEY.encode(), text.encode("utf-8", "replace"), hashlib.sha256).hexdigest()
