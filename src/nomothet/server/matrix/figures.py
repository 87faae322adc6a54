"""The figures of a review's passes, read once for all lenses."""

import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from nomothet.server.analysis.computing import rules_of
from nomothet.server.analysis.models import Analysis
from nomothet.server.passes.models import Figure, Pass
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import LOWS, resolve

REMEMBERED = "remembered"


@dataclass(frozen=True)
class PassRow:
    id: str
    test: int
    column: int
    number: int
    outcome: str
    set_aside: bool
    note: str
    started_at: datetime
    origin: str


@dataclass(frozen=True)
class Values:
    """The values of one metric in one cell with the numbers of their passes, in that order."""

    passes: list[int] = field(default_factory=list)
    numbers: list[float] = field(default_factory=list)
    thin: list[bool] = field(default_factory=list)
    # Extra standard deviation of readings that are not exact (section 18).
    spreads: list[float] = field(default_factory=list)
    methods: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Apart:
    """A reading shown apart."""

    number: int
    value: float
    bound: str
    method: str


@dataclass(frozen=True)
class Evidence:
    """Passes of a review and the kept values of its shown metrics, by (test, metric) and column."""

    passes: list[PassRow]
    values: dict[tuple[int, str], dict[int, Values]]
    # Readings that are shown and take part in nothing: about, over, under, remembered.
    apart: dict[tuple[int, str], dict[int, list[Apart]]]
    # What the core found in the kept passes, and how they were run, by (test, column).
    summaries: dict[tuple[int, int], list[Mapping[str, Any]]]
    fingerprints: dict[tuple[int, int], list[Mapping[str, Any]]]
    # How many kept passes of a test are still to be computed anew, after a change of what counts.
    recounting: Counter[int]


def gather(review: Review, tests: Iterable[Test]) -> Evidence:
    """Three queries, whatever the number of tests."""
    chosen = list(tests)
    own = {"owner__test__in": [test.pk for test in chosen]}
    wanted = {resolve(metric, review.low_definition) for test in chosen for metric in [*test.shown, *LOWS, "held_fps"]}
    passes = [
        PassRow(str(row[0]), *row[1:])
        for row in Pass.objects.filter(test__in=own["owner__test__in"])
        .exclude(whole_at=None)
        .filter(recorder="")
        .order_by("number", "started_at")
        .values_list("id", "test_id", "column_id", "number", "outcome", "set_aside", "note", "started_at", "origin")
    ]
    values: dict[tuple[int, str], dict[int, Values]] = defaultdict(lambda: defaultdict(Values))
    figures = Figure.objects.filter(
        **own,
        metric__in=wanted,
        owner__outcome="completed",
        owner__set_aside=False,
        owner__whole_at__isnull=False,
        owner__recorder="",
    ).order_by("owner__number")
    apart: dict[tuple[int, str], dict[int, list[Apart]]] = defaultdict(lambda: defaultdict(list))
    rows = figures.values_list(
        "owner__test_id",
        "owner__column_id",
        "owner__number",
        "metric",
        "value",
        "thin",
        "half_width",
        "bound",
        "method",
    )
    for test, column, number, metric, value, thin, half_width, bound, method in rows:
        if half_width is None or method == REMEMBERED:
            apart[test, metric][column].append(Apart(number, value, bound, method))
            continue
        cell = values[test, metric][column]
        cell.passes.append(number)
        cell.numbers.append(value)
        cell.thin.append(thin)
        cell.spreads.append(2 * half_width / math.sqrt(12))
        cell.methods.append(method)
    summaries: dict[tuple[int, int], list[Mapping[str, Any]]] = defaultdict(list)
    fingerprints: dict[tuple[int, int], list[Mapping[str, Any]]] = defaultdict(list)
    looked_at = Analysis.objects.filter(
        **own,
        owner__outcome="completed",
        owner__set_aside=False,
        owner__whole_at__isnull=False,
        owner__recorder="",
    ).order_by("owner__number")
    rules = {test.pk: rules_of(test) for test in chosen}
    recounting: Counter[int] = Counter()
    for test, column, summary, fingerprint, counted_by in looked_at.values_list(
        "owner__test_id", "owner__column_id", "summary", "fingerprint", "counted_by"
    ):
        recounting[test] += counted_by != rules[test]
        summaries[test, column].append(summary)
        fingerprints[test, column].append(fingerprint)
    return Evidence(passes, values, apart, summaries, fingerprints, recounting)
