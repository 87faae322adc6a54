"""Section 19 of the method: the whole of a job from a part of it."""

import math
from dataclasses import dataclass

from nomothet.core.errors import BadSample


@dataclass(frozen=True)
class Forecast:
    """Time per frame and of the whole, in seconds, taking all frames to be equal."""

    per_frame_s: float
    forecast_s: float


def forecast(seconds: float, done: float, whole: float, before_s: float = 0.0) -> Forecast:
    """How long the whole takes, from a part.

    Parameters
    ----------
    seconds : float
        What the part took, the time before its first frame included.
    done, whole : float
        Frames of the part and of the whole.
    before_s : float
        What passes before the first frame, however many follow.

    Raises
    ------
    BadSample
        When nothing was done, more than the whole, or the time is no time.

    Examples
    --------
    >>> forecast(727, 30, 120).forecast_s
    2908.0
    """
    if not 0 < done <= whole < math.inf:
        raise BadSample(f"{done:g} of {whole:g} is no part of a job")
    if not 0 <= before_s < seconds < math.inf:
        raise BadSample(f"{seconds:g} s with {before_s:g} s before the first frame is no time of a job")
    each = (seconds - before_s) / done
    return Forecast(each, before_s + whole * each)
