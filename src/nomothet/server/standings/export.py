"""A standing as comma-separated values: all of its results, whatever page is shown."""

import itertools
from collections.abc import Iterator

from nomothet.server.csv_lines import csv_lines
from nomothet.server.standings.standing import StandingRow, StandingShape

_HEAD = (
    "place", "system", "configuration", "revision", "review", "workload version", "passes", "sessions", "first pass",
    "last pass", "figure", "half width", "better", "better low", "better high", "verdict", "why", "measured before",
    "price in EUR",
)  # fmt: skip


def standing_lines(pages: Iterator[StandingShape]) -> Iterator[str] | None:
    """The lines of a standing; None where there is none."""
    first = next(pages, None)
    return None if first is None else _lines(first, pages)


def _lines(first: StandingShape, others: Iterator[StandingShape]) -> Iterator[str]:
    metric = next(one for one in first.all_metrics if one.key == first.metric)
    head = [f"{name} in {metric.unit}" if name == "figure" and metric.unit else name for name in _HEAD]
    yield from csv_lines([list(head)])
    for page in itertools.chain([first], others):
        yield from csv_lines(_fields(row) for row in page.rows)


def _fields(row: StandingRow) -> list[object]:
    return [
        row.place, row.system, row.label, row.revision, row.question, row.version, row.n, row.sessions,
        row.first_at.isoformat(), row.last_at.isoformat(), row.centre, row.half, row.better, row.better_low,
        row.better_high, row.verdict, "; ".join(one.words for one in row.reasons), "; ".join(row.measured_before),
        row.price,
    ]  # fmt: skip
