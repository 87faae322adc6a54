"""Times that benches tell, held against the server's clock.

A time that does not fit is kept as it came and said to be doubtful; what depends on an order in time goes by the
server's own clock then.
"""

from datetime import datetime, timedelta

from nomothet.core.notes import Note, note
from nomothet.server.passes.models import Pass
from nomothet.server.systems.clocks import MOST_APART_S

_APART = timedelta(seconds=MOST_APART_S)


def is_doubtful(
    started_at: datetime,
    duration_s: float,
    off_s: float | None,
    taken_at: datetime | None,
    now: datetime,
    *,
    simulated: bool = False,
) -> bool:
    """Whether a bench's time of a pass does not fit.

    Parameters
    ----------
    off_s : float or None
        How far the bench's clock is ahead of the server's now.
    taken_at, now : datetime
        When the pass was taken from the docket and when it is announced, by the server's clock.
    simulated : bool
        Whether its time is played, faster or slower than a clock goes.
    """
    if off_s is not None and abs(off_s) > MOST_APART_S:
        return True
    if simulated:
        return False
    if taken_at is not None and started_at < taken_at - _APART:
        return True
    return started_at + timedelta(seconds=duration_s) > now + _APART


def doubt_of(owner: Pass) -> Note | None:
    """What there is to say of a pass whose time is doubtful."""
    return note("time_doubtful", off_s=owner.clock_off_s) if owner.time_doubtful else None
