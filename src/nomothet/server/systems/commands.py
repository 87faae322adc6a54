"""Changing systems and benches."""

import hashlib
import secrets
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from itertools import chain, count
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify

from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import changed, remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.people.security import note_security
from nomothet.server.problems import conflict, unusable
from nomothet.server.systems.models import Bench, Configuration, Fitting, System
from nomothet.server.systems.states import SLOT, read_slot_map

# A bench that was not heard for so long has let go of its token.
_SILENT = timedelta(seconds=30)


def token_hash(token: str) -> str:
    """Tokens carry 256 random bits, so one plain hash keeps them as safe as a slow one would."""
    return hashlib.sha256(token.encode()).hexdigest()


EDITABLE = (
    "name", "description", "slot_map", "connectors", "origin", "origin_note", "changes_by", "on_mismatch", "checks",
)  # fmt: skip


def add_system(
    user: User, *, name: str, key: str = "", description: str = "", origin: str = "not said", origin_note: str = ""
) -> System:
    """Add a real system. Its configurations come after, and its bench if it is to have one."""
    require(user, Act.ADD_SYSTEMS)
    with transaction.atomic():
        system = System.objects.create(
            key=key or _free_key(name), name=name, description=description, origin=origin, origin_note=origin_note
        )
        remember(user, "system", system.pk, "added")
        announce("systems", system=system.pk)
    return system


def _free_key(name: str) -> str:
    """A short name for addresses and files that no system has."""
    key = slugify(name)[:40] or "system"
    taken = set(System.objects.filter(key__startswith=key).values_list("key", flat=True))
    return next(one for one in chain([key], (f"{key}-{at}" for at in count(2))) if one not in taken)


def edit_system(user: User, system: System, changes: dict[str, Any]) -> System:
    """Change fields of a system; the caller has locked it and checked its version."""
    require(user, Act.EDIT_SYSTEMS)
    wanted = {field: changes[field] for field in EDITABLE if field in changes}
    if "slot_map" in wanted:
        _check_slots_in_use(system, wanted["slot_map"])
    before = {field: getattr(system, field) for field in wanted}
    for field, value in wanted.items():
        setattr(system, field, value)
    system.version += 1
    with transaction.atomic():
        system.save()
        remember(user, "system", system.pk, "edited", changed(before, wanted))
        announce("systems", system=system.pk)
    return system


def _check_slots_in_use(system: System, slot_map: dict[str, Any]) -> None:
    names = {slot.name for slot in read_slot_map(slot_map).slots}
    for fitting in Fitting.objects.filter(configuration__system=system, part__isnull=False, place__startswith=SLOT):
        name = fitting.place.removeprefix(SLOT)
        if name not in names:
            raise unusable(
                f"{fitting.configuration.title} has a module in slot {name}; move it before the slot goes.",
                field="slot_map",
            )


def archive_system(user: User, system: System, archived: bool) -> None:
    """Take a system out of the lists, or bring it back."""
    require(user, Act.EDIT_SYSTEMS)
    with transaction.atomic():
        System.objects.filter(pk=system.pk).update(archived_at=timezone.now() if archived else None)
        remember(user, "system", system.pk, "archived" if archived else "brought back")
        announce("systems", system=system.pk)


def issue_token(user: User, system: System) -> str:
    """A new token for the bench of a system; the one before stops working."""
    require(user, Act.MANAGE_BENCHES)
    with transaction.atomic():
        remember(user, "system", system.pk, "bench token issued")
        note_security("bench token issued", by=user, system=system.key)
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


def hear(
    bench: Bench,
    inventory: dict[str, Any] | None = None,
    *,
    set_aside: Sequence[Mapping[str, Any]] = (),
    instance: str = "",
    clock: datetime | None = None,
) -> None:
    """Note that a bench has spoken; with an inventory, and what it has set aside, when it has just connected.

    Parameters
    ----------
    clock : datetime, optional
        What its clock shows now.
    instance : str
        Which process it is; the one that has connected last holds the token.
    """
    fields = ["heard_at"]
    bench.heard_at = timezone.now()
    if clock is not None:
        bench.clock_off_s = (clock - bench.heard_at).total_seconds()
        fields.append("clock_off_s")
    if instance and (inventory is not None or bench.instance == instance):
        bench.instance, bench.instance_at = instance, bench.heard_at
        fields += ["instance", "instance_at"]
    if inventory is not None:
        bench.inventory, bench.set_aside = inventory, [dict(one) for one in set_aside]
        fields += ["inventory", "set_aside"]
    with transaction.atomic():
        bench.save(update_fields=fields)
        if inventory is not None:
            announce("systems", system=bench.system_id)


def turn_rival_away(bench: Bench, instance: str) -> bool:
    """Whether another process holds the token of a bench; when that one has fallen silent, this one takes its place."""
    if not instance or not bench.instance or bench.instance == instance:
        return False
    now = timezone.now()
    if bench.instance_at is None or now - bench.instance_at > _SILENT:
        bench.instance, bench.instance_at = instance, now
        bench.save(update_fields=["instance", "instance_at"])
        return False
    with transaction.atomic():
        bench.rival_at = now
        bench.save(update_fields=["rival_at"])
        announce("systems", system=bench.system_id)
    return True


def ask_again(user: User, system: System) -> None:
    """Ask a bench to send once more what it has set aside."""
    require(user, Act.RECORD)
    with transaction.atomic():
        if not Bench.objects.filter(system=system).exclude(set_aside=[]).update(send_again=True):
            raise conflict("Its bench has set nothing aside.")
        remember(user, "system", system.pk, "asked for what was set aside")
        announce("systems", system=system.pk)


def remember_observed(configuration: Configuration, observed: Mapping[str, Any], at: datetime) -> None:
    """What a pass of a configuration has observed; an earlier pass that comes in late overwrites nothing newer.

    The caller is in a transaction.
    """
    if not observed:
        return
    locked = Configuration.objects.select_for_update().get(pk=configuration.pk)
    known = dict(locked.observed)
    for key, value in observed.items():
        if key not in known or datetime.fromisoformat(known[key]["at"]) <= at:
            known[key] = {"value": value, "at": at.isoformat()}
    Configuration.objects.filter(pk=locked.pk).update(observed=known)
