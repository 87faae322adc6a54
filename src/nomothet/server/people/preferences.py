"""How somebody likes pages to be. They follow the person from machine to machine."""

from collections.abc import Sequence
from typing import Any

from nomothet.server.people.models import Preferences, User

MOST_HINTS = 100
# Of what somebody can be told by e-mail: that they were named, a pass failed, a docket stopped, a follow-up is due.
MAIL_KINDS = ("named", "failed", "stopped", "due")


def preferences_of(user: User) -> Preferences:
    """What somebody has chosen, or what holds without a choice."""
    return Preferences.objects.filter(user=user).first() or Preferences(user=user)


def set_preferences(
    user: User, *, hints_read: Sequence[str] | None = None, email: str | None = None, **chosen: Any
) -> Preferences:
    """Change what is given, and keep the rest. A hint that was read stays so, whichever page says it."""
    if email is not None:
        user.email = email
        user.save(update_fields=["email"])
    preferences, _ = Preferences.objects.get_or_create(user=user)
    for name, value in chosen.items():
        setattr(preferences, name, value)
    if hints_read is not None:
        known = [*preferences.hints_read, *hints_read] if hints_read else []
        preferences.hints_read = list(dict.fromkeys(known))[:MOST_HINTS]
    preferences.save()
    return preferences
