"""What there is to choose from: workloads with results, their settings and metrics."""

from dataclasses import dataclass

from django.db.models import Count, Q, Sum

from nomothet.server.standings.models import KeptTest, Result
from nomothet.server.standings.tasks import make_what_is_stale
from nomothet.server.workloads.models import Workload


@dataclass(frozen=True)
class StandingWorkload:
    """A workload with results; `results` counts cells."""

    key: str
    name: str
    versions: list[str]
    settings: int
    results: int


@dataclass(frozen=True)
class StandingsShape:
    """All workloads with results. `waiting` counts tests whose results are being made."""

    workloads: list[StandingWorkload]
    waiting: int


@dataclass(frozen=True)
class SettingsChoice:
    key: str
    words: str
    results: int


@dataclass(frozen=True)
class MetricChoice:
    key: str
    label: str
    unit: str
    direction: str
    scale: str
    results: int


def workloads() -> StandingsShape:
    """Three queries, whatever the number of results."""
    waiting = make_what_is_stale()
    counted = {
        row["key"]: row
        for row in KeptTest.objects.filter(leading__gt=0)
        .values("key")
        .annotate(of=Count("settings", distinct=True), results=Sum("leading"))
    }
    names: dict[str, tuple[str, list[str]]] = {}
    for key, name, version in Workload.objects.filter(key__in=counted).values_list("key", "name", "version"):
        names.setdefault(key, (name, []))[1].append(version)
    found = [
        StandingWorkload(key, name, sorted(versions), counted[key]["of"], counted[key]["results"])
        for key, (name, versions) in names.items()
    ]
    return StandingsShape(sorted(found, key=lambda one: one.name.casefold()), waiting)


def settings_of(key: str) -> list[SettingsChoice]:
    """The settings that a workload has results with, those of most results first."""
    rows = (
        KeptTest.objects.filter(key=key, leading__gt=0)
        .values("settings", "settings_words")
        .annotate(results=Sum("leading"))
        .order_by("-results", "settings_words")
    )
    found: dict[str, SettingsChoice] = {}
    for row in rows:
        before = found.get(row["settings"])
        words = before.words if before else row["settings_words"]
        results = row["results"] + (before.results if before else 0)
        found[row["settings"]] = SettingsChoice(row["settings"], words, results)
    return list(found.values())


def metrics_of(key: str, settings: str) -> list[MetricChoice]:
    """The metrics of a workload with settings, what leads first."""
    rows = (
        Result.objects.filter(key=key, settings=settings)
        .values("metric", "label", "unit", "direction", "scale")
        .annotate(results=Count("pk"), leading=Count("pk", filter=Q(leads=True)))
        .order_by("-leading", "-results", "metric")
    )
    found: dict[str, MetricChoice] = {}
    for row in rows:
        if row["metric"] not in found:
            found[row["metric"]] = MetricChoice(
                key=row["metric"],
                label=row["label"],
                unit=row["unit"],
                direction=row["direction"],
                scale=row["scale"],
                results=row["results"],
            )
    return list(found.values())
