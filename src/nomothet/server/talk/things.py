"""What a comment can be about, checked and put into words."""

import uuid
from collections.abc import Mapping
from typing import Any

from nomothet.server.findings.findings import finding_of
from nomothet.server.passes.models import Pass
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.talk.models import About

_LONGEST_WORDS = 400


def thing_of(review: Review, given: Mapping[str, Any]) -> dict[str, Any]:
    """The fields of a comment that say what it is about.

    Raises
    ------
    Problem
        422, where the review has no such thing.
    """
    about = given.get("about") or About.REVIEW
    if about == About.REVIEW:
        return {"about": about, "words": ""}
    if about == About.CELL:
        test, column = _cell(review, given.get("test"), given.get("column"))
        return {"about": about, "test": test, "column": column, "words": _cell_words(test, column)}
    if about == About.PASS:
        owner = (
            Pass.objects.filter(pk=given.get("owner") or uuid.UUID(int=0), test__review=review)
            .select_related("test", "column")
            .first()
        )
        if owner is None:
            raise unusable("This review has no such pass.", field="owner")
        words = f"pass {owner.number} of {_cell_words(owner.test, owner.column)}"
        return {"about": about, "owner": owner, "test": owner.test, "column": owner.column, "words": words}
    key = str(given.get("key") or "")
    if about == About.FINDING:
        finding = finding_of(review, key)
        if finding is None:
            raise unusable("There is no such finding any more; reload the sheet.", field="key")
        return {"about": about, "key": key, "words": finding.sentence[:_LONGEST_WORDS]}
    if not key:
        raise unusable("Say which sentence the comment is about.", field="key")
    return {"about": about, "key": key, "words": key[:_LONGEST_WORDS]}


def _cell(review: Review, test: Any, column: Any) -> tuple[Test, Column]:
    found_test = review.tests.filter(pk=test).select_related("workload").first()
    found_column = review.columns.filter(pk=column).first()
    if found_test is None or found_column is None:
        raise unusable("This review has no such cell.", field="test")
    return found_test, found_column


def _cell_words(test: Test, column: Column) -> str:
    return f"{', '.join(filter(None, (test.workload.name, test.detail)))} on {column.label}"
