"""The docket as the screens show it: what runs, what comes next, and the changes in between."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from nomothet.core.change_steps import change_steps
from nomothet.core.docket_order import BETWEEN_PASSES_S
from nomothet.server.docket.changeovers import steps_to
from nomothet.server.docket.hold import Hold, hold_of
from nomothet.server.docket.models import Changeover, Entry, State
from nomothet.server.docket.work import Work, work_of
from nomothet.server.reviews.models import Review
from nomothet.server.systems.models import Bench, Configuration, System
from nomothet.server.systems.states import machine_state, states
from nomothet.server.workloads.approvals import not_for_benches
from nomothet.server.workloads.models import Kind
from nomothet.server.workloads.names import edition_names
from nomothet.words import say


def systems_with_work() -> frozenset[int]:
    """Systems whose bench has something to ask for, owed passes or passes to send again; two queries."""
    owed = Entry.objects.filter(state=State.OWED).values_list("column__configuration__system", flat=True)
    again = Bench.objects.filter(send_again=True).values_list("system", flat=True)
    return frozenset(owed.distinct()) | frozenset(again)


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
    told_at: datetime | None
    by_hand: str


@dataclass(frozen=True)
class TickShape:
    at: datetime
    by: str
    observed: Any
    agrees: bool
    released: str


@dataclass(frozen=True)
class ChangeStepShape:
    """One thing to do before the passes of a visit; `told` is what the bench reads just now, where it can."""

    key: str
    kind: str
    words: str
    asks: str
    expected: Any
    unit: str
    reading: str
    at_most: float | None
    told: float | None
    tick: TickShape | None


@dataclass(frozen=True)
class GroupShape:
    """Passes of one cell that are run together."""

    review: int
    question: str
    test: int
    test_name: str
    detail: str
    column: int
    label: str
    position: int
    is_baseline: bool
    # Why no bench takes it yet.
    waits: str
    # A load search, which has a ladder of its own.
    search: bool
    entries: list[EntryShape]


@dataclass(frozen=True)
class VisitShape:
    """A stay at one configuration. `steps` come before its passes; none when the machine is there already."""

    configuration: int
    title: str
    present: bool
    by_hand: bool
    opens: bool
    changeover: int | None
    steps: list[ChangeStepShape]
    groups: list[GroupShape]


@dataclass(frozen=True)
class SystemDocket:
    """The order of work on one system. `heard_at` is when its bench last spoke; None when it has none."""

    id: int
    key: str
    system: str
    heard_at: datetime | None
    has_bench: bool
    changes_by: str
    present: str
    mode: str
    seed: int
    openings: int
    fewest_openings: int
    exact: bool
    hours: float
    hold: Hold | None
    running: list[GroupShape]
    visits: list[VisitShape]
    blocked: list[GroupShape]


def docket(review: Review) -> list[SystemDocket]:
    """The dockets of the systems on which a review owes or runs passes; other reviews' passes there are in them."""
    open_entries = Entry.objects.filter(test__review=review, state__in=[State.OWED, State.RUNNING])
    wanted = open_entries.values_list("column__configuration__system", flat=True).distinct()
    found = System.objects.filter(pk__in=list(wanted)).select_related("bench", "present").order_by("pk")
    return [system_docket(system) for system in found]


def system_docket(system: System) -> SystemDocket:
    """Everything owed and running on a system, in the order of work."""
    work = work_of(system)
    bench = getattr(system, "bench", None)
    running = list(
        Entry.objects.filter(state=State.RUNNING, column__configuration__system=system)
        .select_related("column__review", "column__configuration", "test__workload", "by_hand")
        .order_by("taken_at")
    )
    cost = work.order.cost
    seconds = cost.time_s + sum(
        (entry.test.workload.duration_s or 120.0) + BETWEEN_PASSES_S for visit in work.visits for entry in visit.entries
    )
    return SystemDocket(
        id=system.pk,
        key=system.key,
        system=system.name,
        heard_at=bench.heard_at if bench else None,
        has_bench=bench is not None,
        changes_by=system.changes_by,
        present=system.present.title if system.present else "",
        mode=work.mode,
        seed=work.seed,
        openings=cost.openings,
        fewest_openings=work.order.fewest_openings,
        exact=work.order.exact,
        hours=seconds / 3600,
        hold=hold_of(system),
        running=_groups(running),
        visits=_visits(work, bench.readings if bench else {}),
        blocked=_groups(work.blocked),
    )


def _visits(work: Work, readings: dict[str, float]) -> list[VisitShape]:
    system = work.system
    under_way = Changeover.objects.filter(system=system, done_at=None).first()
    # The state that the machine has when a visit begins is that of the visit before.
    before: Configuration | None = system.present
    held = dict(work.held)
    if before is not None and before.pk not in held:
        held |= states([before])
    shapes = []
    for at, visit in enumerate(work.visits):
        present = at == 0 and visit.configuration.pk == system.present_id
        mine = under_way if at == 0 and under_way and under_way.configuration_id == visit.configuration.pk else None
        moves = change_steps(
            machine_state(held[before.pk]) if before else None,
            machine_state(held[visit.configuration.pk]),
            by_hand=not hasattr(system, "bench"),
        )
        if mine is not None:
            steps = mine.steps
        elif present:
            steps = []
        elif at == 0:
            steps = steps_to(system, visit, held)
        else:
            steps = [
                {
                    "key": m.key,
                    "kind": m.kind,
                    "words": say(m.does),
                    "asks": m.asks,
                    "expected": m.expected,
                    "unit": m.unit,
                }
                for m in moves
            ]
        shapes.append(
            VisitShape(
                configuration=visit.configuration.pk,
                title=visit.configuration.title,
                present=present,
                by_hand=system.changes_by == "tester" and bool(steps),
                opens=any(step["kind"] in ("safety", "start_up") for step in steps),
                changeover=mine.pk if mine else None,
                steps=[step_shape(step, mine.ticks if mine else {}, readings) for step in steps],
                groups=_groups(visit.entries),
            )
        )
        before = visit.configuration
    return shapes


def step_shape(step: dict[str, Any], ticks: dict[str, Any], readings: dict[str, float]) -> ChangeStepShape:
    """A step of a change as the screens show it, with its tick and what the bench reads just now."""
    tick = ticks.get(step["key"])
    return ChangeStepShape(
        key=step["key"],
        kind=step["kind"],
        words=step["words"],
        asks=step["asks"],
        expected=step["expected"],
        unit=step["unit"],
        reading=step.get("reading", ""),
        at_most=step.get("at_most"),
        told=readings.get(step.get("reading", "")),
        tick=TickShape(
            datetime.fromisoformat(tick["at"]), tick["by"], tick["observed"], tick["agrees"], tick.get("released", "")
        )
        if tick
        else None,
    )


def _groups(entries: Sequence[Entry]) -> list[GroupShape]:
    """Neighbouring passes of one cell together."""
    systems = {entry.column.configuration.system_id for entry in entries}
    workloads = {entry.test.workload for entry in entries}
    why_not = {system: not_for_benches(workloads, system) for system in systems}
    groups: list[GroupShape] = []
    names = edition_names(entry.test.workload for entry in entries)
    for entry in entries:
        last = groups[-1] if groups else None
        if last is None or (last.test, last.column) != (entry.test_id, entry.column_id):
            column, test = entry.column, entry.test
            last = GroupShape(
                review=column.review_id,
                question=column.review.question,
                test=test.pk,
                test_name=names[test.workload_id],
                detail=test.detail,
                column=column.pk,
                label=column.label,
                position=column.position,
                is_baseline=column.is_baseline,
                search=test.workload.kind == Kind.LOAD_SEARCH,
                waits=why_not[column.configuration.system_id].get(test.workload_id, ""),
                entries=[],
            )
            groups.append(last)
        last.entries.append(
            EntryShape(
                entry.pk,
                entry.test_id,
                entry.column_id,
                entry.number,
                entry.state,
                *(
                    (
                        entry.progress,
                        entry.taken_at,
                        entry.stop_wanted,
                        entry.told_at,
                        entry.by_hand.display_name if entry.by_hand else "",
                    )
                    if entry.state == State.RUNNING
                    else ({}, None, False, None, "")
                ),
            )
        )
    return groups
