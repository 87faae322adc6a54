"""Making, editing and putting away reviews."""

from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone
from django.utils.text import slugify

from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import changed, remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict
from nomothet.server.reviews.expectations import carried_over, read_expectations
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.signals import archiving_changed, target_changed

BRIEF = (
    "question", "expectation", "audience", "decision", "constraints", "disclosure", "skill_note", "constant", "margin",
    "margins", "low_definition", "target_fps", "target_c", "target_s", "targets",
    "target_no_failure", "single", "expected_effect", "returns_to_baseline",
    "asks_price", "passes_per_test",
)  # fmt: skip
EDITABLE = (*BRIEF, "expectations")


# What counts as having said what is expected.
_EXPECTED = ("expectation", "expectations")


def add_review(user: User, question: str, **fields: Any) -> Review:
    """A review with a question and nothing else yet."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        position = (Review.objects.aggregate(Max("position"))["position__max"] or 0) + 1
        review = Review.objects.create(
            key=_free_key(question), question=question, editor=user, position=position, **fields
        )
        if review.expectation:
            review.expectation_at = timezone.now()
            review.save(update_fields=["expectation_at"])
        remember(user, "review", review.pk, "added")
        announce("review", review=review.pk)
    return review


def duplicate_review(user: User, review: Review) -> Review:
    """The same plan as a new review: its configurations, tests, factors and caveats, and none of its passes."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        fields = {field: getattr(review, field) for field in BRIEF if field != "question"}
        copy = add_review(user, f"{review.question} (again)"[:300], factors=review.factors, **fields)
        made: dict[tuple[type, int], int] = {}
        for own in (*review.columns.all(), *review.tests.all(), *review.caveats.all()):
            before, own.pk = own.pk, None
            own.review = copy  # type: ignore[attr-defined]
            own.save()
            made[type(own), before] = own.pk
        columns, tests = ({old: new for (of, old), new in made.items() if of is kind} for kind in (Column, Test))
        copy.expectations = carried_over(review.expectations, columns, tests)
        copy.copied_from = review
        copy.save(update_fields=["expectations", "copied_from"])
    return copy


def edit_review(user: User, review: Review, changes: dict[str, Any]) -> Review:
    """Change fields of a review; the caller has locked it and checked its version."""
    require(user, Act.EDIT_REVIEW)
    wanted = {field: changes[field] for field in EDITABLE if field in changes}
    if "expectations" in wanted:
        wanted["expectations"] = read_expectations(review, wanted["expectations"])
    before = {field: getattr(review, field) for field in wanted}
    judged_anew = wanted.get("target_fps", review.target_fps) != review.target_fps and _has_passes(review)
    if any(wanted.get(field, getattr(review, field)) != getattr(review, field) for field in _EXPECTED):
        said = any(wanted.get(field, getattr(review, field)) for field in _EXPECTED)
        review.expectation_at = timezone.now() if said else None
    for field, value in wanted.items():
        setattr(review, field, value)
    touch(user, review, "edited", changed(before, wanted))
    if judged_anew:
        transaction.on_commit(lambda: target_changed.send(Review, review=review.pk))
    return review


def archive_review(user: User, review: Review, archived: bool) -> None:
    """Take a review out of the list, or bring it back."""
    require(user, Act.EDIT_REVIEW)
    review.archived_at = timezone.now() if archived else None
    touch(user, review, "archived" if archived else "brought back")
    transaction.on_commit(lambda: archiving_changed.send(Review, review=review.pk))


def delete_review(user: User, review: Review) -> None:
    """Delete a review that has neither passes nor records."""
    require(user, Act.EDIT_REVIEW)
    if _has_passes(review) or review.records.exists():
        raise conflict("This review has passes or records, which are kept. Archive it instead.")
    with transaction.atomic():
        remember(user, "review", review.pk, "deleted", {"question": [review.question, None]})
        announce("review", review=review.pk)
        review.delete()


def choose_baseline(user: User, column: Column) -> None:
    """Make a configuration the one that all others are compared with, for everybody."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        review = Review.objects.select_for_update().get(pk=column.review_id)
        review.columns.update(is_baseline=False)
        review.columns.filter(pk=column.pk).update(is_baseline=True)
        touch(user, review, "baseline chosen", {"baseline": [None, column.label]})


def touch(user: User, review: Review, act: str, changes: dict[str, Any] | None = None) -> None:
    """Store a review under the next version, with the act in its history and on the feed."""
    with transaction.atomic():
        review.version += 1
        review.save()
        remember(user, "review", review.pk, act, changes)
        announce("review", review=review.pk)


def _has_passes(review: Review) -> bool:
    return review.tests.filter(passes__isnull=False).exists()


def _free_key(question: str) -> str:
    stem = slugify(question)[:40].strip("-") or "review"
    key, number = stem, 2
    while Review.objects.filter(key=key).exists():
        key, number = f"{stem}-{number}", number + 1
    return key
