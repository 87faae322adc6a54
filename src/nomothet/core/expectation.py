"""Section 27 of the method: what was expected, held against what was found."""

import math
from typing import Literal

Expected = Literal["ahead", "level", "behind"]
Held = Literal["held", "not held", "cannot tell"]
EXPECTED: tuple[Expected, ...] = ("ahead", "level", "behind")


def held_against(
    expected: Expected, ratio_low: float | None, ratio_high: float | None, margin: float, at_most: float | None = None
) -> Held:
    """Whether an interval bears an expectation out.

    Parameters
    ----------
    ratio_low, ratio_high : float or None
        The interval of the comparison as ratios, above 1 where more is better; None where the noise is unknown.
    margin : float
        The practical margin as a fraction: within it two are level.
    at_most : float, optional
        By how much at most, as a fraction above 0: 0.1 is ten per cent ahead, or behind.

    Returns
    -------
    str
        *ahead* and *behind* are held where the interval lies on their side of no difference, and not held where it lies
        on the other side or within the margin. *level* is held within the margin and not held where the interval lies
        wholly beyond it. With `at_most` the interval must not reach beyond that, and what lies wholly beyond is not
        held. Everything else cannot be told.

    Examples
    --------
    >>> held_against("level", 0.98, 1.01, 0.03), held_against("ahead", 0.9, 0.95, 0.03)
    ('held', 'not held')
    >>> held_against("behind", 0.93, 0.97, 0.03, 0.05), held_against("behind", 0.80, 0.85, 0.03, 0.05)
    ('cannot tell', 'not held')
    """
    if ratio_low is None or ratio_high is None:
        return "cannot tell"
    low, high = math.log(ratio_low), math.log(ratio_high)
    edge = math.log1p(margin)
    if expected == "level":
        reach = edge if at_most is None else math.log1p(at_most)
        if -reach <= low and high <= reach:
            return "held"
        return "not held" if low >= reach or high <= -reach else "cannot tell"
    if expected == "behind":
        low, high = -high, -low
        most = None if at_most is None else -math.log1p(-min(at_most, 0.999999))
    else:
        most = None if at_most is None else math.log1p(at_most)
    if high <= 0 or (-edge <= low and high <= edge) or (most is not None and low >= most):
        return "not held"
    if low > 0 and (most is None or high <= most):
        return "held"
    return "cannot tell"
