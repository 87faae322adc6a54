"""Changing systems and benches."""

import hashlib
import secrets
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.server.feed.commands import announce
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.systems.models import Bench, System


def token_hash(token: str) -> str:
    """Tokens carry 256 random bits, so one plain hash keeps them as safe as a slow one would."""
    return hashlib.sha256(token.encode()).hexdigest()


def add_system(user: User, *, key: str, name: str, description: str = "") -> System:
    """Add a real system. Its configurations and bench come after."""
    require(user, Act.MANAGE_BENCHES)
    with transaction.atomic():
        system = System.objects.create(key=key, name=name, description=description)
        announce("systems", system=system.pk)
    return system


def issue_token(user: User, system: System) -> str:
    """A new token for the bench of a system; the one before stops working."""
    require(user, Act.MANAGE_BENCHES)
    return _issue(system)


def _issue(system: System) -> str:
    token = secrets.token_urlsafe(32)
    with transaction.atomic():
        Bench.objects.update_or_create(
            system=system, defaults={"token_hash": token_hash(token), "issued_at": timezone.now()}
        )
        announce("systems", system=system.pk)
    return token


def issue_demo_token(system: System) -> str:
    """A token for a bench that ./start runs itself, beside the server."""
    return _issue(system)


def hear(bench: Bench, inventory: dict[str, Any] | None = None) -> None:
    """Note that a bench has spoken; with an inventory when it has just connected."""
    fields = ["heard_at"]
    bench.heard_at = timezone.now()
    if inventory is not None:
        bench.inventory = inventory
        fields.append("inventory")
    with transaction.atomic():
        bench.save(update_fields=fields)
        if inventory is not None:
            announce("systems", system=bench.system_id)
