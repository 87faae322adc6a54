"""The order of work on a system: which configuration comes next, and which passes are run there."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.change_steps import change_steps
from nomothet.core.docket_order import Order, Setup, Visit, order_work, route_cost
from nomothet.server.docket.models import Entry, State, WorkOrder
from nomothet.server.reviews.models import Column, Test
from nomothet.server.systems.models import Configuration, System
from nomothet.server.systems.states import ConfigurationState as MachineSetup
from nomothet.server.systems.states import machine_state, setup_of, states


@dataclass(frozen=True)
class WorkVisit:
    """A stay at one configuration with the passes run there, in order."""

    configuration: Configuration
    entries: list[Entry]


@dataclass(frozen=True)
class Work:
    """All that is owed on a system, in order. `blocked` are passes of configurations that cannot be built."""

    system: System
    mode: str
    seed: int
    order: Order
    visits: list[WorkVisit]
    blocked: list[Entry]
    held: Mapping[int, MachineSetup]
    bench_may_change: bool


def work_of(system: System) -> Work:
    """The owed passes of a system in the order of its work order; eleven queries whatever their number."""
    entries = owed_entries(system)
    blocked = [entry for entry in entries if entry.column.configuration.blocked]
    ready = [entry for entry in entries if not entry.column.configuration.blocked]
    configurations = {entry.column.configuration_id: entry.column.configuration for entry in ready}
    present = [system.present] if system.present else []
    held = states([*configurations.values(), *present])
    wish = WorkOrder.objects.filter(system=system).first() or WorkOrder(system=system)
    order = _order(system, wish, ready, held)
    visits = _visits(order, ready, configurations)
    return Work(system, wish.mode, wish.seed, order, visits, blocked, held, _bench_may_change(system, visits, held))


def owed_entries(system: System) -> list[Entry]:
    """The owed passes of a system by review, test and configuration.

    Thousands of passes share a few columns and tests, which are read once and hung on; their progress is not read.
    """
    owed = Entry.objects.filter(state=State.OWED, column__configuration__system=system)
    entries = list(owed.only("id", "test_id", "column_id", "number", "state"))
    columns = Column.objects.select_related("configuration", "review").in_bulk({one.column_id for one in entries})
    tests = Test.objects.select_related("workload").in_bulk({one.test_id for one in entries})
    for entry in entries:
        entry.column, entry.test = columns[entry.column_id], tests[entry.test_id]

    def place(one: Entry) -> tuple[int, int, int, int, int]:
        review = one.column.review
        return review.position, review.pk, one.test.position, one.column.position, one.number

    return sorted(entries, key=place)


def _order(system: System, wish: WorkOrder, ready: Sequence[Entry], held: Mapping[int, MachineSetup]) -> Order:
    owed: dict[int, dict[int, int]] = defaultdict(lambda: defaultdict(int))
    for entry in ready:
        owed[entry.column.configuration_id][entry.test_id] += 1
    setups = {key: setup_of(state) for key, state in held.items()}
    present = setups.get(system.present_id) if system.present_id else None
    if wish.mode == "by hand":
        return _by_hand(wish.by_hand, owed, setups, present)
    baseline, begun, again = _baseline(system, ready)
    mode = wish.mode if wish.mode in ("balanced", "shuffled") else "fewest"
    return order_work(
        setups,
        owed,
        baseline=baseline,
        baseline_begun=begun,
        baseline_again=again,
        present=present,
        mode=mode,  # type: ignore[arg-type]
        seed=wish.seed,
    )


def _by_hand(
    wanted: Sequence[int], owed: Mapping[int, Mapping[int, int]], setups: Mapping[int, Setup], present: Setup | None
) -> Order:
    """The order that somebody has given; what it does not name comes after, in the order of the reviews."""
    keys = [key for key in wanted if key in owed] + [key for key in owed if key not in wanted]
    visits = [Visit(key, tuple(owed[key].items())) for key in keys]
    route = [setups[key] for key in keys]
    least = order_work(setups, owed, present=present).cost.openings if owed else 0
    return Order(visits, route_cost([present, *route] if present else route), False, least)


def _baseline(system: System, ready: Sequence[Entry]) -> tuple[int | None, bool, bool]:
    """The baseline to begin with, whether it was begun, and whether it comes again at the end.

    Where several reviews owe passes on one system, the baseline that the machine is now leads, else that of the first
    review; it comes again if one of the reviews that have it as their baseline wants that.
    """
    found = [entry for entry in ready if entry.column.is_baseline]
    found.sort(key=lambda entry: entry.column.configuration_id != system.present_id)
    if not found:
        return None, False, False
    configuration = found[0].column.configuration_id
    columns = {entry.column_id: entry.column for entry in found if entry.column.configuration_id == configuration}
    begun = any(column.passes.exists() for column in columns.values())
    return configuration, begun, any(column.review.returns_to_baseline for column in columns.values())


def _visits(order: Order, ready: Sequence[Entry], configurations: Mapping[int, Configuration]) -> list[WorkVisit]:
    waiting: dict[tuple[int, int], list[Entry]] = defaultdict(list)
    for entry in ready:
        waiting[entry.column.configuration_id, entry.test_id].append(entry)
    visits = []
    for visit in order.visits:
        taken = [waiting[visit.key, test].pop(0) for test, count in visit.passes for _ in range(count)]
        visits.append(WorkVisit(configurations[visit.key], taken))
    return visits


def _bench_may_change(system: System, visits: Sequence[WorkVisit], held: Mapping[int, MachineSetup]) -> bool:
    """Whether the next change needs no hands: the bench makes all of them, or there is nothing to do and to look at."""
    if system.changes_by == "bench" or not visits:
        return True
    if system.checks or any(entry.test.workload.checks for entry in visits[0].entries):
        return False
    before = machine_state(held[system.present_id]) if system.present_id else None
    return not change_steps(
        before, machine_state(held[visits[0].configuration.pk]), by_hand=not hasattr(system, "bench")
    )
