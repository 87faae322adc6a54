"""Flags of a test's passes and cells on its leading metric (section 2); none of them removes anything."""

from nomothet.core import passes
from nomothet.core.passes import Flags
from nomothet.formats.words import Metric
from nomothet.server.matrix.figures import Evidence, Values
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import metric_of, resolve


def flags_of(review: Review, test: Test, evidence: Evidence) -> tuple[dict[int, dict[int, str]], dict[int, list[str]]]:
    """By column: conspicuous passes by their number, and everything there is to say of the cell."""
    flagged: dict[int, dict[int, str]] = {}
    notes: dict[int, list[str]] = {}
    if not test.shown:
        return flagged, notes
    metric = metric_of(test, test.shown[0], review.low_definition)
    cells = evidence.values.get((test.pk, metric.key), {})
    for column, values in cells.items():
        others = [other.numbers for at, other in cells.items() if at != column]
        found = passes.flags(values.numbers, metric.scale, others=others)
        flagged[column] = _odd_words(values, found, metric)
        notes[column] = [
            *flagged[column].values(),
            *_cell_notes(found, metric),
            *_pass_notes(test.pk, column, evidence, review),
        ]
    return flagged, notes


def _pass_notes(test: int, column: int, evidence: Evidence, review: Review) -> list[str]:
    """Flags on single figures of a cell's passes: a held rate, a thin tail, a run that was too short."""
    notes = []
    held = evidence.values.get((test, "held_fps"), {}).get(column)
    if held is not None:
        notes.append(f"held at {held.numbers[0]:g} fps in {len(held.numbers)} of its passes")
    low = evidence.values.get((test, resolve("low_1pct", review.low_definition)), {}).get(column)
    if low is not None and any(low.thin):
        notes.append("thin tail: too few frames for its 1 % low")
    rising = [one["rise_c_per_min"] for one in evidence.summaries.get((test, column), ()) if "rise_c_per_min" in one]
    if rising:
        notes.append(f"too short: it still warmed up by {max(rising):.1f} °C a minute at its end")
    return notes


def _odd_words(values: Values, found: Flags, metric: Metric) -> dict[int, str]:
    words = {}
    middle = sorted(values.numbers)[len(values.numbers) // 2]
    for at in found.odd:
        if metric.scale == "ratio":
            away = f"{abs(100 * (values.numbers[at] / middle - 1)):.1f} %"
        else:
            away = f"{abs(values.numbers[at] - middle):.3g} {metric.unit}"
        side = "over" if values.numbers[at] > middle else "under"
        cold = "cold first pass, " if found.cold_first else "odd pass, "
        words[values.passes[at]] = f"{cold}{away} {side} the middle one"
    return words


def _cell_notes(found: Flags, metric: Metric) -> list[str]:
    if found.drift is None:
        return []
    unit = "%" if metric.scale == "ratio" else metric.unit
    return [f"drifts by {found.drift.per_pass:+.2g} {unit} a pass"]
