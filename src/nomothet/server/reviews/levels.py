"""Factors with their levels: what the configurations have, or what was said where a factor stands for no setting."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.quantities import Spec, Value, text_of
from nomothet.core.settings import setting_of
from nomothet.server.reviews.differences import Compared
from nomothet.server.reviews.models import Review
from nomothet.server.systems.models import Bundle


@dataclass(frozen=True)
class FactorShape:
    """What a review varies; `aspects` are the rows of the difference table that it stands for."""

    key: str
    name: str
    aspects: list[str]
    levels: list[str]


def factors_of(review: Review, side_by_side: Compared) -> tuple[list[FactorShape], list[dict[str, str]]]:
    """The factors of a review, and each column's level of each of them."""
    by_column: list[dict[str, str]] = [{} for _ in side_by_side.columns]
    shapes = []
    # Only a factor of several settings can be called by a bundle's name.
    several = any(len(factor["aspects"]) > 1 for factor in review.factors)
    named = list(Bundle.objects.filter(workload="")) if several else []
    for factor in review.factors:
        key, aspects = factor["key"], factor["aspects"]
        for own, column, values in zip(by_column, side_by_side.columns, side_by_side.values, strict=True):
            own[key] = level_of(aspects, values, named) if aspects else column.levels.get(key, "")
        levels = list(dict.fromkeys(own[key] for own in by_column)) if aspects else factor["levels"]
        shapes.append(FactorShape(key, factor["name"], aspects, levels))
    return shapes, by_column


def level_of(aspects: Sequence[str], values: Mapping[str, Value], named: Sequence[Bundle] = ()) -> str:
    """The level of a factor on a configuration; several settings that are a bundle are told by its name first."""
    told = " · ".join(_text(aspect, values.get(aspect)) for aspect in aspects)
    if len(aspects) < 2:
        return told
    if not any(aspect in values for aspect in aspects):
        return "not set"
    is_bundle = (
        one.name
        for one in named
        if len(one.settings) > 1
        and set(one.settings) <= set(aspects)
        and all(values.get(key) == value for key, value in one.settings.items())
    )
    name = next(is_bundle, "")
    return f"{name} ({told})" if name else told


def _text(aspect: str, value: Value | None) -> str:
    plain = aspect.split(".")[0] in ("part", "memory", "system")
    return text_of(Spec(aspect, aspect) if plain else setting_of(aspect).spec, value)
