"""The plan of a review: its check in words, and what it costs in hours."""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db.models import Count, F, Q, Sum

from nomothet.core.docket_order import BETWEEN_PASSES_S, Cost, Order, order_work
from nomothet.core.fit import misfits
from nomothet.core.notes import Note
from nomothet.core.plan_check import (
    SETTLE_S,
    Plan,
    PlannedColumn,
    PlannedFactor,
    PlannedTest,
    check_plan,
)
from nomothet.core.quantities import Value
from nomothet.core.settings import acted_on
from nomothet.server.matrix.unmet import requirements_of
from nomothet.server.passes.models import Tally
from nomothet.server.passes.noise import borrowed_noises
from nomothet.server.passes.tallies import refresh
from nomothet.server.reviews.differences import Compared, compared
from nomothet.server.reviews.levels import factors_of
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import metric_of
from nomothet.server.shelf.models import Part
from nomothet.server.shelf.queries import latest_prices
from nomothet.server.systems.states import ConfigurationState, population, setup_of
from nomothet.server.workloads.approvals import unapproved
from nomothet.server.workloads.models import Kind
from nomothet.words import say
from nomothet.words.plan import cost_assumptions, remedy

# Taken for a pass whose length nothing on record tells.
_UNKNOWN_S = 120.0


@dataclass(frozen=True)
class PlanPoint:
    """One thing that the plan check found; `mend` and `about` say what would mend it and where."""

    code: str
    severity: str
    words: str
    remedy: str
    mend: str
    about: dict[str, Any]


@dataclass(frozen=True)
class PlanCost:
    """What the plan takes: passes still to run, their time, and the changes between configurations."""

    passes: int
    running_s: float
    changing_s: float
    openings: int
    firmware: int
    words: list[str]


@dataclass(frozen=True)
class PlanShape:
    points: list[PlanPoint]
    cost: PlanCost


def plan(review: Review, known: Compared | None = None) -> PlanShape:
    """Check a review's plan and estimate its cost; 15 queries at most, whatever its size.

    Parameters
    ----------
    known : Compared, optional
        Its columns side by side, where the caller has them already.
    """
    side_by_side = known or compared(review)
    tests = list(review.tests.select_related("workload"))
    durations = _durations(tests)
    found = check_plan(_planned(review, side_by_side, tests, durations))
    points = [PlanPoint(p.code, p.severity, say(p.found), remedy(p), p.mend, dict(p.about)) for p in found]
    return PlanShape(points, _cost(review, side_by_side, tests, durations, _run(review)))


def whole_cost(review: Review) -> PlanCost:
    """What the whole plan takes, as one would have said before its first pass: by other reviews and by procedures."""
    side_by_side = compared(review)
    tests = list(review.tests.select_related("workload"))
    return _cost(review, side_by_side, tests, _durations(tests, with_own=False), {})


# A pass that failed was run, and is a result; one set aside, or of a recorder pair, is still to be run.
_RUN = Q(tests__passes__whole_at__isnull=False, tests__passes__set_aside=False, tests__passes__recorder="")


def _durations(tests: Sequence[Test], *, with_own: bool = True) -> dict[int, float]:
    """The length of a pass of each test: from its own passes, those of the same settings, or the procedure.

    Parameters
    ----------
    with_own : bool
        Whether the tests' own passes count.
    """
    wanted, workloads = {test.pk for test in tests}, {test.workload_id for test in tests}
    refresh(Test.objects.filter(workload__in=workloads))
    timed = Tally.objects.filter(workload__in=workloads, timed__gt=0)
    own: dict[int, float] = {}
    if with_own:
        of_tests = timed.filter(test__in=wanted).values_list("test", "timed_s", "timed")
        own = {pk: timed_s / count for pk, timed_s, count in of_tests}
    elsewhere: dict[tuple[int, str], tuple[float, int]] = {}
    if not wanted <= own.keys():
        others = timed if with_own else timed.exclude(test__in=wanted)
        grouped = others.values("workload", "test__settings").annotate(
            sum_s=Sum(F("timed_s") / F("timed")), tests=Count("pk")
        )
        for workload, settings, sum_s, count in grouped.values_list("workload", "test__settings", "sum_s", "tests"):
            # The same settings may be written in another order.
            key = (workload, repr(sorted(settings.items())))
            before = elsewhere.get(key, (0.0, 0))
            elsewhere[key] = (before[0] + sum_s, before[1] + count)
    found = {}
    for test in tests:
        same = elsewhere.get((test.workload_id, repr(sorted(test.settings.items()))))
        length = own.get(test.pk) or (same[0] / same[1] if same else test.workload.duration_s)
        if length is not None:
            found[test.pk] = length
    return found


def _planned(
    review: Review,
    side_by_side: Compared,
    tests: Sequence[Test],
    durations: Mapping[int, float],
) -> Plan:
    held = side_by_side.held
    parts = {fit.part.pk: fit.part for state in held.values() for fit in state.fitted.values()}
    priced = set(latest_prices(parts.values())) if review.asks_price else set()
    factors, levels = factors_of(review, side_by_side)
    leading = [(test, metric_of(test, test.shown[0], review.low_definition)) for test in tests if test.shown]
    noises = borrowed_noises([(test.workload_id, metric.key, metric.scale) for test, metric in leading], review)
    noise_of = {
        test.pk: noises.get((test.workload_id, metric.key)) for test, metric in leading if metric.scale == "ratio"
    }
    waiting = _waiting(side_by_side, tests)
    return Plan(
        factors=[
            PlannedFactor(
                f.key,
                f.name,
                tuple(f.levels),
                frozenset(map(acted_on, f.aspects)),
                settable=bool(f.aspects) and "system" not in f.aspects,
            )
            for f in factors
        ],
        columns=[
            PlannedColumn(
                id=column.pk,
                label=column.label,
                levels=levels[at],
                state=values,
                is_baseline=column.is_baseline,
                blocked=column.configuration.blocked,
                priced=_is_priced(held[column.configuration_id], priced),
                mistakes=_mistakes(held[column.configuration_id]),
                misfits=_misfits(held[column.configuration_id]),
            )
            for at, (column, values) in enumerate(zip(side_by_side.columns, side_by_side.values, strict=True))
        ],
        tests=[
            _planned_test(test, durations.get(test.pk), noise_of.get(test.pk), waiting.get(test.workload_id, ()))
            for test in tests
        ],
        table=side_by_side.table,
        margin=review.margin,
        passes=review.passes_per_test,
        expected=bool(review.expectation.strip()),
        returns_to_baseline=review.returns_to_baseline,
        asks_price=review.asks_price,
        expected_effect=review.expected_effect,
        single=review.single,
        has_target=_has_target(review, tests),
    )


def _has_target(review: Review, tests: Sequence[Test]) -> bool:
    own = any(limit not in (None, False) for test in tests for limit in test.targets.values())
    of_all = (review.target_fps, review.target_c, review.target_s)
    return own or any(limit is not None for limit in of_all) or bool(review.targets) or review.target_no_failure


def _waiting(side_by_side: Compared, tests: Sequence[Test]) -> dict[int, tuple[str, ...]]:
    """Systems on which a workload's command waits for its approval, by workload."""
    names = {column.configuration.system_id: column.configuration.system.name for column in side_by_side.columns}
    found = unapproved([test.workload for test in tests], names)
    return {pk: tuple(sorted(names[system] for system in systems)) for pk, systems in found.items()}


def _planned_test(test: Test, duration_s: float | None, noise: Any, waits_on: Sequence[str]) -> PlannedTest:
    workload, settings = test.workload, test.settings
    search = workload.kind == Kind.LOAD_SEARCH
    return PlannedTest(
        id=test.pk,
        name=f"{workload.name}, {test.detail}" if test.detail else workload.name,
        isolates=test.isolates,
        capped_fps=_number(settings.get("frame_cap_fps")),
        judged_by_rate="average_fps" in test.shown[:1],
        duration_s=duration_s,
        skip_s=test.skip_s,
        settles_after_s=workload.warm_up_s if workload.warm_up_s is not None else SETTLE_S,
        timed_run=workload.kind in (Kind.SCENE, Kind.SOAK, Kind.TASK),
        load_start=_number(settings.get("start")) if search else None,
        load_step=_number(settings.get("resolution")) if search else None,
        noise=noise,
        requirements=tuple(requirements_of(test)),
        missing_settings=tuple(
            spec["label"] for spec in workload.settings if spec["key"] not in settings and not spec.get("optional")
        ),
        waits_on=tuple(waits_on),
    )


def _is_priced(state: ConfigurationState, priced: set[int]) -> bool:
    """Every part that is fitted has a price, or the machine as a whole has one."""
    machine = state.parts.get("machine")
    if machine is not None and machine.part.pk in priced:
        return True
    parts: set[Part] = {fit.part for fit in state.fitted.values()}
    return bool(parts) and all(part.pk in priced or part.kind == "os_build" for part in parts)


def _mistakes(state: ConfigurationState) -> tuple[Note, ...]:
    if not state.slots:
        return ()
    found = population(state.configuration.system, state.slots, state.settings)
    return tuple(mistake.found for mistake in found.mistakes)


def _misfits(state: ConfigurationState) -> tuple[Note, ...]:
    parts = {place: {one["key"]: one["value"] for one in fit.part.attributes} for place, fit in state.parts.items()}
    return tuple(misfits(parts))


def _run(review: Review) -> dict[tuple[int, int], int]:
    """How many passes there are, by test and column."""
    found = Review.objects.filter(pk=review.pk).values("tests", "tests__passes__column")
    counted = found.annotate(n=Count("tests__passes", filter=_RUN))
    return {(row["tests"], row["tests__passes__column"]): row["n"] for row in counted}


def _cost(
    review: Review,
    side_by_side: Compared,
    tests: Sequence[Test],
    durations: Mapping[int, float],
    run: Mapping[tuple[int, int], int],
) -> PlanCost:
    """The passes that the plan asks for beyond those that were run, in the docket's order on each system."""
    by_system: dict[int, dict[int, dict[int, int]]] = defaultdict(dict)
    passes, running = 0, 0.0
    for column in side_by_side.columns:
        owed = {}
        for test in tests:
            missing = review.passes_per_test - run.get((test.pk, column.pk), 0)
            if missing > 0:
                owed[test.pk] = missing
                passes += missing
                running += missing * (durations.get(test.pk, _UNKNOWN_S) + BETWEEN_PASSES_S)
        by_system[column.configuration.system_id][column.configuration_id] = owed
    baselines = {column.configuration_id for column in side_by_side.columns if column.is_baseline}
    total = Cost(0, 0, 0)
    for owed_here in by_system.values():
        setups = {key: setup_of(side_by_side.held[key]) for key in owed_here}
        base = next((key for key in owed_here if key in baselines), None)
        order: Order = order_work(setups, owed_here, baseline=base, baseline_again=review.returns_to_baseline)
        total = total.plus(order.cost)
    unknown = sum(test.pk not in durations for test in tests)
    words = cost_assumptions(unknown, _UNKNOWN_S)
    return PlanCost(passes, running, total.time_s, total.openings, total.firmware, words)


def _number(value: Value | None) -> float | None:
    number = float(value) if isinstance(value, int | float) and not isinstance(value, bool) else None
    return number if number and math.isfinite(number) else None
