"""Section 22 of the method: what a plan cannot answer as it stands."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final, Literal

import numpy as np

from nomothet.core.differences import Row, Table, undeclared
from nomothet.core.noise import MOST_PASSES, Noise, passes_needed, sidak_level
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
    mistakes: tuple[str, ...] = ()
    # What of its parts does not go together.
    misfits: tuple[str, ...] = ()


@dataclass(frozen=True)
class PlannedFactor:
    """A factor with its levels in order; `touches` is what varying it acts on."""

    key: str
    name: str
    levels: tuple[str, ...]
    touches: frozenset[str] = frozenset()


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


@dataclass(frozen=True)
class Point:
    """One thing that the check found, in words; `mend` names the act that would mend it, `about` what it concerns."""

    code: str
    severity: Severity
    words: str
    remedy: str
    mend: str
    about: Mapping[str, object] = field(default_factory=dict)


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
    if len(plan.columns) < 2:
        points.append(
            Point(
                "columns",
                "stops",
                "There is nothing to compare yet: a review needs two configurations.",
                "Add a configuration.",
                "add_column",
            )
        )
    if not plan.tests:
        points.append(Point("tests", "stops", "No test is planned.", "Add a test.", "add_test"))
    if not plan.factors and len(plan.columns) > 1:
        points.append(
            Point(
                "factor",
                "warns",
                "Nothing is declared as what this review varies.",
                "Declare a difference as the factor.",
                "differences",
            )
        )
    if not plan.expected:
        points.append(
            Point(
                "expectation",
                "notes",
                "No expectation is written down; afterwards it is too late.",
                "Write it before the first pass.",
                "expectation",
            )
        )
    return points  # fmt: skip


def _differences(plan: Plan) -> list[Point]:
    points = []
    gaps: dict[str, list[Row]] = {}
    for row in undeclared(plan.table):
        about: dict[str, object] = {"aspect": row.aspect.key}
        if row.incomplete:
            lacking = [c.label for c, v in zip(plan.columns, row.values, strict=True) if v is None]
            gaps.setdefault(_and(lacking), []).append(row)
        else:
            words = f"{row.aspect.label} differs, and is not what this review varies."
            remedy = "Declare it as a factor, make it equal, or accept it with a caveat."
            points.append(Point("undeclared", "warns", words, remedy, "differences", about))
    for lacking_words, rows in gaps.items():
        labels = _and([row.aspect.label for row in rows])
        words = f"{labels} {'is' if len(rows) == 1 else 'are'} set on some configurations and not on {lacking_words}."
        aspects = [row.aspect.key for row in rows]
        remedy = "Make it equal, or note what it is."
        points.append(Point("unequal", "warns", words, remedy, "equal", {"aspect": aspects[0], "aspects": aspects}))
    return points


def _separability(plan: Plan) -> list[Point]:
    names = {factor.key: factor.name for factor in plan.factors}
    points = []
    for group in confounded(plan.factors, [column.levels for column in plan.columns]):
        told = " and ".join([", ".join(names[key] for key in group[:-1]), names[group[-1]]])
        words = f"{told} change together: {len(plan.columns)} configurations cannot tell their effects apart."
        remedy = "Add a configuration that changes one of them alone, or declare them as one factor."
        points.append(Point("confounded", "stops", words, remedy, "add_column", {"factors": list(group)}))
    return points


def _columns(plan: Plan) -> list[Point]:
    points = []
    for column in plan.columns:
        about: dict[str, object] = {"column": column.id}
        if column.blocked:
            words = f"{column.label} cannot be built: {column.blocked}."
            points.append(Point("blocked", "stops", words, "Take it out, or unblock it.", "configuration", about))
        for words in column.mistakes:
            remedy = "Move the modules on the slot map."
            points.append(Point("slots", "warns", f"{column.label}: {words}.", remedy, "configuration", about))
        for words in column.misfits:
            remedy = "Mark it as not buildable with this reason, or correct the part on the shelf."
            points.append(Point("misfit", "warns", f"{column.label}: {words}.", remedy, "configuration", about))
        if plan.asks_price and not column.priced:
            words = f"{column.label} has no price, and the question asks what it costs."
            points.append(Point("price", "warns", words, "Enter the prices of its parts.", "price", about))
    return points


def _test(plan: Plan, test: PlannedTest) -> list[Point]:
    about: dict[str, object] = {"test": test.id}
    points: list[Point] = []
    touched = frozenset().union(*(factor.touches for factor in plan.factors))
    shown = {test.isolates, "system", *({"processor"} if test.isolates == "threads" else set())}
    if test.isolates and test.isolates != "all" and touched and not touched & shown:
        words = (
            f"{test.name} is meant to be limited by {test.isolates}, and the factor acts on {_and(sorted(touched))}."
        )
        remedy = "Change the test's settings, or what it is meant to isolate."
        points.append(Point("isolation", "warns", words, remedy, "test", about))
    if test.capped_fps and test.judged_by_rate:
        words = f"{test.name} holds its rate at {test.capped_fps:g} fps, which hides what lies above."
        points.append(Point("cap", "warns", words, "Take the cap off, or judge it by its lows.", "test", about))
    if test.load_start and test.load_step:
        step, effect = test.load_step / test.load_start, plan.expected_effect or plan.margin
        if step > effect:
            words = (
                f"{test.name} searches in steps of {100 * step:.3g} % of its start, "
                f"which is coarser than the {100 * effect:.3g} % looked for."
            )
            points.append(Point("load_step", "warns", words, "Make the step smaller.", "test", about))
    if test.timed_run and test.duration_s is not None and test.duration_s <= test.settles_after_s:
        words = (
            f"{test.name} lasts {test.duration_s:.3g} s and the machine warms up for about "
            f"{test.settles_after_s:.3g} s: nothing of it is warm."
        )
        points.append(Point("short", "warns", words, "Make it longer, or repeat it in one pass.", "test", about))
    if test.missing_settings:
        words = f"{test.name} does not say its {_and(list(test.missing_settings))}."
        points.append(Point("settings", "warns", words, "Choose a value, so that it can be repeated.", "test", about))
    if test.waits_on:
        words = f"No admin has approved the command of {test.name} on {_and(test.waits_on)}: no bench runs it there."
        points.append(Point("approval", "warns", words, "Ask an admin to look at it under Workloads.", "test", about))
    return points + _passes(plan, test)


def _requirements(plan: Plan) -> list[Point]:
    """What tests ask for and configurations lack: one fact once, with all tests and configurations it is true of."""
    lacking: dict[tuple[str, float | None, str], dict[int, list[PlannedTest]]] = {}
    for test in plan.tests:
        for need in test.requirements:
            for column in plan.columns:
                if _lacks(column.state, need):
                    by_column = lacking.setdefault((need.label, need.least, need.unit), {})
                    by_column.setdefault(column.id, []).append(test)
    labels = {column.id: column for column in plan.columns}
    points = []
    for (label, least, unit), by_column in lacking.items():
        tests = list(dict.fromkeys(test.name for those in by_column.values() for test in those))
        columns = [labels[one] for one in by_column]
        asks = f"{_and(tests)} {'asks' if len(tests) == 1 else 'ask'} for"
        first = next(iter(by_column.values()))[0]
        about: dict[str, object] = {"test": first.id, "column": columns[0].id, "columns": list(by_column)}
        if least is None:
            words = f"{asks} {label}, which {_and([column.label for column in columns])} {_do(columns)} not have."
        else:
            need = next(one for one in first.requirements if (one.label, one.least) == (label, least))
            has = _and([f"{column.label} has {_number(column.state, need.aspect):g}" for column in columns])
            words = f"{asks} {least:g} {unit} of {label}; {has}."
        remedy = "Leave the cells out, or run them and record the outcome."
        points.append(Point("requirement", "warns", words, remedy, "test", about))
    return points


def _do(columns: Sequence[PlannedColumn]) -> str:
    return "does" if len(columns) == 1 else "do"


# What a requirement names can be told in several places; the largest counts.
_SAME_AS: Final[Mapping[str, tuple[str, ...]]] = {
    "graphics_memory_gb": ("graphics_memory_gb", "part.graphics.memory_gb"),
    "part.graphics.memory_gb": ("part.graphics.memory_gb", "graphics_memory_gb"),
}


def _has(state: Mapping[str, Value], aspect: str) -> Value | None:
    known = [state[key] for key in _SAME_AS.get(aspect, (aspect,)) if state.get(key) is not None]
    numbers = [one for one in known if isinstance(one, int | float)]
    return max(numbers) if numbers else known[0] if known else None


def _number(state: Mapping[str, Value], aspect: str) -> float:
    has = _has(state, aspect)
    return float(has) if isinstance(has, int | float) else math.nan


def _lacks(state: Mapping[str, Value], need: Requirement) -> bool:
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
    noise = f"its earlier passes vary by {100 * test.noise.sd:.2g} %"
    if needed is None:
        words = f"{test.name}: {noise}, so that even {MOST_PASSES} passes cannot settle {100 * plan.margin:.2g} %."
        return [Point("passes", "warns", words, "Widen the margin, or find a steadier test.", "margin", about)]
    words = (
        f"{test.name}: {noise}, so that {plan.passes} passes cannot settle {100 * plan.margin:.2g} %; {needed} would."
    )
    return [Point("passes", "warns", words, f"Plan {needed} passes per test.", "passes", about)]


def _ends(plan: Plan) -> list[Point]:
    if len(plan.columns) < 2 or plan.returns_to_baseline:
        return []
    words = "The baseline is not measured again at the end, so a drift of the whole session would go unseen."
    return [Point("return", "notes", words, "Measure it at the start and at the end.", "return")]


def _and(words: Sequence[str]) -> str:
    return " and ".join([", ".join(words[:-1]), words[-1]]) if len(words) > 1 else "".join(words)
