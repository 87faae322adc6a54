"""Section 23 of the method: the order of work on one system."""

import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal, NamedTuple

import numpy as np

from nomothet.core.errors import BadPlan

Mode = Literal["fewest", "balanced", "shuffled"]
EXACT_UP_TO = 13
_OPENING, _FIRMWARE = 10**9, 10**5

# What a change takes, where nothing on record says otherwise.
OPENING_S, FIRMWARE_S, CHANGE_S = 15 * 60.0, 4 * 60.0, 60.0
BETWEEN_PASSES_S = 20.0


class Cost(NamedTuple):
    """What changing costs: the machine opened, the firmware entered, single things changed; compared in that order."""

    openings: int
    firmware: int
    changes: int

    def plus(self, other: "Cost") -> "Cost":
        return Cost(*(a + b for a, b in zip(self, other, strict=True)))

    @property
    def time_s(self) -> float:
        """How long all of it takes, in s.

        >>> Cost(openings=1, firmware=1, changes=2).time_s
        1260.0
        """
        return self.openings * OPENING_S + self.firmware * FIRMWARE_S + self.changes * CHANGE_S


@dataclass(frozen=True)
class Setup:
    """The state of a configuration as far as changing it costs work: aspect and value, by what changing takes."""

    key: int
    hardware: frozenset[tuple[str, object]] = frozenset()
    firmware: frozenset[tuple[str, object]] = frozenset()
    settings: frozenset[tuple[str, object]] = frozenset()


@dataclass(frozen=True)
class Visit:
    """A stay at one configuration with the passes run there, as (test, number of passes)."""

    key: int
    passes: tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Order:
    """The visits in order; `exact` when no order costs less, `fewest_openings` what no order can undercut."""

    visits: list[Visit]
    cost: Cost
    exact: bool
    fewest_openings: int


def change_cost(before: Setup, after: Setup) -> Cost:
    """The cost of going from one setup to another.

    Examples
    --------
    >>> change_cost(Setup(1, frozenset({("kit", "a")})), Setup(2, frozenset({("kit", "b")})))
    Cost(openings=1, firmware=0, changes=1)
    """
    changed = [
        len({name for name, _ in one ^ other})
        for one, other in (
            (before.hardware, after.hardware),
            (before.firmware, after.firmware),
            (before.settings, after.settings),
        )
    ]
    return Cost(int(changed[0] > 0), int(changed[1] > 0), sum(changed))


def route_cost(setups: Sequence[Setup]) -> Cost:
    """The cost of a whole route."""
    total = Cost(0, 0, 0)
    for before, after in pairwise(setups):
        total = total.plus(change_cost(before, after))
    return total


def order_work(
    setups: Mapping[int, Setup],
    owed: Mapping[int, Mapping[int, int]],
    *,
    baseline: int | None = None,
    baseline_begun: bool = False,
    baseline_again: bool = True,
    present: Setup | None = None,
    mode: Mode = "fewest",
    seed: int = 0,
) -> Order:
    """Order the passes owed on one system.

    *fewest*: each configuration once, so that the machine is opened as rarely as possible, then the firmware entered
    as rarely as possible, then as few things changed as possible; the baseline first, and one pass of each of its
    tests kept back for the end. *balanced*: one pass of everything per round, each second round backwards, so that
    every configuration has nearly the same mean place in time. *shuffled*: one pass of everything per round, each
    round in an order drawn with the seed.

    Parameters
    ----------
    owed : mapping of configuration to mapping of test to number of passes
    baseline : int, optional
        Configuration to begin and end with; its passes are run at its place when there is only one per test.
    baseline_begun : bool
        Whether the baseline has passes from earlier, so that a single owed one belongs at the end.
    baseline_again : bool
        Whether the baseline is to be measured again at the end; without it all its passes come first.
    present : Setup, optional
        What the machine is now.

    Returns
    -------
    Order
        Solved exactly for up to 13 configurations (Held & Karp 1962); above that grouped by hardware and firmware and
        then improved by moving and reversing stretches until nothing gets better. The openings are the fewest
        possible in either case.

    Raises
    ------
    BadPlan
        When a configuration with passes owed has no setup, or a number of passes is below 1.

    References
    ----------
    Held & Karp (1962), A dynamic programming approach to sequencing problems. J. SIAM 10 (1).
    """
    _check(setups, owed)
    wanted = {key: dict(tests) for key, tests in owed.items() if tests}
    if not wanted:
        return Order([], Cost(0, 0, 0), True, 0)
    fixed = [present] if present else []
    end = None
    if mode != "fewest":
        visits, exact = _rounds(wanted, mode, seed), False
    else:
        if baseline_begun and not baseline_again:
            # It was measured at the start already, so its further passes go where they cost least.
            baseline = None
        visits, exact, first, end = _fewest(setups, wanted, baseline, baseline_begun, baseline_again, present)
        fixed += [first] if first else []
    route = [setups[visit.key] for visit in visits]
    kinds = {setup.hardware for setup in route}
    cost = route_cost([present, *route] if present else route)
    return Order(visits, cost, exact, _least_openings(kinds, fixed, end))


def _check(setups: Mapping[int, Setup], owed: Mapping[int, Mapping[int, int]]) -> None:
    for key, tests in owed.items():
        if key not in setups:
            raise BadPlan(f"Configuration {key} owes passes and has no setup.")
        if any(count < 1 for count in tests.values()):
            raise BadPlan("A number of owed passes is below 1.")


def _least_openings(kinds: set[frozenset[tuple[str, object]]], fixed: Sequence[Setup], end: Setup | None) -> int:
    """The fewest openings of any route that begins with the fixed setups, reaches every kind, and ends with `end`.

    Every kind of hardware that is not at hand has to be reached once; coming back to a kind left before costs one more.
    """
    begun = sum(a.hardware != b.hardware for a, b in pairwise(fixed))
    at_hand = fixed[-1].hardware if fixed else None
    ahead = kinds - {at_hand}
    if end is None or end.hardware != at_hand:
        back = end is not None and end.hardware not in kinds
        return begun + len(ahead) - int(not fixed) + int(back)
    return begun + len(ahead) + int(bool(ahead))


def _rounds(wanted: dict[int, dict[int, int]], mode: Mode, seed: int) -> list[Visit]:
    rng = random.Random(seed)
    left = {key: dict(tests) for key, tests in wanted.items()}
    visits: list[Visit] = []
    turn = 0
    while any(left.values()):
        keys = [key for key in left if left[key]]
        if mode == "shuffled":
            rng.shuffle(keys)
        elif turn % 2:
            keys.reverse()
        for key in keys:
            visits = _joined(visits, Visit(key, tuple((test, 1) for test in left[key])))
            left[key] = {test: count - 1 for test, count in left[key].items() if count > 1}
        turn += 1
    return visits


def _joined(visits: list[Visit], more: Visit) -> list[Visit]:
    """Two visits of one configuration in a row are one."""
    if visits and visits[-1].key == more.key:
        return [*visits[:-1], Visit(more.key, visits[-1].passes + more.passes)]
    return [*visits, more]


def _fewest(
    setups: Mapping[int, Setup],
    wanted: dict[int, dict[int, int]],
    baseline: int | None,
    begun: bool,
    again: bool,
    present: Setup | None,
) -> tuple[list[Visit], bool, Setup | None, Setup | None]:
    first, last = _split_baseline(wanted.get(baseline, {}) if baseline is not None else {}, begun, again)
    middle = [key for key in wanted if key != baseline]
    if not middle:
        first, last = wanted[baseline], {}  # type: ignore[index]
    begin = setups[baseline] if first and baseline is not None else None
    end = setups[baseline] if last and baseline is not None else None
    order, exact = _shortest([setups[key] for key in middle], begin or present, end)
    visits = [Visit(middle[at], tuple(wanted[middle[at]].items())) for at in order]
    if baseline is not None:
        visits = [Visit(baseline, tuple(first.items()))] * bool(first) + visits
        visits += [Visit(baseline, tuple(last.items()))] * bool(last)
    return visits, exact, begin, end


def _split_baseline(tests: Mapping[int, int], begun: bool, again: bool) -> tuple[dict[int, int], dict[int, int]]:
    """The baseline's passes for the start, and one of each test for the end."""
    first, last = {}, {}
    for test, count in tests.items():
        if again and (count > 1 or begun):
            last[test] = 1
        if count > 1 or not begun:
            first[test] = count - last.get(test, 0)
    return first, last


def _shortest(setups: Sequence[Setup], start: Setup | None, end: Setup | None) -> tuple[list[int], bool]:
    """The order of setups with the least cost between an optional start and an optional end."""
    n = len(setups)
    if n == 0:
        return [], True
    # Among equals the given order is kept, and what the machine is now comes first: a step back costs a little, all of
    # them together less than a single change.
    scale = 2 * n
    back = np.tril(np.ones((n, n), dtype=np.int64), -1)
    between = scale * np.array([[_weight(a, b) for b in setups] for a in setups], dtype=np.int64) + back
    other = [int(start is not None and one.key != start.key) for one in setups]
    enter = np.array([scale * _weight(start, b) if start else 0 for b in setups], dtype=np.int64) + other
    leave = np.array([scale * _weight(a, end) if end else 0 for a in setups], dtype=np.int64)
    if n <= EXACT_UP_TO:
        return _held_karp(between, enter, leave), True
    return _improved(_grouped(setups, start, end), between, enter, leave), False


def _weight(a: Setup, b: Setup) -> int:
    cost = change_cost(a, b)
    return cost.openings * _OPENING + cost.firmware * _FIRMWARE + cost.changes


def _held_karp(between: np.ndarray, enter: np.ndarray, leave: np.ndarray) -> list[int]:
    n = len(enter)
    far = np.iinfo(np.int64).max // 4
    best = np.full((1 << n, n), far, dtype=np.int64)
    came = np.zeros((1 << n, n), dtype=np.int8)
    best[[1 << at for at in range(n)], range(n)] = enter
    for seen in range(1, 1 << n):
        missing = [at for at in range(n) if not seen >> at & 1]
        if not missing:
            break
        through = best[seen][:, None] + between[:, missing]
        source = through.argmin(axis=0)
        cost = through[source, range(len(missing))]
        for at, via, value in zip(missing, source, cost, strict=True):
            if value < best[seen | 1 << at, at]:
                best[seen | 1 << at, at] = value
                came[seen | 1 << at, at] = via
    seen, at = (1 << n) - 1, int((best[-1] + leave).argmin())
    route = [at]
    while seen != 1 << at:
        seen, at = seen ^ 1 << at, int(came[seen, at])
        route.append(at)
    return route[::-1]


def _grouped(setups: Sequence[Setup], start: Setup | None, end: Setup | None) -> list[int]:
    """Groups of one hardware stay together, and within them groups of one firmware; the end's hardware comes last."""

    def place(at: int) -> tuple[bool, bool, int, bool, int, int]:
        one = setups[at]
        hardware = next(i for i, other in enumerate(setups) if other.hardware == one.hardware)
        firmware = next(i for i, o in enumerate(setups) if (o.hardware, o.firmware) == (one.hardware, one.firmware))
        here = start is not None and one.hardware == start.hardware
        there = end is not None and one.hardware == end.hardware and not here
        same = start is not None and one.firmware == start.firmware
        return (not here, there, hardware, not same, firmware, at)

    return sorted(range(len(setups)), key=place)


def _improved(route: list[int], between: np.ndarray, enter: np.ndarray, leave: np.ndarray) -> list[int]:
    """Reverse stretches and move them elsewhere as long as that costs less; openings can only fall."""

    # Plain lists: routes are short, and calling NumPy for each of thousands of them would cost more than the sums.
    rows, first, last = between.tolist(), enter.tolist(), leave.tolist()

    def cost(line: list[int]) -> int:
        return int(first[line[0]] + sum(rows[a][b] for a, b in pairwise(line)) + last[line[-1]])

    best, least = route, cost(route)
    better = True
    while better:
        better = False
        for line in _neighbours(best):
            value = cost(line)
            if value < least:
                best, least, better = line, value, True
                break
    return best


def _neighbours(route: list[int]) -> "list[list[int]]":
    n = len(route)
    found = []
    for i in range(n):
        for j in range(i + 1, n + 1):
            stretch, rest = route[i:j], route[:i] + route[j:]
            if j - i > 1:
                found.append(route[:i] + stretch[::-1] + route[j:])
            if j - i <= 3:
                found.extend(rest[:k] + stretch + rest[k:] for k in range(len(rest) + 1) if k != i)
    return found
