"""The security log: signing in, refusals, tokens, roles, publishing, withdrawing, deletions, approvals."""

from datetime import datetime
from typing import Any, Literal

import structlog
from django.db.models import QuerySet
from django.http import HttpRequest

from nomothet.server.people.models import SecurityEvent, User
from nomothet.server.people.sessions import address_of

Kind = Literal[
    "signed in", "sign-in refused", "sign-in held back", "signed out", "sessions ended", "password set",
    "second factor on", "second factor off", "recovery code used", "recovery codes made", "token made",
    "token revoked", "bench token issued", "invited", "reset offered", "role set", "disabled", "enabled",
    "published", "withdrawn", "deleted", "command approved", "approval taken back", "team setting", "exported",
    "erased", "secrets renewed", "begun",
]  # fmt: skip

log = structlog.get_logger(__name__)


def note_security(
    kind: Kind,
    *,
    by: User | None = None,
    about: User | None = None,
    request: HttpRequest | None = None,
    **values: Any,
) -> None:
    """Keep an event, and write it to the log of the server too.

    Parameters
    ----------
    by, about : User, optional
        Who did it, and to whom.
    values : any
        What else is to be known; never a secret.
    """
    address = address_of(request) if request is not None else ""
    SecurityEvent.objects.create(kind=kind, by=by, about=about, address=address, values=values)
    log.info(
        "security", kind=kind, by=by.username if by else None, about=about.username if about else None,
        address=address, **{f"with_{key}": value for key, value in values.items()},
    )  # fmt: skip


def events(before: datetime | None = None) -> QuerySet[SecurityEvent]:
    """The events, the latest first."""
    # Joined with people, the database would sort all of them to give the first.
    found = SecurityEvent.objects.prefetch_related("by", "about")
    return found.filter(at__lt=before) if before else found
