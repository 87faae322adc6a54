"""The definitions of docs/method.md section 1, computed the slow and obvious way, for checking the core."""

import math
from collections.abc import Sequence


def median(values: Sequence[float]) -> float:
    ordered = sorted(values)
    n = len(ordered)
    return (ordered[(n - 1) // 2] + ordered[n // 2]) / 2


def percentile(values: Sequence[float], q: float) -> float:
    """Type 7 of Hyndman and Fan."""
    ordered = sorted(values)
    at = q * (len(ordered) - 1)
    low = int(at)
    high = min(low + 1, len(ordered) - 1)
    return ordered[low] + (at - low) * (ordered[high] - ordered[low])


def slowest_mean(values: Sequence[float], share: float) -> float:
    count = math.ceil(round(share * len(values), 9))
    return 1000 / (sum(sorted(values, reverse=True)[:count]) / count)


def time_share(values: Sequence[float], share: float) -> float:
    limit = share * sum(values)
    so_far = 0.0
    for value in sorted(values, reverse=True):
        so_far += value
        if so_far >= limit - 1e-9:
            return 1000 / value
    raise AssertionError("unreachable")


def hitches(values: Sequence[float]) -> list[int]:
    ends = []
    total = 0.0
    for value in values:
        total += value
        ends.append(total)
    found = []
    for i, value in enumerate(values):
        around = [f for f, end in zip(values, ends, strict=True) if ends[i] - 500 <= end <= ends[i] + 500]
        m = median(around)
        if value >= 2 * m and value >= m + 4:
            found.append(i)
    return found


def lowest_second(values: Sequence[float]) -> int | None:
    counts: dict[int, int] = {}
    total = 0.0
    for value in values:
        total += value
        second = math.ceil((total - 1e-6) / 1000)
        counts[second] = counts.get(second, 0) + 1
    whole = int((total + 1e-6) // 1000)
    return min((counts.get(second, 0) for second in range(1, whole + 1)), default=None)
