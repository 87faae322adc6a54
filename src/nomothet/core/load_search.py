"""Section 8 of the method: how many before it breaks, and ladders that use the same machinery.

What comes next follows from the attempts so far and nothing else, so a search that was stopped goes on where it was.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from nomothet.core.errors import BadPlan

Phase = Literal["growing", "shrinking", "bisecting", "confirming", "hot", "ladder"]
MOST_LOAD = 1_000_000


@dataclass(frozen=True)
class SearchPlan:
    """How a load is searched for.

    Attributes
    ----------
    confirm : int
        So many times in a row must the result have held.
    soak_s : float
        Length of the soak before the hot check; 0 leaves it out.
    rungs : int
        Of a ladder, how many there are; 0 searches whole numbers.
    """

    start: int = 1
    growth: float = 1.5
    resolution: int = 1
    floor: int = 1
    ceiling: int = MOST_LOAD
    confirm: int = 3
    soak_s: float = 0.0
    rungs: int = 0

    def __post_init__(self) -> None:
        if not self.growth > 1:
            raise BadPlan(f"a search cannot grow by {self.growth:g}: the factor must be over 1")
        if self.resolution < 1 or self.confirm < 1:
            raise BadPlan("step and confirmations of a search are whole numbers from 1")
        if not 1 <= self.floor <= self.start <= self.ceiling <= MOST_LOAD:
            raise BadPlan(f"a search starts between its floor and its ceiling, not at {self.start}")


@dataclass(frozen=True)
class Attempt:
    """One try at a load. On a ladder the load is the place of the rung, from 0."""

    load: int
    holds: bool
    hot: bool = False
    time_to_failure_s: float | None = None
    reason: str = ""


@dataclass(frozen=True)
class NextAttempt:
    """What to try next and why."""

    load: int
    phase: Phase
    hot: bool = False


@dataclass(frozen=True)
class Bracket:
    """The highest load that held and the lowest above it that broke; None where there is none yet."""

    held: int | None
    broken: int | None


@dataclass(frozen=True)
class SearchResult:
    """What the attempts say so far.

    Attributes
    ----------
    loss_pct : float or None
        What heat costs of the load held, in %; None without a hot check.
    unstable : tuple of int or None
        Lowest load that broke and highest that held, where these contradict each other.
    """

    cold: Bracket
    hot: Bracket | None
    loss_pct: float | None
    unstable: tuple[int, int] | None
    confirmed: int
    done: bool


def next_attempt(plan: SearchPlan, attempts: Sequence[Attempt]) -> NextAttempt | None:
    """What to try next; None once the search is done.

    Examples
    --------
    >>> plan = SearchPlan(start=50, resolution=5)
    >>> tried = [Attempt(50, True), Attempt(75, True), Attempt(112, False)]
    >>> next_attempt(plan, tried)
    NextAttempt(load=93, phase='bisecting', hot=False)
    """
    if plan.rungs:
        return _next_rung(plan, attempts)
    cold = _fold(plan, [one for one in attempts if not one.hot])
    if cold.proposal is not None:
        return cold.proposal
    if cold.confirming is None or plan.soak_s <= 0:
        return None
    return _next_hot(plan, cold.confirming, [one for one in attempts if one.hot])


def search_result(plan: SearchPlan, attempts: Sequence[Attempt]) -> SearchResult:
    """Brackets cold and hot, the loss between them, and attempts that contradict each other.

    Until a load is confirmed, *held* is the highest that was tried and held under the lowest that broke.
    """
    cold_attempts = [one for one in attempts if not one.hot]
    hot_attempts = [one for one in attempts if one.hot]
    if plan.rungs:
        held = [one.load for one in cold_attempts if one.holds]
        broken = [one.load for one in cold_attempts if not one.holds]
        best = min(held, default=None)
        bracket = Bracket(best, max((one for one in broken if best is None or one < best), default=None))
        return SearchResult(bracket, None, None, None, 0, next_attempt(plan, attempts) is None)
    fold = _fold(plan, cold_attempts)
    confirmed = 0 if fold.confirming is None else _streak(cold_attempts, fold.confirming)
    sure = fold.confirming is not None and confirmed >= plan.confirm
    cold = _bracket(cold_attempts, fold.confirming if sure else _held(cold_attempts))
    hot = _bracket(hot_attempts, _held(hot_attempts))
    loss = None
    if hot_attempts and cold.held and hot.held is not None:
        loss = 100 * (1 - hot.held / cold.held)
    done = bool(attempts) and next_attempt(plan, attempts) is None
    return SearchResult(cold, hot if hot_attempts else None, loss, unstable_zone(cold_attempts), confirmed, done)


def unstable_zone(attempts: Sequence[Attempt]) -> tuple[int, int] | None:
    """From the lowest load that broke to the highest that held, where these contradict each other."""
    broke = min((one.load for one in attempts if not one.holds), default=None)
    held = max((one.load for one in attempts if one.holds), default=None)
    return (broke, held) if broke is not None and held is not None and broke <= held else None


@dataclass(frozen=True)
class UseFit:
    """A resource against load below the limit: `use = intercept + slope · load`; where it would reach its capacity."""

    name: str
    intercept: float
    slope: float
    runs_out_at: float | None
    points: int


def use_fit(name: str, loads: Sequence[float], use: Sequence[float], capacity: float) -> UseFit | None:
    """Least squares through the loads that held; None with fewer than two different loads.

    Examples
    --------
    >>> use_fit("memory", [1, 2, 4], [3.0, 4.0, 6.0], 12.0).runs_out_at
    10.0
    """
    x, y = np.asarray(loads, float), np.asarray(use, float)
    kept = np.isfinite(x) & np.isfinite(y)
    x, y = x[kept], y[kept]
    if len(np.unique(x)) < 2:
        return None
    middle_x, middle_y = float(x.mean()), float(y.mean())
    slope = float(((x - middle_x) * (y - middle_y)).sum() / ((x - middle_x) ** 2).sum())
    intercept = middle_y - slope * middle_x
    reaches = (capacity - intercept) / slope if slope > 0 else None
    return UseFit(name, intercept, slope, None if reaches is None else round(reaches, 9), len(x))


@dataclass(frozen=True)
class _Fold:
    held: int | None
    confirming: int | None
    proposal: NextAttempt | None


def _fold(plan: SearchPlan, attempts: Sequence[Attempt]) -> _Fold:
    """Replay the cold attempts: search until the gap is small enough, then confirm, stepping down when that breaks."""
    held: int | None = None
    broken: int | None = None
    confirming: int | None = None
    for at, one in enumerate(attempts):
        if confirming is not None:
            if one.load == confirming and not one.holds:
                if confirming <= plan.floor:
                    return _Fold(None, None, None)
                confirming = max(plan.floor, confirming - plan.resolution)
            continue
        seen = attempts[: at + 1]
        broken = min((a.load for a in seen if not a.holds), default=None)
        held = max((a.load for a in seen if a.holds and (broken is None or a.load < broken)), default=None)
        if held is not None and (held >= plan.ceiling or (broken is not None and broken - held <= plan.resolution)):
            confirming = held
    if confirming is not None:
        if _streak(attempts, confirming) >= plan.confirm:
            return _Fold(confirming, confirming, None)
        return _Fold(held, confirming, NextAttempt(confirming, "confirming"))
    return _Fold(held, None, _search_on(plan, held, broken))


def _search_on(plan: SearchPlan, held: int | None, broken: int | None) -> NextAttempt | None:
    if held is None and broken is None:
        return NextAttempt(plan.start, "growing")
    if broken is None:
        assert held is not None
        return NextAttempt(min(plan.ceiling, max(held + 1, int(held * plan.growth))), "growing")
    if held is None:
        if broken <= plan.floor:
            return None
        return NextAttempt(max(plan.floor, min(broken - 1, int(broken / plan.growth))), "shrinking")
    return NextAttempt((held + broken) // 2, "bisecting")


def _streak(attempts: Sequence[Attempt], load: int) -> int:
    """How many times in a row, counted from the last, a load has held."""
    at_load = [one.holds for one in attempts if one.load == load]
    return next((n for n, holds in enumerate(reversed(at_load)) if not holds), len(at_load))


def _next_hot(plan: SearchPlan, cold: int, attempts: Sequence[Attempt]) -> NextAttempt | None:
    """The result once more directly after a soak, and downwards from there until a load holds."""
    if any(one.holds for one in attempts):
        return None
    if not attempts:
        return NextAttempt(cold, "hot", hot=True)
    lowest = min(one.load for one in attempts)
    if lowest <= plan.floor:
        return None
    return NextAttempt(max(plan.floor, lowest - plan.resolution), "hot", hot=True)


def _next_rung(plan: SearchPlan, attempts: Sequence[Attempt]) -> NextAttempt | None:
    """From the first rung downwards, the most demanding first, until one holds."""
    if any(one.holds for one in attempts):
        return None
    tried = {one.load for one in attempts}
    rung = next((at for at in range(plan.rungs) if at not in tried), None)
    return None if rung is None else NextAttempt(rung, "ladder")


def _held(attempts: Sequence[Attempt]) -> int | None:
    """The highest load that was tried and held, under the lowest that broke."""
    broken = min((one.load for one in attempts if not one.holds), default=None)
    return max((one.load for one in attempts if one.holds and (broken is None or one.load < broken)), default=None)


def _bracket(attempts: Sequence[Attempt], held: int | None) -> Bracket:
    broken = [one.load for one in attempts if not one.holds and (held is None or one.load > held)]
    return Bracket(held, min(broken, default=None))
