"""Figures of an installation as OpenMetrics text (OpenMetrics 1.0), for a team's own monitoring."""

from collections.abc import Iterator

from django.db.models import Count
from prometheus_client import CollectorRegistry
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.openmetrics.exposition import CONTENT_TYPE_LATEST, generate_latest

from nomothet.server.docket.models import Entry
from nomothet.server.feed.queries import last_number
from nomothet.server.passes.models import Pass
from nomothet.server.people.models import SecurityEvent, Visit
from nomothet.server.systems.models import Bench
from nomothet.server.upkeep.health import WELL, PartHealth, health

CONTENT_TYPE = CONTENT_TYPE_LATEST


def metrics() -> bytes:
    """All figures as they are now."""
    registry = CollectorRegistry(auto_describe=False)
    registry.register(_Figures())
    return bytes(generate_latest(registry))  # type: ignore[no-untyped-call]


class _Figures:
    def collect(self) -> Iterator[Metric]:
        """What the library asks for: figures with names, units and labels."""
        parts = health()
        yield _by(
            "nomothet_part_well", "Whether a part is well", "part", {p.part: float(p.state == WELL) for p in parts}
        )
        yield from _of_parts(parts)
        states = Entry.objects.values_list("state").annotate(Count("pk")).order_by("state")
        yield _by("nomothet_docket_entries", "Entries of the docket", "state", dict(states))
        outcomes = Pass.objects.values_list("outcome").annotate(Count("pk")).order_by("outcome")
        yield _by("nomothet_passes", "Passes on record", "outcome", dict(outcomes))
        yield GaugeMetricFamily("nomothet_feed_number", "Number of the last change", value=last_number())
        yield GaugeMetricFamily("nomothet_sessions", "Sessions on record", value=Visit.objects.count())
        yield GaugeMetricFamily("nomothet_security_events", "Security log", value=SecurityEvent.objects.count())
        heard = Bench.objects.exclude(heard_at=None).values_list("system__key", "heard_at")
        yield _by("nomothet_bench_heard_timestamp_seconds", "When a bench was last heard", "system",
                  {key: at.timestamp() for key, at in heard if at})  # fmt: skip


def _of_parts(parts: list[PartHealth]) -> Iterator[Metric]:
    for part in parts:
        for name, value in part.figures.items():
            yield GaugeMetricFamily(f"nomothet_{part.part}_{name}", f"{name} of {part.part}", value=value)


def _by(name: str, words: str, label: str, values: dict[str, float]) -> Metric:
    family = GaugeMetricFamily(name, words, labels=[label])
    for one, value in values.items():
        family.add_metric([one], value)
    return family
