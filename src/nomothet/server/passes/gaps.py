"""Why cells have no value of a metric."""

from collections.abc import Mapping

from nomothet.server.passes.models import Gap
from nomothet.server.reviews.models import Review


def gaps_of(review: Review) -> Mapping[tuple[int, str], Mapping[int, str]]:
    """Why cells have no value, by (test, metric) and column."""
    found: dict[tuple[int, str], dict[int, str]] = {}
    for gap in Gap.objects.filter(test__review=review):
        found.setdefault((gap.test_id, gap.metric), {})[gap.column_id] = gap.reason
    return found
