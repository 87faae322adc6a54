"""Bringing passes in, setting them aside and taking them back."""

import uuid
from typing import Any

from django.db import transaction
from django.db.models import F, QuerySet

from nomothet.core.quantities import has_size
from nomothet.formats.words import METHOD_VERSION, MetricValue
from nomothet.server.feed.commands import announce
from nomothet.server.passes.models import Figure, Pass, Remark
from nomothet.server.passes.signals import pass_changed
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Test


def store_figures(owner: Pass, values: list[MetricValue], obtained: str, method: str = "captured") -> None:
    """Replace the given figures of a pass. One of a size that no quantity has is no figure; its output is kept."""
    owner.figures.filter(metric__in=[value.metric.key for value in values]).delete()
    Figure.objects.bulk_create(
        Figure(
            owner=owner,
            metric=value.metric.key,
            unit=value.metric.unit,
            direction=value.metric.direction,
            scale=value.metric.scale,
            obtained=obtained,
            value=value.value,
            thin=value.thin,
            step=value.step,
            method=method,
            method_version=METHOD_VERSION,
        )
        for value in values
        if has_size(value.value)
    )


def announce_pass(owner: Pass) -> None:
    """Tell that a pass came or changed, and that what was computed of its test is out of date."""
    stamp(Test.objects.filter(pk=owner.test_id))
    announce("pass", review=owner.test.review_id, test=owner.test_id, column=owner.column_id, id=str(owner.pk))
    pass_changed.send(Pass, test=owner.test_id, column=owner.column_id)


def stamp(tests: QuerySet[Test]) -> None:
    """What was computed of these tests is out of date."""
    tests.update(stamp=F("stamp") + 1)


def set_aside(user: User, pass_id: uuid.UUID, reason: str) -> None:
    """Leave a pass out of every figure, with a reason; it stays on record."""
    require(user, Act.SET_ASIDE)
    if not reason.strip():
        raise unusable("Say why this pass is set aside.")
    _mark(user, pass_id, True, "set_aside", reason.strip())


def take_back(user: User, pass_id: uuid.UUID, reason: str = "") -> None:
    """Count a pass again that was set aside."""
    require(user, Act.SET_ASIDE)
    _mark(user, pass_id, False, "taken_back", reason.strip())


def _mark(user: User, pass_id: uuid.UUID, aside: bool, act: str, reason: str) -> None:
    with transaction.atomic():
        owner = Pass.objects.select_for_update().get(pk=pass_id)
        if owner.set_aside == aside:
            state = "set aside already" if aside else "not set aside"
            raise conflict(f"This pass is {state}; somebody may have been faster. Nothing was changed.")
        owner.set_aside = aside
        owner.save(update_fields=["set_aside"])
        Remark.objects.create(owner=owner, act=act, reason=reason, by=user)
        announce_pass(owner)


def manifest_series(series: dict[str, Any]) -> dict[str, Any]:
    """The fields of an announced series that the table keeps."""
    fields = ("name", "kind", "unit", "place", "source", "capacity", "starts_at_s", "size", "sha256")
    return {field: series[field] for field in fields if field in series}
