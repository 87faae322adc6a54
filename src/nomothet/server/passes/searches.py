"""What a load search found, as figures: the load held, cold and hot."""

from collections.abc import Mapping, Sequence
from typing import Any

from nomothet.core.load_search import search_result
from nomothet.formats.searches import attempts_of, plan_of
from nomothet.formats.words import Metric, MetricValue
from nomothet.server.reviews.models import Test

# How a load that was searched for has come about; its step is that of the search.
SEARCHED = "load search"


def search_values(test: Test, attempts: Sequence[Mapping[str, Any]]) -> list[MetricValue]:
    """A value for each metric of the workload whose role is "load" or "load hot"; a ladder has none."""
    plan = plan_of(test.settings)
    if plan.rungs:
        return []
    result = search_result(plan, attempts_of(attempts))
    brackets = {"load": result.cold, "load hot": result.hot}
    values = []
    for known in test.workload.metrics:
        bracket = brackets.get(known.get("role", ""))
        if bracket is not None and bracket.held is not None:
            metric = Metric(known["key"], known["label"], known["unit"], known["direction"], known["scale"])
            step = plan.resolution if bracket.broken is None else bracket.broken - bracket.held
            values.append(MetricValue(metric, float(bracket.held), step=float(step)))
    return values
