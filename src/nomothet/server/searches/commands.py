"""Load searches by hand: begun on a docket's entry, answered attempt by attempt, ended, and gone on with later."""

import uuid
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.core.load_search import Attempt, NextAttempt, next_attempt
from nomothet.formats.searches import attempt_as_dict, attempts_of, plan_of
from nomothet.formats.words import METHOD_VERSION
from nomothet.server.analysis.commands import store_fingerprints
from nomothet.server.docket.commands import close, next_number
from nomothet.server.docket.models import Entry, State
from nomothet.server.feed.commands import announce
from nomothet.server.passes.commands import announce_pass, store_figures
from nomothet.server.passes.models import Mark, Origin, Pass
from nomothet.server.passes.searches import SEARCHED, search_values
from nomothet.server.passes.stamping import stamped
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Review
from nomothet.server.systems.states import state_of
from nomothet.server.workloads.models import Kind


def begin_by_hand(user: User, entry: Entry) -> Entry:
    """A tester takes an owed search; no bench will."""
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = _locked(entry)
        if locked.test.workload.kind != Kind.LOAD_SEARCH:
            raise unusable("This test is no load search.")
        if locked.state != State.OWED:
            raise conflict("This search is under way or over already; somebody may have been faster.")
        # What somebody has stopped on its way in this cell is gone on with, not begun again beside it.
        locked.attempts = locked.attempts or _stopped_attempts(locked)
        locked.state, locked.by_hand = State.RUNNING, user
        locked.taken_at, locked.pass_id = timezone.now(), uuid.uuid4()
        locked.save(update_fields=["state", "by_hand", "taken_at", "pass_id", "attempts"])
        _tell(locked)
    return locked


def answer(user: User, entry: Entry, position: int, attempt: Attempt) -> Entry:
    """Note how an attempt went; the search closes itself once nothing is left to try.

    Parameters
    ----------
    position : int
        How many attempts the tester saw; another number means that somebody else has answered.
    """
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = _running_by_hand(entry)
        plan = plan_of(locked.test.settings)
        if position != len(locked.attempts):
            raise conflict(
                "Somebody else has answered meanwhile; look at the ladder again. Nothing of yours was stored.",
                attempts=len(locked.attempts),
            )
        if plan.rungs and attempt.load >= plan.rungs:
            raise unusable(f"The ladder has {plan.rungs} rungs.", field="load")
        proposed = next_attempt(plan, attempts_of(locked.attempts))
        locked.attempts = [*locked.attempts, attempt_as_dict(attempt, _phase(proposed, attempt))]
        locked.save(update_fields=["attempts"])
        _tell(locked)
        if next_attempt(plan, attempts_of(locked.attempts)) is None:
            _store(user, locked, "completed")
    return locked


def take_back(user: User, entry: Entry, position: int) -> Entry:
    """Undo the last answer of a search by hand."""
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = _running_by_hand(entry)
        if position != len(locked.attempts) - 1:
            raise conflict("Only the last answer can be taken back, and somebody may have given another.")
        locked.attempts = locked.attempts[:-1]
        locked.save(update_fields=["attempts"])
        _tell(locked)
    return locked


def end_by_hand(user: User, entry: Entry) -> None:
    """Stop a search for now; what was tried stays and can be gone on with."""
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = _running_by_hand(entry)
        if locked.attempts:
            _store(user, locked, "stopped")
        else:
            # Nothing was tried, so nothing is on record: it is owed as before.
            locked.state, locked.by_hand, locked.taken_at, locked.pass_id = State.OWED, None, None, None
            locked.save(update_fields=["state", "by_hand", "taken_at", "pass_id"])
            _tell(locked)


def go_on(user: User, owner: Pass) -> Entry:
    """Owe a search that was stopped once more, with its attempts."""
    require(user, Act.ASK_FOR_PASSES)
    with transaction.atomic():
        Review.objects.select_for_update().get(pk=owner.test.review_id)
        if not owner.attempts or owner.outcome == "completed":
            raise unusable("Only a search that was stopped on its way can be gone on with.")
        if Entry.objects.filter(
            test=owner.test, column=owner.column, state__in=[State.OWED, State.RUNNING], attempts=owner.attempts
        ).exists():
            raise conflict("This search is gone on with already.")
        entry = Entry.objects.create(
            test=owner.test,
            column=owner.column,
            number=next_number(owner.test, owner.column),
            asked_by=user,
            attempts=owner.attempts,
        )
        announce("docket", review=owner.test.review_id)
    return entry


def _stopped_attempts(entry: Entry) -> list[dict[str, Any]]:
    """The attempts of the cell's last search, where it was stopped and nobody goes on with it already."""
    last = Pass.objects.whole().filter(test=entry.test, column=entry.column).order_by("-number").first()
    if last is None or last.outcome != "stopped" or not last.attempts or last.set_aside:
        return []
    under_way = Entry.objects.filter(test=entry.test, column=entry.column, state__in=[State.OWED, State.RUNNING])
    taken = any(one.attempts[: len(last.attempts)] == last.attempts for one in under_way.exclude(pk=entry.pk))
    return [] if taken else list(last.attempts)


def _locked(entry: Entry) -> Entry:
    return Entry.objects.select_for_update().get(pk=entry.pk)


def _running_by_hand(entry: Entry) -> Entry:
    locked = _locked(entry)
    if locked.state != State.RUNNING or locked.by_hand_id is None:
        raise conflict("This search is not run by hand, or it is over.")
    return locked


def _phase(proposed: NextAttempt | None, attempt: Attempt) -> str:
    """Why it was tried; a load that was not proposed is the tester's own."""
    if proposed is not None and (proposed.load, proposed.hot) == (attempt.load, attempt.hot):
        return proposed.phase
    return "own"


def _store(user: User, entry: Entry, outcome: str) -> Pass:
    now = timezone.now()
    started = entry.taken_at or now
    owner = Pass.objects.create(
        id=entry.pass_id,
        test=entry.test,
        column=entry.column,
        number=entry.number,
        origin=Origin.TYPED,
        outcome=outcome,
        note="searched by hand" if outcome == "completed" else "searched by hand, stopped on the way",
        started_at=started,
        duration_s=(now - started).total_seconds(),
        whole_at=now,
        brought_by=user,
        environment=stamped({}, entry.test, entry.column),
        attempts=entry.attempts,
        method_version=METHOD_VERSION,
    )
    if outcome == "completed":
        store_figures(owner, search_values(entry.test, entry.attempts), "computed", SEARCHED)
    store_fingerprints([(owner, state_of(entry.column.configuration))])
    Mark.objects.filter(pass_id=owner.pk).update(owner=owner)
    close(entry)
    announce_pass(owner)
    announce("docket", review=entry.test.review_id)
    return owner


def _tell(entry: Entry) -> None:
    told: dict[str, Any] = {"test": entry.test_id, "column": entry.column_id, "entry": entry.pk}
    announce("docket", review=entry.test.review_id, **told)
