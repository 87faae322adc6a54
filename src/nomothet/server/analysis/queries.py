"""What the other apps ask of the analysis."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from nomothet.server.analysis.models import Untrusted
from nomothet.server.reviews.models import Column
from nomothet.server.systems.states import ConfigurationState, states


@dataclass(frozen=True)
class Rated:
    """What the parts of a configuration declare."""

    clock_mhz: float | None = None
    limit_c: float | None = None


def untrusted_metrics(workloads: Iterable[int]) -> Mapping[tuple[int, str], str]:
    """Why metrics are not trusted, by workload and metric; one query."""
    found = Untrusted.objects.filter(workload__in=set(workloads)).values_list("workload_id", "metric", "reason")
    return {(workload, metric): reason for workload, metric, reason in found}


def rated_clocks(columns: Iterable[Column]) -> Mapping[int, float | None]:
    """The clock that the processors of columns are rated for, in MHz, by column; two queries."""
    return {column: rated.clock_mhz for column, rated in rated_of(columns).items()}


def rated_of(columns: Iterable[Column], held: Mapping[int, ConfigurationState] | None = None) -> Mapping[int, Rated]:
    """What the processors of columns declare, by column; two queries where the states are not known yet."""
    own = list(columns)
    held = held or states([column.configuration for column in own])
    rated = {}
    for column in own:
        processor = held[column.configuration_id].parts.get("processor")
        clock = processor.part.value("max_clock_mhz") if processor else None
        limit = processor.part.value("limit_c") if processor else None
        rated[column.pk] = Rated(
            float(clock) if isinstance(clock, int | float) else None,
            float(limit) if isinstance(limit, int | float) else None,
        )
    return rated
