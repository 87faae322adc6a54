"""A load search as its ladder shows it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from nomothet.core.load_search import Bracket, next_attempt, search_result, use_fit
from nomothet.formats.searches import attempts_of, held_loads, load_words, plan_of, rungs_of
from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Test
from nomothet.words.searches import bracket_words


@dataclass(frozen=True)
class AttemptShape:
    """One attempt; `use` is the mean of what was sampled meanwhile, by sensor."""

    position: int
    load: int
    words: str
    hot: bool
    holds: bool
    time_to_failure_s: float | None
    reason: str
    phase: str
    use: dict[str, Any]


@dataclass(frozen=True)
class NextShape:
    load: int
    words: str
    phase: str
    hot: bool


@dataclass(frozen=True)
class BracketShape:
    held: int | None
    broken: int | None
    words: str


@dataclass(frozen=True)
class UseFitShape:
    """A resource against load: where the line through the loads that held reaches its capacity."""

    name: str
    intercept: float
    slope: float
    capacity: float
    runs_out_at: float | None
    points: int


@dataclass(frozen=True)
class SearchShape:
    """A search so far, and what to try next; `next` is None once it is done."""

    entry: int | None
    state: str
    by_hand: str
    unit: str
    rungs: list[str]
    start: int
    resolution: int
    confirm: int
    soak_s: float
    attempts: list[AttemptShape]
    next: NextShape | None
    cold: BracketShape
    hot: BracketShape | None
    loss_pct: float | None
    unstable: list[int] | None
    confirmed: int
    done: bool
    fits: list[UseFitShape]


def entry_search(entry: Entry) -> SearchShape:
    by_hand = entry.by_hand.display_name if entry.by_hand else ""
    return _shape(entry.test, entry.attempts, entry.pk, entry.state, by_hand)


def pass_search(owner: Pass) -> SearchShape:
    return _shape(owner.test, owner.attempts, None, owner.outcome, "")


def _shape(
    test: Test, records: Sequence[Mapping[str, Any]], entry: int | None, state: str, by_hand: str
) -> SearchShape:
    plan = plan_of(test.settings)
    attempts = attempts_of(records)
    unit = next((one["unit"] for one in test.workload.metrics if one.get("role") == "load"), "")
    result = search_result(plan, attempts)
    proposed = next_attempt(plan, attempts)

    def words(load: int) -> str:
        return load_words(test.settings, load, unit)

    return SearchShape(
        entry=entry,
        state=state,
        by_hand=by_hand,
        unit=unit,
        rungs=rungs_of(test.settings),
        start=plan.start,
        resolution=plan.resolution,
        confirm=plan.confirm,
        soak_s=plan.soak_s,
        attempts=[
            AttemptShape(at, one.load, words(one.load), one.hot, one.holds, one.time_to_failure_s, one.reason,
                         record.get("phase", ""), record.get("use", {}))
            for at, (one, record) in enumerate(zip(attempts, records, strict=True))
        ],
        next=NextShape(proposed.load, words(proposed.load), proposed.phase, proposed.hot) if proposed else None,
        cold=_bracket(result.cold, test.settings, unit),
        hot=_bracket(result.hot, test.settings, unit) if result.hot else None,
        loss_pct=result.loss_pct,
        unstable=list(result.unstable) if result.unstable else None,
        confirmed=result.confirmed,
        done=result.done,
        fits=_fits(records),
    )  # fmt: skip


def _bracket(bracket: Bracket, settings: Mapping[str, Any], unit: str) -> BracketShape:
    if rungs_of(settings):
        words = "no rung held" if bracket.held is None else f"{load_words(settings, bracket.held, '')} held"
        return BracketShape(bracket.held, bracket.broken, words)
    return BracketShape(bracket.held, bracket.broken, bracket_words(bracket, unit))


def _fits(records: Sequence[Mapping[str, Any]]) -> list[UseFitShape]:
    """What runs out first comes first."""
    held = held_loads(records)
    names = {name for record in held for name in record.get("use", {})}
    fits = []
    for name in sorted(names):
        points = [(record["load"], record["use"][name]) for record in held if name in record.get("use", {})]
        capacity = next((use["capacity"] for _, use in points if use.get("capacity")), None)
        if capacity is None:
            continue
        fit = use_fit(name, [load for load, _ in points], [use["mean"] for _, use in points], capacity)
        if fit is not None:
            fits.append(UseFitShape(name, fit.intercept, fit.slope, capacity, fit.runs_out_at, fit.points))
    return sorted(fits, key=lambda fit: (fit.runs_out_at is None, fit.runs_out_at or 0))
