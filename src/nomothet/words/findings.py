"""What a review says of itself: each finding as one sentence, no further than its comparison goes."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.lists import counted, few
from nomothet.words.numbers import MINUS, compact, figure, signed

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


def per_unit_words(pct: float | None) -> str:
    """A gain for each unit of something, in %; empty where it is not known.

    >>> per_unit_words(1.5), per_unit_words(-0.25), per_unit_words(None)
    ('+1.5 %', '−0.25 %', '')
    """
    return "" if pct is None else f"{pct:+.2g} %".replace("-", MINUS)


def settling_of(verdict: str, settling: str) -> str:
    """What would settle an open comparison."""
    return settling or ("a second pass" if verdict == "noise unknown" else "")


def changed_words(before: Mapping[str, str], now: Mapping[str, str] | None) -> str:
    """What changed about a pinned finding: "was +66 %, is +71 %; still ahead".

    >>> changed_words({"told": "+66.0 %", "verdict": "ahead"}, {"told": "+71.0 %", "verdict": "ahead"})
    'was +66.0 %, is +71.0 %; still ahead'
    >>> changed_words({"told": "+66.0 %", "verdict": "ahead"}, {"told": "+2.0 %", "verdict": "undecided"})
    'was +66.0 %, is +2.0 %; was ahead, is undecided'
    """
    if now is None:
        return "is no longer found"
    amount = (
        "" if before["told"] == now["told"] else f"was {before['told'] or 'not told'}, is {now['told'] or 'not told'}"
    )
    if before["verdict"] != now["verdict"]:
        verdict = f"was {before['verdict'] or 'open'}, is {now['verdict'] or 'open'}"
    else:
        verdict = f"still {now['verdict']}" if now["verdict"] else ""
    return (
        "; ".join(words for words in (amount, verdict) if words) if amount or "is" in verdict else "says it otherwise"
    )


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


def _chain(
    start: str,
    end: str,
    where: str,
    tests: int,
    ratio: float,
    verdict: str,
    before: str,
    after: str,
    step: float,
    step_verdict: str,
) -> str:
    over = f"in {where}" if where else f"over {tests} tests"
    return (
        f"From {start} to {end}, {over}: {change_of(ratio)}, {verdict}. "
        f"The largest step, {before} to {after}, is {change_of(step)}, {step_verdict}."
    )


def _grid(
    test: str,
    metric: str,
    effects: Sequence[tuple[str, float, str]],
    together: tuple[str, str, str, str, float] | None,
) -> str:
    where = f"In {test}, {metric}"
    if together is not None:
        one, level, other, other_level, ratio = together
        more = abs(100 * (1 - ratio))
        what = "costs" if ratio < 1 else "brings"
        return f"{where}, {one} {level} {what} {figure(more)} % more with {other} {other_level}."
    told = "; ".join(f"{name} {change_of(ratio)}, {verdict}" for name, ratio, verdict in effects)
    return f"{where}, by what differs from the baseline: {told}."


def _targets(meets: Sequence[str], misses: Sequence[tuple[str, int, int]], untold: Sequence[str], cheapest: str) -> str:
    said = []
    if meets:
        said.append(f"{few(meets)} {'meets' if len(meets) == 1 else 'meet'} every target")
    if cheapest:
        said.append(f"{cheapest} is the cheapest of them")
    said += [f"{label} misses {count} of {total}" for label, count, total in misses[:2]]
    if len(misses) > 2:
        said.append(f"{len(misses) - 2} more {'misses' if len(misses) == 3 else 'miss'} some")
    if untold:
        said.append(f"of {few(untold, 2)} it cannot be told yet")
    joined = "; ".join(said)
    return f"{joined[:1].upper()}{joined[1:]}."


def _ladder(name: str, best: Sequence[tuple[str, str]], of: int) -> str:
    if not best:
        return f"Of {name}, no settings that were tried meet the targets."
    told = "; ".join(f"{rung} on {label}" for label, rung in best[:3])
    more = f"; {len(best) - 3} more have some" if len(best) > 3 else ""
    rest = f"; {of - len(best)} meet them with none" if of > len(best) else ""
    return f"Of {name}, the most demanding settings that meet the targets: {told}{more}{rest}."


def _expected(
    own: str,
    word: str,
    of: str,
    most_pct: float | None,
    where: str,
    role: str,
    ratio: float | None,
    low: float | None,
    high: float | None,
    held: str,
    tests: int,
) -> str:
    than = {"ahead": "ahead of", "level": "level with", "behind": "behind"}[word]
    most = "" if most_pct is None else f" by {compact(most_pct)} % at most"
    place = f" in {where}" if where else f", {role}"
    if ratio is None:
        return f"Expected: {own} {than} {of}{most}{place}. It cannot be told: not measured on both."
    ends = changes_of(low, high)
    found = change_of(ratio) + (f" ({ends})" if ends else ", noise unknown")
    said = {"held": "Held", "not held": "Not held", "cannot tell": "It cannot be told"}[held]
    over = f" over {counted(tests, 'test')}" if not where else ""
    return f"Expected: {own} {than} {of}{most}{place}. {said}{over}: {found}."


SENTENCES: Mapping[str, Callable[..., str]] = {
    "finding_over_all": _over_all,
    "finding_versus": _versus,
    "finding_sweep": _sweep,
    "finding_chain": _chain,
    "finding_grid": _grid,
    "finding_targets": _targets,
    "finding_ladder": _ladder,
    "finding_expected": _expected,
}
