"""Tests in a review."""

import math
from collections.abc import Mapping, Sequence
from itertools import product
from typing import Any

from django.db import transaction
from django.db.models import F, Max

from nomothet.core.economy import POWER_SOURCES
from nomothet.core.errors import BadQuantity
from nomothet.formats.words import FRAME_METRICS
from nomothet.server.history.commands import changed
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import LOWS, metric_of
from nomothet.server.reviews.signals import counting_changed
from nomothet.server.workloads.models import Kind, Workload

ISOLATES = ("", "processor", "threads", "graphics", "memory", "storage", "cooling", "all")
MOST_TESTS = 200
# What figures are made of; a change computes the figures of every pass anew, from its captures.
_COUNTING = ("skip_s", "end_cut_s", "counts")


def add_tests(
    user: User, review: Review, workload: Workload, choices: Mapping[str, Sequence[Any]], **more: Any
) -> list[Test]:
    """Add a test for every combination of the chosen values, for example two resolutions × three scenes."""
    require(user, Act.EDIT_REVIEW)
    read = {key: [allowed_value(workload, key, value) for value in values] for key, values in choices.items() if values}
    if review.tests.count() + math.prod(map(len, read.values())) > MOST_TESTS:
        raise unusable(f"A review has {MOST_TESTS} tests at most; choose fewer combinations.", field="choices")
    combinations = [dict(zip(read, values, strict=True)) for values in product(*read.values())]
    there = [test.settings for test in review.tests.filter(workload=workload)]
    fresh = [settings for settings in combinations if settings not in there]
    if not fresh:
        raise unusable("This review has these tests already; choose other settings.", field="choices")
    return add_test_rows(user, review, [(workload, settings) for settings in fresh], **more)


def add_test_rows(
    user: User, review: Review, rows: Sequence[tuple[Workload, Mapping[str, Any]]], **more: Any
) -> list[Test]:
    """Add tests under the others, one for each workload with its settings, which were checked."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        last = review.tests.aggregate(Max("position"))["position__max"]
        first = 0 if last is None else last + 1
        made = Test.objects.bulk_create(
            Test(
                review=review,
                workload=workload,
                position=first + at,
                settings=settings,
                detail=detail_of(workload, settings),
                **{"shown": shown_of(workload), **more},
            )
            for at, (workload, settings) in enumerate(rows)
        )
        told = ", ".join(dict.fromkeys(f"{workload.name} {workload.version}" for workload, _ in rows))
        touch(user, review, "tests added", {"tests": [None, f"{len(made)} of {told}"]})
    return list(review.tests.filter(position__gte=first))


def copy_test(user: User, test: Test, review: Review) -> Test:
    """The same test, with its settings, cuts and ways of reading, in another review."""
    require(user, Act.EDIT_REVIEW)
    if review.tests.filter(workload=test.workload, settings=test.settings).exists():
        raise unusable(f"{review.question!r} has this test already.", field="review")
    if review.tests.count() >= MOST_TESTS:
        raise unusable(f"A review has {MOST_TESTS} tests at most.", field="review")
    same = ("isolates", "readings", "shown", "metrics", "targets", "power", "detail", *_COUNTING)
    more = {field: getattr(test, field) for field in same if field != "detail"}
    copy = add_test_rows(user, review, [(test.workload, test.settings)], **more)[0]
    Test.objects.filter(pk=copy.pk).update(detail=test.detail)
    return copy


def show_metrics(user: User, review: Review, tests: Sequence[int], *, add: Sequence[str], remove: Sequence[str]) -> int:
    """Show metrics in many tests at once, or no longer; a test that has no such metric is passed over."""
    require(user, Act.EDIT_REVIEW)
    changed_tests = 0
    with transaction.atomic():
        for test in review.tests.filter(pk__in=tests).select_related("workload"):
            known = metrics_of(test)
            kept = [metric for metric in test.shown if metric not in remove]
            shown = kept + [metric for metric in add if metric in known and metric not in kept]
            if shown != test.shown:
                check_shown(test, shown)
                Test.objects.filter(pk=test.pk).update(shown=shown, stamp=F("stamp") + 1)
                changed_tests += 1
        if changed_tests:
            told = {"added": [None, ", ".join(add)], "taken off": [", ".join(remove), None]}
            touch(user, review, "metrics of tests chosen", told)
    return changed_tests


def metrics_of(test: Test) -> dict[str, str]:
    """Every metric that a test can show, with its label: of its frames, of its workload."""
    plain = {metric.key: metric.label for metric in FRAME_METRICS.values() if not metric.key.startswith(LOWS)}
    lows = {low: metric_of(test, low, test.review.low_definition).label for low in LOWS}
    own = {str(metric["key"]): str(metric["label"]) for metric in [*test.workload.metrics, *test.metrics]}
    return {**plain, **lows, **own}


def _check_power(test: Test, source: str) -> None:
    known = metrics_of(test)
    if source not in POWER_SOURCES and source not in known:
        raise unusable(
            f"Power is told by {', '.join(POWER_SOURCES)} or by a metric of the test, not by {source!r}.", field="power"
        )


def _check_targets(test: Test, targets: Mapping[str, Any]) -> None:
    known = metrics_of(test)
    for metric, limit in targets.items():
        if metric == "no_failure":
            if not isinstance(limit, bool):
                raise unusable("That nothing may fail is either so or not.", field="targets")
            continue
        if metric not in known:
            raise unusable(f"{test.workload.name} has no metric {metric!r} to have a target.", field="targets")
        number = isinstance(limit, int | float) and not isinstance(limit, bool) and math.isfinite(limit)
        if limit is not None and not number:
            raise unusable(f"The target of {known[metric]} must be a number, or nothing for none.", field="targets")


def check_shown(test: Test, shown: Sequence[str]) -> None:
    """Refuse a metric that the test cannot have."""
    known = metrics_of(test)
    unknown = [metric for metric in shown if metric not in known]
    if unknown:
        raise unusable(f"{test.workload.name} has no metric {unknown[0]!r}; it has {', '.join(known)}.", field="shown")
    if len(set(shown)) < len(shown):
        raise unusable("A metric is shown once.", field="shown")


def edit_test(user: User, test: Test, changes: dict[str, Any]) -> Test:
    """Change a test; what its passes were run with only while it has none."""
    require(user, Act.EDIT_REVIEW)
    if "settings" in changes:
        wanted = {key: allowed_value(test.workload, key, value) for key, value in changes["settings"].items()}
        if wanted != test.settings:
            _no_passes(test, "passes ran with these settings")
            test.settings = wanted
            test.detail = detail_of(test.workload, wanted)
    if "shown" in changes:
        check_shown(test, changes["shown"])
    if "targets" in changes:
        _check_targets(test, changes["targets"])
    counted = {field: getattr(test, field) for field in _COUNTING}
    if changes.get("power"):
        _check_power(test, changes["power"])
    for field in ("detail", "isolates", "shown", "targets", "power", *_COUNTING):
        if field in changes:
            setattr(test, field, {} if changes[field] is None else changes[field])
    told: dict[str, Any] = {"test": [None, f"{test.workload.name}, {test.detail}"]}
    recounts = changed(counted, {field: getattr(test, field) for field in _COUNTING})
    with transaction.atomic():
        test.save()
        touch(user, test.review, "test edited", told | recounts)
        if recounts and test.passes.exists():
            transaction.on_commit(lambda: counting_changed.send(Test, test=test.pk))
    return test


def remove_test(user: User, test: Test) -> None:
    """Take a test without passes out of a review."""
    require(user, Act.EDIT_REVIEW)
    if test.passes.exists():
        raise conflict(f"{test.workload.name}, {test.detail} has passes, which are kept. It stays in the review.")
    review = test.review
    with transaction.atomic():
        words = f"{test.workload.name}, {test.detail}"
        test.delete()
        touch(user, review, "test removed", {"test": [words, None]})


def order_tests(user: User, review: Review, order: list[int]) -> None:
    """Bring the tests into an order."""
    require(user, Act.EDIT_REVIEW)
    if sorted(order) != sorted(review.tests.values_list("pk", flat=True)):
        raise unusable("The order names other tests than the review has; reload and order again.", field="order")
    with transaction.atomic():
        review.tests.update(position=F("position") + 1000)
        for at, pk in enumerate(order):
            review.tests.filter(pk=pk).update(position=at)
        touch(user, review, "tests reordered")


def _no_passes(test: Test, why: str) -> None:
    if test.passes.exists():
        raise conflict(f"{test.workload.name}, {test.detail}: its {why}. Add another test instead.")


def detail_of(workload: Workload, settings: Mapping[str, Any]) -> str:
    """The settings as people say them, in the workload's order."""
    specs = {spec["key"]: spec for spec in workload.settings}
    words = []
    for key in [key for key in specs if key in settings] + [key for key in settings if key not in specs]:
        spec = specs.get(key, {})
        unit = spec.get("unit", "")
        if settings[key] == 0 and unit:
            words.append(f"no {spec.get('label', key)}")
            continue
        plain = not unit and isinstance(settings[key], str)
        words.append(str(settings[key]) if plain else f"{spec.get('label', key)} {settings[key]} {unit}".strip())
    return " · ".join(words)[:160]


def shown_of(workload: Workload) -> list[str]:
    """The metrics that the matrix shows for a workload at first."""
    # What a game or a soak reports itself stands beside its rates, and replaces none.
    rates = ["average_fps", "low_1pct"] if workload.kind in (Kind.SCENE, Kind.SOAK) else []
    own = [metric["key"] for metric in workload.metrics if metric["key"] not in rates]
    return [*rates, *own[:4]]


def allowed_value(workload: Workload, key: str, value: Any) -> Any:
    """The value of a setting as its workload allows it.

    Raises
    ------
    BadQuantity
        Where the workload has no such setting, or not with this value.
    """
    spec = next((one for one in workload.settings if one["key"] == key), None)
    if spec is None:
        known = ", ".join(one["key"] for one in workload.settings) or "none"
        raise BadQuantity(key, f"{workload.name} has no setting {key}; its settings are {known}.")
    values = spec.get("values")
    for one in values or []:
        if value == one or str(value) == str(one):
            return one
    if values:
        allowed = ", ".join(str(one) for one in values)
        raise BadQuantity(key, f"{spec['label']} cannot be {value!r} in {workload.name}; it is one of {allowed}.")
    if not isinstance(value, str | int | float | bool):
        raise BadQuantity(key, f"{spec['label']} must be text or a number.")
    return value
