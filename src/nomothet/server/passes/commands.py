"""Bringing passes in, setting them aside and taking them back."""

import uuid
from typing import Any

from django.db import transaction

from nomothet.core.frames import Floats, cut, frame_figures
from nomothet.formats.series import unpack
from nomothet.formats.words import METHOD_VERSION, MetricValue, frame_values
from nomothet.server.feed.commands import announce
from nomothet.server.passes.models import Figure, Pass, Remark
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Test


def computed_values(test: Test, frame_times_ms: Floats) -> list[MetricValue]:
    """The figures of section 1 with the test's cuts; reads nothing from the database but what the test holds."""
    figures = frame_figures(
        cut(frame_times_ms, test.skip_s, test.end_cut_s),
        target_fps=test.review.target_fps,
        declared_cap_fps=test.settings.get("frame_cap_fps"),
    )
    return frame_values(figures)


def store_frame_figures(owner: Pass, frames_blob: bytes) -> None:
    """Compute the figures of a frame series and store them with the method's version."""
    store_figures(owner, computed_values(owner.test, unpack(frames_blob)["frame_ms"].astype(float)), "computed")


def store_figures(owner: Pass, values: list[MetricValue], obtained: str, method: str = "captured") -> None:
    """Replace the given figures of a pass."""
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
            method=method,
            method_version=METHOD_VERSION,
        )
        for value in values
    )


def announce_pass(owner: Pass) -> None:
    announce("pass", review=owner.test.review_id, test=owner.test_id, column=owner.column_id, id=str(owner.pk))


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
