"""The noise that a workload has shown in earlier reviews."""

import math
from collections.abc import Iterable

from django.db.models import Sum

from nomothet.core.noise import Noise
from nomothet.core.passes import Scale
from nomothet.server.passes.models import TestNoise
from nomothet.server.passes.tallies import refresh
from nomothet.server.reviews.models import Review, Test


def borrowed_noises(wanted: Iterable[tuple[int, str, Scale]], review: Review) -> dict[tuple[int, str], Noise]:
    """The pooled noise of workload versions and metrics over the other reviews; two queries.

    Parameters
    ----------
    wanted : iterable of (workload id, metric, scale)

    Returns
    -------
    dict
        By workload and metric; what has no noise on record is missing.
    """
    scales = {(workload, metric): scale for workload, metric, scale in wanted}
    workloads = {workload for workload, _ in scales}
    refresh(Test.objects.filter(workload__in=workloads))
    rows = (
        TestNoise.objects.filter(workload__in=workloads, metric__in={metric for _, metric in scales})
        .exclude(review=review)
        .values("workload", "metric", "scale")
        .annotate(squares=Sum("squares"), df=Sum("df"))
        .values_list("workload", "metric", "scale", "squares", "df")
    )
    return {
        (workload, metric): Noise(math.sqrt(squares / df), df, "borrowed")
        for workload, metric, scale, squares, df in rows
        if scales.get((workload, metric)) == scale
    }
