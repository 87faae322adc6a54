"""Running an owed pass by hand: begun, ticked, timed, and ended as one pass with all that was read off it."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.core.errors import BadQuantity
from nomothet.core.readings import read_readings
from nomothet.formats.words import METHOD_VERSION, OUTCOMES
from nomothet.server.analysis.commands import store_fingerprints
from nomothet.server.docket.commands import close
from nomothet.server.docket.models import Entry, State
from nomothet.server.feed.commands import announce
from nomothet.server.intake.hand_runs.steps import Step, steps_of
from nomothet.server.intake.typing_in import NOBODY_ELSE, Hands, Typed, store
from nomothet.server.passes.commands import announce_pass
from nomothet.server.passes.models import Mark, Origin, Pass
from nomothet.server.passes.placing import makes_rounds, session_of
from nomothet.server.passes.stamping import stamped
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Review
from nomothet.server.reviews.shown import FIRST
from nomothet.server.systems.states import state_of
from nomothet.server.workloads.models import Kind


@dataclass(frozen=True)
class Ending:
    """How a pass ended: its outcome with what came of it, what was read off it, and who ran it.

    `duration_s` goes before the clock of the docket; `readings` are of the test's metrics, one figure each.
    """

    outcome: str
    readings: Sequence[Typed] = ()
    note: str = ""
    action: str = ""
    fallback: str = ""
    duration_s: float | None = None
    first_run: bool = False
    hands: Hands = NOBODY_ELSE


def begin(user: User, entry: Entry) -> Entry:
    """A tester takes an owed pass; no bench will. Whoever has begun it goes on with it."""
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = _locked(entry)
        if locked.test.workload.kind == Kind.LOAD_SEARCH:
            raise unusable("A load search is run on its ladder, in its cell of the matrix.")
        if locked.state == State.RUNNING and locked.by_hand_id == user.pk:
            return locked
        if locked.state != State.OWED:
            raise conflict("This pass is under way or over already; somebody may have been faster.")
        if locked.column.configuration.blocked:
            raise unusable(f"{locked.column.label} cannot be built: {locked.column.configuration.blocked}.")
        locked.state, locked.by_hand = State.RUNNING, user
        locked.taken_at, locked.pass_id = timezone.now(), uuid.uuid4()
        locked.ticks, locked.clock = {}, {}
        locked.save(update_fields=["state", "by_hand", "taken_at", "pass_id", "ticks", "clock"])
        _tell(locked)
    return locked


def tick(user: User, entry: Entry, key: str, observed: str = "") -> Entry:
    """Tick a step, with what was read off where it asks for that. A value over its limit is kept, and told."""
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = _running(entry)
        step = next((one for one in steps_of(locked) if one.key == key), None)
        if step is None:
            raise unusable("This pass has no such step; reload the page.", field="key")
        value = _read(step, observed)
        fits = value is None or step.at_most is None or value <= step.at_most
        locked.ticks[key] = {
            "at": timezone.now().isoformat(),
            "by": user.display_name,
            "observed": value,
            "fits": fits,
        }
        locked.save(update_fields=["ticks"])
        _tell(locked)
    return locked


def untick(user: User, entry: Entry, key: str) -> Entry:
    """Take a tick back."""
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = _running(entry)
        locked.ticks.pop(key, None)
        locked.save(update_fields=["ticks"])
        _tell(locked)
    return locked


def set_clock(user: User, entry: Entry, *, running: bool) -> Entry:
    """Start the clock of a pass anew, or stop it; the server keeps it, so that a page that is left loses nothing."""
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = _running(entry)
        now = timezone.now().isoformat()
        if running:
            locked.clock = {"started_at": now}
        elif "started_at" not in locked.clock:
            raise conflict("The clock of this pass was not started.")
        else:
            locked.clock = {**locked.clock, "stopped_at": now}
        locked.save(update_fields=["clock"])
        _tell(locked)
    return locked


def give_up(user: User, entry: Entry) -> None:
    """Let a pass be owed again as if nobody had begun it; nothing of it is kept."""
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = _running(entry)
        if locked.pass_id is not None:
            Mark.objects.filter(pass_id=locked.pass_id, owner=None).delete()
        locked.state, locked.by_hand, locked.taken_at, locked.pass_id = State.OWED, None, None, None
        locked.ticks, locked.clock = {}, {}
        locked.save(update_fields=["state", "by_hand", "taken_at", "pass_id", "ticks", "clock"])
        _tell(locked)


def end(user: User, entry: Entry, ending: Ending) -> Pass:
    """Store the pass with all its figures, or nothing; sending it again changes nothing."""
    require(user, Act.RECORD)
    if ending.outcome not in OUTCOMES:
        raise unusable(f"A pass ends in one of these ways: {', '.join(OUTCOMES)}.", field="outcome")
    if ending.readings and ending.outcome != "completed":
        raise unusable(
            f"A pass that {OUTCOMES[ending.outcome]} has no figures that count. Empty the fields, or say that it "
            "was completed.",
            field="outcome",
        )
    with transaction.atomic():
        review = Review.objects.select_for_update().get(pk=entry.test.review_id)
        done = Pass.objects.filter(pk=entry.pass_id).first() if entry.pass_id else None
        if done is not None:
            return done
        locked = _running(entry)
        owner = _store(user, locked, ending)
        if ending.readings:
            typed = [_of_pass(one, locked, ending.first_run) for one in ending.readings]
            store(user, review, uuid.uuid5(owner.pk, "readings"), typed, ending.hands)
        announce_pass(owner)
        announce("docket", review=review.pk)
    return owner


def _of_pass(one: Typed, entry: Entry, first_run: bool) -> Typed:
    metric = FIRST + one.metric if first_run else one.metric
    return Typed(entry.test_id, entry.column_id, metric, one.text, one.method, one.half_width, onto=entry.number)


def _store(user: User, entry: Entry, ending: Ending) -> Pass:
    now = timezone.now()
    started = _moment(entry.clock.get("started_at")) or entry.taken_at or now
    owner = Pass.objects.create(
        id=entry.pass_id,
        test=entry.test,
        column=entry.column,
        number=entry.number,
        origin=Origin.TYPED,
        outcome=ending.outcome,
        note=ending.note,
        action=ending.action,
        fallback=ending.fallback,
        started_at=started,
        duration_s=ending.duration_s or _clocked_s(entry) or entry.test.workload.duration_s,
        whole_at=now,
        brought_by=user,
        ran_by=ending.hands.ran_by,
        helped_by=ending.hands.helped_by,
        run_group="first" if ending.first_run else "",
        environment=stamped(_start_state(entry), entry.test, entry.column),
        procedure=_procedure(entry),
        method_version=METHOD_VERSION,
        in_rounds=makes_rounds(entry.column.configuration.system_id),
    )
    owner.session = session_of(owner)
    owner.save(update_fields=["session"])
    store_fingerprints([(owner, state_of(entry.column.configuration))])
    Mark.objects.filter(pass_id=owner.pk).update(owner=owner)
    close(entry)
    return owner


def _start_state(entry: Entry) -> dict[str, Any]:
    """What was looked at before the pass, by its words: the value that was read off, or that it was looked at."""
    ticked = [(step, entry.ticks[step.key]) for step in steps_of(entry) if step.key in entry.ticks]
    start = {
        step.words: "looked at" if tick["observed"] is None else f"{tick['observed']:g} {step.unit}".strip()
        for step, tick in ticked
        if step.kind == "check"
    }
    return {"start": start} if start else {}


def _procedure(entry: Entry) -> dict[str, Any]:
    steps = [
        {"key": step.key, "kind": step.kind, "words": step.words, "unit": step.unit, **entry.ticks.get(step.key, {})}
        for step in steps_of(entry)
    ]
    return {"steps": steps, "clock": entry.clock}


def _clocked_s(entry: Entry) -> float | None:
    began, ended = (_moment(entry.clock.get(key)) for key in ("started_at", "stopped_at"))
    return None if began is None or ended is None else (ended - began).total_seconds()


def _moment(text: str | None) -> datetime | None:
    return datetime.fromisoformat(text) if text else None


def _read(step: Step, observed: str) -> float | None:
    if not observed.strip():
        if step.reading:
            raise unusable(f"Type the {step.reading} that you read off.", field="observed")
        return None
    try:
        readings = read_readings(observed, step.unit)
    except BadQuantity as error:
        raise unusable(str(error), field="observed") from None
    if len(readings) != 1 or readings[0].value is None:
        raise unusable("One figure is needed.", field="observed")
    return readings[0].value


def _locked(entry: Entry) -> Entry:
    return Entry.objects.select_for_update().get(pk=entry.pk)


def _running(entry: Entry) -> Entry:
    locked = _locked(entry)
    if locked.state != State.RUNNING or locked.by_hand_id is None:
        raise conflict("Nobody runs this pass by hand just now; begin it, or look at the docket again.")
    return locked


def _tell(entry: Entry) -> None:
    announce("docket", review=entry.test.review_id, test=entry.test_id, column=entry.column_id, entry=entry.pk)
