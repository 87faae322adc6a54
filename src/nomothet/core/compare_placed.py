"""Section 3 of the method where passes have rounds or sessions: what they share is told from what they do not."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.compare import DEFAULT_MARGIN, Comparison, Direction, compare_with_baseline, verdict_of
from nomothet.core.errors import BadSample
from nomothet.core.noise import MOST_PASSES, WANTED_SHARE, Noise, sidak_level
from nomothet.core.passes import Scale, on_scale, t_quantile
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
) -> dict[str, PlacedComparison]:
    """Compare every cell with the baseline's: by rounds where these apply, else by sessions, else by plain passes.

    Parameters
    ----------
    cells : mapping of str to passes
        Values in the metric's unit, with the round and the session of each where known.

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
    plain = compare_with_baseline(
        {name: [one.value for one in passes] for name, passes in cells.items()},
        baseline,
        direction=direction,
        scale=scale,
        margin=margin,
    )
    scaled = {name: _on_scale(name, passes, scale) for name, passes in cells.items() if passes}
    rule = _Rule(
        sidak_level(len(scaled) - 1),
        margin if margin is None or scale != "ratio" else math.log1p(margin),
        direction,
        scale,
        len(scaled),
    )
    fit = by_rounds(scaled)
    sessions = None if fit else by_sessions(scaled)
    return {name: _one(name, baseline, comparison, scaled, fit, sessions, rule) for name, comparison in plain.items()}


@dataclass(frozen=True)
class _Rule:
    level: float
    margin: float | None
    direction: Direction
    scale: Scale
    cells: int


def _on_scale(name: str, passes: Sequence[Placed], scale: Scale) -> list[Placed]:
    try:
        y = on_scale([one.value for one in passes], scale)
    except BadSample as error:
        raise BadSample(f"cell {name!r}: {error}") from None
    return [Placed(value, one.round, one.session) for value, one in zip(y, passes, strict=True)]


def _one(
    name: str,
    baseline: str,
    plain: Comparison,
    cells: Mapping[str, Sequence[Placed]],
    fit: RoundsFit | None,
    sessions: SessionMeans | None,
    rule: _Rule,
) -> PlacedComparison:
    if fit is not None:
        raw, se = fit.difference(name, baseline)
        needed = _rounds_needed(fit.noise, rule)
        return PlacedComparison(_judged(raw, se, fit.noise, plain, rule, needed), "rounds", False)
    if sessions is not None and sessions.compares(name, baseline):
        own, base = sessions.cells[name], sessions.cells[baseline]
        raw = math.fsum(own) / len(own) - math.fsum(base) / len(base)
        se = sessions.noise.sd * math.sqrt(1 / len(own) + 1 / len(base))
        return PlacedComparison(_judged(raw, se, sessions.noise, plain, rule, None), "sessions", False)
    counts = [{one.session for one in cells[side]} for side in (name, baseline)]
    known = all(None not in own for own in counts)
    return PlacedComparison(plain, "passes", known and any(len(own) == 1 for own in counts))


def _judged(raw: float, se: float, noise: Noise, plain: Comparison, rule: _Rule, needed: int | None) -> Comparison:
    turn = -1 if rule.direction == "lower" else 1
    back = math.exp if rule.scale == "ratio" else float
    half, d = t_quantile(rule.level, noise.df) * se, turn * raw
    verdict = verdict_of(d - half, d + half, rule.margin, rule.direction)
    return Comparison(
        effect=back(d),
        low=back(d - half),
        high=back(d + half),
        change=back(raw),
        change_low=back(raw - half),
        change_high=back(raw + half),
        verdict=verdict,
        noise=noise,
        n=plain.n,
        n_baseline=plain.n_baseline,
        level=rule.level,
        passes_needed=needed if verdict == "undecided" else None,
    )


def _rounds_needed(noise: Noise, rule: _Rule) -> int | None:
    """The smallest number of whole rounds whose interval is no wider than 0.6 of the margin; None over 50."""
    if rule.margin is None:
        return None
    for n in range(2, MOST_PASSES + 1):
        df = (rule.cells - 1) * (n - 1)
        if t_quantile(rule.level, df) * noise.sd * math.sqrt(2 / n) <= WANTED_SHARE * rule.margin:
            return n
    return None
