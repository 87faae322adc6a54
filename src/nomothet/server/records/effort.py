"""What the measuring of a review took beside what was planned: time at the machines, changes, and whose it was."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from nomothet.server.passes.models import Pass
from nomothet.server.planning.check import whole_cost
from nomothet.server.reviews.models import Review

# A longer pause between two passes is no change of configuration but the end of a session.
_LONGEST_CHANGE_S = 2 * 3600.0


@dataclass(frozen=True)
class EffortShape:
    """Passes of all outcomes; `changing_s` is the time between passes of different configurations of one machine.

    `by` is the measuring time by person or bench, in seconds; what was planned is the whole plan with its changes, as
    section 23 of the method estimates it without passes of its own.
    """

    planned_passes: int
    planned_s: float

    passes: int
    measuring_s: float
    changes: int
    changing_s: float
    days: int
    by: dict[str, float]


def effort(review: Review, found: Iterable[Pass]) -> EffortShape:
    """The effort that the whole passes of a review tell of."""
    passes = sorted(found, key=lambda one: one.started_at)
    by: dict[str, float] = defaultdict(float)
    for one in passes:
        by[one.who_ran or "not said"] += one.duration_s or 0.0
    changes, changing_s = 0, 0.0
    before: dict[int, Pass] = {}
    for one in passes:
        system = one.column.configuration.system_id
        last = before.get(system)
        if last is not None and last.column_id != one.column_id:
            pause = (one.started_at - last.started_at).total_seconds() - (last.duration_s or 0.0)
            if 0 <= pause <= _LONGEST_CHANGE_S:
                changes += 1
                changing_s += pause
        before[system] = one
    cost = whole_cost(review)
    return EffortShape(
        cost.passes,
        cost.running_s + cost.changing_s,
        len(passes),
        sum(one.duration_s or 0.0 for one in passes),
        changes,
        changing_s,
        len({one.started_at.date() for one in passes}),
        dict(by),
    )
