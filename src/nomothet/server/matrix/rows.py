"""The rows of the matrix: a test's metric over all configurations, with its comparisons."""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from nomothet.core import compare, derived, passes
from nomothet.core.compare_placed import PlacedComparison, compare_placed
from nomothet.core.errors import BadSample
from nomothet.core.margins import margin_of
from nomothet.core.noise import pooled_noise, reading_error
from nomothet.core.notes import Note, note
from nomothet.core.rounds import Placed
from nomothet.core.target import Target
from nomothet.formats.words import Metric
from nomothet.server.evidence.figures import Evidence
from nomothet.server.evidence.idle import without_idle
from nomothet.server.evidence.values import Values
from nomothet.server.matrix.lens import Context, Gaps, Lens, LensResults, Shared
from nomothet.server.matrix.limits import LIMITS, Masked
from nomothet.server.matrix.row_shapes import (
    ApartShape,
    CellShape,
    ComparisonShape,
    NoiseShape,
    ReadingMethodShape,
    RowShape,
    TailShape,
)
from nomothet.server.matrix.samples import placements
from nomothet.server.matrix.targets import TargetShape, failures_of, judged, limit_of, shape_of
from nomothet.server.passes.noise import borrowed_noises
from nomothet.server.passes.searches import SEARCHED
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.own_metrics import own_metric
from nomothet.server.reviews.shown import LOWS, metric_of, plain_key, resolve, row_keys, run_group, told_low
from nomothet.server.workloads.models import Kind
from nomothet.words import comparisons, say, targets

# Of a held run these show the cap and not the machine; its lows may still tell something.
_OF_RATE = ("average_fps", "p50_ms")
_SAME_CAP = 0.01


@dataclass(frozen=True)
class RowContext:
    """What a row needs beside its own figures."""

    review: Review
    evidence: Evidence
    baseline: int | None
    gaps: Gaps
    labels: Mapping[int, str]
    # By column and number, the round and the session of the test's passes.
    placements: Mapping[tuple[int, int], tuple[int | None, str | None]]
    # Of the test, why comparisons with the baseline hide something, by column.
    masked: Mapping[int, Masked]
    # Why a metric is not trusted.
    distrust: Note | None = None
    # The recorder's factor for this metric of this workload.
    recorder_k: float | None = None
    # Idle baselines of this metric by column, and whether they are taken off.
    idles: Mapping[int, Sequence[float]] = field(default_factory=dict)
    idle_off: bool = False


@dataclass(frozen=True)
class _Row:
    """A row under way."""

    context: RowContext
    test: Test
    metric: Metric
    cells: Mapping[int, Values]
    held: Mapping[int, float]
    compared: Mapping[str, PlacedComparison] = field(default_factory=dict)
    # Its key among the rows of the test.
    shown: str = ""

    @property
    def ratio(self) -> bool:
        return self.metric.scale == "ratio"


def row_of(context: RowContext, test: Test, shown: str) -> RowShape:
    """One metric of a test over all columns, compared with the baseline."""
    review, evidence, baseline = context.review, context.evidence, context.baseline
    metric = metric_of(test, shown, review.low_definition)
    by_column = evidence.values.get((test.pk, metric.key), {})
    idle_off = context.idle_off and bool(context.idles)
    if idle_off:
        # Without its idle baseline a configuration has no such figure.
        by_column = {c: without_idle(v, context.idles[c]) for c, v in by_column.items() if c in context.idles}
        if any(number <= 0 for values in by_column.values() for number in values.numbers):
            metric = replace(metric, scale="difference")
    firm = {str(column): v.numbers for column, v in by_column.items() if not any(v.thin)}
    margin = margin_of(metric.unit, metric.scale, review.margin, review.margins)
    noise = pooled_noise(list(firm.values()), metric.scale)
    borrowed = None
    if noise.source == "unknown" and firm:
        key = (test.workload_id, metric.key)
        borrowed = borrowed_noises([(*key, metric.scale)], review).get(key)
    compared: dict[str, compare.Comparison] = {}
    placing: dict[str, PlacedComparison] = {}
    if str(baseline) in firm and context.distrust is None:
        at = context.placements
        placing = compare_placed(
            {
                str(column): [
                    Placed(value, *at.get((column, number), (None, None)))
                    for number, value in zip(v.passes, v.numbers, strict=True)
                ]
                for column, v in by_column.items()
                if not any(v.thin)
            },
            str(baseline),
            direction=metric.direction,
            scale=metric.scale,
            margin=margin,
            borrowed=borrowed,
            spreads={str(column): _error(v, metric) for column, v in by_column.items() if any(v.spreads)},
        )
        compared = {column: one.comparison for column, one in placing.items()}
        if noise.source == "unknown":
            noise = next((c.noise for c in compared.values()), noise)
    label = f"{metric.label}, idle taken off" if idle_off else metric.label
    if (test.pk, shown) in evidence.told:
        label = told_low(plain_key(shown)).label + (", first run" if run_group(shown) else "")
    row = _Row(context, test, metric, by_column, held_rates(evidence, test.pk), placing, shown)
    spread = None if math.isnan(noise.sd) else (100 * noise.sd if metric.scale == "ratio" else noise.sd)
    level = next((one.level for one in compared.values()), passes.ALPHA)
    return RowShape(
        key=f"{test.pk}:{shown}",
        test=test.pk,
        metric=shown,
        label=label,
        unit=metric.unit,
        direction=metric.direction,
        scale=metric.scale,
        margin=None if margin is None else 100 * margin if metric.scale == "ratio" else margin,
        noise=NoiseShape(noise.source, spread, noise.df),
        level_pct=100 * level,
        cells={str(column): _cell(row, column, values) for column, values in by_column.items()},
        targets=_targets(row, shown),
        apart={
            str(column): [ApartShape(one.number, one.value, one.bound, one.method) for one in found]
            for column, found in evidence.apart.get((test.pk, metric.key), {}).items()
        },
        gaps={str(column): reason for column, reason in context.gaps.get((test.pk, shown), {}).items()},
        reading=ReadingMethodShape(**test.readings[plain_key(shown)]) if plain_key(shown) in test.readings else None,
        untrusted=context.distrust.values.get("reason", say(context.distrust)) if context.distrust else "",
        idle_off=idle_off,
        kind=_kind(test, shown),
    )


def _kind(test: Test, shown: str) -> str:
    """What kind of row it is, where it is not one of plain measured figures."""
    own = own_metric(test, plain_key(shown))
    if own is not None and own.kind != "reading":
        return own.kind
    return run_group(shown)


def held_rates(evidence: Evidence, test: int) -> dict[int, float]:
    """Columns whose passes are held at a rate, most of them at least, with that rate."""
    found = {}
    averages = evidence.values.get((test, "average_fps"), {})
    for column, values in evidence.values.get((test, "held_fps"), {}).items():
        of = averages[column].numbers if column in averages else values.numbers
        if 2 * len(values.numbers) > len(of):
            found[column] = passes.median_of(values.numbers)
    return found


def _error(values: Values, metric: Metric) -> float:
    return reading_error(values.numbers, values.spreads, metric.scale)


def _cell(row: _Row, column: int, values: Values) -> CellShape:
    metric = row.metric
    centre = passes.summary(values.numbers, metric.scale, _error(values, metric))
    half = None
    if row.ratio and centre.high is not None:
        half = 100 * (centre.high / centre.centre - 1)
    spread = None if centre.spread is None else (100 * centre.spread if row.ratio else centre.spread)
    placed = row.compared.get(str(column))
    comparison = placed.comparison if placed else None
    why = None if column == row.context.baseline else _why_not(row, column, values, comparison)
    if why is not None:
        comparison = None
    tail = _tail(row, column, centre) if metric.key == "average_fps" else None
    limit = limit_of(row.context.review, row.test, row.shown, metric)
    target = None if limit is None else _judged(row, column, values, limit)
    k = row.context.recorder_k
    return CellShape(
        n=centre.n,
        centre=centre.centre,
        low=centre.low,
        high=centre.high,
        spread_pct=spread,
        half_pct=half,
        thin=any(values.thin),
        tail=tail,
        comparison=_comparison_shape(placed, metric) if placed and comparison else None,
        why_not=say(why) if why else "",
        why_not_code=why.code if why else "",
        half_width=max(values.half_widths, default=0.0) or None,
        methods=sorted(set(values.methods) - {"captured", "computed", "read from output"}),
        held_fps=row.held.get(column),
        corrected=None if k is None or column in row.held else centre.centre / k,
        idle=passes.summary(row.context.idles[column], "difference").centre if column in row.context.idles else None,
        sentence=_sentence(row, column, centre, comparison, why),
        basis=_basis(placed if comparison else None, metric, tail, target, limit),
    )


def _why_not(row: _Row, column: int, values: Values, comparison: compare.Comparison | None) -> Note | None:
    """Why a cell is not compared, though it has figures."""
    context = row.context
    if any(values.thin):
        return note("thin_tail")
    if context.distrust is not None:
        return context.distrust
    if comparison is None:
        base = row.cells.get(context.baseline) if context.baseline is not None else None
        return note("no_baseline") if base is None or any(base.thin) else note("no_comparison")
    baseline = context.baseline
    assert baseline is not None
    held, base_held = row.held.get(column), row.held.get(baseline)
    if row.metric.key in _OF_RATE and held and base_held and abs(held / base_held - 1) < _SAME_CAP:
        return note("held_at", fps=held)
    masked = context.masked.get(column) if row.metric.key in _OF_RATE else None
    if masked is not None and masked.by == "graphics" and comparison.verdict in ("level", "undecided"):
        return note("masked", by=masked.by)
    if comparison.noise.source == "unknown":
        return _brackets(row, values, row.cells[baseline])
    return None


def _brackets(row: _Row, values: Values, base: Values) -> Note | None:
    """Two single load searches: what is known is their brackets, and whether these meet."""
    searched = SEARCHED in values.methods and SEARCHED in base.methods
    if not searched or not (values.steps[0] and base.steps[0]) or len(values.numbers) > 1 or len(base.numbers) > 1:
        return None
    (held, step), (base_held, base_step) = ((v.numbers[0], v.steps[0]) for v in (values, base))
    unit = row.metric.unit
    return note(
        "brackets", held=held, broke=held + step, base_held=base_held, base_broke=base_held + base_step, unit=unit
    )


def _tail(row: _Row, column: int, average: passes.Summary) -> TailShape:
    found: dict[str, tuple[float | None, bool]] = {}
    for low in LOWS:
        values = _low_values(row, column, low)
        try:
            found[low] = (passes.centre(values.numbers), any(values.thin)) if values else (None, False)
        except BadSample:
            found[low] = (None, False)
    one_percent, thin = found["low_1pct"]
    even = None if thin or one_percent is None else derived.evenness(one_percent, average.centre)
    return TailShape(*found["low_1pct"], *found["low_01pct"], even)


def _low_values(row: _Row, column: int, low: str) -> Values | None:
    stored = resolve(low, row.context.review.low_definition)
    return row.context.evidence.values.get((row.test.pk, stored), {}).get(column)


def _targets(row: _Row, shown: str) -> dict[str, list[TargetShape]]:
    """What came of the row's targets in every column that the review has."""
    context, found = row.context, defaultdict[str, list[TargetShape]](list)
    limit = limit_of(context.review, row.test, shown, row.metric)
    if limit is not None:
        for column in context.labels:
            values = row.cells.get(column)
            target = _judged(row, column, values, limit) if values else None
            thin = values is not None and any(values.thin)
            found[str(column)].append(shape_of(target, limit, row.metric, thin))
    if shown == row.test.shown[0]:
        failures = failures_of(context.review, row.test, context.evidence, list(context.labels))
        for column, shape in failures.items():
            found[str(column)].append(shape)
    return dict(found)


def _judged(row: _Row, column: int, values: Values, limit: float) -> Target:
    stored = resolve("low_1pct", row.context.review.low_definition)
    has_lows = "low_1pct" in row.test.shown or bool(row.context.evidence.values.get((row.test.pk, stored)))
    lows = _low_values(row, column, "low_1pct")
    return judged(limit, row.metric, values, lows, row.held.get(column), has_lows=has_lows)


def _sentence(
    row: _Row, column: int, centre: passes.Summary, comparison: compare.Comparison | None, why: Note | None
) -> str:
    labels = row.context.labels
    own, label = labels.get(column, ""), row.metric.label.split(",")[0]
    if comparison is None:
        return comparisons.figure_sentence(
            own, label, centre.centre, row.metric.unit, centre.n, say(why) if why else ""
        )
    baseline = labels.get(row.context.baseline or 0, "")
    return comparisons.comparison_sentence(comparison, label, row.metric.unit, own, baseline, ratio=row.ratio)


def _basis(
    placed: PlacedComparison | None,
    metric: Metric,
    tail: TailShape | None,
    target: Target | None,
    limit: float | None,
) -> list[str]:
    said = []
    if placed is not None:
        comparison = placed.comparison
        said.append(comparisons.basis_words(comparison, metric.unit, ratio=metric.scale == "ratio"))
        if _is_time(metric):
            said.append(f"As speed: {comparisons.speed_words(comparison)}.")
        said.append(comparisons.settling_sentence(placed))
        said.append(comparisons.placing_sentence(placed))
    if tail is not None and tail.evenness is not None:
        said.append(comparisons.evenness_sentence(tail.evenness))
    if target is not None and limit is not None:
        said.append(targets.target_sentence(target, limit, metric.unit, at_most=metric.direction == "lower"))
    return [words for words in said if words]


def _is_time(metric: Metric) -> bool:
    return metric.unit in ("s", "ms", "min", "h") and metric.scale == "ratio" and metric.direction == "lower"


def _comparison_shape(placed: PlacedComparison, metric: Metric) -> ComparisonShape:
    comparison = placed.comparison
    ratio = metric.scale == "ratio"

    def shown(value: float) -> float:
        return 100 * (value - 1) if ratio else value

    low, high = (None if one is None else shown(one) for one in (comparison.change_low, comparison.change_high))
    change = shown(comparison.change)
    turned = metric.direction == "lower"
    ends = (low, high)
    if turned and low is not None and high is not None:
        ends = (-high, -low)
    return ComparisonShape(
        change=change,
        low=low,
        high=high,
        better=-change if turned else change,
        better_low=ends[0],
        better_high=ends[1],
        verdict=comparison.verdict,
        told=comparisons.change_words(comparison, metric.unit, ratio=ratio),
        interval=comparisons.interval_words(comparison, metric.unit, ratio=ratio),
        settling=comparisons.settling_words(placed),
        speed=comparisons.speed_words(comparison) if _is_time(metric) else "",
        n=comparison.n,
        n_baseline=comparison.n_baseline,
        needed=comparison.passes_needed,
        by=placed.by,
        one_session=placed.one_session,
        noise=comparison.noise.source,
    )


def _build(context: Context, test: Test, results: LensResults) -> list[RowShape]:
    masked = {int(column): hidden for column, hidden in results.of(LIMITS).masked.items()}
    placed = placements(context.evidence, test.pk)
    return [
        row_of(
            RowContext(
                review=context.review,
                evidence=context.evidence,
                baseline=context.shared.baseline,
                gaps=context.gaps,
                labels=context.shared.labels,
                placements=placed,
                masked=masked,
                distrust=_distrust(context, test, metric),
                recorder_k=context.shared.recorder.get((test.pk, metric)),
                idles=_idles(context.shared, test, metric),
                idle_off=context.shared.idle_off,
            ),
            test,
            metric,
        )
        for metric in row_keys(test, has_first=context.evidence.first_runs(test.pk))
    ]


def _idles(shared: Shared, test: Test, metric: str) -> dict[int, Sequence[float]]:
    """The idle baselines of a metric; an idle test has none of its own, and first runs have that of all."""
    if test.workload.kind == Kind.IDLE:
        return {}
    return {column: values for (column, key), values in shared.idles.items() if key == plain_key(metric)}


def _distrust(context: Context, test: Test, metric: str) -> Note | None:
    reason = context.shared.distrust.get((test.workload_id, metric))
    if reason:
        return note("untrusted", reason=reason)
    return note("instrument_sidelined") if (test.pk, metric) in context.sidelined else None


def _depends(shared: Shared, test: Test) -> object:
    """What workloads are not trusted for, and what recording costs."""
    trust = sorted((key[1], reason) for key, reason in shared.distrust.items() if key[0] == test.workload_id)
    idles = [(metric, sorted(_idles(shared, test, metric).items())) for metric in test.shown] if shared.idles else []
    return (
        trust,
        shared.idle_off and bool(idles),
        idles,
        sorted((key[1], k) for key, k in shared.recorder.items() if key[0] == test.pk),
    )


def _borrows(rows: list[RowShape]) -> bool:
    """What leans on the noise of other reviews changes with them."""
    return any(row.noise.source not in ("pooled", "own") for row in rows if row.cells)


ROWS = Lens("rows", list[RowShape], _build, needs=(LIMITS,), depends=_depends, leans=_borrows)
