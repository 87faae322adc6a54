"""Sessions with whose they are, where they were begun, and when they were last used; ended by deleting them."""

from datetime import datetime, timedelta
from typing import Any

from django.conf import settings
from django.contrib.sessions.backends.db import SessionStore as DatabaseStore
from django.http import HttpRequest
from django.utils import timezone

from nomothet.server.people.models import User, Visit

# How often the use of a session is noted.
_NOTED_EVERY_S = 60
_BEGUN, _SEEN, _ADDRESS, _AGENT = "begun_at", "seen_at", "address", "agent"


class SessionStore(DatabaseStore):
    """Sessions in our own table. One ends when it is too old, or was not used for too long."""

    @classmethod
    def get_model_class(cls) -> type[Visit]:
        return Visit

    @staticmethod
    def alive() -> frozenset[str]:
        """The keys of all sessions of somebody who may still sign in; asked for all who follow the feed at once."""
        found = Visit.objects.filter(expire_date__gt=timezone.now(), user__is_active=True)
        return frozenset(found.values_list("session_key", flat=True))

    def create_model_instance(self, data: dict[str, Any]) -> Visit:
        made: Visit = super().create_model_instance(data)  # type: ignore[assignment]
        user = data.get("_auth_user_id")
        made.user_id = int(user) if user else None
        made.address, made.agent = data.get(_ADDRESS, ""), data.get(_AGENT, "")
        made.begun_at, made.seen_at = _time(data.get(_BEGUN)), _time(data.get(_SEEN))
        if made.begun_at and made.seen_at:
            idle = made.seen_at + timedelta(seconds=settings.SESSION_IDLE_S)
            made.expire_date = min(idle, made.begun_at + timedelta(seconds=settings.SESSION_COOKIE_AGE))
        return made


def begin(request: HttpRequest) -> None:
    """Note where a session is begun; called when somebody signs in."""
    now = timezone.now().isoformat()
    request.session.update(
        {
            _BEGUN: now,
            _SEEN: now,
            _ADDRESS: address_of(request),
            _AGENT: request.headers.get("User-Agent", "")[:200],
        }
    )


def begun_at(request: HttpRequest) -> datetime | None:
    """When the session of a request was begun."""
    return _time(request.session.get(_BEGUN))


def note_use(request: HttpRequest) -> None:
    """Note now and then that a session is used."""
    seen = _time(request.session.get(_SEEN))
    if seen is not None and (timezone.now() - seen).total_seconds() > _NOTED_EVERY_S:
        request.session[_SEEN] = timezone.now().isoformat()


def visits_of(user: User) -> "list[Visit]":
    """The sessions of a person that are not over, the latest used first."""
    return list(Visit.objects.filter(user=user, expire_date__gt=timezone.now()).order_by("-seen_at"))


def end_visits(user: User, *, but: str | None = None) -> int:
    """End the sessions of a person, all but one of them if wanted; returns how many."""
    found = Visit.objects.filter(user=user)
    if but:
        found = found.exclude(session_key=but)
    return int(found.delete()[0])


def is_alive(key: str | None) -> bool:
    """Whether a session is still one of somebody who may sign in."""
    return Visit.objects.filter(session_key=key, expire_date__gt=timezone.now(), user__is_active=True).exists()


def address_of(request: HttpRequest) -> str:
    """Where a request comes from."""
    return str(request.META.get("REMOTE_ADDR") or "")[:45]


def _time(text: str | None) -> datetime | None:
    return datetime.fromisoformat(text) if text else None
