"""A standing as comma-separated values: all of its results, whatever page is shown."""

from collections.abc import Iterator
from dataclasses import replace

from nomothet.server.csv_lines import csv_lines
from nomothet.server.standings.choice import Choice
from nomothet.server.standings.standing import StandingRow, StandingShape, standing

_HEAD = (
    "place", "system", "configuration", "revision", "review", "workload version", "passes", "sessions", "first pass",
    "last pass", "figure", "half width", "better", "better low", "better high", "verdict", "why", "measured before",
    "price in EUR",
)  # fmt: skip


def standing_lines(choice: Choice, first: StandingShape) -> Iterator[str]:
    """The lines of a standing, of which the first page is read already."""
    metric = next(one for one in first.all_metrics if one.key == first.metric)
    head = [f"{name} in {metric.unit}" if name == "figure" and metric.unit else name for name in _HEAD]
    yield from csv_lines([list(head)])
    page, offset = first, 0
    while page.rows:
        yield from csv_lines(_fields(row) for row in page.rows)
        offset += len(page.rows)
        if offset >= page.count:
            return
        found = standing(replace(choice, offset=offset, against=first.reference))
        if found is None:
            return
        page = found


def _fields(row: StandingRow) -> list[object]:
    return [
        row.place, row.system, row.label, row.revision, row.question, row.version, row.n, row.sessions,
        row.first_at.isoformat(), row.last_at.isoformat(), row.centre, row.half, row.better, row.better_low,
        row.better_high, row.verdict, "; ".join(one.words for one in row.reasons), "; ".join(row.measured_before),
        row.price,
    ]  # fmt: skip
