"""Adding metrics of their own to tests, and taking them off."""

import re
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction
from django.db.models import F

from nomothet.core.lane_statistics import STATISTICS
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.commands.tests import metrics_of
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.own_metrics import OwnMetric
from nomothet.server.reviews.shown import metric_of
from nomothet.server.reviews.signals import counting_changed

MOST_OWN = 12


def add_metric(user: User, review: Review, tests: Sequence[int], wanted: dict[str, Any]) -> int:
    """Add a metric to tests of a review and show it there; a test that has it, or cannot have it, is passed over.

    Raises
    ------
    Problem
        422 where what was given makes no metric, or none of the tests can have it.
    """
    require(user, Act.EDIT_REVIEW)
    given = OwnMetric(**{"key": _key(wanted["label"]), **wanted})
    with transaction.atomic():
        chosen = list(review.tests.filter(pk__in=tests).select_related("workload", "review"))
        why, added = "Choose the tests that it is for.", 0
        for test in chosen:
            found = _fitted(test, given)
            if isinstance(found, str):
                why = found
                continue
            metrics, shown = [*test.metrics, found.as_dict()], [*test.shown, found.key]
            Test.objects.filter(pk=test.pk).update(metrics=metrics, shown=shown, stamp=F("stamp") + 1)
            added += 1
            _count_anew(test)
        if not added:
            raise unusable(why, field="tests" if not chosen else "label")
        touch(user, review, "metric added", {given.label: [None, f"in {added} tests"]})
    return added


def remove_metric(user: User, review: Review, key: str) -> None:
    """Take a metric of its own off all tests; figures typed for it stay with their passes."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        having = [test for test in review.tests.all() if any(one["key"] == key for one in test.metrics)]
        if not having:
            raise conflict("No test of this review has that metric any more.")
        for test in having:
            leaning = [one["label"] for one in test.metrics if key in (one.get("of"), one.get("other"))]
            if leaning:
                raise conflict(f"{leaning[0]} is made of it; take that off first.")
            metrics = [one for one in test.metrics if one["key"] != key]
            shown = [one for one in test.shown if one != key]
            Test.objects.filter(pk=test.pk).update(metrics=metrics, shown=shown, stamp=F("stamp") + 1)
            _count_anew(test)
        touch(user, review, "metric taken off", {"metric": [key, None]})


def _fitted(test: Test, given: OwnMetric) -> OwnMetric | str:
    """The metric as a test has it, or why it cannot."""
    known = metrics_of(test)
    if given.key in known or given.label in known.values():
        return f"{test.workload.name} has a metric {given.label} already; give it another name."
    if len(test.metrics) >= MOST_OWN:
        return f"A test has {MOST_OWN} metrics of its own at most."
    if given.kind == "reading":
        return _reading(given)
    missing = next((part for part in (given.of, given.other) if part and part not in known), None)
    if not given.of or missing is not None:
        return f"{test.workload.name} has no metric {missing or 'to make it of'}."
    first = metric_of(test, given.of, test.review.low_definition)
    if given.kind == "worked out":
        if not given.other or not given.by:
            return "Say of which two metrics it is worked out, and how."
        return given
    if not given.label_on or (given.kind == "toggle" and not given.label_off):
        return "Say by which words the parts of the run are marked."
    if given.kind == "part":
        return replace(given, unit=first.unit, direction=first.direction, scale=first.scale)
    if given.label_on == given.label_off:
        return "The two states of the setting are marked by different words."
    unit = "%" if first.scale == "ratio" else first.unit
    return replace(given, unit=unit, direction=first.direction, scale="difference")


def _reading(given: OwnMetric) -> OwnMetric | str:
    if given.statistic and given.statistic not in STATISTICS:
        return f"A sensor is told by one of {', '.join(STATISTICS)}."
    if given.lane and not given.statistic:
        return "Say which figure of the sensor it is: its mean, its peak, its end."
    return given


def _count_anew(test: Test) -> None:
    if test.passes.exclude(origin="typed").exists():
        transaction.on_commit(lambda: counting_changed.send(Test, test=test.pk))


def _key(label: str) -> str:
    key = re.sub(r"[^a-z0-9]+", "_", label.casefold()).strip("_")
    if not re.match(r"[a-z]", key):
        raise unusable("Begin its name with a letter.", field="label")
    return key[:50]
