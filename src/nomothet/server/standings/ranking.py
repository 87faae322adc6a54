"""The results that a choice looks at, held against one of them and in their order."""

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.standings import Standing
from nomothet.server.reviews.models import Column
from nomothet.server.standings.catalogue import MetricChoice, SettingsChoice, metrics_of, settings_of
from nomothet.server.standings.choice import Choice, chosen
from nomothet.server.standings.held import Held, read
from nomothet.server.standings.models import Result
from nomothet.server.standings.placing import Against, against_held, whole_results
from nomothet.server.systems.models import System
from nomothet.server.workloads.models import Workload

_COLUMNS_AT_ONCE = 100


@dataclass(frozen=True)
class Found:
    """The results that a choice looks at, and all of the same workload, settings and metric; the latest first."""

    name: str
    settings: str
    metric: MetricChoice
    all_settings: list[SettingsChoice]
    all_metrics: list[MetricChoice]
    systems: list[str]
    every: list[Held]
    chosen: list[Held]


def find(choice: Choice, *, of_one_system: bool = False) -> Found | None:
    """What a choice looks at; None where the workload has no result.

    Parameters
    ----------
    of_one_system : bool
        Only those of the system that is chosen, else of that with the latest result, are read.
    """
    name = Workload.objects.filter(key=choice.key).order_by("-pk").values_list("name", flat=True).first()
    all_settings = settings_of(choice.key)
    if name is None or not all_settings:
        return None
    settings = choice.settings if choice.settings in {one.key for one in all_settings} else all_settings[0].key
    all_metrics = metrics_of(choice.key, settings)
    metric = next((one for one in all_metrics if one.key == choice.metric), all_metrics[0])
    found = Result.objects.filter(key=choice.key, settings=settings, metric=metric.key)
    # Two queries: as one, the database reads every machine's results.
    machines = set(found.values_list("system", flat=True))
    systems = sorted(System.objects.filter(pk__in=machines).values_list("name", flat=True))
    if of_one_system:
        named = System.objects.filter(name=choice.system, pk__in=machines).values_list("pk", flat=True).first()
        latest = found.order_by("-last_at", "pk").values_list("system", flat=True).first()
        found = found.filter(system=named if choice.system else latest)
    every = read(found.order_by("-last_at", "pk"))
    return Found(name, settings, metric, all_settings, all_metrics, systems, every, chosen(every, choice))


class Ranking:
    """Results against a reference: those that stand beside it first, the best of them first."""

    def __init__(self, looked_at: Found, wanted: str) -> None:
        results = looked_at.chosen
        reference = _reference(looked_at.every, results, wanted)
        self.reference: Result | None = None
        self._against: Against | None = None
        self.placed: Mapping[str, Standing] = {}
        if reference is not None:
            if not any(one.pk == reference.pk for one in results):
                results = [reference, *results]
            (self.reference,) = whole_results([reference])
            self._against = against_held(results, reference, self.reference.review, looked_at.metric)
            self.placed = self._against.placed
        self.ranked = sorted(results, key=lambda one: _order(one, self.placed, looked_at.metric.direction))

    def compared(self, only: Collection[str]) -> Mapping[str, Standing]:
        """Where each stands, with these compared."""
        return self._against.compared(only) if self._against is not None else {}


def _reference(every: Sequence[Held], shown: Sequence[Held], wanted: str) -> Held | None:
    """The one that was asked for; else the latest baseline of a review that may stand beside others."""
    named = next((one for one in every if one.name == wanted), None)
    if named is not None:
        return named
    fit = [one for one in shown if not one.core.apart]
    return next(_baselines(fit), next(iter(fit or shown), None))


def _baselines(results: Sequence[Held]) -> Iterator[Held]:
    # The first is wanted, and is among the first few.
    for at in range(0, len(results), _COLUMNS_AT_ONCE):
        some = results[at : at + _COLUMNS_AT_ONCE]
        columns = Column.objects.filter(pk__in={one.column_id for one in some}, is_baseline=True)
        found = set(columns.values_list("pk", flat=True))
        yield from (one for one in some if one.column_id in found)


def _order(one: Held, placed: Mapping[str, Standing], direction: str) -> tuple[bool, float]:
    stands = placed.get(one.name)
    apart = stands is None or stands.place == "not beside"
    if one.centre is None:
        return apart, float("inf")
    return apart, one.centre if direction == "lower" else -one.centre
