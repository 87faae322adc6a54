"""The words of a pass that bench and server must agree on: outcomes and the metrics of a frame series."""

from dataclasses import dataclass

from nomothet.core.compare import Direction
from nomothet.core.frames import FrameFigures
from nomothet.core.passes import LowDefinition, Scale

METHOD_VERSION = 4

# How a pass can end. All are results and are counted; only a completed pass has figures that enter comparisons.
OUTCOMES = {
    "completed": "completed",
    "stopped": "stopped by the tester",
    "did_not_start": "did not start",
    "refused": "refused, requirement not met",
    "crashed": "crashed",
    "hung": "hung",
    "visual_faults": "visual faults",
    "overloaded": "overloaded",
}

LOW_DEFINITIONS: dict[LowDefinition, str] = {
    "slowest_mean": "mean of the slowest frames",
    "percentile": "frame-time percentile",
    "time_share": "share of the time",
}


# What a part of a run can be called with one key; other words are as good.
SPANS = ("menu", "loading", "indoor", "outdoor", "crowd", "cut scene")
IMPRESSIONS = ("stutter", "lag", "noise", "artefacts", "touch temperature")
# Grades of an impression.
GRADES = ("none", "just there", "noticeable", "disturbing", "unbearable")
# What a person can say of a sensor; one that is shown by a tool and cannot be recorded is noted the same way.
NOT_RECORDED = "not recorded"
DOUBTS = ("wrong", "hidden", "stands still", NOT_RECORDED)
# What can be said of two pictures beside each other.
PICTURE_VERDICTS = ("equal", "not equal", "cannot tell")
# Why two rows are looked at together.
PAIR_KINDS = {
    "play": "built-in test and real play",
    "setting": "two settings of one test",
    "edition": "two editions of one workload",
    "instrument": "two instruments for one quantity",
}


@dataclass(frozen=True)
class Metric:
    """What a figure measures."""

    key: str
    label: str
    unit: str
    direction: Direction
    scale: Scale


@dataclass(frozen=True)
class MetricValue:
    """One figure of a pass. A thin one takes part in no verdict."""

    metric: Metric
    value: float
    thin: bool = False
    # The step in which it was found: of a load search, from the load held to the one that broke.
    step: float = 0.0


def _frame_metric(key: str, label: str, unit: str = "fps", direction: Direction = "higher") -> Metric:
    return Metric(key, label, unit, direction, "ratio" if unit in ("fps", "ms") else "difference")


AVERAGE_FPS = _frame_metric("average_fps", "average")
_PLAIN = [
    AVERAGE_FPS,
    _frame_metric("p50_ms", "median frame time", "ms", "lower"),
    _frame_metric("p95_ms", "95th percentile frame time", "ms", "lower"),
    _frame_metric("p99_ms", "99th percentile frame time", "ms", "lower"),
    _frame_metric("p999_ms", "99.9th percentile frame time", "ms", "lower"),
    _frame_metric("lowest_second_fps", "lowest second"),
    _frame_metric("hitch_rate_per_min", "hitches per minute", "1/min", "lower"),
    _frame_metric("hitch_time_share", "share of time in hitches", "%", "lower"),
    _frame_metric("pacing_unevenness_pct", "pacing unevenness", "%", "lower"),
    _frame_metric("under_target_share", "share of time under the target", "%", "lower"),
    _frame_metric("held_fps", "held rate", direction="neither"),
    _frame_metric("frames", "frames", "1", "neither"),
    _frame_metric("duration_s", "measured time", "s", "neither"),
]
_LOWS = {
    (key, definition): _frame_metric(f"{key}_{definition}", f"{label}, {text}")
    for key, label in (("low_1pct", "1 % low"), ("low_01pct", "0.1 % low"))
    for definition, text in LOW_DEFINITIONS.items()
}
FRAME_METRICS = {metric.key: metric for metric in [*_PLAIN, *_LOWS.values()]}


# Fractions of the core that are shown in %.
_SHARES = ("hitch_time_share", "under_target_share")


def frame_values(figures: FrameFigures) -> list[MetricValue]:
    """The figures of a frame series as metric values; what could not be computed is left out, never zero."""
    values = []
    for metric in _PLAIN:
        value = getattr(figures, metric.key)
        if value is not None:
            values.append(MetricValue(metric, float(value) * (100 if metric.key in _SHARES else 1)))
    for (key, definition), metric in _LOWS.items():
        low = getattr(figures, key)
        values.append(MetricValue(metric, getattr(low, definition), low.thin))
    return values
