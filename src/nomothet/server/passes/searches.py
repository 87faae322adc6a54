"""What a load search found, as figures: the load held, cold and hot."""

from collections.abc import Mapping, Sequence
from typing import Any

from nomothet.core.load_search import search_result
from nomothet.formats.searches import attempts_of, plan_of
from nomothet.formats.words import Metric, MetricValue
from nomothet.server.reviews.models import Test


def search_values(test: Test, attempts: Sequence[Mapping[str, Any]]) -> list[MetricValue]:
    """A value for each metric of the workload whose role is "load" or "load hot"; a ladder has none."""
    plan = plan_of(test.settings)
    if plan.rungs:
        return []
    result = search_result(plan, attempts_of(attempts))
    held = {"load": result.cold.held, "load hot": result.hot.held if result.hot else None}
    values = []
    for known in test.workload.metrics:
        value = held.get(known.get("role", ""))
        if value is not None:
            metric = Metric(known["key"], known["label"], known["unit"], known["direction"], known["scale"])
            values.append(MetricValue(metric, float(value)))
    return values
