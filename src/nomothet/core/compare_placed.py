"""Section 3 of the method where passes have rounds or sessions: what they share is told from what they do not."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from nomothet.core.compare import DEFAULT_MARGIN, Comparison, Direction, Rule, SampleComparisons, judged_difference
from nomothet.core.noise import UNKNOWN, Noise, passes_needed, samples_of
from nomothet.core.passes import Scale, mean_of
from nomothet.core.rounds import By, Placed, RoundsFit, SessionMeans, by_rounds, by_sessions


@dataclass(frozen=True)
class PlacedComparison:
    """A comparison with what it was made by. `one_session`: a side has a single session, so nobody knows what changes
    from one to the next."""

    comparison: Comparison
    by: By
    one_session: bool


def compare_placed(
    cells: Mapping[str, Sequence[Placed]],
    baseline: str,
    *,
    direction: Direction = "higher",
    scale: Scale = "ratio",
    margin: float | None = DEFAULT_MARGIN,
    borrowed: Noise | None = None,
    spreads: Mapping[str, float] | None = None,
) -> dict[str, PlacedComparison]:
    """Compare every cell with the baseline's: by rounds where these apply, else by sessions, else by plain passes.

    Parameters
    ----------
    cells : mapping of str to passes
        Values in the metric's unit, with the round and the session of each where known.
    borrowed, spreads
        As `compare_with_baseline` takes them.

    Raises
    ------
    BadSample
        When the baseline has no pass, or a value cannot be compared.

    Examples
    --------
    >>> a = [Placed(100 + at, at) for at in range(5)]
    >>> b = [Placed(110 + at, at) for at in range(5)]
    >>> found = compare_placed({"A": a, "B": b}, "A")["B"]
    >>> found.by, found.comparison.verdict
    ('rounds', 'ahead')
    """
    compared = PlacedComparisons(
        cells, baseline, direction=direction, scale=scale, margin=margin, borrowed=borrowed, spreads=spreads
    )
    return {name: compared.of(name) for name in compared.names}


class PlacedComparisons:
    """The same, of which each is worked out when it is asked for."""

    def __init__(
        self,
        cells: Mapping[str, Sequence[Placed]],
        baseline: str,
        *,
        direction: Direction,
        scale: Scale,
        margin: float | None,
        borrowed: Noise | None = None,
        spreads: Mapping[str, float] | None = None,
    ) -> None:
        samples = samples_of({name: [one.value for one in passes] for name, passes in cells.items()}, scale)
        self._plain = SampleComparisons(
            samples, baseline, direction=direction, scale=scale, margin=margin, borrowed=borrowed, spreads=spreads
        )
        self.names = self._plain.names
        self._cells, self._base = {name: cells[name] for name in samples}, baseline
        self._fit, self._sessions = _fits(self._cells, samples)
        self._rule = replace(self._plain.rule, noise=UNKNOWN, uneven=False)

    def of(self, name: str) -> PlacedComparison:
        """One cell against the baseline."""
        plain, more = self._plain.of(name), self._plain.reading_error(name)
        return _one(name, self._base, plain, self._cells, self._fit, self._sessions, self._rule, more)


def _fits(
    cells: Mapping[str, Sequence[Placed]], samples: Mapping[str, Sequence[float]]
) -> tuple[RoundsFit | None, SessionMeans | None]:
    """By rounds, or by sessions where rounds do not apply; both want to know of every pass where it belongs."""
    passes = [one for own in cells.values() for one in own]
    if any(one.round is None for one in passes) and any(one.session is None for one in passes):
        return None, None
    scaled = {
        name: [Placed(y, one.round, one.session) for y, one in zip(samples[name], own, strict=True)]
        for name, own in cells.items()
    }
    fit = by_rounds(scaled)
    return fit, None if fit else by_sessions(scaled)


def _one(
    name: str,
    baseline: str,
    plain: Comparison,
    cells: Mapping[str, Sequence[Placed]],
    fit: RoundsFit | None,
    sessions: SessionMeans | None,
    rule: Rule,
    more: float,
) -> PlacedComparison:
    passes = (plain.n, plain.n_baseline)
    if fit is not None:
        d, se = fit.difference(name, baseline)
        found = judged_difference(d, math.hypot(se, more), fit.noise, rule, passes)
        if found.verdict == "undecided" and rule.margin is not None:
            # Whole rounds: each takes a degree of freedom from the cells' own.
            needed = passes_needed(fit.noise, rule.cells - 1, rule.level, rule.margin)
            found = replace(found, passes_needed=needed)
        return PlacedComparison(found, "rounds", False)
    if sessions is not None and sessions.compares(name, baseline):
        own, base = sessions.cells[name], sessions.cells[baseline]
        error = math.hypot(sessions.noise.sd * math.sqrt(1 / len(own) + 1 / len(base)), more)
        found = judged_difference(mean_of(own) - mean_of(base), error, sessions.noise, rule, passes)
        return PlacedComparison(found, "sessions", False)
    counts = [{one.session for one in cells[side]} for side in (name, baseline)]
    known = all(None not in own for own in counts)
    return PlacedComparison(plain, "passes", known and any(len(own) == 1 for own in counts))
