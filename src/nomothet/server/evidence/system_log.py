"""What happened on a system: visits that are over, with their ticks and passes, and what failed on it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from nomothet.formats.words import OUTCOMES
from nomothet.server.docket.models import Changeover
from nomothet.server.docket.queries import ChangeStepShape, step_shape
from nomothet.server.passes.models import Pass
from nomothet.server.systems.models import System

MOST_VISITS = 50
MOST_FAILURES = 200


@dataclass(frozen=True)
class LoggedPass:
    """A pass of a system, wherever it was brought from."""

    id: str
    review: int
    question: str
    test: int
    column: int
    # The leading metric of the test, by which its cell is opened.
    metric: str
    test_name: str
    detail: str
    configuration: str
    number: int
    outcome: str
    outcome_words: str
    note: str
    action: str
    fallback: str
    set_aside: bool
    by: str
    helped_by: str
    started_at: datetime


@dataclass(frozen=True)
class PastVisit:
    """A stay at one configuration: the change to it as it was ticked, and the passes run until the next change."""

    changeover: int
    configuration: str
    started_at: datetime
    done_at: datetime
    by: str
    steps: list[ChangeStepShape]
    passes: list[LoggedPass]


@dataclass(frozen=True)
class SystemLog:
    """The latest first, of both."""

    visits: list[PastVisit]
    failures: list[LoggedPass]


def system_log(system: System) -> SystemLog:
    """Three queries."""
    changes = list(
        Changeover.objects.filter(system=system, done_at__isnull=False)
        .select_related("configuration", "started_by")
        .order_by("-done_at", "-pk")[:MOST_VISITS]
    )
    passes = (
        Pass.objects.whole()
        .filter(column__configuration__system=system)
        .select_related("test__workload", "test__review", "column__configuration", "brought_by", "bench__system")
        .defer("environment", "attempts", "procedure")
        .order_by("-started_at")
    )
    # The changes are few; a pass belongs to the last one before it that led to its configuration.
    since = list(passes.filter(started_at__gte=changes[-1].done_at)) if changes else []
    failed = passes.exclude(outcome__in=("completed", "stopped"))[:MOST_FAILURES]
    return SystemLog(
        [_visit(change, _until(changes, at), since) for at, change in enumerate(changes)],
        [_logged(one) for one in failed],
    )


def _until(changes: Sequence[Changeover], at: int) -> datetime | None:
    return changes[at - 1].started_at if at else None


def _visit(change: Changeover, until: datetime | None, passes: Sequence[Pass]) -> PastVisit:
    done_at = change.done_at
    assert done_at is not None
    own = [
        _logged(one)
        for one in passes
        if one.column.configuration_id == change.configuration_id
        and one.started_at >= done_at
        and (until is None or one.started_at < until)
    ]
    return PastVisit(
        change.pk,
        change.configuration.title,
        change.started_at,
        done_at,
        change.started_by.display_name if change.started_by else "",
        [step_shape(step, change.ticks, {}) for step in change.steps],
        own,
    )


def _logged(one: Pass) -> LoggedPass:
    return LoggedPass(
        id=str(one.pk),
        review=one.test.review_id,
        question=one.test.review.question,
        test=one.test_id,
        column=one.column_id,
        metric=next(iter(one.test.shown), ""),
        test_name=one.test.workload.name,
        detail=one.test.detail,
        configuration=one.column.configuration.title,
        number=one.number,
        outcome=one.outcome,
        outcome_words=OUTCOMES[one.outcome],
        note=one.note,
        action=one.action,
        fallback=one.fallback,
        set_aside=one.set_aside,
        by=one.who_ran,
        helped_by=one.helped_by,
        started_at=one.started_at,
    )
