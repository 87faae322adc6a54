"""Changing reviews."""

from typing import Any

from django.db import transaction

from nomothet.server.feed.commands import announce
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.reviews.models import Column, Review

EDITABLE = ("question", "expectation", "audience", "constant", "margin", "low_definition", "verdict")


def edit_review(user: User, review: Review, changes: dict[str, Any]) -> Review:
    """Change fields of a review; the caller has locked it and checked its version."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        for field in EDITABLE:
            if field in changes:
                setattr(review, field, changes[field])
        review.version += 1
        review.save()
        announce("review", review=review.pk)
    return review


def choose_baseline(user: User, column: Column) -> None:
    """Make a configuration the one that all others are compared with, for everybody."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        review = Review.objects.select_for_update().get(pk=column.review_id)
        review.columns.update(is_baseline=False)
        review.columns.filter(pk=column.pk).update(is_baseline=True)
        review.version += 1
        review.save(update_fields=["version"])
        announce("review", review=review.pk)
