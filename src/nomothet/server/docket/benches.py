"""All systems at a glance: what runs on each, what is owed, what its bench reads, and what does not agree."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Count

from nomothet.server.docket.hold import hold_of
from nomothet.server.docket.models import Entry, State
from nomothet.server.systems.models import System


@dataclass(frozen=True)
class RunningGlance:
    """A running pass: what it is, and how it was last told of."""

    entry: int
    review: int
    test_name: str
    detail: str
    configuration: str
    progress: dict[str, Any]
    told_at: datetime | None
    by_hand: str


@dataclass(frozen=True)
class BenchGlance:
    """One system. `hold` says why its docket has stopped, in words."""

    system: int
    running: list[RunningGlance]
    owed: int
    readings: dict[str, float]
    hold: str
    changes_by: str


def benches() -> list[BenchGlance]:
    """Every system that is not archived; three queries, and those of its hold for each with passes owed."""
    running: dict[int, list[RunningGlance]] = {}
    needs = ("test__workload", "column__configuration", "by_hand")
    for entry in (
        Entry.objects.filter(state=State.RUNNING).select_related(*needs).defer("attempts").order_by("taken_at")
    ):
        glance = RunningGlance(
            entry.pk,
            entry.test.review_id,
            entry.test.workload.name,
            entry.test.detail,
            entry.column.configuration.title,
            entry.progress,
            entry.told_at,
            entry.by_hand.display_name if entry.by_hand else "",
        )
        running.setdefault(entry.column.configuration.system_id, []).append(glance)
    system = "column__configuration__system"
    owed = dict(Entry.objects.filter(state=State.OWED).order_by().values_list(system).annotate(Count("pk")))
    shapes = []
    for one in System.objects.filter(archived_at=None).select_related("bench", "present"):
        bench = getattr(one, "bench", None)
        hold = hold_of(one) if owed.get(one.pk) else None
        readings = bench.readings if bench else {}
        shapes.append(
            BenchGlance(
                one.pk,
                running.get(one.pk, []),
                owed.get(one.pk, 0),
                readings,
                hold.words if hold else "",
                one.changes_by,
            )
        )
    return shapes
