"""A configuration that was changed while a review still owes passes of it: asked about, and split in two columns."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from django.db import transaction
from django.db.models import Count, Q
from django.utils import timezone

from nomothet.server.docket.commands import next_number
from nomothet.server.docket.models import Entry, State
from nomothet.server.feed.commands import announce
from nomothet.server.history.models import Event
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict
from nomothet.server.reviews.commands.columns import order_columns
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.models import Column, Review
from nomothet.server.systems.models import Configuration
from nomothet.server.systems.states import ConfigurationState, states
from nomothet.words.fingerprints import label_of, text_of_value

Answer = Literal["changed", "as before", "drop"]
ANSWERS: tuple[Answer, ...] = ("changed", "as before", "drop")
_LONGEST_LABEL = 80


@dataclass(frozen=True)
class SplitShape:
    """A column whose configuration has a later revision, with what changed and how many passes are owed of it."""

    column: int
    label: str
    configuration: int
    later: int
    later_title: str
    changed: list[str]
    since: datetime | None
    passes: int
    owed: int


def splits(review: Review) -> list[SplitShape]:
    """What is to be decided; a handful of queries where there is something, one where there is nothing."""
    counted = review.columns.annotate(
        owed=Count("entries", filter=Q(entries__state=State.OWED), distinct=True),
        ran=Count("passes", filter=Q(passes__whole_at__isnull=False), distinct=True),
    )
    columns = list(
        counted.filter(owed__gt=0, ran__gt=0, configuration__replaced_by__isnull=False).select_related("configuration")
    )
    if not columns:
        return []
    here = set(review.columns.values_list("configuration", flat=True))
    later = {column.pk: latest_of(column.configuration) for column in columns}
    revised = Event.objects.filter(kind="configuration", act="made as a revision")
    made_at = dict(revised.filter(object_id__in=[one.pk for one in later.values()]).values_list("object_id", "at"))
    held = states([*(column.configuration for column in columns), *later.values()])
    return [
        SplitShape(
            column=column.pk,
            label=column.label,
            configuration=column.configuration_id,
            later=later[column.pk].pk,
            later_title=later[column.pk].title,
            changed=changes_between(held[column.configuration_id], held[later[column.pk].pk]),
            since=made_at.get(later[column.pk].pk),
            passes=column.ran,
            owed=column.owed,
        )
        for column in columns
        if later[column.pk].pk not in here and column.settled_id != later[column.pk].pk
    ]


def settle_split(user: User, column: Column, answer: Answer) -> Column:
    """What becomes of the passes that are owed: run with the change in a column of their own, run as before the change,
    or dropped. Gives the column that they are owed in; what was measured stays where it is.

    Raises
    ------
    Problem
        409 when there is nothing to decide any more.
    """
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        review = Review.objects.select_for_update().get(pk=column.review_id)
        asked = next((one for one in splits(review) if one.column == column.pk), None)
        if asked is None:
            raise conflict(
                "There is nothing to decide about this configuration any more; somebody may have been faster."
            )
        later = Configuration.objects.get(pk=asked.later)
        owed = list(Entry.objects.select_for_update().filter(column=column, state=State.OWED).order_by("number"))
        if answer == "changed":
            made = _continued(user, review, column, later)
            _move(owed, made)
        else:
            made = column
            Column.objects.filter(pk=column.pk).update(settled=later)
            if answer == "drop":
                Entry.objects.filter(pk__in=[one.pk for one in owed]).update(state=State.WITHDRAWN)
        told = {"configuration": [column.label, made.label], "owed passes": [len(owed), answer]}
        touch(user, review, "changed in the middle", told)
        announce("docket", review=review.pk)
    return made


def latest_of(configuration: Configuration) -> Configuration:
    """The last revision of a configuration."""
    latest = configuration
    while later := getattr(latest, "replaced_by", None):
        latest = later
    return latest


def changes_between(before: ConfigurationState, after: ConfigurationState) -> list[str]:
    """What is other, in words."""
    found = []
    for key in {**before.settings, **after.settings}:
        old, new = before.settings.get(key), after.settings.get(key)
        if old != new:
            found.append(f"{label_of(key)} {_told(old)} → {_told(new)}")
    for place in {**before.fitted, **after.fitted}:
        was, now = before.fitted.get(place), after.fitted.get(place)
        if was != now:
            found.append(f"{place}: {was.words if was else 'nothing'} → {now.words if now else 'nothing'}")
    return found


def _told(value: object) -> str:
    return "not set" if value is None else text_of_value(value)


def _continued(user: User, review: Review, column: Column, later: Configuration) -> Column:
    """A column right after the one that it continues."""
    since = f", since {timezone.localtime(timezone.now()):%d.%m.}"
    order = list(review.columns.order_by("position").values_list("pk", flat=True))
    made = Column.objects.create(
        review=review,
        configuration=later,
        position=1 + max(review.columns.values_list("position", flat=True)),
        label=column.label[: _LONGEST_LABEL - len(since)] + since,
        note=column.note,
        levels=column.levels,
        continues=column,
    )
    order.insert(order.index(column.pk) + 1, made.pk)
    order_columns(user, review, order)
    return made


def _move(owed: Sequence[Entry], column: Column) -> None:
    for entry in owed:
        entry.number = next_number(entry.test, column)
        entry.column = column
        entry.save(update_fields=["number", "column"])
