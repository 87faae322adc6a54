"""The noise that a workload has shown in earlier reviews."""

from collections import defaultdict
from collections.abc import Iterable

from nomothet.core.noise import Noise, pooled_noise
from nomothet.core.passes import Scale
from nomothet.server.passes.models import Figure
from nomothet.server.reviews.models import Review


def borrowed_noises(wanted: Iterable[tuple[int, str, Scale]], review: Review) -> dict[tuple[int, str], Noise]:
    """The pooled noise of workload versions and metrics over the other reviews; one query.

    Parameters
    ----------
    wanted : iterable of (workload id, metric, scale)

    Returns
    -------
    dict
        By workload and metric; what has no noise on record is missing.
    """
    scales = {(workload, metric): scale for workload, metric, scale in wanted}
    figures = (
        Figure.objects.kept()
        .filter(
            owner__test__workload__in={workload for workload, _ in scales},
            metric__in={metric for _, metric in scales},
            thin=False,
            half_width__isnull=False,
        )
        .exclude(owner__test__review=review)
        .exclude(method="remembered")
    )
    cells: dict[tuple[int, str], dict[tuple[int, int], list[float]]] = defaultdict(lambda: defaultdict(list))
    rows = figures.values_list("owner__test__workload", "metric", "owner__test_id", "owner__column_id", "value")
    for workload, metric, test, column, value in rows:
        scale = scales.get((workload, metric))
        if scale == "difference" or (scale == "ratio" and value > 0):
            cells[workload, metric][test, column].append(value)
    found = {key: pooled_noise(list(by_cell.values()), scales[key]) for key, by_cell in cells.items()}
    return {key: Noise(noise.sd, noise.df, "borrowed") for key, noise in found.items() if noise.source != "unknown"}
