"""Putting a typed figure right, and how the readings of a row are taken."""

from django.db import transaction

from nomothet.core.readings import read_readings
from nomothet.server.feed.commands import announce
from nomothet.server.intake.typing_in.looking import check_method
from nomothet.server.passes.commands import announce_pass, stamp
from nomothet.server.passes.models import Figure, Pass, Remark
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Test
from nomothet.server.reviews.shown import LOWS


def correct(user: User, owner: Pass, metric: str, text: str, reason: str) -> None:
    """Put a typed figure right; what it was stays in the pass's remarks."""
    require(user, Act.RECORD)
    with transaction.atomic():
        figure = Figure.objects.select_for_update().filter(owner=owner, metric=metric).first()
        if figure is None or figure.obtained != "typed":
            raise unusable("Only a figure that was typed in can be put right; a captured one is set aside instead.")
        if not reason.strip():
            raise unusable("Say why it is put right.", field="reason")
        # What is typed plainly is as exact as the readings of its row are, even where it was "about" before.
        precision = figure.half_width if figure.half_width is not None else _of_row(owner, metric)
        readings = read_readings(text, figure.unit, precision=precision)
        if len(readings) != 1 or readings[0].value is None:
            raise unusable("One figure is needed.", field="text")
        before = f"{figure.value:g} {figure.unit}".strip()
        reading, value = readings[0], readings[0].value
        figure.value, figure.bound, figure.half_width, figure.step = (
            value,
            reading.bound,
            reading.half_width,
            reading.step,
        )
        figure.save(update_fields=["value", "bound", "half_width", "step"])
        words = f"{before} is now {value:g} {figure.unit}".strip()
        Remark.objects.create(owner=owner, act="corrected", reason=f"{words}: {reason.strip()}"[:300], by=user)
        announce_pass(owner)


def _of_row(owner: Pass, metric: str) -> float | None:
    """The precision of a row's readings, by the metric as it is stored or shown."""
    shown = next((low for low in LOWS if metric.startswith(low)), metric)
    held: float | None = owner.test.readings.get(shown, {}).get("half_width")
    return held


def remember_method(
    user: User, test: Test, metric: str, method: str, half_width: float | None, *, everywhere: bool = False
) -> None:
    """How the readings of a row are taken, from now on; `everywhere` is for all rows of the review that show this
    metric and were not told otherwise."""
    require(user, Act.RECORD)
    check_method(method, half_width)
    with transaction.atomic():
        told = []
        for one in Test.objects.select_for_update().filter(review=test.review_id):
            wanted = one.pk == test.pk or (everywhere and metric in one.shown and metric not in one.readings)
            if wanted:
                one.readings = {**one.readings, metric: {"method": method, "half_width": half_width}}
                one.save(update_fields=["readings"])
                told.append(one.pk)
        stamp(Test.objects.filter(pk__in=told))
        announce("review", review=test.review_id)
