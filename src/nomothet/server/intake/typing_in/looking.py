"""What typed text would become: read, placed on passes, and held against what is known."""

from collections.abc import Sequence
from dataclasses import replace

from nomothet.core.errors import BadQuantity
from nomothet.core.readings import READING_METHODS, Known, Reading, plausibility, read_readings
from nomothet.formats.words import Metric
from nomothet.server.intake.typing_in.cells import Cells, Landing, Looked, RunsOf, Slot, Typed, runs_of, typed_metric
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.own_metrics import own_metric
from nomothet.server.reviews.shown import plain_key, run_group, typable
from nomothet.words import says

MOST_CELLS = 2000
_ROLES = {"average_fps": "average", "lowest_second_fps": "minimum"}


def look(review: Review, typed: Sequence[Typed]) -> list[Looked]:
    """What each cell's text would become, with plausibility warnings; stores nothing."""
    if len(typed) > MOST_CELLS:
        raise unusable(f"A block may have {MOST_CELLS} cells at most.")
    cells = Cells(review, typed)
    return [look_at_one(cells, one) for one in typed]


def look_at_one(cells: Cells, typed: Typed) -> Looked:
    test, column = cells.tests.get(typed.test), cells.columns.get(typed.column)
    if test is None or column is None:
        return Looked(typed, error="This cell is not in the review any more; reload the matrix.")
    if typed.metric not in typable(test):
        own = own_metric(test, plain_key(typed.metric))
        if own is not None and own.kind == "worked out":
            return Looked(typed, error=f"{own.label} is worked out of others; type these instead.")
        return Looked(typed, error=f"This test does not show {typed.metric}.")
    metric = typed_metric(test, typed.metric)
    known = test.readings.get(plain_key(typed.metric), {})
    method = typed.method or known.get("method", "")
    # A block brings a method without a precision: the row's holds for the row's own method.
    of_row = typed.half_width is None and method == known.get("method")
    half_width = known.get("half_width") if of_row or not typed.method else typed.half_width
    try:
        if method:
            check_method(method, half_width)
        # Until a row's method is known, what is typed plainly is looked at as exact.
        readings = read_readings(typed.text, metric.unit, precision=half_width if method else 0.0)
    except BadQuantity as error:
        return Looked(typed, metric.unit, error=str(error))
    if metric.scale == "ratio" and any(one.value is not None and one.value <= 0 for one in readings):
        words = "A figure of this row is over 0. Type a letter for how the pass ended, or - for not run."
        return Looked(typed, metric.unit, error=words)
    try:
        landings = _landings(cells, (test, column), typed, metric, readings)
    except BadQuantity as error:
        return Looked(typed, metric.unit, error=str(error))
    chosen = replace(typed, method=method, half_width=half_width)
    # How a pass ended, or that there is none, is no reading.
    reads = any(one.value is not None for one in readings)
    return Looked(chosen, metric.unit, landings, asks_method=reads and not method)


def _landings(
    cells: Cells, cell: tuple[Test, Column], typed: Typed, metric: Metric, readings: Sequence[Reading]
) -> list[Landing]:
    """Readings of another row of the same passes go onto these; the rest become new passes."""
    test, column = cell
    group = run_group(typed.metric)
    slots = cells.slots.setdefault((test.pk, column.pk), [])
    waiting = [slot for slot in slots if slot.joinable and slot.run_group == group and metric.key not in slot.figures]
    # Whoever types a low next to an average means the passes just typed, before those that were captured.
    waiting.sort(key=lambda slot: slot.captured)
    if typed.onto is not None:
        waiting = _only(typed.onto, waiting, metric, readings)
    values, spread = cells.values(test.pk, column.pk, metric.key, group), cells.spread(test, metric)
    found = []
    for at, reading in enumerate(readings):
        if reading.missing:
            found.append(Landing(reading, 0, False, []))
            continue
        if typed.run is not None:
            of = runs_of(typed)
            joins = _of_run(cells, of, typed.run + at, slots, metric) if reading.value is not None else None
        else:
            joins = waiting.pop(0) if waiting and reading.value is not None else None
        number, settles = (joins.number, None) if joins else cells.next_number(test, column)
        slot = joins or Slot(number, {}, reading.value is not None, False, run_group=group)
        rated = cells.rated_mhz(column.pk) if metric.unit in ("MHz", "GHz") else None
        warnings = _warnings(reading, metric, values, spread, slot, rated)
        found.append(Landing(reading, slot.number, joins is None, warnings, settles))
        if joins is None:
            slots.append(slot)
        if typed.run is not None:
            cells.of_run.setdefault((runs_of(typed), typed.run + at), slot)
        if reading.value is not None:
            slot.figures[metric.key] = reading.value
    return found


def _only(number: int, waiting: Sequence[Slot], metric: Metric, readings: Sequence[Reading]) -> list[Slot]:
    """The pass that somebody has named, which takes one figure more."""
    if len(readings) != 1 or readings[0].value is None:
        raise BadQuantity("text", "One figure is needed for this pass.")
    named = [slot for slot in waiting if slot.number == number]
    if not named:
        raise BadQuantity("text", f"Pass {number} takes no {metric.label}: it has one, does not count, or is gone.")
    return named


def _of_run(cells: Cells, of: RunsOf, run: int, slots: Sequence[Slot], metric: Metric) -> Slot | None:
    """The pass of a run: what its other figures went to, else the pass of the cell with that place, where it lacks all
    that the table has; none where the run is a new pass."""
    if (of, run) in cells.of_run:
        held = cells.of_run[of, run]
        if metric.key in held.figures:
            raise BadQuantity("text", f"Run {run} of this cell has two values of {metric.label}; number them apart.")
        return held if held.joinable else None
    passes = [slot for slot in slots if slot.joinable and slot.owner and slot.run_group == of[2]]
    there = passes[run - 1] if run <= len(passes) else None
    return None if there is None or cells.pasted[of] & set(there.figures) else there


def _warnings(
    reading: Reading,
    metric: Metric,
    values: Sequence[float],
    spread: float | None,
    slot: Slot,
    rated_mhz: float | None,
) -> list[str]:
    if reading.value is None:
        return []
    beside = slot.figures
    low = next((value for key, value in beside.items() if key.startswith("low_1pct")), None)
    rated = None if rated_mhz is None else rated_mhz / (1000 if metric.unit == "GHz" else 1)
    known = Known(values, spread, rated, beside.get("average_fps"), low, beside.get("lowest_second_fps"))
    role = _ROLES.get(metric.key, "low" if metric.key.startswith("low_") else "")
    return says(plausibility(reading.value, metric=role, unit=metric.unit, scale=metric.scale, known=known))


def check_method(method: str, half_width: float | None) -> None:
    if method not in READING_METHODS:
        raise unusable(f"A reading is taken in one of these ways: {', '.join(READING_METHODS)}.", field="method")
    if half_width is not None and not 0 <= half_width < 1e9:
        raise unusable("A precision is a half-width from 0, in the row's unit.", field="half_width")
