"""Section 19 of the method: what is specified against what was measured."""

from dataclasses import dataclass
from typing import Literal

# "reach": a clock, a speed or a size that should be there; "limit": a power or a temperature not to be exceeded.
Kind = Literal["reach", "limit"]
Verdict = Literal["reached", "short", "kept", "at the limit", "over"]

NEAR_PCT = 3.0
NEAR_C = 3.0


@dataclass(frozen=True)
class Gap:
    """The highest reading against what is specified, in % of it or, of a temperature, in K; above 0 it is over."""

    gap: float
    verdict: Verdict


def specified_gap(kind: Kind, specified: float, highest: float, *, temperature: bool = False) -> Gap:
    """How far the highest reading is from what is specified.

    Parameters
    ----------
    specified, highest : float
        In one unit; `specified` above 0 unless it is a temperature.
    temperature : bool
        Whether both are temperatures in °C, which have no ratio.

    Examples
    --------
    >>> specified_gap("reach", 4600.0, 4370.0)
    Gap(gap=-5.0, verdict='short')
    >>> specified_gap("limit", 95.0, 93.5, temperature=True)
    Gap(gap=-1.5, verdict='at the limit')
    """
    gap = round(highest - specified if temperature else 100 * (highest / specified - 1), 9)
    near = NEAR_C if temperature else NEAR_PCT
    if kind == "reach":
        return Gap(gap, "reached" if gap >= -near else "short")
    if gap > near:
        return Gap(gap, "over")
    return Gap(gap, "at the limit" if gap >= -near else "kept")
