"""Fitting parts on the configurations of a review where they are planned."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction

from nomothet.core.memory import first_slots
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.models import Review
from nomothet.server.shelf.models import Part
from nomothet.server.systems.configurations import edit_configuration, own_fitted
from nomothet.server.systems.models import Configuration
from nomothet.server.systems.states import SLOT, Fit, read_slot_map


def fit_on_columns(user: User, review: Review, place: str, parts: Mapping[int, int | None]) -> int:
    """Put parts at a place of the configurations, all or none; None empties it. Returns how many were changed.

    A memory kit goes into the slots that its board fills first. A configuration with passes is refused, as its passes
    were run with what it has.
    """
    require(user, Act.EDIT_REVIEW)
    chosen = Part.objects.in_bulk({pk for pk in parts.values() if pk is not None})
    count = 0
    with transaction.atomic():
        for column in review.columns.select_related("configuration__system", "configuration__base"):
            if column.pk not in parts:
                continue
            pk = parts[column.pk]
            part = None if pk is None else chosen.get(pk)
            if pk is not None and part is None:
                raise unusable("A part is not on the shelf any more; reload and choose again.", field="parts")
            if column.passes.exists():
                raise conflict(
                    f"{column.label} has passes, which were run with what it has. Add a configuration that is like it "
                    "but for this part. Nothing was changed."
                )
            configuration = column.configuration
            fitted = {key: _given(fit) for key, fit in own_fitted(configuration).items()}
            stored = edit_configuration(user, configuration, {"fitted": fitted | _places(configuration, place, part)})
            if stored.pk != column.configuration_id:
                column.configuration = stored
                column.save(update_fields=["configuration"])
            count += 1
        if count:
            touch(user, review, "parts fitted", {place: [None, count]})
    return count


def _places(configuration: Configuration, place: str, part: Part | None) -> dict[str, Any]:
    """What goes where: a kit's modules into slots, where the board has any; its other slots are empty then."""
    board = read_slot_map(configuration.system.slot_map)
    if place != "memory_kit" or not board.slots:
        return {place: None if part is None else {"part": part.pk}}
    count = part.value("modules") if part is not None else 0
    modules = count if isinstance(count, int) else 1
    if modules > len(board.slots):
        raise unusable(
            f"{configuration.system.name} has {len(board.slots)} slots, too few for this kit.", field="parts"
        )
    filled = first_slots(board, modules)
    wanted: dict[str, Any] = {f"{SLOT}{slot.name}": None for slot in board.slots}
    for number, name in enumerate(filled, 1):
        wanted[f"{SLOT}{name}"] = {"part": part.pk if part is not None else 0, "module": number}
    return wanted


def _given(fit: Fit | None) -> dict[str, Any] | None:
    return None if fit is None else {"part": fit.part.pk, "module": fit.module}
