"""Section 22 of the method: what a plan cannot answer as it stands."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final, Literal

import numpy as np

from nomothet.core.differences import Row, Table, undeclared
from nomothet.core.noise import MOST_PASSES, Noise, passes_needed, sidak_level
from nomothet.core.notes import Note, note
from nomothet.core.quantities import Value

Severity = Literal["stops", "warns", "notes"]
_TIGHT = 1e-9

# Sensible warm-up of a machine before its heat has settled, where nothing on record says otherwise.
SETTLE_S = 20.0


@dataclass(frozen=True)
class Requirement:
    """What a workload asks of a machine: so much of an aspect, or a feature by name."""

    aspect: str
    label: str
    least: float | None = None
    unit: str = ""


@dataclass(frozen=True)
class PlannedTest:
    """A test as far as the plan check looks at it.

    `isolates` is what its settings are meant to make the limit, `duration_s` its length from the procedure or from
    earlier passes, `noise` what its leading metric showed on earlier passes.
    """

    id: int
    name: str
    isolates: str = ""
    capped_fps: float | None = None
    judged_by_rate: bool = False
    duration_s: float | None = None
    skip_s: float = 0.0
    settles_after_s: float = SETTLE_S
    timed_run: bool = True
    load_start: float | None = None
    load_step: float | None = None
    noise: Noise | None = None
    requirements: tuple[Requirement, ...] = ()
    missing_settings: tuple[str, ...] = ()
    # Systems on which its command waits for an admin's word.
    waits_on: tuple[str, ...] = ()


@dataclass(frozen=True)
class PlannedColumn:
    """A configuration of the plan with its level of each factor and its state."""

    id: int
    label: str
    levels: Mapping[str, str]
    state: Mapping[str, Value]
    is_baseline: bool = False
    blocked: str = ""
    priced: bool = False
    mistakes: tuple[Note, ...] = ()
    # What of its parts does not go together.
    misfits: tuple[Note, ...] = ()


@dataclass(frozen=True)
class PlannedFactor:
    """A factor with its levels in order; `touches` is what it acts on, `settable` that it is of settings or parts."""

    key: str
    name: str
    levels: tuple[str, ...]
    touches: frozenset[str] = frozenset()
    settable: bool = True


@dataclass(frozen=True)
class Plan:
    """A review's plan, as the check reads it."""

    factors: Sequence[PlannedFactor]
    columns: Sequence[PlannedColumn]
    tests: Sequence[PlannedTest]
    table: Table
    margin: float
    passes: int
    expected: bool = True
    returns_to_baseline: bool = False
    asks_price: bool = False
    expected_effect: float | None = None
    # One configuration alone, judged by targets.
    single: bool = False
    has_target: bool = False


@dataclass(frozen=True)
class Point:
    """One thing that the check found; `mend` names the act that would mend it, `about` what it concerns."""

    found: Note
    severity: Severity
    mend: str
    about: Mapping[str, object] = field(default_factory=dict)

    @property
    def code(self) -> str:
        """What was found, without the mark of the plan check.

        >>> Point(note("plan_tests"), "stops", "add_test").code
        'tests'
        """
        return self.found.code.removeprefix("plan_")


def check_plan(plan: Plan) -> list[Point]:
    """Everything that the plan cannot answer as it stands, the gravest first."""
    points = [
        *_basics(plan),
        *_differences(plan),
        *_separability(plan),
        *_columns(plan),
        *_requirements(plan),
        *(point for test in plan.tests for point in _test(plan, test)),
        *_ends(plan),
    ]
    return sorted(points, key=lambda point: ("stops", "warns", "notes").index(point.severity))


def confounded(factors: Sequence[PlannedFactor], levels: Sequence[Mapping[str, str]]) -> list[tuple[str, ...]]:
    """Groups of factors whose own effects the configurations cannot tell apart.

    Each factor with k levels takes k − 1 columns of the design's matrix beside the common mean; a factor is
    confounded when leaving it out does not lower the rank by its k − 1. Without configurations there is nothing to
    tell apart.

    Examples
    --------
    >>> kit, clock = PlannedFactor("kit", "kit", ("a", "b")), PlannedFactor("clock", "clock", ("x", "y"))
    >>> confounded([kit, clock], [{"kit": "a", "clock": "x"}, {"kit": "b", "clock": "y"}])
    [('kit', 'clock')]
    """
    if not levels:
        return []
    blocks = [_block(factor, levels) for factor in factors]
    common = np.ones((len(levels), 1))

    def rank(parts: Sequence[np.ndarray]) -> int:
        return int(np.linalg.matrix_rank(np.hstack([common, *parts]), tol=_TIGHT))

    whole = rank(blocks)
    lost = [
        factor.key
        for at, factor in enumerate(factors)
        if blocks[at].shape[1] and whole - rank(blocks[:at] + blocks[at + 1 :]) < blocks[at].shape[1]
    ]
    return [tuple(lost)] if len(lost) > 1 else []


def _block(factor: PlannedFactor, levels: Sequence[Mapping[str, str]]) -> np.ndarray:
    present = list(dict.fromkeys(one.get(factor.key, "") for one in levels))
    return np.array([[float(one.get(factor.key, "") == level) for level in present[1:]] for one in levels]).reshape(
        len(levels), max(0, len(present) - 1)
    )


def _basics(plan: Plan) -> list[Point]:
    points = []
    if len(plan.columns) < (1 if plan.single else 2):
        points.append(Point(note("plan_columns", single=plan.single), "stops", "add_column"))
    if plan.single and not plan.has_target:
        points.append(Point(note("plan_target"), "warns", "target"))
    if not plan.tests:
        points.append(Point(note("plan_tests"), "stops", "add_test"))
    if not plan.factors and len(plan.columns) > 1:
        points.append(Point(note("plan_factor"), "warns", "differences"))
    if not plan.expected:
        points.append(Point(note("plan_expectation"), "notes", "expectation"))
    return points


def _differences(plan: Plan) -> list[Point]:
    points = []
    gaps: dict[tuple[str, ...], list[Row]] = {}
    for row in undeclared(plan.table):
        about: dict[str, object] = {"aspect": row.aspect.key}
        if row.incomplete:
            lacking = tuple(c.label for c, v in zip(plan.columns, row.values, strict=True) if v is None)
            gaps.setdefault(lacking, []).append(row)
        else:
            points.append(Point(note("plan_undeclared", label=row.aspect.label), "warns", "differences", about))
    for lacking, rows in gaps.items():
        labels, aspects = [row.aspect.label for row in rows], [row.aspect.key for row in rows]
        found = note("plan_unequal", labels=labels, lacking=list(lacking))
        points.append(Point(found, "warns", "equal", {"aspect": aspects[0], "aspects": aspects}))
    return points


def _separability(plan: Plan) -> list[Point]:
    names = {factor.key: factor.name for factor in plan.factors}
    points = []
    missing = missing_alone(plan)
    alone = [one for one in missing if one.factor in names]
    for group in confounded(plan.factors, [column.levels for column in plan.columns]):
        own = [one for one in alone if one.factor in group]
        alone = [one for one in alone if one.factor not in group]
        found = note(
            "plan_confounded",
            factors=[names[key] for key in group],
            configurations=len(plan.columns),
            missing=[_told(one, names) for one in own[:_MOST_MISSING]],
        )
        points.append(Point(found, "stops", _mend(plan, own), {"factors": list(group), **_about(own)}))
    if alone:
        found = note("plan_stacked", missing=[_told(one, names) for one in alone[:_MOST_MISSING]])
        points.append(Point(found, "notes", _mend(plan, alone), _about(alone)))
    return points


# So many missing configurations are named; more of them are a plan of another size.
_MOST_MISSING = 4


@dataclass(frozen=True)
class MissingAlone:
    """A level of a factor that no configuration has alone: the baseline, but for it. `like` is one that has it."""

    factor: str
    level: str
    like: int
    baseline: str


def missing_alone(plan: Plan) -> list[MissingAlone]:
    """Levels that come only together with other changes, so that what each brings by itself stays unknown.

    Only factors of the same machine can be set one by one: where the baseline lacks a level of a factor, some
    configuration has it, and no configuration is the baseline in all other factors, the level is missing alone.

    Examples
    --------
    Three steps, each on top of the one before: the second and the third were never made alone.

    >>> factors = [PlannedFactor(key, key, ()) for key in ("memory", "processor")]
    >>> rows = [("a", "-", "-"), ("b", "tuned", "-"), ("c", "tuned", "tuned")]
    >>> levels = [{"memory": memory, "processor": processor} for _, memory, processor in rows]
    >>> columns = [PlannedColumn(at, rows[at][0], levels[at], {}, at == 0) for at in range(3)]
    >>> plan = Plan(factors, columns, [], Table([], []), 0.03, 3)
    >>> [(one.factor, one.level) for one in missing_alone(plan)]
    [('processor', 'tuned')]
    """
    base = next((column for column in plan.columns if column.is_baseline), None)
    if base is None or len(plan.factors) < 2:
        return []
    found: list[MissingAlone] = []
    for factor in plan.factors:
        others = [one.key for one in plan.factors if one.key != factor.key]
        for column in plan.columns:
            level = column.levels.get(factor.key, "")
            if level == base.levels.get(factor.key, "") or any(
                (one.factor, one.level) == (factor.key, level) for one in found
            ):
                continue
            if not any(
                one.levels.get(factor.key, "") == level
                and all(one.levels.get(key, "") == base.levels.get(key, "") for key in others)
                for one in plan.columns
            ):
                found.append(MissingAlone(factor.key, level, column.id, base.label))
    return found


def _mend(plan: Plan, missing: Sequence[MissingAlone]) -> str:
    """The program can make a configuration of settings and parts; another machine or place is for people to add."""
    settable = {factor.key for factor in plan.factors if factor.settable}
    return "combination" if missing and {one.factor for one in missing} <= settable else "add_column"


def _told(one: MissingAlone, names: Mapping[str, str]) -> tuple[str, str, str]:
    return names[one.factor], one.level, one.baseline


def _about(missing: Sequence[MissingAlone]) -> dict[str, object]:
    if not missing:
        return {}
    return {"combinations": [{"factor": one.factor, "like": one.like} for one in missing[:_MOST_MISSING]]}


def _columns(plan: Plan) -> list[Point]:
    points = []
    for column in plan.columns:
        about: dict[str, object] = {"column": column.id}
        if column.blocked:
            found = note("plan_blocked", label=column.label, why=column.blocked)
            points.append(Point(found, "stops", "configuration", about))
        for one in column.mistakes:
            found = note("plan_slots", label=column.label, mistake=one)
            points.append(Point(found, "warns", "configuration", about))
        for one in column.misfits:
            found = note("plan_misfit", label=column.label, misfit=one)
            points.append(Point(found, "warns", "configuration", about))
        if plan.asks_price and not column.priced:
            points.append(Point(note("plan_price", label=column.label), "warns", "price", about))
    return points


def _test(plan: Plan, test: PlannedTest) -> list[Point]:
    about: dict[str, object] = {"test": test.id}
    points: list[Point] = []
    touched = frozenset().union(*(factor.touches for factor in plan.factors))
    shown = {test.isolates, "system", *({"processor"} if test.isolates == "threads" else set())}
    if test.isolates and test.isolates != "all" and touched and not touched & shown:
        found = note("plan_isolation", test=test.name, isolates=test.isolates, touched=sorted(touched))
        points.append(Point(found, "warns", "test", about))
    if test.capped_fps and test.judged_by_rate:
        points.append(Point(note("plan_cap", test=test.name, fps=test.capped_fps), "warns", "test", about))
    if test.load_start and test.load_step:
        step, effect = test.load_step / test.load_start, plan.expected_effect or plan.margin
        if step > effect:
            found = note("plan_load_step", test=test.name, step=step, effect=effect)
            points.append(Point(found, "warns", "test", about))
    if test.timed_run and test.duration_s is not None and test.duration_s <= test.settles_after_s:
        found = note("plan_short", test=test.name, lasts_s=test.duration_s, settles_s=test.settles_after_s)
        points.append(Point(found, "warns", "test", about))
    if test.missing_settings:
        found = note("plan_settings", test=test.name, missing=list(test.missing_settings))
        points.append(Point(found, "warns", "test", about))
    if test.waits_on:
        found = note("plan_approval", test=test.name, systems=list(test.waits_on))
        points.append(Point(found, "warns", "test", about))
    return points + _passes(plan, test)


def _requirements(plan: Plan) -> list[Point]:
    """What tests ask for and configurations lack: one fact once, with all tests and configurations it is true of."""
    lacking: dict[tuple[str, float | None, str], dict[int, list[PlannedTest]]] = {}
    for test in plan.tests:
        for need in test.requirements:
            for column in plan.columns:
                if lacks(column.state, need):
                    by_column = lacking.setdefault((need.label, need.least, need.unit), {})
                    by_column.setdefault(column.id, []).append(test)
    labels = {column.id: column for column in plan.columns}
    points = []
    for (label, least, unit), by_column in lacking.items():
        tests = list(dict.fromkeys(test.name for those in by_column.values() for test in those))
        columns = [labels[one] for one in by_column]
        first = next(iter(by_column.values()))[0]
        about: dict[str, object] = {"test": first.id, "column": columns[0].id, "columns": list(by_column)}
        need = next(one for one in first.requirements if (one.label, one.least) == (label, least))
        has = [(column.label, None if least is None else number_of(column.state, need.aspect)) for column in columns]
        found = note("plan_requirement", tests=tests, label=label, least=least, unit=unit, has=has)
        points.append(Point(found, "warns", "test", about))
    return points


# What a requirement names can be told in several places; the largest counts.
_SAME_AS: Final[Mapping[str, tuple[str, ...]]] = {
    "graphics_memory_gb": ("graphics_memory_gb", "part.graphics.memory_gb"),
    "part.graphics.memory_gb": ("part.graphics.memory_gb", "graphics_memory_gb"),
}


def _has(state: Mapping[str, Value], aspect: str) -> Value | None:
    known = [state[key] for key in _SAME_AS.get(aspect, (aspect,)) if state.get(key) is not None]
    numbers = [one for one in known if isinstance(one, int | float)]
    return max(numbers) if numbers else known[0] if known else None


def number_of(state: Mapping[str, Value], aspect: str) -> float:
    """How much a configuration has of an aspect; NaN where that is no number."""
    has = _has(state, aspect)
    return float(has) if isinstance(has, int | float) else math.nan


def lacks(state: Mapping[str, Value], need: Requirement) -> bool:
    """Whether a configuration is known not to meet a requirement.

    >>> lacks({"memory.capacity_gb": 8}, Requirement("memory.capacity_gb", "memory", 16, "GB"))
    True
    """
    has = _has(state, need.aspect)
    if need.least is not None:
        return isinstance(has, int | float) and has < need.least
    return has is not None and str(has).casefold() in ("no", "false", "none")


def _passes(plan: Plan, test: PlannedTest) -> list[Point]:
    if test.noise is None or len(plan.columns) < 2:
        return []
    level = sidak_level(len(plan.columns) - 1)
    needed = passes_needed(test.noise, len(plan.columns), level, math.log1p(plan.margin))
    if needed is not None and needed <= plan.passes:
        return []
    about: dict[str, object] = {"test": test.id, "passes": needed or MOST_PASSES}
    found = note(
        "plan_passes",
        test=test.name,
        spread=test.noise.sd,
        margin=plan.margin,
        planned=plan.passes,
        needed=needed,
        most=MOST_PASSES,
    )
    return [Point(found, "warns", "margin" if needed is None else "passes", about)]


def _ends(plan: Plan) -> list[Point]:
    if len(plan.columns) < 2 or plan.returns_to_baseline:
        return []
    return [Point(note("plan_return"), "notes", "return")]
