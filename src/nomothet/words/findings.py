"""What a review says of itself: each finding as one sentence, no further than its comparison goes."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.lists import and_list
from nomothet.words.numbers import figure, signed

# Why a test takes no part over all tests; what is not here is told as it is.
LEFT_OUT: Mapping[str, str] = {
    "missing": "not measured everywhere",
    "untrusted": "its metric is not trusted",
    "held rate": "held at one rate",
    "masked": "one limit hides the difference",
    "thin tail": "too few slow frames",
}
# From this ratio on a change is told as a multiple.
_MULTIPLE = 2.0


def change_of(ratio: float) -> str:
    """A ratio as a change in per cent, or as a multiple.

    >>> change_of(1.1), change_of(0.9), change_of(13.0)
    ('+10.0 %', '−10.0 %', '13.0 ×')
    """
    return f"{figure(ratio)} ×" if ratio >= _MULTIPLE else f"{signed(100 * (ratio - 1))} %"


def changes_of(low: float | None, high: float | None) -> str:
    """An interval of ratios; empty without noise.

    >>> changes_of(0.95, 1.05), changes_of(None, None)
    ('−5.00 to +5.00 %', '')
    """
    if low is None or high is None:
        return ""
    if low >= _MULTIPLE:
        return f"{figure(low)} to {figure(high)} ×"
    return f"{signed(100 * (low - 1))} to {signed(100 * (high - 1))} %"


def _over_all(
    own: str, baseline: str, tests: int, role: str, ratio: float, low: float | None, high: float | None, verdict: str
) -> str:
    said = (
        f"Over {tests} {'test' if tests == 1 else 'tests'}, the {role} of {own} come to {_share(ratio)} of {baseline}"
    )
    if low is None or high is None:
        return f"{said}; the noise is unknown."
    ends = (
        f"{figure(low)} to {figure(high)} ×" if ratio >= _MULTIPLE else f"{figure(100 * low)} to {figure(100 * high)} %"
    )
    return f"{said}, {ends}: {verdict}."


def _share(ratio: float) -> str:
    return f"{figure(ratio)} ×" if ratio >= _MULTIPLE else f"{figure(100 * ratio)} %"


def _versus(own: str, baseline: str, test: str, metric: str, told: str, interval: str, verdict: str) -> str:
    return f"{own} differs from {baseline} most in {test}, {metric}: {told}, {interval}: {verdict}."


def _sweep(test: str, metric: str, best: str, enough: str, below: str) -> str:
    where = f"In {test}, {metric}"
    if enough == best:
        return f"{where}: nothing below {best} is enough." if below else f"{where}: {best} is the best and the lowest."
    less = f"; {below} may lose more than the margin" if below else ""
    return f"{where}: {enough} is enough, within the margin of the best, {best}{less}."


def _grid(test: str, metric: str, effects: Sequence[tuple[str, float, str]]) -> str:
    told = "; ".join(f"{name} {change_of(ratio)}, {verdict}" for name, ratio, verdict in effects)
    return f"In {test}, {metric}, by what differs from the baseline: {told}."


def _targets(meets: Sequence[str], misses: Sequence[tuple[str, int, int]], untold: Sequence[str]) -> str:
    said = []
    if meets:
        said.append(f"{and_list(meets)} {'meets' if len(meets) == 1 else 'meet'} every target")
    said += [f"{label} misses {count} of {total}" for label, count, total in misses]
    if untold:
        said.append(f"of {and_list(untold)} it cannot be told yet")
    joined = "; ".join(said)
    return f"{joined[:1].upper()}{joined[1:]}."


def _not_settled(count: int, settled: int, unknown: int) -> str:
    said = f"{count} {'comparison is' if count == 1 else 'comparisons are'} not settled"
    parts = []
    if settled:
        parts.append(f"more passes would settle {settled}")
    if unknown:
        parts.append(f"{unknown} {'has' if unknown == 1 else 'have'} a single pass each")
    return f"{said}: {and_list(parts)}." if parts else f"{said}."


SENTENCES: Mapping[str, Callable[..., str]] = {
    "finding_over_all": _over_all,
    "finding_versus": _versus,
    "finding_sweep": _sweep,
    "finding_grid": _grid,
    "finding_targets": _targets,
    "finding_not_settled": _not_settled,
}
