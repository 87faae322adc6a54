"""The docket of a review: what is running and what comes next, with the changes in between."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from nomothet.server.docket.models import Entry, State
from nomothet.server.reviews.models import Column, Review


@dataclass(frozen=True)
class EntryShape:
    id: int
    test: int
    column: int
    number: int
    state: str
    progress: dict[str, Any]
    taken_at: datetime | None
    stop_wanted: bool


@dataclass(frozen=True)
class StepShape:
    """Passes of one test on one configuration, or a change of configuration before them."""

    kind: str
    column: int
    test: int | None
    change: list[str]
    entries: list[EntryShape]


@dataclass(frozen=True)
class SystemDocket:
    """The order of work on one system. `heard_at` is when its bench last spoke; None when it has none."""

    system: str
    heard_at: datetime | None
    has_bench: bool
    steps: list[StepShape]


def docket(review: Review) -> list[SystemDocket]:
    """Running passes first, then the owed ones with the fewest changes of configuration."""
    entries = list(
        Entry.objects.filter(test__review=review, state__in=[State.OWED, State.RUNNING])
        .select_related("column__configuration__system__bench", "test")
        .order_by("column__position", "test__position", "number")
    )
    by_system: dict[int, list[Entry]] = {}
    for entry in entries:
        by_system.setdefault(entry.column.configuration.system_id, []).append(entry)
    return [_system(own) for own in by_system.values()]


def _system(entries: list[Entry]) -> SystemDocket:
    running = [entry for entry in entries if entry.state == State.RUNNING]
    present = running[0].column_id if running else None
    order = sorted(entries, key=lambda e: (e.state != State.RUNNING, e.column_id != present))
    steps: list[StepShape] = []
    before: Column | None = None
    for entry in order:
        if before is not None and entry.column_id != before.pk:
            steps.append(StepShape("change", entry.column_id, None, _change(before, entry.column), []))
        shape = EntryShape(
            entry.pk,
            entry.test_id,
            entry.column_id,
            entry.number,
            entry.state,
            entry.progress,
            entry.taken_at,
            entry.stop_wanted,
        )
        last = steps[-1] if steps else None
        if last and last.kind == "run" and (last.test, last.column) == (entry.test_id, entry.column_id):
            last.entries.append(shape)
        else:
            steps.append(StepShape("run", entry.column_id, entry.test_id, [], [shape]))
        before = entry.column
    system = entries[0].column.configuration.system
    bench = getattr(system, "bench", None)
    return SystemDocket(system.name, bench.heard_at if bench else None, bench is not None, steps)


def _change(before: Column, after: Column) -> list[str]:
    """What to set between two configurations."""
    old, new = before.configuration.settings, after.configuration.settings
    return [
        f"{key.replace('_', ' ')}: {old.get(key, 'not set')} to {new.get(key, 'not set')}"
        for key in dict.fromkeys([*old, *new])
        if old.get(key) != new.get(key)
    ]
