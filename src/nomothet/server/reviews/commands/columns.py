"""Configurations in a review."""

from typing import Any

from django.db import transaction
from django.db.models import F, Max

from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.models import Column, Review
from nomothet.server.systems.models import Configuration

MOST_COLUMNS = 50


def add_column(user: User, review: Review, configuration: Configuration, label: str = "", note: str = "") -> Column:
    """Put a configuration into a review."""
    require(user, Act.EDIT_REVIEW)
    if review.columns.filter(configuration=configuration).exists():
        raise unusable(f"{configuration.title} is in this review already.", field="configuration")
    if review.columns.count() >= MOST_COLUMNS:
        raise unusable(f"A review has {MOST_COLUMNS} configurations at most.", field="configuration")
    with transaction.atomic():
        last = review.columns.aggregate(Max("position"))["position__max"]
        column = Column.objects.create(
            review=review,
            configuration=configuration,
            position=0 if last is None else last + 1,
            label=(label or configuration.title)[:80],
            note=note or configuration.note,
            is_baseline=last is None,
        )
        touch(user, review, "configuration added", {"configuration": [None, configuration.title]})
    return column


def edit_column(user: User, column: Column, changes: dict[str, Any]) -> Column:
    """Change a column's label, note or configuration; the configuration only while it has no pass."""
    require(user, Act.EDIT_REVIEW)
    review = column.review
    wanted: Configuration | None = changes.get("configuration")
    if wanted is not None and wanted.pk != column.configuration_id:
        if column.passes.exists():
            raise conflict(
                f"{column.label} has passes, which belong to {column.configuration.title}. "
                f"Add {wanted.title} as a configuration of its own."
            )
        column.configuration = wanted
    for field in ("label", "note", "step"):
        if field in changes:
            setattr(column, field, changes[field])
    with transaction.atomic():
        column.save()
        touch(user, review, "configuration edited", {"configuration": [None, column.label]})
    return column


def remove_column(user: User, column: Column) -> None:
    """Take a configuration without passes out of a review."""
    require(user, Act.EDIT_REVIEW)
    if column.passes.exists():
        raise conflict(f"{column.label} has passes, which are kept. It stays in the review.")
    review, label = column.review, column.label
    with transaction.atomic():
        was_baseline = column.is_baseline
        column.delete()
        first = review.columns.first()
        if was_baseline and first is not None:
            review.columns.filter(pk=first.pk).update(is_baseline=True)
        touch(user, review, "configuration removed", {"configuration": [label, None]})


def order_columns(user: User, review: Review, order: list[int]) -> None:
    """Bring the columns into an order; their seals go by their places."""
    require(user, Act.EDIT_REVIEW)
    if sorted(order) != sorted(review.columns.values_list("pk", flat=True)):
        raise unusable(
            "The order names other configurations than the review has; reload and order again.", field="order"
        )
    with transaction.atomic():
        # Places are unique: everybody moves out of the way first.
        review.columns.update(position=F("position") + 1000)
        for at, pk in enumerate(order):
            review.columns.filter(pk=pk).update(position=at)
        touch(user, review, "configurations reordered")
