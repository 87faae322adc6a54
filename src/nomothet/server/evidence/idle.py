"""What a configuration draws, uses and warms to while it does nothing: the baselines that can be taken off."""

import math
from collections.abc import Mapping, Sequence

from nomothet.core.worked_out import less_idle
from nomothet.server.analysis.models import Analysis
from nomothet.server.evidence.values import Values
from nomothet.server.passes.models import Figure
from nomothet.server.reviews.models import Test
from nomothet.server.workloads.models import Kind

# Units of what a machine has also while it does nothing; a rate or a time has no idle.
IDLE_UNITS = ("W", "mW", "kW", "GB", "GiB", "MB", "°C", "%", "A")
# By column and metric.
Idles = Mapping[tuple[int, str], Sequence[float]]


def idle_baselines(tests: Sequence[Test]) -> Idles:
    """The kept readings of a review's idle tests, whether a bench, a file or a hand brought them; one query at most."""
    idle = [test.pk for test in tests if test.workload.kind == Kind.IDLE]
    if not idle:
        return {}
    found: dict[tuple[int, str], list[float]] = {}
    rows = Figure.objects.kept().filter(owner__test__in=idle, half_width__isnull=False, unit__in=IDLE_UNITS)
    for column, metric, value in rows.order_by("pk").values_list("owner__column_id", "metric", "value"):
        found.setdefault((column, metric), []).append(value)
    return found


def idle_power(tests: Sequence[Test]) -> Mapping[tuple[int, str], float]:
    """What configurations drew in a review's idle tests, in W, by column and source or metric; two queries at most."""
    idle = [test.pk for test in tests if test.workload.kind == Kind.IDLE]
    if not idle:
        return {}
    found: dict[tuple[int, str], list[float]] = {}
    told = Analysis.objects.kept().filter(owner__test__in=idle).values_list("owner__column_id", "summary")
    for column, summary in told:
        for source, (mean_w, _) in summary.get("power", {}).items():
            found.setdefault((column, source), []).append(mean_w)
    for (column, metric), values in idle_baselines(tests).items():
        found.setdefault((column, metric), []).extend(values)
    return {key: sum(values) / len(values) for key, values in found.items()}


def without_idle(values: Values, idle: Sequence[float]) -> Values:
    """Values with the idle baseline of their configuration taken off; never cut at 0."""
    numbers, shared = less_idle(values.numbers, idle)
    return Values(
        values.passes,
        numbers,
        values.thin,
        [math.hypot(own, shared) for own in values.spreads],
        values.steps,
        values.half_widths,
        values.methods,
    )
