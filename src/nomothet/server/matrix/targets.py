"""Targets of a row: what each configuration is held against, and what came of it, also where nobody can tell."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.notes import Note, note
from nomothet.core.target import Target, target_limit, target_rate
from nomothet.formats.words import OUTCOMES, Metric
from nomothet.server.evidence.figures import Evidence, PassRow
from nomothet.server.evidence.values import Values
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import plain_key, run_group
from nomothet.words import say

# Of a test's targets, the one that is of no metric: that none of its passes fails.
NO_FAILURE = "no_failure"


@dataclass(frozen=True)
class TargetShape:
    """What came of a target in a cell: met, average only, missed, or cannot tell; then the same with what was asked."""

    code: str
    words: str


def limit_of(review: Review, test: Test, shown: str, metric: Metric) -> float | None:
    """The target of a row: the test's own, which may be that it has none, else the brief's for its quantity.

    A target that the brief has for a unit is a limit from above, so it is for rows where lower is better.
    """
    key = plain_key(shown)
    if run_group(shown):
        return None
    if key in test.targets:
        own: float | None = test.targets[key]
        return own
    if key == "average_fps":
        return review.target_fps
    if metric.direction != "lower":
        return None
    usual = {"°C": review.target_c, "s": review.target_s, **review.targets}
    limit: float | None = usual.get(metric.unit)
    return limit


def judged(
    limit: float,
    metric: Metric,
    values: Values,
    lows: Values | None,
    held_at: float | None,
    *,
    has_lows: bool = True,
) -> Target:
    """The figures of a cell against a target; a test without lows is judged by its averages alone."""
    if metric.key == "average_fps":
        return target_rate(
            limit,
            values.numbers,
            lows.numbers if lows else [] if has_lows else None,
            thin=lows is not None and any(lows.thin),
            held_at=held_at,
        )
    return target_limit(limit, values.numbers, metric.scale, at_least=metric.direction == "higher")


def shape_of(target: Target | None, limit: float, metric: Metric, thin: bool) -> TargetShape:
    """What is said of a target in its cell; without figures, or with thin ones, nobody can tell."""
    if target is None or thin:
        found = note("target_unknown", limit=limit, unit=metric.unit, at_most=metric.direction == "lower", thin=thin)
        return TargetShape("cannot tell", say(found))
    found = note(
        "target",
        result=target.result,
        limit=limit,
        unit=metric.unit,
        at_most=metric.direction == "lower",
        passes=target.passes,
    )
    return TargetShape(target.result, say(found))


def failures_of(review: Review, test: Test, evidence: Evidence, columns: Sequence[int]) -> dict[int, TargetShape]:
    """Whether passes of a test fail where none should, by column."""
    wanted = test.targets.get(NO_FAILURE, review.target_no_failure)
    if not wanted:
        return {}
    by_column: Mapping[int, list[PassRow]] = {column: [] for column in columns}
    for one in evidence.passes:
        if one.test == test.pk and one.column in by_column and not one.set_aside and one.outcome != "stopped":
            by_column[one.column].append(one)
    return {column: _failures(rows) for column, rows in by_column.items()}


def _failures(rows: Sequence[PassRow]) -> TargetShape:
    failed = [OUTCOMES[one.outcome] for one in rows if one.outcome != "completed"]
    if not rows:
        return TargetShape("cannot tell", say(note("target_no_passes")))
    found: Note = note("target_failures", passes=len(rows), failed=list(dict.fromkeys(failed)), count=len(failed))
    return TargetShape("missed" if failed else "met", say(found))
