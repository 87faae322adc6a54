"""Figures that people type in: looked at first, then stored as passes of their cells; never silently, never as zero."""

import uuid
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.core.errors import BadQuantity
from nomothet.core.noise import pooled_noise
from nomothet.core.readings import READING_METHODS, Known, Reading, plausibility, read_readings
from nomothet.formats.words import METHOD_VERSION, Metric
from nomothet.server.docket.commands import next_number
from nomothet.server.feed.commands import announce
from nomothet.server.passes.commands import announce_pass, stamp
from nomothet.server.passes.models import Figure, Gap, Origin, Pass, Remark
from nomothet.server.passes.noise import borrowed_noises
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.shown import metric_of

MOST_CELLS = 2000
# Test, column and number of a pass.
_Place = tuple[int, int, int]
_ROLES = {"average_fps": "average", "lowest_second_fps": "minimum"}


@dataclass(frozen=True)
class Typed:
    """What somebody typed for one cell and metric, and how the reading was come by."""

    test: int
    column: int
    metric: str
    text: str
    method: str = ""
    half_width: float | None = None


@dataclass(frozen=True)
class Landing:
    """Where one reading would go: the number of the pass, and whether that pass is there already."""

    reading: Reading
    number: int
    new: bool
    warnings: list[str]


@dataclass(frozen=True)
class Looked:
    """What typed text would become, or why it cannot be taken."""

    typed: Typed
    unit: str = ""
    landings: list[Landing] = field(default_factory=list)
    error: str = ""
    # The row was never told how its readings are come by.
    asks_method: bool = False


@dataclass
class _Slot:
    """A pass of a cell, on record or about to be made, with its figures by metric."""

    number: int
    figures: dict[str, float]
    joinable: bool
    kept: bool
    owner: Pass | None = None


class _Cells:
    """Tests, columns and passes of a review, read once for a whole block; what lands is noted as it lands."""

    def __init__(self, review: Review, typed: Sequence[Typed]) -> None:
        self.review = review
        self.tests = {test.pk: test for test in review.tests.select_related("workload", "review")}
        self.columns = {column.pk: column for column in review.columns.all()}
        self.slots: dict[tuple[int, int], list[_Slot]] = {}
        wanted = {one.test for one in typed}
        found = Pass.objects.filter(test__in=wanted).exclude(whole_at=None).prefetch_related("figures")
        for owner in found.order_by("number", "started_at"):
            kept = owner.outcome == "completed" and not owner.set_aside
            joinable = kept and owner.origin == Origin.TYPED and not owner.attempts
            figures = {figure.metric: figure.value for figure in owner.figures.all()}
            slot = _Slot(owner.number, figures, joinable, kept, owner)
            self.slots.setdefault((owner.test_id, owner.column_id), []).append(slot)
        self._next: dict[tuple[int, int], int] = {}
        self._borrowed: dict[tuple[int, str], float | None] = {}

    def values(self, test: int, column: int, metric: str) -> list[float]:
        """Values on record; what is only about to be stored is not held against itself."""
        slots = self.slots.get((test, column), [])
        return [slot.figures[metric] for slot in slots if slot.kept and slot.owner and metric in slot.figures]

    def next_number(self, test: Test, column: Column) -> int:
        """A number for a pass about to be made."""
        cell = (test.pk, column.pk)
        if cell not in self._next:
            self._next[cell] = next_number(test, column)
        self._next[cell] += 1
        return self._next[cell] - 1

    def spread(self, test: Test, metric: Metric) -> float | None:
        """Noise of the row, or of earlier reviews where the row has none."""
        cells = [self.values(test.pk, column, metric.key) for column in self.columns]
        if metric.scale == "ratio":
            cells = [[value for value in cell if value > 0] for cell in cells]
        noise = pooled_noise(cells, metric.scale)
        if noise.source != "unknown":
            return noise.sd
        key = (test.workload_id, metric.key)
        if key not in self._borrowed:
            found = borrowed_noises([(*key, metric.scale)], self.review).get(key)
            self._borrowed[key] = found.sd if found else None
        return self._borrowed[key]


def look(review: Review, typed: Sequence[Typed]) -> list[Looked]:
    """What each cell's text would become, with plausibility warnings; stores nothing."""
    if len(typed) > MOST_CELLS:
        raise unusable(f"A block may have {MOST_CELLS} cells at most.")
    cells = _Cells(review, typed)
    return [_look(cells, one) for one in typed]


def store(user: User, review: Review, batch: uuid.UUID, typed: Sequence[Typed]) -> list[Looked]:
    """Store typed figures, all or none. Sending the same batch again changes nothing."""
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = Review.objects.select_for_update().get(pk=review.pk)
        cells = _Cells(locked, typed)
        looked = [_look(cells, one) for one in typed]
        if _is_stored(batch):
            return looked
        wrong = next((one for one in looked if one.error or one.asks_method), None)
        if wrong is not None:
            reason = wrong.error or "Say how this row's readings are come by, and how exact they are."
            raise unusable(
                f"{reason} Nothing was stored.",
                test=wrong.typed.test,
                column=wrong.typed.column,
                metric=wrong.typed.metric,
                field="method" if not wrong.error else "text",
            )
        made: dict[_Place, Pass] = {}
        for one in looked:
            _store_one(user, cells, one, batch, made)
        stamp(review.tests.all())
        announce("pass", review=review.pk)
        announce("docket", review=review.pk)
    return looked


def take_back_batch(user: User, review: Review, batch: uuid.UUID) -> None:
    """Undo what was just typed: its passes are set aside, its figures on other passes are taken off with a remark."""
    require(user, Act.RECORD)
    with transaction.atomic():
        Review.objects.select_for_update().get(pk=review.pk)
        figures = list(Figure.objects.filter(batch=batch, owner__test__review=review).select_related("owner"))
        own = {owner.pk: owner for owner in Pass.objects.filter(test__review=review, batch=batch)}
        for figure in figures:
            if figure.owner_id not in own:
                Remark.objects.create(
                    owner=figure.owner, act="corrected", reason=f"{figure.metric} {figure.value:g} taken back", by=user
                )
                figure.delete()
        for owner in own.values():
            if not owner.set_aside:
                owner.set_aside = True
                owner.save(update_fields=["set_aside"])
                Remark.objects.create(owner=owner, act="set_aside", reason="typing was taken back", by=user)
        Gap.objects.filter(batch=batch, test__review=review).delete()
        stamp(review.tests.all())
        announce("pass", review=review.pk)


def correct(user: User, owner: Pass, metric: str, text: str, reason: str) -> None:
    """Put a typed figure right; what it was stays in the pass's remarks."""
    require(user, Act.RECORD)
    with transaction.atomic():
        figure = Figure.objects.select_for_update().filter(owner=owner, metric=metric).first()
        if figure is None or figure.obtained != "typed":
            raise unusable("Only a figure that was typed in can be put right; a captured one is set aside instead.")
        if not reason.strip():
            raise unusable("Say why it is put right.", field="reason")
        readings = read_readings(text, figure.unit)
        if len(readings) != 1 or readings[0].value is None:
            raise unusable("One figure is needed.", field="text")
        before = f"{figure.value:g} {figure.unit}".strip()
        value = readings[0].value
        keeps = readings[0].half_width == 0 and not readings[0].bound and figure.half_width is not None
        figure.value, figure.bound = value, readings[0].bound
        figure.half_width = figure.half_width if keeps else readings[0].half_width
        figure.save(update_fields=["value", "bound", "half_width"])
        words = f"{before} is now {value:g} {figure.unit}".strip()
        Remark.objects.create(owner=owner, act="corrected", reason=f"{words}: {reason.strip()}"[:300], by=user)
        announce_pass(owner)


def remember_method(user: User, test: Test, metric: str, method: str, half_width: float | None) -> None:
    """How the readings of a row are come by, from now on."""
    require(user, Act.RECORD)
    _check_method(method, half_width)
    with transaction.atomic():
        locked = Test.objects.select_for_update().get(pk=test.pk)
        locked.readings = {**locked.readings, metric: {"method": method, "half_width": half_width}}
        locked.save(update_fields=["readings"])
        stamp(Test.objects.filter(pk=test.pk))
        announce("review", review=test.review_id)


def _check_method(method: str, half_width: float | None) -> None:
    if method not in READING_METHODS:
        raise unusable(f"A reading is come by in one of these ways: {', '.join(READING_METHODS)}.", field="method")
    if half_width is not None and not 0 <= half_width < 1e9:
        raise unusable("A precision is a half-width from 0, in the row's unit.", field="half_width")


def _look(cells: _Cells, typed: Typed) -> Looked:
    test, column = cells.tests.get(typed.test), cells.columns.get(typed.column)
    if test is None or column is None:
        return Looked(typed, error="This cell is not in the review any more; reload the matrix.")
    if typed.metric not in test.shown:
        return Looked(typed, error=f"This test does not show {typed.metric}.")
    metric = metric_of(test, typed.metric, cells.review.low_definition)
    known = test.readings.get(typed.metric, {})
    method = typed.method or known.get("method", "")
    half_width = typed.half_width if typed.method else known.get("half_width")
    try:
        if method:
            _check_method(method, half_width)
        # Until a row's method is known, what is typed plainly is looked at as exact.
        readings = read_readings(typed.text, metric.unit, precision=half_width if method else 0.0)
    except BadQuantity as error:
        return Looked(typed, metric.unit, error=str(error))
    if metric.scale == "ratio" and any(one.value is not None and one.value <= 0 for one in readings):
        words = "A figure of this row is over 0. Type a letter for how the pass ended, or - for not run."
        return Looked(typed, metric.unit, error=words)
    landings = _landings(cells, test, column, metric, readings)
    chosen = Typed(typed.test, typed.column, typed.metric, typed.text, method, half_width)
    return Looked(chosen, metric.unit, landings, asks_method=not method)


def _landings(cells: _Cells, test: Test, column: Column, metric: Metric, readings: Iterable[Reading]) -> list[Landing]:
    """Readings of another row of the same pass go onto the passes typed before; the rest become new passes."""
    slots = cells.slots.setdefault((test.pk, column.pk), [])
    waiting = [slot for slot in slots if slot.joinable and metric.key not in slot.figures]
    values, spread = cells.values(test.pk, column.pk, metric.key), cells.spread(test, metric)
    found = []
    for reading in readings:
        if reading.missing:
            found.append(Landing(reading, 0, False, []))
            continue
        joins = waiting.pop(0) if waiting and reading.value is not None else None
        slot = joins or _Slot(cells.next_number(test, column), {}, reading.value is not None, False)
        found.append(Landing(reading, slot.number, joins is None, _warnings(reading, metric, values, spread, slot)))
        if joins is None:
            slots.append(slot)
        if reading.value is not None:
            slot.figures[metric.key] = reading.value
    return found


def _warnings(
    reading: Reading, metric: Metric, values: Sequence[float], spread: float | None, slot: _Slot
) -> list[str]:
    if reading.value is None:
        return []
    beside = slot.figures
    low = next((value for key, value in beside.items() if key.startswith("low_1pct")), None)
    known = Known(values, spread, None, beside.get("average_fps"), low, beside.get("lowest_second_fps"))
    role = _ROLES.get(metric.key, "low" if metric.key.startswith("low_") else "")
    return plausibility(reading.value, metric=role, unit=metric.unit, scale=metric.scale, known=known)


def _is_stored(batch: uuid.UUID) -> bool:
    return (
        Pass.objects.filter(batch=batch).exists()
        or Figure.objects.filter(batch=batch).exists()
        or Gap.objects.filter(batch=batch).exists()
    )


def _store_one(user: User, cells: _Cells, looked: Looked, batch: uuid.UUID, made: dict[_Place, Pass]) -> None:
    typed = looked.typed
    test, column = cells.tests[typed.test], cells.columns[typed.column]
    metric = metric_of(test, typed.metric, cells.review.low_definition)
    for landing in looked.landings:
        reading = landing.reading
        if reading.missing:
            Gap.objects.update_or_create(
                test=test,
                column=column,
                metric=typed.metric,
                defaults={"reason": reading.missing, "by": user, "batch": batch},
            )
            continue
        place = (test.pk, column.pk, landing.number)
        if landing.new:
            made[place] = _new_pass(user, test, column, reading, batch, landing.number)
        owner = made.get(place) or _on_record(cells, place)
        if reading.value is not None:
            _figure(owner, metric, reading, reading.value, typed.method, batch)
            Gap.objects.filter(test=test, column=column, metric=typed.metric).delete()


def _on_record(cells: _Cells, place: _Place) -> Pass:
    test, column, number = place
    slots = cells.slots[test, column]
    return next(slot.owner for slot in slots if slot.number == number and slot.owner is not None)


def _note(reading: Reading) -> str:
    if reading.part is None:
        return "typed in"
    done, whole = reading.part
    return f"typed in; a forecast from {done:g} of {whole:g}, as if all parts were equal"


def _new_pass(user: User, test: Test, column: Column, reading: Reading, batch: uuid.UUID, number: int) -> Pass:
    now = timezone.now()
    return Pass.objects.create(
        id=uuid.uuid5(batch, f"{test.pk}.{column.pk}.{number}"),
        test=test,
        column=column,
        number=number,
        origin=Origin.TYPED,
        outcome=reading.outcome,
        note=_note(reading),
        started_at=now,
        duration_s=0.0,
        whole_at=now,
        brought_by=user,
        environment={},
        batch=batch,
        part={"done": reading.part[0], "whole": reading.part[1]} if reading.part else None,
        method_version=METHOD_VERSION,
    )


def _figure(owner: Pass, metric: Metric, reading: Reading, value: float, method: str, batch: uuid.UUID) -> Figure:
    if Figure.objects.filter(owner=owner, metric=metric.key).exists():
        raise conflict("This pass has got such a figure meanwhile. Nothing was stored; look again.")
    return Figure.objects.create(
        owner=owner,
        metric=metric.key,
        unit=metric.unit,
        direction=metric.direction,
        scale=metric.scale,
        obtained="typed",
        value=value,
        method=method,
        half_width=reading.half_width,
        bound=reading.bound,
        batch=batch,
        method_version=METHOD_VERSION,
    )


def gaps_of(review: Review) -> Mapping[tuple[int, str], Mapping[int, str]]:
    """Why cells have no value, by (test, metric) and column."""
    found: dict[tuple[int, str], dict[int, str]] = {}
    for gap in Gap.objects.filter(test__review=review):
        found.setdefault((gap.test_id, gap.metric), {})[gap.column_id] = gap.reason
    return found


def typed_of(cells: Iterable[Mapping[str, Any]]) -> list[Typed]:
    return [Typed(**cell) for cell in cells]
