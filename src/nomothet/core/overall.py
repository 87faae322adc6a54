"""Section 4 of the method: configurations over all tests that all of them have."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from nomothet.core.errors import BadSample
from nomothet.core.noise import Noise, sidak_level
from nomothet.core.pairwise import Pairwise, Turn, difference, judged, noise_of, turned_cells

MISSING = "missing"


@dataclass(frozen=True)
class TestCells:
    """A test's kept values by configuration; `left_out` says why it takes no part, weights are above 0."""

    cells: Mapping[str, Sequence[float]]
    direction: Turn = "higher"
    weight: float = 1.0
    left_out: str | None = None


@dataclass(frozen=True)
class Overall:
    """A configuration against the baseline over all tests; `df` is None without an interval of its own."""

    tests: int
    best: str
    worst: str
    compared: Pairwise
    df: float | None
    # By test, the turned log ratio that went in.
    each: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class OverallResult:
    """By configuration other than the baseline, None where no test takes part; and what was left out, with why."""

    configurations: dict[str, Overall | None]
    left_out: dict[str, str]


def overall(tests: Mapping[str, TestCells], baseline: str, margin: float = 0.03) -> OverallResult:
    """The weighted geometric mean of the ratios to the baseline, over the tests that every configuration has.

    References
    ----------
    Fleming & Wallace (1986) for the geometric mean; Welch (1947) and Satterthwaite (1946) for its degrees of freedom.

    Raises
    ------
    BadSample
        When there is nothing beside the baseline, or a weight is not above 0.

    Examples
    --------
    >>> x = TestCells({"A": [100, 100], "B": [121, 121]})
    >>> y = TestCells({"A": [10, 10], "B": [10, 10]}, "lower")
    >>> found = overall({"x": x, "y": y}, "A").configurations["B"]
    >>> round(found.compared.ratio, 12), found.best, found.worst
    (1.1, 'x', 'y')
    """
    names = list(dict.fromkeys(name for test in tests.values() for name in test.cells))
    if baseline not in names:
        raise BadSample(f"the baseline {baseline!r} has no pass in any test")
    others = [name for name in names if name != baseline]
    if not others:
        raise BadSample("there is nothing beside the baseline")
    left_out = {name: why for name, test in tests.items() if (why := _why_not(name, test, names))}
    parts = {name: Part.of(name, test) for name, test in tests.items() if name not in left_out}
    level = sidak_level(len(others))
    found = {other: _one(parts, other, baseline, level, margin) if parts else None for other in others}
    return OverallResult(found, left_out)


def _why_not(name: str, test: TestCells, configurations: Sequence[str]) -> str:
    if not 0 < test.weight < math.inf:
        raise BadSample(f"{name}: the weight is {test.weight:g}; it must be above 0")
    if test.left_out:
        return test.left_out
    return "" if all(test.cells.get(one) for one in configurations) else MISSING


@dataclass(frozen=True)
class Part:
    """A test that takes part: its turned logs by configuration, its weight, and the noise of all its cells."""

    cells: Mapping[str, Sequence[float]]
    weight: float
    noise: Noise

    @classmethod
    def of(cls, name: str, test: TestCells) -> "Part":
        """Read a test's values.

        Raises
        ------
        BadSample
            Names the test and the cell whose value cannot be compared.
        """
        try:
            cells = turned_cells(test.cells, test.direction)
        except BadSample as error:
            raise BadSample(f"{name}, {error}") from None
        return cls(cells, test.weight, noise_of(cells))


def between(
    parts: Mapping[str, "Part"], name: str, baseline: str, level: float, margin: float
) -> tuple[Pairwise, float | None, dict[str, float]]:
    """One configuration against another over tests, with the degrees of freedom and each test's turned log ratio."""
    differences, shares = {}, []
    for test, part in parts.items():
        d, se = difference(part.cells[name], part.cells[baseline], part.noise)
        differences[test] = d
        shares.append(((part.weight * se) ** 2 if part.noise.df else math.nan, part.noise.df))
    total = math.fsum(part.weight for part in parts.values())
    mean = math.fsum(parts[test].weight * d for test, d in differences.items()) / total
    compared, df = _joined(mean, shares, total, level, margin)
    return compared, df, differences


def _one(parts: Mapping[str, "Part"], name: str, baseline: str, level: float, margin: float) -> Overall:
    compared, df, differences = between(parts, name, baseline, level, margin)
    best = max(differences, key=lambda test: differences[test])
    worst = min(differences, key=lambda test: differences[test])
    return Overall(len(parts), best, worst, compared, df, differences)


def _joined(
    mean: float, shares: Sequence[tuple[float, float]], total: float, level: float, margin: float
) -> tuple[Pairwise, float | None]:
    """A test without noise leaves the whole without an interval; one without any spread adds nothing."""
    if any(not df for _, df in shares):
        return judged(mean, math.nan, 0, level, margin), None
    square = math.fsum(a for a, _ in shares)
    if square == 0:
        return judged(mean, 0.0, 1, level, margin), None
    df = square**2 / math.fsum(a**2 / df for a, df in shares if a > 0)
    return judged(mean, math.sqrt(square) / total, df, level, margin), df
