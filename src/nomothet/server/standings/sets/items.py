"""The tests of a set, as they are kept and read."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from nomothet.formats.words import FRAME_METRICS, Metric
from nomothet.server.problems import unusable
from nomothet.server.reviews.commands.tests import allowed_value, detail_of, shown_of
from nomothet.server.reviews.models import Test
from nomothet.server.reviews.shown import LOWS, metric_of
from nomothet.server.standings.keeping import settings_tag
from nomothet.server.workloads.models import Workload

MOST = 60
HEAVIEST = 1000.0


@dataclass(frozen=True)
class Item:
    """A test of a set."""

    workload: Workload
    settings: Mapping[str, Any]
    metric: Metric
    shown: str
    weight: float

    @property
    def tag(self) -> str:
        return settings_tag(self.settings)

    @property
    def words(self) -> str:
        """As people name it: workload, settings and metric."""
        own = detail_of(self.workload, self.settings)
        return ", ".join(filter(None, [f"{self.workload.name} {own}".strip(), self.metric.label]))


def read_items(kept: Sequence[Mapping[str, Any]]) -> list[Item]:
    """The tests of a set; one query."""
    workloads = Workload.objects.in_bulk([one["workload"] for one in kept])
    return [
        Item(workloads[one["workload"]], one["settings"], _metric(workloads[one["workload"]], one), one["metric"],
             one["weight"])
        for one in kept
    ]  # fmt: skip


def checked(told: Sequence[Mapping[str, Any]]) -> list[dict[str, Any]]:
    """Tests as they are kept, from what somebody sent.

    Raises
    ------
    Problem
        422 naming the test and what is wrong with it.
    """
    if not told:
        raise unusable("A set has one test at least.", field="items")
    if len(told) > MOST:
        raise unusable(f"A set has {MOST} tests at most.", field="items")
    tests = Test.objects.select_related("workload").in_bulk([one["test"] for one in told if "test" in one])
    workloads = Workload.objects.in_bulk([one["workload"] for one in told if "workload" in one])
    found: list[dict[str, Any]] = []
    for at, one in enumerate(told, start=1):
        like = tests.get(one.get("test"))
        workload = like.workload if like is not None else workloads.get(one.get("workload"))
        if workload is None:
            raise unusable(f"Test {at} is of a workload that is not there.", field="items")
        wanted = like.settings if like is not None else one.get("settings", {})
        # What a review has run is allowed, whatever its workload says by now.
        settings = wanted if like is not None else {k: allowed_value(workload, k, v) for k, v in wanted.items()}
        kept = {
            "workload": workload.pk,
            "settings": settings,
            "metric": one.get("metric") or shown_of(workload)[0],
            "weight": float(one.get("weight", 1.0)),
        }
        _check_metric(at, workload, kept)
        if any((kept["workload"], settings, kept["metric"]) == _of(other) for other in found):
            raise unusable(f"Test {at} stands in the set already.", field="items")
        found.append(kept)
    return found


def of_tests(tests: Sequence[Test]) -> list[dict[str, Any]]:
    """The tests of a review with what each shows first, as somebody would send them."""
    return [
        {"workload": test.workload_id, "settings": test.settings, "metric": test.shown[0]}
        for test in tests
        if test.shown and _fits(_metric(test.workload, {"metric": test.shown[0], "settings": test.settings}))
    ]


def _of(kept: Mapping[str, Any]) -> tuple[int, Any, str]:
    return kept["workload"], kept["settings"], kept["metric"]


def _metric(workload: Workload, kept: Mapping[str, Any]) -> Metric:
    return metric_of(Test(workload=workload, settings=kept["settings"]), kept["metric"], "slowest_mean")


def _fits(metric: Metric) -> bool:
    """Whether ratios of it have a meaning and a better end (method 4)."""
    return metric.scale == "ratio" and metric.direction != "neither"


def _check_metric(at: int, workload: Workload, kept: Mapping[str, Any]) -> None:
    known = {*FRAME_METRICS, *LOWS, *(metric["key"] for metric in workload.metrics)}
    if kept["metric"] not in known:
        raise unusable(f"Test {at}: {workload.name} has no metric {kept['metric']}.", field="items")
    metric = _metric(workload, kept)
    if not _fits(metric):
        raise unusable(
            f"Test {at}: {metric.label} has no ratio with a better end, so it takes no part in an overall ratio.",
            field="items",
        )
    if not 0 < kept["weight"] <= HEAVIEST:
        raise unusable(f"Test {at}: a weight is above 0 and at most {HEAVIEST:g}.", field="items")
