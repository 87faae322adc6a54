"""Section 6 of the method: steps that are made on top of one another."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from nomothet.core.errors import BadSample
from nomothet.core.noise import sidak_level
from nomothet.core.overall import MISSING, Part, TestCells, between
from nomothet.core.pairwise import Pairwise, Turn, against, noise_of, turned_cells


@dataclass(frozen=True)
class ChainStep:
    """A step against the one before it, and against where the chain began."""

    name: str
    step: Pairwise
    running: Pairwise


@dataclass(frozen=True)
class ChainResult:
    steps: list[ChainStep]
    end_to_end: Pairwise


def chain(
    steps: Sequence[tuple[str, Sequence[float]]], direction: Turn = "higher", margin: float = 0.03
) -> ChainResult:
    """What each step brings, and what all so far bring; the product of the steps is the whole exactly.

    Parameters
    ----------
    steps : sequence of (name, values)
        The first is where the chain begins.

    Raises
    ------
    BadSample
        With fewer than two cells, a name that is there twice, or a cell without a pass.

    Examples
    --------
    >>> found = chain([("stock", [100, 102, 98]), ("memory", [110, 111, 109]), ("both", [121, 122, 120])])
    >>> round(found.steps[0].step.ratio * found.steps[1].step.ratio / found.end_to_end.ratio, 12)
    1.0
    >>> found.end_to_end.verdict
    'ahead'
    """
    if len(steps) < 2:
        raise BadSample("a chain has a beginning and one step or more")
    names = [name for name, _ in steps]
    if len(set(names)) < len(names):
        raise BadSample(f"{next(name for name in names if names.count(name) > 1)} is there twice")
    cells = turned_cells(dict(steps), direction)
    noise, level = noise_of(cells), sidak_level(len(steps) - 1)
    found = [
        ChainStep(
            name,
            against(cells[name], cells[before], noise, level, margin),
            against(cells[name], cells[names[0]], noise, level, margin),
        )
        for before, name in pairwise(names)
    ]
    return ChainResult(found, found[-1].running)


def chain_over_tests(
    tests: Mapping[str, TestCells], names: Sequence[str], margin: float = 0.03
) -> tuple[ChainResult | None, dict[str, str]]:
    """The same over several tests: those that every step has, so that the product stays exact; and what is left out.

    Parameters
    ----------
    names : sequence of str
        The configurations in order; the first is where the chain begins.

    Returns
    -------
    (ChainResult or None, dict of test to why)
        None where no test takes part.

    Examples
    --------
    >>> x = TestCells({"a": [100, 101], "b": [110, 111], "c": [120, 121]})
    >>> y = TestCells({"a": [10, 10.1], "b": [9, 9.1], "c": [8, 8.1]}, "lower")
    >>> found, left_out = chain_over_tests({"x": x, "y": y}, ["a", "b", "c"])
    >>> round(found.steps[0].step.ratio * found.steps[1].step.ratio / found.end_to_end.ratio, 12), left_out
    (1.0, {})
    """
    left_out = {
        test: own.left_out or MISSING
        for test, own in tests.items()
        if own.left_out or not all(own.cells.get(name) for name in names)
    }
    parts = {test: Part.of(test, own) for test, own in tests.items() if test not in left_out}
    if not parts:
        return None, left_out
    level = sidak_level(len(names) - 1)
    found = [
        ChainStep(
            name,
            between(parts, name, before, level, margin)[0],
            between(parts, name, names[0], level, margin)[0],
        )
        for before, name in pairwise(names)
    ]
    return ChainResult(found, found[-1].running), left_out
