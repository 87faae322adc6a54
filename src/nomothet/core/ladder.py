"""Section 8 of the method: the most demanding settings that still meet the target, tried downwards."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

# What came of a rung; None where no pass has told anything.
RungWord = Literal["met", "average only", "missed", "cannot tell"]
LadderWord = Literal["found", "none", "open"]

_WORSE: Final[tuple[RungWord, ...]] = ("met", "cannot tell", "average only", "missed")


@dataclass(frozen=True)
class Descent:
    """Where a descent stands.

    Attributes
    ----------
    best : int or None
        The most demanding rung that met its targets, from 0.
    next : int or None
        The rung to try next; None once the descent is over.
    above : tuple of int
        Rungs above the best that were never tried, so that one of them may do as well.
    against : tuple of int
        Rungs below the best that were missed, which contradicts it.
    """

    word: LadderWord
    best: int | None
    next: int | None
    above: tuple[int, ...]
    against: tuple[int, ...]


def rung_of(codes: Sequence[RungWord], *, failed: bool = False) -> RungWord | None:
    """What came of a rung with several targets: the worst of them; a rung that only failed is missed.

    >>> rung_of(["met", "cannot tell"]), rung_of([]), rung_of([], failed=True)
    ('cannot tell', None, 'missed')
    """
    if failed:
        return "missed"
    return max(codes, key=_WORSE.index, default=None)


def descend(rungs: Sequence[RungWord | None]) -> Descent:
    """Where a ladder stands, its most demanding rung first.

    The first rung that is met is the best. What lies below it is taken to be met as well and need not be tried. Before
    one is met, the first rung that nothing is told of comes next.

    Examples
    --------
    >>> descend(["missed", "average only", "met", None]).best
    2
    >>> descend(["missed", None, None]).next, descend(["missed", "missed"]).word
    (1, 'none')
    """
    best = next((at for at, word in enumerate(rungs) if word == "met"), None)
    if best is not None:
        above = tuple(at for at in range(best) if rungs[at] in (None, "cannot tell"))
        against = tuple(at for at in range(best + 1, len(rungs)) if rungs[at] in ("missed", "average only"))
        return Descent("found", best, None, above, against)
    untold = next((at for at, word in enumerate(rungs) if word in (None, "cannot tell")), None)
    return Descent("none" if untold is None else "open", None, untold, (), ())
