"""How many messages may come from one address."""

import hashlib

from django.conf import settings
from django.core.cache import cache
from django.http import HttpRequest

MOST_AN_HOUR = 5
_HOUR_S = 3600


def too_many(request: HttpRequest) -> bool:
    """Whether an address has sent too many messages; each call counts as one. Addresses are kept as digests."""
    address = request.META.get("REMOTE_ADDR", "")
    key = "readers-" + hashlib.sha256(f"{settings.SECRET_KEY}{address}".encode()).hexdigest()[:32]
    cache.add(key, 0, _HOUR_S)
    try:
        return int(cache.incr(key)) > MOST_AN_HOUR
    except ValueError:
        # It was forgotten between the two calls.
        return False
