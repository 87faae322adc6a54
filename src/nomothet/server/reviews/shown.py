"""What the shown metrics of a test measure."""

from collections.abc import Sequence
from dataclasses import replace

from nomothet.core.compare import Direction
from nomothet.core.passes import Scale
from nomothet.formats.words import FRAME_METRICS, Metric
from nomothet.server.reviews.models import Test

LOWS = ("low_1pct", "low_01pct")
# Begins the key of a row of first runs: "first:load_s" shows load_s of the first runs after a start, and of no others.
FIRST = "first:"


def plain_key(shown: str) -> str:
    """The metric of a row of first runs, or the row's own."""
    return shown.removeprefix(FIRST)


def run_group(shown: str) -> str:
    """The group of passes that a row shows."""
    return "first" if shown.startswith(FIRST) else ""


def row_keys(test: Test, *, has_first: bool = False) -> Sequence[str]:
    """The rows of a test: its shown metrics, each followed by that of first runs where these are apart."""
    if not (has_first or test.workload.first_run_apart):
        return list(test.shown)
    return [key for shown in test.shown for key in (shown, FIRST + shown)]


def typable(test: Test) -> list[str]:
    """What can be typed for a test: its rows, and the lows that are told beside an average."""
    made = {one["key"] for one in test.metrics if one["kind"] == "worked out"}
    plain = [shown for shown in test.shown if shown not in made]
    if "average_fps" in plain:
        plain += [low for low in LOWS if low not in plain]
    return [*plain, *(FIRST + shown for shown in plain)]


def resolve(metric: str, low_definition: str) -> str:
    """The stored metric for a shown one: a low follows the review's definition."""
    return f"{metric}_{low_definition}" if metric in LOWS else metric


def told_low(low: str) -> Metric:
    """A low as a tool told it: by whichever definition that has, so that it is never pooled with another."""
    label = {"low_1pct": "1 % low", "low_01pct": "0.1 % low"}[low]
    return Metric(f"{low}_told", f"{label}, as its tool says", "fps", "higher", "ratio")


def metric_of(test: Test, metric: str, low_definition: str) -> Metric:
    """What a shown metric of a test measures."""
    if run_group(metric):
        plain = metric_of(test, plain_key(metric), low_definition)
        return replace(plain, key=FIRST + plain.key, label=f"{plain.label}, first run")
    stored = resolve(metric, low_definition)
    if stored in FRAME_METRICS:
        return FRAME_METRICS[stored]
    for known in [*test.workload.metrics, *test.metrics]:
        if known["key"] == metric:
            direction: Direction = known["direction"]
            scale: Scale = known["scale"]
            return Metric(metric, known["label"], known["unit"], direction, scale)
    return Metric(metric, metric, "", "higher", "ratio")
