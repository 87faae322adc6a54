"""Noting follow-ups, seeing to them, and ending them."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.feed.commands import announce
from nomothet.server.follow_ups.models import FollowUp
from nomothet.server.history.commands import changed, remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.commands.review import duplicate_review
from nomothet.server.reviews.models import Review

_FIELDS = ("what", "why", "waits_for", "waits_words", "due", "tests", "person")


def add_follow_up(user: User, **fields: Any) -> FollowUp:
    """Note that something is to be done later.

    Raises
    ------
    Problem
        422 when it is about nothing, or wants tests that its review does not have.
    """
    require(user, Act.FOLLOW_UP)
    if record := fields.get("record"):
        if fields.get("review") not in (None, record.review):
            raise unusable("The record is of another review.", field="record")
        fields["review"] = record.review
    _check(fields.get("review"), fields)
    if not any(fields.get(about) for about in ("review", "system", "hypothesis")):
        raise unusable("Say what it is about: a review, a record, a hypothesis or a system.", field="review")
    with transaction.atomic():
        made = FollowUp.objects.create(by=user, **fields)
        remember(user, "follow_up", made.pk, "noted", {"what": [None, made.what]})
        _tell(made)
    return made


def edit_follow_up(user: User, one: FollowUp, changes: dict[str, Any]) -> FollowUp:
    """Change what an open one says; the caller has checked its version."""
    require(user, Act.FOLLOW_UP)
    _require_open(one)
    wanted = {field: changes[field] for field in _FIELDS if field in changes}
    _check(one.review, wanted)
    before = {field: getattr(one, field) for field in wanted}
    for field, value in wanted.items():
        setattr(one, field, value)
    with transaction.atomic():
        _store(one)
        remember(user, "follow_up", one.pk, "edited", changed(_words(before), _words(wanted)))
    return one


def say_here(user: User, one: FollowUp, here: bool) -> FollowUp:
    """What it waited for is here, or is not after all."""
    require(user, Act.FOLLOW_UP)
    _require_open(one)
    one.here_at = timezone.now() if here else None
    with transaction.atomic():
        _store(one)
        remember(user, "follow_up", one.pk, "it is here" if here else "it is not here after all")
    return one


def end_follow_up(user: User, one: FollowUp, state: str, outcome: str) -> FollowUp:
    """End it with what came of it, or take it up again."""
    require(user, Act.FOLLOW_UP)
    if state == FollowUp.State.DROPPED and not outcome.strip():
        raise unusable("Say why it is dropped.", field="outcome")
    over = state != FollowUp.State.OPEN
    before, one.state, one.outcome = one.state, state, outcome.strip() if over else ""
    one.ended_by, one.ended_at = (user, timezone.now()) if over else (None, None)
    with transaction.atomic():
        _store(one)
        remember(user, "follow_up", one.pk, "ended" if over else "taken up again", {"state": [before, state]})
    return one


def owe_its_passes(user: User, one: FollowUp, passes: int) -> int:
    """Ask for passes of the tests that it wants on all configurations of its review; returns how many."""
    require(user, Act.ASK_FOR_PASSES)
    _require_open(one)
    review = _review_of(one)
    tests = one.tests or list(review.tests.values_list("pk", flat=True))
    columns = [c.pk for c in review.columns.select_related("configuration") if not c.configuration.blocked]
    if not tests or not columns:
        raise conflict("Its review has no test or no configuration that can be built; plan it first.")
    with transaction.atomic():
        asked = len(ask_for_passes(user, review, tests, columns, passes))
        remember(user, "follow_up", one.pk, "passes asked for", {"passes": [None, asked]})
    return asked


def make_its_review(user: User, one: FollowUp) -> Review:
    """Copy its review, so that the same is measured again and nothing is overwritten."""
    require(user, Act.EDIT_REVIEW)
    _require_open(one)
    with transaction.atomic():
        made = duplicate_review(user, _review_of(one))
        if one.tests:
            kept = {test.position for test in one.review.tests.filter(pk__in=one.tests)} if one.review else set()
            made.tests.exclude(position__in=kept).delete()
        remember(user, "follow_up", one.pk, "review made", {"review": [None, made.question]})
    return made


def _check(review: Review | None, fields: dict[str, Any]) -> None:
    tests = fields.get("tests")
    if tests and (review is None or review.tests.filter(pk__in=tests).count() != len(set(tests))):
        raise unusable("A test is not in this review; reload and choose again.", field="tests")


def _review_of(one: FollowUp) -> Review:
    review = one.review or (one.hypothesis.review if one.hypothesis else None)
    if review is None:
        raise conflict("It is about a system and no review; open the plan of one and ask for its passes there.")
    return review


def _require_open(one: FollowUp) -> None:
    if one.state != FollowUp.State.OPEN:
        raise conflict("It is ended; take it up again first.")


def _store(one: FollowUp) -> None:
    one.version += 1
    one.save()
    _tell(one)


def _tell(one: FollowUp) -> None:
    announce("follow_ups", **({"review": one.review_id} if one.review_id else {}))


def _words(fields: dict[str, Any]) -> dict[str, Any]:
    return {name: getattr(value, "display_name", value) for name, value in fields.items()}
