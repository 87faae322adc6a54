"""Declaring what a review varies, and what it lives with."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction
from django.utils.text import slugify

from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import unusable
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.differences import compared
from nomothet.server.reviews.models import Caveat, Review


def declare_factor(user: User, review: Review, aspects: Sequence[str], name: str = "") -> None:
    """Declare differences as one factor; its levels are what the configurations have."""
    require(user, Act.EDIT_REVIEW)
    known = {row.aspect.key: row.aspect for row in compared(review).table.rows}
    unknown = [aspect for aspect in aspects if aspect not in known]
    if not aspects or unknown:
        words = f"{unknown[0]} does not differ between the configurations" if unknown else "No difference is named"
        raise unusable(f"{words}, so it cannot be a factor.", field="aspects")
    taken = {aspect: factor["name"] for factor in review.factors for aspect in factor["aspects"]}
    for aspect in aspects:
        if aspect in taken:
            raise unusable(f"{known[aspect].label} is part of the factor {taken[aspect]} already.", field="aspects")
    name = name.strip() or known[aspects[0]].label
    key = slugify(name).replace("-", "_") or "factor"
    if any(factor["key"] == key for factor in review.factors):
        raise unusable(f"There is a factor named {name} already; choose another name.", field="name")
    review.factors = [*review.factors, {"key": key, "name": name, "aspects": list(aspects), "levels": []}]
    with transaction.atomic():
        review.caveats.filter(aspect__in=aspects).delete()
        touch(user, review, "factor declared", {"factor": [None, name]})


def withdraw_factor(user: User, review: Review, key: str) -> None:
    """Declare that something is no longer varied on purpose."""
    require(user, Act.EDIT_REVIEW)
    gone = next((factor for factor in review.factors if factor["key"] == key), None)
    if gone is None:
        raise unusable("This review has no such factor; reload the brief.", field="key")
    review.factors = [factor for factor in review.factors if factor is not gone]
    with transaction.atomic():
        touch(user, review, "factor withdrawn", {"factor": [gone["name"], None]})


def set_factors(
    user: User, review: Review, factors: Sequence[Mapping[str, Any]], levels: Mapping[int, Mapping[str, str]]
) -> None:
    """Set all factors and every configuration's levels at once.

    Raises
    ------
    Problem
        422 when a level has no configuration, a configuration no level or an unknown one, or a name is double.
    """
    require(user, Act.EDIT_REVIEW)
    columns = {column.pk: column for column in review.columns.all()}
    keys = [factor["key"] for factor in factors]
    if len(set(keys)) != len(keys):
        raise unusable("Two factors have the same key; give each its own.", field="factors")
    for factor in factors:
        if factor["aspects"]:
            # Its levels are what the configurations have; there is nothing to say about them.
            continue
        used = [levels.get(pk, {}).get(factor["key"], "") for pk in columns]
        for column, level in zip(columns.values(), used, strict=True):
            if level not in factor["levels"]:
                words = f"has no level of {factor['name']}" if not level else f"has {level!r}, which is no level of it"
                raise unusable(f"{column.label} {words}; choose one of {', '.join(factor['levels'])}.", field="levels")
        for level in factor["levels"]:
            if level not in used:
                raise unusable(
                    f"The level {level!r} of {factor['name']} has no configuration; add one that has it, or take the "
                    "level away.",
                    field="levels",
                )
    with transaction.atomic():
        for column in columns.values():
            column.levels = {key: levels.get(column.pk, {}).get(key, "") for key in keys}
            column.save(update_fields=["levels"])
        review.factors = [dict(factor) for factor in factors]
        touch(user, review, "factors set", {"factors": [None, ", ".join(f["name"] for f in factors)]})


def accept_difference(user: User, review: Review, aspect: str, words: str) -> None:
    """Live with a difference; the caveat is printed with every comparison that it touches."""
    require(user, Act.EDIT_REVIEW)
    if not words.strip():
        raise unusable("Say what the difference may do to the figures.", field="words")
    with transaction.atomic():
        Caveat.objects.update_or_create(review=review, aspect=aspect, defaults={"words": words.strip(), "by": user})
        touch(user, review, "difference accepted", {aspect: [None, words.strip()]})


def withdraw_caveat(user: User, review: Review, aspect: str) -> None:
    """No longer live with a difference."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        gone, _ = review.caveats.filter(aspect=aspect).delete()
        if gone:
            touch(user, review, "caveat withdrawn", {aspect: ["accepted", None]})
