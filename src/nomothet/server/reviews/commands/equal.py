"""Making configurations equal, and pasting what is set on them."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction

from nomothet.core.errors import BadQuantity
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.models import Column, Review
from nomothet.server.systems.configurations import change_settings
from nomothet.server.systems.models import Configuration
from nomothet.server.systems.own_settings import own_labels, read_settings, setting_named
from nomothet.server.systems.states import state_of


def make_equal(user: User, review: Review, key: str, like: Column) -> int:
    """Give every configuration the value that one column has; returns how many were changed."""
    value = state_of(like.configuration).settings.get(key)
    wanted = {column.pk: {key: value} for column in review.columns.all()}
    return set_on_columns(user, review, wanted)


def set_on_columns(user: User, review: Review, wanted: Mapping[int, Mapping[str, Any]]) -> int:
    """Set settings on the configurations of a review, all or none.

    A configuration with passes gets a new revision. A column without passes moves on to it; one with passes cannot,
    as its passes were run on the old one, and the act is refused.
    """
    require(user, Act.EDIT_REVIEW)
    count = 0
    with transaction.atomic():
        for column in review.columns.select_related("configuration__system", "configuration__base"):
            now = state_of(column.configuration).settings
            changes = {key: value for key, value in wanted.get(column.pk, {}).items() if now.get(key) != value}
            if not changes:
                continue
            if column.passes.exists():
                ran_with = ", ".join(f"{key} {now.get(key)}" for key in changes)
                raise conflict(
                    f"{column.label} has passes with {ran_with}; what they "
                    "ran with stays as it was. Accept the difference with a caveat, or add a revision as a "
                    "configuration of its own. Nothing was changed."
                )
            stored = _change(user, column.configuration, changes)
            if stored.pk != column.configuration_id:
                column.configuration = stored
                column.save(update_fields=["configuration"])
            count += 1
        if count:
            touch(user, review, "settings made", {"configurations changed": [None, count]})
    return count


def _change(user: User, configuration: Configuration, changes: Mapping[str, Any]) -> Configuration:
    """Change a configuration, or its latest revision when somebody has revised it already."""
    latest = configuration
    while hasattr(latest, "replaced_by"):
        latest = latest.replaced_by
    return change_settings(user, latest, changes)


def read_table(review: Review, text: str) -> dict[int, dict[str, Any]]:
    """Settings pasted from a spreadsheet: the first line names configurations, the first column settings.

    Raises
    ------
    Problem
        422 with line, column and remedy; an empty cell leaves a setting as it is, and a dash takes it away.
    """
    lines = [line.rstrip("\r").split("\t") for line in text.split("\n") if line.strip()]
    if len(lines) < 2 or len(lines[0]) < 2:
        raise unusable("Paste a table: configurations in the first line, settings in the first column.", field="text")
    columns = {column.label.casefold(): column for column in review.columns.select_related("configuration")}
    columns |= {column.configuration.name.casefold(): column for column in columns.values()}
    heads = [_column(columns, cell) for cell in lines[0][1:]]
    wanted: dict[int, dict[str, Any]] = {column.pk: {} for column in heads}
    own = own_labels()
    for number, line in enumerate(lines[1:], 2):
        key = setting_named(line[0], own)
        for column, cell in zip(heads, line[1:], strict=False):
            if cell.strip() in ("-", "–", "—"):
                wanted[column.pk][key] = None
            elif cell.strip():
                try:
                    wanted[column.pk] |= read_settings({key: cell.strip()})
                except BadQuantity as error:
                    raise unusable(f"Line {number}, {column.label}: {error} Nothing was changed.", field=key) from None
    return wanted


def _column(columns: Mapping[str, Column], cell: str) -> Column:
    found = columns.get(cell.strip().casefold())
    if found is None:
        known = ", ".join(dict.fromkeys(column.label for column in columns.values()))
        raise unusable(f"{cell.strip()!r} is no configuration of this review; they are {known}.", field="text")
    return found


def changes_in_words(review: Review, wanted: Mapping[int, Mapping[str, Any]]) -> Sequence[tuple[str, str, Any, Any]]:
    """What a paste would change: column, setting, before, after."""
    found = []
    for column in review.columns.select_related("configuration"):
        now = state_of(column.configuration).settings
        for key, value in wanted.get(column.pk, {}).items():
            if now.get(key) != value:
                found.append((column.label, key, now.get(key), value))
    return found
