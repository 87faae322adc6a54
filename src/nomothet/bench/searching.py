"""A load search on a machine: proposes by section 8, tries, keeps every attempt, and stops when asked."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from nomothet.bench.errors import BenchError
from nomothet.bench.job import Control
from nomothet.core.errors import BadPlan
from nomothet.core.load_search import Attempt, NextAttempt, SearchPlan, next_attempt
from nomothet.formats.searches import attempt_as_dict, attempts_of, plan_of


@dataclass(frozen=True)
class Tried:
    """An attempt that is over, with the mean use of what was sampled: {"processor use": {"mean", "capacity"}}."""

    attempt: Attempt
    use: dict[str, Any] = field(default_factory=dict)


# Tries a load; None when the pass was stopped before it was known whether the load holds.
Try = Callable[[NextAttempt], Tried | None]


def search(
    settings: Mapping[str, Any], before: list[dict[str, Any]], try_load: Try, control: Control
) -> list[dict[str, Any]]:
    """Run a search to its end, or until it is stopped; returns all attempts, those of an earlier part first.

    Raises
    ------
    BenchError
        When the settings are no plan for a search.
    """
    try:
        plan: SearchPlan = plan_of(settings)
    except BadPlan as error:
        raise BenchError(str(error)) from None
    attempts = list(before)
    control.tell_attempts(attempts)
    while not control.over:
        proposed = next_attempt(plan, attempts_of(attempts))
        if proposed is None:
            break
        tried = try_load(proposed)
        if tried is None:
            break
        attempts.append(attempt_as_dict(tried.attempt, proposed.phase, tried.use))
        control.tell_attempts(attempts)
    return attempts
