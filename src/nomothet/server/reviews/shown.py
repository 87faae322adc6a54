"""What the shown metrics of a test measure."""

from nomothet.core.compare import Direction
from nomothet.core.passes import Scale
from nomothet.formats.words import FRAME_METRICS, Metric
from nomothet.server.reviews.models import Test

LOWS = ("low_1pct", "low_01pct")


def resolve(metric: str, low_definition: str) -> str:
    """The stored metric for a shown one: a low follows the review's definition."""
    return f"{metric}_{low_definition}" if metric in LOWS else metric


def told_low(low: str) -> Metric:
    """A low as a tool told it: by whichever definition that has, so that it is never pooled with another."""
    label = {"low_1pct": "1 % low", "low_01pct": "0.1 % low"}[low]
    return Metric(f"{low}_told", f"{label}, as its tool says", "fps", "higher", "ratio")


def metric_of(test: Test, metric: str, low_definition: str) -> Metric:
    """What a shown metric of a test measures."""
    stored = resolve(metric, low_definition)
    if stored in FRAME_METRICS:
        return FRAME_METRICS[stored]
    for known in test.workload.metrics:
        if known["key"] == metric:
            direction: Direction = known["direction"]
            scale: Scale = known["scale"]
            return Metric(metric, known["label"], known["unit"], direction, scale)
    return Metric(metric, metric, "", "higher", "ratio")
