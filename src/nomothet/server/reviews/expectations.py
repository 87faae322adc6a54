"""What the brief expects, in a form that can be held against the data."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any, Literal

import msgspec

from nomothet.core.expectation import EXPECTED, Expected
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Review

Role = Literal["averages", "lows"]
ROLES: tuple[Role, ...] = ("averages", "lows")
MOST_EXPECTATIONS = 20


@dataclass(frozen=True)
class Expectation:
    """A configuration expected ahead of, level with or behind another, by so many % at most.

    Over all tests without `test`; `role` says by which figures.
    """

    column: int
    word: Expected
    of: int
    by_at_most_pct: float | None = None
    role: Role = "averages"
    test: int | None = None


def read_expectations(review: Review, given: Any) -> list[dict[str, Any]]:
    """Check expectations as they are stored.

    Raises
    ------
    Problem
        422, naming which of them and what would do.
    """
    if not isinstance(given, list) or len(given) > MOST_EXPECTATIONS:
        raise _wrong(f"Expectations are a list of {MOST_EXPECTATIONS} at most.")
    columns = set(review.columns.values_list("pk", flat=True))
    tests = set(review.tests.values_list("pk", flat=True))
    return [asdict(_read(at, one, columns, tests)) for at, one in enumerate(given, 1)]


def expectations_of(review: Review) -> list[Expectation]:
    """The expectations of a review; one about a configuration or test that has gone says nothing any more."""
    columns = set(review.columns.values_list("pk", flat=True))
    tests = set(review.tests.values_list("pk", flat=True))
    found = msgspec.convert(review.expectations, list[Expectation])
    return [one for one in found if {one.column, one.of} <= columns and (one.test is None or one.test in tests)]


def carried_over(
    expectations: Sequence[Mapping[str, Any]], columns: Mapping[int, int], tests: Mapping[int, int]
) -> list[dict[str, Any]]:
    """Expectations of one review for its copy."""
    return [
        {
            **one,
            "column": columns[one["column"]],
            "of": columns[one["of"]],
            "test": None if one["test"] is None else tests[one["test"]],
        }
        for one in expectations
        if {one["column"], one["of"]} <= columns.keys() and (one["test"] is None or one["test"] in tests)
    ]


def _read(at: int, given: Any, columns: set[int], tests: set[int]) -> Expectation:
    try:
        one = msgspec.convert(given, Expectation, strict=False)
    except msgspec.ValidationError as error:
        raise _wrong(
            f"Expectation {at} cannot be read ({error}). It names a configuration, one of {', '.join(EXPECTED)}, and "
            "another configuration."
        ) from None
    if not {one.column, one.of} <= columns:
        raise _wrong(f"Expectation {at} names a configuration that this review does not have.")
    if one.column == one.of:
        raise _wrong(f"Expectation {at} holds a configuration against itself; choose another.")
    if one.test is not None and one.test not in tests:
        raise _wrong(f"Expectation {at} names a test that this review does not have.")
    most = one.by_at_most_pct
    if most is not None and not (math.isfinite(most) and 0 < most <= 1000):
        raise _wrong(f"Expectation {at}: by how much at most is a percentage above 0, up to 1000.")
    return one


def _wrong(words: str) -> Exception:
    return unusable(words, field="expectations")
