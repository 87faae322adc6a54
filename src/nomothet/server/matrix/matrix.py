"""The matrix of a review: every test on every configuration, in all its lenses."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from nomothet.core import compare
from nomothet.formats.words import LOW_DEFINITIONS
from nomothet.server.matrix.alike import AlikeRow
from nomothet.server.matrix.limits import LimitsRow
from nomothet.server.matrix.parts import parts_of
from nomothet.server.matrix.progress import ProgressCell, Totals, progress
from nomothet.server.matrix.returned import ReturnShape, Timed, parted, returned
from nomothet.server.matrix.rows import RowShape
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.shown import metric_of
from nomothet.server.shapes import plain


@dataclass(frozen=True)
class ProgressRow:
    test: int
    cells: dict[str, ProgressCell]
    uneven: bool


@dataclass(frozen=True)
class RecountingShape:
    """Passes of a test whose figures still follow earlier cuts, spans or target; a worker computes them anew."""

    test: int
    passes: int


@dataclass(frozen=True)
class MatrixShape:
    review: int
    baseline: int | None
    margin_pct: float
    low_definition: str
    low_words: str
    level_pct: float
    progress: list[ProgressRow]
    rows: list[RowShape]
    totals: Totals
    limits: list[LimitsRow]
    alike: list[AlikeRow]
    # The baseline measured again at the end, where it was.
    returned: list[ReturnShape]
    recounting: list[RecountingShape]


def matrix(review: Review, baseline: int | None = None) -> dict[str, Any]:
    """Everything that the lenses show, as the plain data of a MatrixShape.

    Parameters
    ----------
    baseline : int, optional
        Column to compare with; the review's own baseline without it.
    """
    columns = list(review.columns.select_related("configuration"))
    tests = list(review.tests.select_related("workload"))
    chosen = _baseline([column.pk for column in columns], baseline, [c.pk for c in columns if c.is_baseline])
    parts = parts_of(review, tests, columns, chosen)
    shown, totals = progress(review, parts)
    compared = max(1, len(columns) - 1)
    back = _returned(review, tests, columns, parts, chosen) if review.returns_to_baseline else []
    return {
        "review": review.pk,
        "baseline": chosen,
        "margin_pct": 100 * review.margin,
        "low_definition": review.low_definition,
        "low_words": LOW_DEFINITIONS[review.low_definition],  # type: ignore[index]
        "level_pct": 100 * (1 - compare.sidak_level(compared)),
        "progress": [{"test": test, "cells": cells, "uneven": _uneven(cells)} for test, cells in shown.items()],
        "rows": [row for part in parts for row in part["rows"]],
        "totals": plain(totals),
        "limits": [part["limits"] for part in parts],
        "alike": [part["alike"] for part in parts if part["alike"]],
        "returned": plain(back),
        "recounting": [{"test": part["test"], "passes": part["recounting"]} for part in parts if part["recounting"]],
    }


def _baseline(columns: list[int], asked: int | None, marked: list[int]) -> int | None:
    if asked is not None:
        if asked not in columns:
            raise unusable("The baseline asked for is not a configuration of this review.")
        return asked
    return next(iter([*marked, *columns]), None)


def _uneven(cells: dict[str, Any]) -> bool:
    kept = {sum(pip["state"] in ("kept", "flagged") for pip in cell["pips"]) for cell in cells.values()}
    return len(kept - {0}) > 1


def _returned(
    review: Review, tests: Sequence[Test], columns: Sequence[Column], parts: Sequence[Any], baseline: int | None
) -> list[ReturnShape]:
    """Where the baseline was measured again after all else on its system, whether it is what it was."""
    systems = {str(column.pk): column.configuration.system_id for column in columns}
    own = systems.get(str(baseline))
    others = [
        at
        for part in parts
        for column, at in part["last"].items()
        if column != str(baseline) and systems.get(column) == own
    ]
    found = []
    for test, part in zip(tests, parts, strict=True):
        again = part["again"]
        if again is None:
            continue
        both = parted([Timed(at, value) for at, value in again.timed], max(others, default=None))
        if both is None:
            continue
        metric = metric_of(test, test.shown[0], review.low_definition)
        shape = returned(test.pk, metric, *both, again.rest, review.margin, None)
        found += [shape] if shape else []
    return found
