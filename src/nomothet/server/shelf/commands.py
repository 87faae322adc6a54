"""Changing the shelf."""

from collections.abc import Sequence
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.db.models import ProtectedError
from django.utils import timezone

from nomothet.core.parts import KINDS, read_attributes
from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import changed, remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.shapes import plain
from nomothet.server.shelf.models import Part, Price

EDITABLE = ("name", "attributes", "origin", "origin_note", "note")


def add_part(user: User | None, *, kind: str, name: str, attributes: Sequence[Any] = (), **more: Any) -> Part:
    """Put a part on the shelf; without a user it is the demo that does."""
    if user is not None:
        require(user, Act.EDIT_SHELF)
    read = plain(read_attributes(kind, list(attributes)))
    with transaction.atomic():
        _free_name(kind, name)
        part = Part.objects.create(kind=kind, name=name, attributes=read, **more)
        remember(user, "part", part.pk, "added")
        announce("shelf", part=part.pk)
    return part


def edit_part(user: User, part: Part, changes: dict[str, Any]) -> Part:
    """Change fields of a part; the caller has locked it and checked its version."""
    require(user, Act.EDIT_SHELF)
    wanted = {field: changes[field] for field in EDITABLE if field in changes}
    if "attributes" in wanted:
        wanted["attributes"] = plain(read_attributes(part.kind, wanted["attributes"]))
    if "name" in wanted:
        _free_name(part.kind, wanted["name"], but=part.pk)
    before = {field: getattr(part, field) for field in wanted}
    for field, value in wanted.items():
        setattr(part, field, value)
    part.version += 1
    with transaction.atomic():
        part.save()
        remember(user, "part", part.pk, "edited", changed(before, wanted))
        announce("shelf", part=part.pk)
    return part


def duplicate_part(user: User, part: Part) -> Part:
    """A part like another, under the next free name; its prices stay with the first."""
    require(user, Act.EDIT_SHELF)
    number = 2
    while Part.objects.filter(kind=part.kind, name=f"{part.name} ({number})").exists():
        number += 1
    return add_part(
        user,
        kind=part.kind,
        name=f"{part.name} ({number})",
        attributes=part.attributes,
        origin=part.origin,
        origin_note=part.origin_note,
        note=part.note,
    )


def archive_part(user: User, part: Part, archived: bool) -> None:
    """Take a part out of the lists, or bring it back. What refers to it keeps it."""
    require(user, Act.EDIT_SHELF)
    with transaction.atomic():
        Part.objects.filter(pk=part.pk).update(archived_at=timezone.now() if archived else None)
        remember(user, "part", part.pk, "archived" if archived else "brought back")
        announce("shelf", part=part.pk)


def delete_part(user: User, part: Part) -> None:
    """Delete a part that no configuration refers to."""
    require(user, Act.EDIT_SHELF)
    pk = part.pk
    try:
        with transaction.atomic():
            part.delete()
            remember(user, "part", pk, "deleted", {"name": [part.name, None]})
            announce("shelf", part=pk)
    except ProtectedError:
        raise conflict(f"{part.name} is in a configuration and cannot be deleted. Archive it instead.") from None


def add_price(
    user: User | None, part: Part, *, amount: Decimal, currency: str, on: date, basis: str, **more: Any
) -> Price:
    """Note what a part cost on a day."""
    if user is not None:
        require(user, Act.EDIT_SHELF)
    if on > timezone.localdate() + timedelta(days=1):
        raise unusable("A price of a day to come is not known; give the day on which it was seen.", field="on")
    with transaction.atomic():
        price = Price.objects.create(part=part, amount=amount, currency=currency, on=on, basis=basis, **more)
        remember(user, "part", part.pk, "price added", {"price": [None, f"{amount} {currency}, {basis}, {on}"]})
        announce("shelf", part=part.pk)
    return price


def remove_price(user: User, price: Price) -> None:
    """Take back a price that was entered by mistake; the history keeps it."""
    require(user, Act.EDIT_SHELF)
    words = f"{price.amount} {price.currency}, {price.basis}, {price.on}"
    with transaction.atomic():
        remember(user, "part", price.part_id, "price removed", {"price": [words, None]})
        announce("shelf", part=price.part_id)
        price.delete()


def parts_of_inventory(user: User, inventory: dict[str, Any], system: str) -> list[Part]:
    """Parts as a bench has told them, with the source *tool*; one that is on the shelf under its name stays."""
    require(user, Act.EDIT_SHELF)
    told: tuple[tuple[str, str, list[tuple[str, str]]], ...] = (
        ("processor", "processor", [("threads", "logical processors")]),
        ("graphics", "graphics", []),
        ("os_build", "operating system", []),
    )
    parts = []
    with transaction.atomic():
        for kind, key, numbers in told:
            words = str(inventory.get(key, "")).strip()
            if not words or words.startswith("not readable"):
                continue
            attributes = [
                {"key": name, "value": str(inventory[source]), "source": "tool"}
                for name, source in numbers
                if str(inventory.get(source, "")).strip().isdigit()
            ]
            existing = Part.objects.filter(kind=kind, name=words[:120]).first()
            parts.append(
                existing
                or add_part(
                    user, kind=kind, name=words[:120], attributes=attributes, note=f"as told by the bench of {system}"
                )
            )
    return parts


def _free_name(kind: str, name: str, but: int | None = None) -> None:
    if Part.objects.filter(kind=kind, name=name).exclude(pk=but or 0).exists():
        label = KINDS[kind].label
        raise unusable(f"There is a {label} named {name} already; give this one a name of its own.", field="name")
