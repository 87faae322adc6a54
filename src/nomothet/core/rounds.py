"""Section 3 of the method: what lies between passes that share a round, or a session."""

import math
from collections import defaultdict
from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nomothet.core.noise import Noise, pooled
from nomothet.core.passes import mean_of

By = Literal["passes", "rounds", "sessions"]

# So many rounds must hold two cells or more, and so many degrees of freedom must be left.
LEAST_ROUNDS = 4
LEAST_DF = 2
# So many sessions beyond the first of each cell must there be.
LEAST_SESSIONS_DF = 3


@dataclass(frozen=True)
class Placed:
    """A kept pass on the computing scale, with its round and its session where these are known."""

    value: float
    round: Hashable | None = None
    session: Hashable | None = None


@dataclass(frozen=True)
class RoundsFit:
    """The additive model `y = cell + round`, fitted to all passes of a test.

    `covariance` is that of the cells' effects for a noise of 1, in the order of `names`.
    """

    names: tuple[str, ...]
    effects: NDArray[np.float64]
    covariance: NDArray[np.float64]
    noise: Noise

    def difference(self, name: str, baseline: str) -> tuple[float, float]:
        """One cell less another, with its standard error."""
        contrast = np.zeros(len(self.names))
        contrast[self.names.index(name)] += 1
        contrast[self.names.index(baseline)] -= 1
        variance = float(contrast @ self.covariance @ contrast)
        return float(contrast @ self.effects), self.noise.sd * math.sqrt(max(0.0, variance))


def by_rounds(cells: Mapping[str, Sequence[Placed]]) -> RoundsFit | None:
    """The fit by rounds, where rounds apply; None where they do not.

    They apply when every pass has a round, four rounds or more hold two cells or more, the rounds tie all cells
    together, and `df = passes − cells − rounds + 1` is 2 or more. A steady drift is then in the rounds and not in the
    noise.

    Examples
    --------
    >>> a = [Placed(0.00 + 0.1 * at, at) for at in range(5)]
    >>> b = [Placed(0.05 + 0.1 * at, at) for at in range(5)]
    >>> fit = by_rounds({"a": a, "b": b})
    >>> round(fit.difference("b", "a")[0], 12), fit.noise.df, by_rounds({"a": a[:3], "b": b[:3]})
    (0.05, 4, None)
    """
    names = tuple(name for name, passes in cells.items() if passes)
    passes = [(at, one) for at, name in enumerate(names) for one in cells[name]]
    if len(names) < 2 or any(one.round is None for _, one in passes):
        return None
    holding: dict[Hashable, set[int]] = defaultdict(set)
    for at, one in passes:
        holding[one.round].add(at)
    df = len(passes) - len(names) - len(holding) + 1
    shared = sum(len(own) > 1 for own in holding.values())
    if shared < LEAST_ROUNDS or df < LEAST_DF or not _tied(len(names), list(holding.values())):
        return None
    rounds = {key: at for at, key in enumerate(holding)}
    design = np.zeros((len(passes), len(names) + len(rounds) - 1))
    for row, (at, one) in enumerate(passes):
        design[row, at] = 1
        if rounds[one.round]:
            design[row, len(names) + rounds[one.round] - 1] = 1
    y = np.array([one.value for _, one in passes])
    effects, *_ = np.linalg.lstsq(design, y, rcond=None)
    residual = float(((y - design @ effects) ** 2).sum())
    inverse = np.linalg.inv(design.T @ design)
    k = len(names)
    return RoundsFit(
        names,
        np.array(effects[:k], float),
        np.array(inverse[:k, :k], float),
        Noise(math.sqrt(residual / df), df, "pooled"),
    )


def _tied(cells: int, rounds: Sequence[set[int]]) -> bool:
    """Whether every cell can be reached from the first over rounds that hold both."""
    reached, left = {0}, list(rounds)
    while True:
        touching = [own for own in left if own & reached]
        more = set().union(*touching) - reached if touching else set()
        if not more:
            return len(reached) == cells
        reached |= more


@dataclass(frozen=True)
class SessionMeans:
    """The means of each cell's sessions, and their noise over the test."""

    cells: Mapping[str, Sequence[float]]
    noise: Noise

    def compares(self, name: str, baseline: str) -> bool:
        """Whether both cells have two sessions or more."""
        return len(self.cells[name]) > 1 and len(self.cells[baseline]) > 1


def by_sessions(cells: Mapping[str, Sequence[Placed]]) -> SessionMeans | None:
    """Session means, where sessions can be compared at all: every pass has one, and `Σ (sessions − 1)` is 3 or more.

    Passes of one session share what changes from session to session, and no interval of one session knows it.

    Examples
    --------
    >>> a = [Placed(0.0, 0, "mon"), Placed(0.02, 1, "mon"), Placed(0.1, 2, "tue"), Placed(0.1, 3, "wed")]
    >>> b = [Placed(0.2, 0, "mon"), Placed(0.3, 1, "tue")]
    >>> found = by_sessions({"a": a, "b": b})
    >>> [round(one, 3) for one in found.cells["a"]], found.noise.df
    ([0.01, 0.1, 0.1], 3)
    """
    means: dict[str, list[float]] = {}
    for name, passes in cells.items():
        sessions: dict[Hashable, list[float]] = defaultdict(list)
        for one in passes:
            if one.session is None:
                return None
            sessions[one.session].append(one.value)
        means[name] = [mean_of(values) for values in sessions.values()]
    if sum(len(own) - 1 for own in means.values() if own) < LEAST_SESSIONS_DF:
        return None
    return SessionMeans(means, pooled(means.values()))
