"""A configuration that changes one factor alone: the baseline, but for what another configuration has of it."""

from typing import Any

from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import unusable
from nomothet.server.reviews.commands.columns import add_column
from nomothet.server.reviews.differences import compared
from nomothet.server.reviews.levels import factors_of
from nomothet.server.reviews.models import Column, Review
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.states import SLOT, Fit, states


def add_combination(user: User, review: Review, factor_key: str, like: Column) -> Column:
    """Make the baseline's configuration with one factor's level of another column, and put it into the review.

    Raises
    ------
    Problem
        422 where the factor is the machine itself or stands for no setting or part: that is for people to do.
    """
    require(user, Act.EDIT_REVIEW)
    side_by_side = compared(review)
    factor = next((one for one in review.factors if one["key"] == factor_key), None)
    base = next((column for column in side_by_side.columns if column.is_baseline), None)
    if factor is None or base is None:
        raise unusable("The plan has changed meanwhile; look at its check again.", field="factor")
    held = states([base.configuration, like.configuration])
    before, after = held[base.configuration_id], held[like.configuration_id]
    settings: dict[str, Any] = {}
    fitted: dict[str, Any] = {}
    places = {**before.fitted, **after.fitted}
    for aspect in factor["aspects"]:
        head, _, rest = aspect.partition(".")
        if head == "part":
            fitted[rest.split(".")[0]] = _given(after.fitted.get(rest.split(".")[0]))
        elif head == "memory":
            fitted |= {place: _given(after.fitted.get(place)) for place in places if place.startswith(SLOT)}
        elif head != "system":
            settings[aspect] = after.settings.get(aspect)
    if not settings and not fitted:
        raise unusable(
            f"{factor['name']} is nothing that can be set on {base.label}; add the configuration by hand.",
            field="factor",
        )
    level = factors_of(review, side_by_side)[1][side_by_side.columns.index(like)][factor_key]
    name = f"{base.configuration.name}, {factor['name']} {level.split(' (')[0]}"[:120]
    made = add_configuration(
        user, base.configuration.system, name=name, base=base.configuration, settings=settings, fitted=fitted
    )
    return add_column(user, review, made)


def _given(fit: Fit | None) -> dict[str, Any] | None:
    return None if fit is None else {"part": fit.part.pk, "module": fit.module}
