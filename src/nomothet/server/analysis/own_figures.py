"""Figures of a pass that people added to its test: statistics of sensors, parts of the run, toggled settings."""

from collections.abc import Iterator, Sequence

from nomothet.core.errors import BadFrames
from nomothet.core.frames import FrameFigures, figures_of_pieces
from nomothet.core.lane_statistics import lane_statistic
from nomothet.core.segments import Counting, Span, pieces_that_count, without_spans
from nomothet.core.toggles import difference_of, toggled_pairs
from nomothet.core.units import conversion, unit_named
from nomothet.formats.words import Metric, MetricValue, frame_values
from nomothet.server.analysis.computing import Captures, RawLane, counting_of
from nomothet.server.reviews.models import Test
from nomothet.server.reviews.own_metrics import OwnMetric, own_metric, own_metrics
from nomothet.server.reviews.shown import metric_of, resolve

# Parts the number of a pair from the key of its metric; each pair of a toggle is a figure of its own.
PAIR = "#"


def own_values(
    test: Test, captures: Captures, spans: Sequence[Span], aside: Sequence[Span], length_s: float
) -> list[MetricValue]:
    """Every figure that can be computed of a pass for the metrics that were added to its test."""
    run = _Run(test, captures, spans, aside, length_s)
    found: list[MetricValue] = []
    for one in own_metrics(test):
        if one.kind == "reading" and one.lane:
            value = run.lane(one, run.whole())
            found += [MetricValue(one.metric, value)] if value is not None else []
        elif one.kind == "part":
            found += run.part(one)
        elif one.kind == "toggle":
            found += run.toggled(one)
    return found


class _Run:
    """A pass as its own metrics look at it."""

    def __init__(
        self, test: Test, captures: Captures, spans: Sequence[Span], aside: Sequence[Span], length_s: float
    ) -> None:
        self._test, self._captures, self._aside = test, captures, aside
        self._spans = spans
        frames = captures.frame_times_ms
        end = captures.starts_at_s + float(frames.sum()) / 1000 if frames is not None else length_s
        self._ends_s = end or max((float(lane.t_s[-1]) for lane in captures.raw if len(lane.t_s)), default=0.0)

    def whole(self) -> list[Span]:
        """The time that counts: between the cuts, by the rule on spans, without what was set aside."""
        counting = counting_of(self._test)
        first = self._captures.starts_at_s + counting.skip_s if counting.skip_s else 0.0
        windows = [Span(first, self._ends_s - counting.end_cut_s)]
        named = [span for span in self._spans if span.label in counting.labels]
        if counting.rule == "only":
            windows = [cut for span in named for window in windows if (cut := _overlap(window, span))]
        elif counting.rule == "without":
            windows = without_spans(windows, named)
        return without_spans(windows, self._aside)

    def lane(self, one: OwnMetric, windows: Sequence[Span]) -> float | None:
        """The statistic of a metric's sensor over some windows, in the metric's unit."""
        lane = self._lane(one.lane)
        if lane is None or not one.statistic or not windows:
            return None
        value = lane_statistic(lane.t_s, lane.values, windows, one.statistic)
        if value is None:
            return None
        unit = unit_named(lane.unit)
        if one.statistic == "integral":
            return value * _integral_factor(unit, one.unit)
        turned = conversion(unit, one.unit)
        return turned.of(value) if turned is not None else None

    def part(self, one: OwnMetric) -> Iterator[MetricValue]:
        """A metric within the spans of one label."""
        spans = [span for span in self._spans if span.label == one.label_on]
        value = self._value(one.of, spans)
        if value is not None:
            yield MetricValue(one.metric, value.value, value.thin)

    def toggled(self, one: OwnMetric) -> Iterator[MetricValue]:
        """What each pair of stretches differs by."""
        ratio = metric_of(self._test, one.of, self._test.review.low_definition).scale == "ratio"
        for at, (on, off) in enumerate(toggled_pairs(self._spans, one.label_on, one.label_off), 1):
            first, second = self._value(one.of, [on]), self._value(one.of, [off])
            if first is None or second is None:
                continue
            difference = difference_of(first.value, second.value, ratio=ratio)
            if difference is not None:
                metric = Metric(f"{one.key}{PAIR}{at}", one.label, one.unit, one.direction, one.scale)
                yield MetricValue(metric, difference, first.thin or second.thin)

    def _value(self, metric: str, spans: Sequence[Span]) -> MetricValue | None:
        """A metric of the frames or of a sensor within some spans."""
        windows = without_spans(list(spans), self._aside)
        if not windows:
            return None
        own = own_metric(self._test, metric)
        if own is not None:
            value = self.lane(own, windows)
            return None if value is None else MetricValue(own.metric, value)
        figures = self._frames(windows)
        wanted = resolve(metric, self._test.review.low_definition)
        found = [] if figures is None else frame_values(figures)
        return next((one for one in found if one.metric.key == wanted), None)

    def _frames(self, windows: Sequence[Span]) -> FrameFigures | None:
        if self._captures.frame_times_ms is None:
            return None
        named = [Span(window.start_s, window.end_s, "part") for window in windows]
        try:
            pieces = pieces_that_count(
                self._captures.frame_times_ms,
                Counting(rule="only", labels=("part",)),
                starts_at_s=self._captures.starts_at_s,
                spans=named,
            )
            return figures_of_pieces(pieces, target_fps=self._test.review.target_fps)
        except BadFrames:
            return None

    def _lane(self, name: str) -> RawLane | None:
        plain = name.strip().casefold()
        return next((lane for lane in self._captures.raw if lane.name.strip().casefold() == plain), None)


def _overlap(a: Span, b: Span) -> Span | None:
    first, last = max(a.start_s, b.start_s), min(a.end_s, b.end_s)
    return Span(first, last) if last > first else None


def _integral_factor(unit: str, wanted: str) -> float:
    """From a unit times seconds to the unit wanted: W·s are J, 3600 of them a Wh."""
    per_hour = {"Wh": 3600.0, "kWh": 3_600_000.0, "kJ": 1000.0}
    return 1 / per_hour.get(wanted, 1.0) if unit == "W" else 1.0
