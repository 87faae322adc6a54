"""What differs between the configurations of a review, and what was observed to differ from what is set."""

from dataclasses import dataclass
from typing import Any

from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Column, Review

# An observed value this far from the set one is a mismatch.
_TOLERANCE = 0.05


@dataclass(frozen=True)
class DifferenceRow:
    """One setting over the columns. `flagged` names the columns whose value is not what the plan says."""

    key: str
    label: str
    kind: str
    values: dict[str, str | None]
    flagged: list[int]
    remark: str


@dataclass(frozen=True)
class Differences:
    rows: list[DifferenceRow]
    constant: list[str]


def differences(review: Review) -> Differences:
    """The difference table: settings that differ, observed values that do not match, and the rest folded."""
    columns = list(review.columns.select_related("configuration"))
    observed = _observed(review)
    rows: list[DifferenceRow] = []
    constant: list[str] = []
    for key in _keys(columns):
        values = {column.pk: column.configuration.settings.get(key) for column in columns}
        if len({repr(value) for value in values.values()}) == 1:
            constant.append(f"{_label(key)} {_text(key, next(iter(values.values())))}")
        else:
            rows.append(_setting_row(review, key, values))
        seen = {column.pk: observed.get(column.pk, {}).get(key) for column in columns}
        if any(value is not None for value in seen.values()):
            row = _observed_row(key, values, seen)
            if row.flagged:
                rows.append(row)
    return Differences(rows, constant)


def _keys(columns: list[Column]) -> list[str]:
    return list(dict.fromkeys(key for column in columns for key in column.configuration.settings))


def _observed(review: Review) -> dict[int, dict[str, Any]]:
    """What the latest pass of each column observed of its settings."""
    latest: dict[int, dict[str, Any]] = {}
    passes = Pass.objects.filter(column__review=review).exclude(whole_at=None).order_by("started_at")
    for column, environment in passes.values_list("column_id", "environment"):
        latest.setdefault(column, {}).update(environment.get("observed", {}))
    return latest


def _setting_row(review: Review, key: str, values: dict[int, Any]) -> DifferenceRow:
    texts = {str(pk): _text(key, value) for pk, value in values.items()}
    if key == review.factor.get("key"):
        return DifferenceRow(key, _label(key), "factor", texts, [], "what this review varies")
    usual = max(values.values(), key=lambda value: [repr(v) for v in values.values()].count(repr(value)))
    flagged = [pk for pk, value in values.items() if value != usual]
    return DifferenceRow(key, _label(key), "undeclared", texts, flagged, "differs, and is not what this review varies")


def _observed_row(key: str, values: dict[int, Any], seen: dict[int, Any]) -> DifferenceRow:
    flagged = [
        pk
        for pk, value in seen.items()
        if isinstance(value, int | float)
        and isinstance(values[pk], int | float)
        and abs(value - values[pk]) > _TOLERANCE * abs(values[pk])
    ]
    texts = {str(pk): _text(key, value) for pk, value in seen.items()}
    remark = "the machine did not take what was set" if flagged else "as set"
    return DifferenceRow(f"observed_{key}", f"observed {_label(key)}", "observed", texts, flagged, remark)


_UNITS = {"w": "W", "gb": "GB", "mts": "MT/s", "fps": "fps", "s": "s"}


def _label(key: str) -> str:
    words = key.split("_")
    return " ".join(words[:-1] if words[-1] in _UNITS and len(words) > 1 else words)


def _text(key: str, value: Any) -> str | None:
    if value is None:
        return None
    unit = _UNITS.get(key.split("_")[-1], "") if "_" in key else ""
    number = f"{value:.4g}" if isinstance(value, float) else str(value)
    return f"{number} {unit}".strip()
