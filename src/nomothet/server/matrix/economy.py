"""The Economy lens: power, energy and work per watt of every cell, against the baseline (method 14)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from nomothet.core.compare import compare_with_baseline
from nomothet.core.economy import POWER_SOURCES, work_per_watt
from nomothet.core.errors import BadSample
from nomothet.core.notes import note
from nomothet.core.passes import centre
from nomothet.core.units import conversion, unit_named
from nomothet.formats.words import Metric
from nomothet.server.evidence.values import Values
from nomothet.server.matrix.lens import Context, Lens, LensResults, Shared
from nomothet.server.matrix.samples import SAMPLES, Samples
from nomothet.server.reviews.models import Test
from nomothet.server.reviews.shown import metric_of
from nomothet.server.workloads.models import Kind
from nomothet.words import comparisons, say


@dataclass(frozen=True)
class EconomyCell:
    """Of a cell: mean power in W, energy of a pass in J, and its work per watt, with the comparison to the baseline.

    `why_not` says what is missing where there is no work per watt.
    """

    n: int
    mean_w: float | None
    # Over what the configuration draws while it does nothing; None where that is not known.
    over_idle_w: float | None
    energy_j: float | None
    per_watt: float | None
    better: float | None
    better_low: float | None
    better_high: float | None
    told: str
    interval: str
    verdict: str
    why_not: str
    # The work per watt of each pass, for what is compared further.
    values: list[float] = field(default_factory=list)


@dataclass(frozen=True)
class SourceShape:
    """Where power can be told: a sensor, or a row in watts."""

    key: str
    words: str


@dataclass(frozen=True)
class EconomyRow:
    """A test by column id. `source` is where the power is told; sources are never mixed."""

    test: int
    source: str
    source_words: str
    # Where else its power is told.
    sources: list[SourceShape]
    # The unit of work per watt: "fps/W", "points/W"; "1/kJ" for jobs that are timed.
    per_unit: str
    is_time: bool
    cells: dict[str, EconomyCell]
    why_not: str


def _build(context: Context, test: Test, results: LensResults) -> EconomyRow:
    samples, baseline = results.of(SAMPLES), context.shared.baseline
    metric = metric_of(test, test.shown[0], context.review.low_definition) if test.shown else None
    typed = _typed(context, test)
    offered = [*((key, POWER_SOURCES[key]) for key in POWER_SOURCES if key in samples.power), *typed]
    source = _source(test, samples, [key for key, _ in offered])
    words = dict(offered).get(source, "")
    sources = [SourceShape(*one) for one in offered]
    if metric is None or metric.scale != "ratio" or metric.direction == "neither":
        return EconomyRow(test.pk, source, words, sources, "", False, {}, say(note("economy_no_rate")))
    is_time = metric.direction == "lower"
    drawn = _drawn(context, test, samples, source)
    values = context.evidence.values.get((test.pk, metric.key), {})
    found = {
        str(column): _cell(
            _of_column(values.get(column)),
            drawn.get(column, {}),
            context.shared.idle_w.get((column, source)) if source else None,
            off=context.shared.idle_off,
            is_time=is_time,
        )
        for column in context.shared.labels
        if column in values or column in drawn
    }
    compared = _compared(found, str(baseline), context.review.margin)
    unit = "1/kJ" if is_time else f"{metric.unit or metric.label}/W"
    return EconomyRow(test.pk, source, words, sources, unit, is_time, compared, "" if source else say(note("no_power")))


def _typed(context: Context, test: Test) -> list[tuple[str, str]]:
    """Rows in watts: what somebody read off a meter."""
    return [
        (shown, metric.label)
        for shown in test.shown
        if _in_watts(metric := metric_of(test, shown, context.review.low_definition))
    ]


def _in_watts(metric: Metric) -> bool:
    return conversion(unit_named(metric.unit), "W") is not None


def _source(test: Test, samples: Samples, offered: Sequence[str]) -> str:
    """What was chosen, else the source that most cells have."""
    if test.power in offered:
        return test.power
    return max(offered, key=lambda key: len(samples.power.get(key) or samples.metrics.get(key, {})), default="")


def _drawn(
    context: Context, test: Test, samples: Samples, source: str
) -> dict[int, dict[int, tuple[float, float | None]]]:
    """By column and pass, mean power and energy; what was typed has the energy of the pass's own length, unknown."""
    if source in samples.power:
        return {
            int(column): {one.number: (one.mean_w, one.energy_j) for one in found}
            for column, found in samples.power[source].items()
        }
    if not source:
        return {}
    metric = metric_of(test, source, context.review.low_definition)
    turned = conversion(unit_named(metric.unit), "W")
    cells = context.evidence.values.get((test.pk, metric.key), {})
    if turned is None:
        return {}
    return {
        column: {number: (turned.of(value), None) for number, value in values.by_pass().items()}
        for column, values in cells.items()
    }


def _of_column(values: Values | None) -> Mapping[int, float]:
    return {} if values is None or any(values.thin) else values.by_pass()


def _cell(
    rates: Mapping[int, float],
    drawn: Mapping[int, tuple[float, float | None]],
    idle: float | None,
    *,
    off: bool,
    is_time: bool,
) -> EconomyCell:
    taken = idle if off and idle is not None else 0.0
    watts = [mean - taken for mean, _ in drawn.values()]
    energies = []
    for number, (mean, energy) in drawn.items():
        # A job that was timed with watts read off has used both together.
        whole = energy if energy is not None else mean * rates[number] if is_time and number in rates else None
        if whole is not None and mean:
            energies.append(whole * (mean - taken) / mean)
    pairs = [(rates[number], mean - taken) for number, (mean, _) in drawn.items() if number in rates]
    work = [one for rate, mean in pairs if (one := work_per_watt(rate, mean, is_time=is_time)) is not None]
    work = [1000 * one for one in work] if is_time else work
    mean_w = sum(watts) / len(watts) if watts else None
    why = ""
    if not drawn:
        why = say(note("no_power"))
    elif not work:
        why = say(note("no_work")) if not pairs else say(note("no_work_over_idle"))
    return EconomyCell(
        n=len(work) or len(watts),
        mean_w=mean_w,
        over_idle_w=None if idle is None or mean_w is None else mean_w - (0.0 if off else idle),
        energy_j=sum(energies) / len(energies) if energies else None,
        per_watt=centre(work) if work else None,
        better=None,
        better_low=None,
        better_high=None,
        told="",
        interval="",
        verdict="",
        why_not=why,
        values=work,
    )


def _compared(cells: Mapping[str, EconomyCell], baseline: str, margin: float) -> dict[str, EconomyCell]:
    values = {column: cell.values for column, cell in cells.items() if cell.values}
    try:
        found = compare_with_baseline(values, baseline, margin=margin)
    except BadSample:
        return dict(cells)
    made = dict(cells)
    for column, one in found.items():
        own = cells[column]
        low, high = one.low, one.high
        made[column] = EconomyCell(
            own.n, own.mean_w, own.over_idle_w, own.energy_j, own.per_watt,
            100 * (one.effect - 1),
            None if low is None else 100 * (low - 1),
            None if high is None else 100 * (high - 1),
            comparisons.change_words(one, "", ratio=True),
            comparisons.interval_words(one, "", ratio=True),
            one.verdict, own.why_not, own.values,
        )  # fmt: skip
    return made


def _depends(shared: Shared, test: Test) -> object:
    idle = sorted((column, source, watts) for (column, source), watts in shared.idle_w.items())
    return (test.power, [] if test.workload.kind == Kind.IDLE else idle, shared.idle_off and bool(idle))


ECONOMY = Lens("economy", EconomyRow, _build, needs=(SAMPLES,), depends=_depends)
