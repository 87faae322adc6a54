"""How much memory is enough for the tests of a review, from what their passes used (section 17)."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.enough import CUT_OFF, Use, enough
from nomothet.core.notes import note
from nomothet.core.sensors import sensor_of
from nomothet.core.units import conversion, unit_named
from nomothet.server.evidence.figures import Evidence, gather
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.shown import metric_of
from nomothet.server.shelf.models import Part
from nomothet.server.systems.states import ConfigurationState, population, states
from nomothet.server.workloads.models import Kind
from nomothet.words import say


@dataclass(frozen=True)
class _Memory:
    """Where a memory is claimed and on offer: the aspects that vary it, and the part that brings it."""

    quantity: str
    aspects: tuple[str, ...]
    part: str
    attribute: str


_MEMORIES = {
    one.quantity: one
    for one in (
        _Memory(
            "graphics memory used",
            ("graphics_memory_gb", "part.graphics.memory_gb", "part.graphics"),
            "graphics",
            "memory_gb",
        ),
        _Memory("memory used", ("memory.capacity_gb", "memory.kit", "part.memory_kit"), "memory_kit", ""),
        _Memory("storage used", ("part.storage.capacity_gb", "part.storage"), "storage", "capacity_gb"),
    )
}
QUANTITIES = tuple(_MEMORIES)


@dataclass(frozen=True)
class UseShape:
    """Use of one test: the highest over its cells that were not cut off, or over all where all were."""

    test: int
    column: int
    peak: float
    p95: float
    added: float | None
    cut_off: bool
    capacity: float | None
    # Whether it was typed in: then there is no share of time under it.
    typed: bool


@dataclass(frozen=True)
class EnoughShape:
    """What is enough, against the sizes on offer; `size` is null where none is."""

    quantity: str
    reserve_pct: float
    idle: float | None
    uses: list[UseShape]
    leading: int
    needed: float
    size: float | None
    at_least: bool
    sizes: list[float]
    # Where the sizes come from: "levels" of the factor, or parts on the "shelf".
    sizes_from: str
    words: str


def memory_needed(
    review: Review, quantity: str, reserve: float, over_idle: bool, evidence: Evidence | None = None
) -> EnoughShape:
    """How much of a memory the review's tests need.

    Parameters
    ----------
    reserve : float
        Fraction that is to stay free.
    over_idle : bool
        Whether to say what the tests add to the idle machine, where an idle baseline was run.
    evidence : Evidence, optional
        That of all tests of the review, where the caller has it already.
    """
    if quantity not in _MEMORIES:
        raise unusable(f"{quantity!r} is no memory that is looked at; choose one of {', '.join(QUANTITIES)}.")
    memory = _MEMORIES[quantity]
    tests = list(review.tests.select_related("workload"))
    columns = list(review.columns.select_related("configuration__system"))
    held = states([column.configuration for column in columns])
    claimed = {column.pk: _claimed(memory, column, held[column.configuration_id]) for column in columns}
    evidence = evidence or gather(review, tests)
    found = {test.pk: [*_recorded(test, evidence, memory), *_typed(review, test, evidence, memory)] for test in tests}
    found = {test: [_against(use, claimed) for use in own] for test, own in found.items() if own}
    idle = _idle(tests, found) if over_idle else None
    uses = [_highest(found[test.pk], idle) for test in tests if test.pk in found and test.workload.kind != Kind.IDLE]
    if not uses:
        raise unusable(f"No kept pass of this review has a record of its {quantity}.")
    sizes, sizes_from = _on_offer(review, memory, claimed)
    by_test = {str(one.test): Use(one.peak, one.p95, one.added, one.cut_off, one.capacity) for one in uses}
    answer = enough(by_test, sizes, reserve)
    words = note("enough_memory", needed=answer.needed, reserve=reserve, size=answer.size, at_least=answer.at_least)
    return EnoughShape(
        quantity=quantity,
        reserve_pct=100 * reserve,
        idle=idle,
        uses=uses,
        leading=int(answer.leading),
        needed=answer.needed,
        size=answer.size,
        at_least=answer.at_least,
        sizes=sizes,
        sizes_from=sizes_from,
        words=say(words),
    )


def _claimed(memory: _Memory, column: Column, state: ConfigurationState) -> float | None:
    """The capacity that a configuration claims, in GB."""
    reserved = state.settings.get("graphics_memory_gb")
    if memory.quantity == "graphics memory used" and isinstance(reserved, int | float) and reserved > 0:
        return float(reserved)
    if memory.quantity == "memory used":
        slots = population(column.configuration.system, state.slots, state.settings) if state.slots else None
        return slots.capacity_gb if slots and slots.capacity_gb > 0 else None
    fitted = [fit.part for fit in state.parts.values() if fit.part.kind == memory.part]
    sizes = [float(value) for part in fitted if isinstance(value := part.value(memory.attribute), int | float)]
    return max(sizes, default=None)


def _recorded(test: Test, evidence: Evidence, memory: _Memory) -> list[UseShape]:
    return [
        UseShape(test.pk, column, use["peak"], use["p95"], None, bool(use["cut_off"]), use.get("capacity"), False)
        for (_, column), passes in evidence.summaries(test.pk).items()
        for one in passes
        if (use := one.get("uses", {}).get(memory.quantity))
    ]


def _typed(review: Review, test: Test, evidence: Evidence, memory: _Memory) -> list[UseShape]:
    """Readings of a metric that is named like the memory, such as a peak that was read off an overlay."""
    uses = []
    for shown in test.shown:
        metric = metric_of(test, shown, review.low_definition)
        sensor = sensor_of(f"{metric.label} {metric.key}", metric.unit)
        turned = conversion(unit_named(metric.unit), "GB")
        if sensor is None or sensor.key != memory.quantity or turned is None:
            continue
        for column, values in evidence.values.get((test.pk, metric.key), {}).items():
            peak = turned.of(max(values.numbers))
            uses.append(UseShape(test.pk, column, peak, peak, None, False, None, True))
    return uses


def _against(use: UseShape, claimed: Mapping[int, float | None]) -> UseShape:
    """A use against its capacity: that of the recording, else what the configuration claims."""
    capacity = use.capacity or claimed.get(use.column)
    cut_off = use.cut_off or (capacity is not None and use.peak >= CUT_OFF * capacity)
    return UseShape(use.test, use.column, use.peak, use.p95, use.added, cut_off, capacity, use.typed)


def _highest(found: Sequence[UseShape], idle: float | None) -> UseShape:
    free = [one for one in found if not one.cut_off]
    use = max(free or found, key=lambda one: one.peak)
    added = None if idle is None else max(0.0, use.peak - idle)
    return UseShape(use.test, use.column, use.peak, use.p95, added, use.cut_off, use.capacity, use.typed)


def _idle(tests: Sequence[Test], found: Mapping[int, Sequence[UseShape]]) -> float | None:
    """What the machine uses without a workload: the usual of the idle tests."""
    read = [use.p95 for test in tests if test.workload.kind == Kind.IDLE for use in found.get(test.pk, [])]
    return sum(read) / len(read) if read else None


def _on_offer(review: Review, memory: _Memory, claimed: Mapping[int, float | None]) -> tuple[list[float], str]:
    """The levels of a factor that varies this memory, else the sizes of the parts on the shelf."""
    varied = any(aspect in memory.aspects for factor in review.factors for aspect in factor["aspects"])
    levels = sorted({size for size in claimed.values() if size})
    if varied and levels:
        return levels, "levels"
    return sorted(set(_sizes(memory, Part.objects.filter(kind=memory.part, archived_at=None)))), "shelf"


def _sizes(memory: _Memory, parts: Iterable[Part]) -> Iterable[float]:
    for part in parts:
        if memory.attribute:
            value = part.value(memory.attribute)
            if isinstance(value, int | float):
                yield float(value)
            continue
        each, modules = part.value("module_gb"), part.value("modules")
        if isinstance(each, int | float):
            yield float(each) * (modules if isinstance(modules, int) else 1)
