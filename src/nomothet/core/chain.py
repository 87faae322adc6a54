"""Section 6 of the method: steps that are made on top of one another."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from nomothet.core.errors import BadSample
from nomothet.core.noise import sidak_level
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
