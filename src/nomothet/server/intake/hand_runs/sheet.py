"""The sheet of a pass that is run by hand: what to do, what is ticked, the clock, and the fields for what is read."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.utils import timezone

from nomothet.server.docket.models import Entry, State
from nomothet.server.docket.work import work_of
from nomothet.server.intake.hand_runs.steps import Step, steps_of
from nomothet.server.intake.typing_in.cells import typed_metric
from nomothet.server.passes.first_runs import group_of
from nomothet.server.workloads.models import Kind

SHEET_NEEDS = ("test__workload", "test__review", "column__configuration__system", "by_hand")


@dataclass(frozen=True)
class HandTick:
    """A step that is done. `fits` is false where what was read off is over the step's limit."""

    at: datetime
    by: str
    observed: float | None
    fits: bool


@dataclass(frozen=True)
class HandStep:
    key: str
    kind: str
    words: str
    reading: str
    unit: str
    at_most: float | None
    seconds: float | None
    tick: HandTick | None


@dataclass(frozen=True)
class HandField:
    """A metric of the test that can be typed. Without a method its readings have never been described."""

    metric: str
    label: str
    unit: str
    method: str
    half_width: float | None


@dataclass(frozen=True)
class HandRun:
    """One owed pass as whoever stands at the machine sees it. `now` is the server's clock, which times the pass."""

    entry: int
    pass_id: str | None
    state: str
    by_hand: str
    mine: bool
    review: int
    question: str
    test: int
    test_name: str
    detail: str
    search: bool
    column: int
    label: str
    position: int
    is_baseline: bool
    configuration: str
    system: int
    system_name: str
    # Whether the machine is what this pass needs.
    present: bool
    number: int
    steps: list[HandStep]
    fields: list[HandField]
    started_at: datetime | None
    stopped_at: datetime | None
    now: datetime
    first_run_apart: bool
    first_run: bool
    # What comes after it on this system, and how many passes are owed there in all.
    next_entry: int | None
    left: int


def hand_run(entry: Entry, user_id: int) -> HandRun:
    """The sheet of one pass."""
    test, column = entry.test, entry.column
    configuration = column.configuration
    now = timezone.now()
    waiting = [one.pk for visit in work_of(configuration.system).visits for one in visit.entries]
    after = [pk for pk in waiting if pk != entry.pk]
    return HandRun(
        entry=entry.pk,
        pass_id=str(entry.pass_id) if entry.pass_id else None,
        state=entry.state,
        by_hand=entry.by_hand.display_name if entry.by_hand else "",
        mine=entry.by_hand_id == user_id,
        review=test.review_id,
        question=test.review.question,
        test=test.pk,
        test_name=test.workload.name,
        detail=test.detail,
        search=test.workload.kind == Kind.LOAD_SEARCH,
        column=column.pk,
        label=column.label,
        position=column.position,
        is_baseline=column.is_baseline,
        configuration=configuration.title,
        system=configuration.system_id,
        system_name=configuration.system.name,
        present=configuration.system.present_id == configuration.pk,
        number=entry.number,
        steps=[_step(step, entry.ticks.get(step.key)) for step in steps_of(entry)],
        fields=_fields(entry),
        started_at=_moment(entry, "started_at"),
        stopped_at=_moment(entry, "stopped_at"),
        now=now,
        first_run_apart=test.workload.first_run_apart,
        first_run=entry.state != State.DONE and group_of(test, column, now) == "first",
        next_entry=after[0] if after else None,
        left=len(waiting),
    )


def _step(step: Step, tick: dict[str, Any] | None) -> HandStep:
    done = None
    if tick:
        done = HandTick(datetime.fromisoformat(tick["at"]), tick["by"], tick["observed"], tick["fits"])
    return HandStep(step.key, step.kind, step.words, step.reading, step.unit, step.at_most, step.seconds, done)


def _fields(entry: Entry) -> list[HandField]:
    fields = []
    for shown in entry.test.shown:
        metric, known = typed_metric(entry.test, shown), entry.test.readings.get(shown, {})
        fields.append(HandField(shown, metric.label, metric.unit, known.get("method", ""), known.get("half_width")))
    return fields


def _moment(entry: Entry, key: str) -> datetime | None:
    text = entry.clock.get(key)
    return datetime.fromisoformat(text) if text else None
