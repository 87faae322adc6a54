"""Rival explanations of what a review shows, with the tests that would decide between them."""

from typing import Any

from django.db import transaction

from nomothet.server.analysis.models import Hypothesis, Status
from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import changed, remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Column, Review, Test

_FIELDS = ("words", "status", "grounds", "decided_by", "deciding_test")
# A hypothesis that has been decided says by what.
_NEEDS_GROUNDS = (Status.TESTED, Status.REFUTED)


def add_hypothesis(
    user: User, review: Review, test: Test | None, column: Column | None, fields: dict[str, Any]
) -> Hypothesis:
    """Note a possible explanation."""
    require(user, Act.EDIT_REVIEW)
    _check(review, fields)
    with transaction.atomic():
        made = Hypothesis.objects.create(review=review, test=test, column=column, by=user, **fields)
        remember(user, "hypothesis", made.pk, "noted", {"words": [None, made.words]})
        announce("hypotheses", review=review.pk)
    return made


def edit_hypothesis(user: User, hypothesis: Hypothesis, changes: dict[str, Any]) -> Hypothesis:
    """Change a hypothesis; what it was stays in its history. The caller has checked its version."""
    require(user, Act.EDIT_REVIEW)
    wanted = {field: changes[field] for field in _FIELDS if field in changes}
    before = {field: getattr(hypothesis, field) for field in wanted}
    _check(hypothesis.review, {"grounds": hypothesis.grounds, "status": hypothesis.status} | wanted)
    for field, value in wanted.items():
        setattr(hypothesis, field, value)
    hypothesis.version += 1
    with transaction.atomic():
        hypothesis.save()
        told = changed(_words(before), _words(wanted))
        remember(user, "hypothesis", hypothesis.pk, "edited", told)
        announce("hypotheses", review=hypothesis.review_id)
    return hypothesis


def put_on_docket(user: User, hypothesis: Hypothesis, columns: list[int]) -> int:
    """Ask for passes of the test that would decide; returns how many."""
    test = hypothesis.deciding_test
    if test is None:
        raise conflict("Choose the test of this review that would decide first.")
    count = max(2, hypothesis.review.passes_per_test)
    return len(ask_for_passes(user, hypothesis.review, [test.pk], columns, count))


def _check(review: Review, fields: dict[str, Any]) -> None:
    test = fields.get("deciding_test")
    if test is not None and test.review_id != review.pk:
        raise unusable("The test that decides belongs to another review.", field="deciding_test")
    if fields.get("status") in _NEEDS_GROUNDS and not fields.get("grounds", "").strip():
        raise unusable(f"Say what was seen: a hypothesis is {fields['status']} by something.", field="grounds")


def _words(fields: dict[str, Any]) -> dict[str, Any]:
    return {name: value.pk if isinstance(value, Test) else value for name, value in fields.items()}
