"""How much memory is enough for the tests of a review (section 17)."""

from dataclasses import dataclass

from nomothet.core.enough import Use, enough
from nomothet.server.matrix.figures import gather
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Review, Test
from nomothet.server.workloads.models import Kind

QUANTITIES = ("graphics memory used", "memory used")
_SIZES = (0.5, 1, 2, 3, 4, 6, 8, 10, 12, 16, 20, 24, 32, 48, 64, 96, 128, 192, 256, 512, 1024)


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
    words: str


def memory_needed(review: Review, quantity: str, reserve: float, over_idle: bool) -> EnoughShape:
    """How much of a memory the review's tests need.

    Parameters
    ----------
    reserve : float
        Fraction that is to stay free.
    over_idle : bool
        Whether to say what the tests add to the idle machine, where an idle baseline was run.
    """
    if quantity not in QUANTITIES:
        raise unusable(f"{quantity!r} is no memory that is looked at; choose one of {', '.join(QUANTITIES)}.")
    tests = list(review.tests.select_related("workload"))
    summaries = gather(review, tests).summaries
    found: dict[int, list[tuple[int, dict[str, float]]]] = {}
    for (test, column), passes in summaries.items():
        for one in passes:
            if quantity in one.get("uses", {}):
                found.setdefault(test, []).append((column, one["uses"][quantity]))
    idle = _idle(tests, found) if over_idle else None
    uses = [
        _highest(test.pk, found[test.pk], idle)
        for test in tests
        if test.pk in found and test.workload.kind != Kind.IDLE
    ]
    if not uses:
        raise unusable(f"No kept pass of this review has a record of its {quantity}.")
    sizes = [float(size) for size in _SIZES]
    by_test = {str(one.test): Use(one.peak, one.p95, one.added, one.cut_off, one.capacity) for one in uses}
    answer = enough(by_test, sizes, reserve)
    most = "at least " if answer.at_least else ""
    size = f"{answer.size:g} GB is enough" if answer.size else "no size on offer is enough"
    words = f"{most}{answer.needed:.1f} GB with {100 * reserve:.0f} % in reserve: {most}{size}"
    return EnoughShape(
        quantity,
        100 * reserve,
        idle,
        uses,
        int(answer.leading),
        answer.needed,
        answer.size,
        answer.at_least,
        sizes,
        words[:1].upper() + words[1:],
    )


def _highest(test: int, found: list[tuple[int, dict[str, float]]], idle: float | None) -> UseShape:
    free = [one for one in found if not one[1]["cut_off"]]
    column, use = max(free or found, key=lambda one: one[1]["peak"])
    added = None if idle is None else max(0.0, use["peak"] - idle)
    return UseShape(test, column, use["peak"], use["p95"], added, bool(use["cut_off"]), use.get("capacity"))


def _idle(tests: list[Test], found: dict[int, list[tuple[int, dict[str, float]]]]) -> float | None:
    """What the machine uses without a workload: the usual of the idle tests."""
    read = [use["p95"] for test in tests if test.workload.kind == Kind.IDLE for _, use in found.get(test.pk, [])]
    return sum(read) / len(read) if read else None
