"""Tests in a review."""

from collections.abc import Mapping, Sequence
from itertools import product
from typing import Any

from django.db import transaction
from django.db.models import F, Max

from nomothet.core.errors import BadQuantity
from nomothet.server.history.commands import changed
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.models import Review, Test
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
    read = {key: [_allowed(workload, key, value) for value in values] for key, values in choices.items() if values}
    combinations = [dict(zip(read, values, strict=True)) for values in product(*read.values())]
    if review.tests.count() + len(combinations) > MOST_TESTS:
        raise unusable(f"A review has {MOST_TESTS} tests at most; choose fewer combinations.", field="choices")
    there = [test.settings for test in review.tests.filter(workload=workload)]
    fresh = [settings for settings in combinations if settings not in there]
    if not fresh:
        raise unusable("This review has these tests already; choose other settings.", field="choices")
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
                shown=shown_of(workload),
                **more,
            )
            for at, settings in enumerate(fresh)
        )
        touch(user, review, "tests added", {"tests": [None, f"{len(made)} of {workload.name} {workload.version}"]})
    return list(review.tests.filter(workload=workload, position__gte=first))


def edit_test(user: User, test: Test, changes: dict[str, Any]) -> Test:
    """Change a test; what its passes were run with only while it has none."""
    require(user, Act.EDIT_REVIEW)
    if "settings" in changes:
        wanted = {key: _allowed(test.workload, key, value) for key, value in changes["settings"].items()}
        if wanted != test.settings:
            _no_passes(test, "passes ran with these settings")
            test.settings = wanted
            test.detail = detail_of(test.workload, wanted)
    counted = {field: getattr(test, field) for field in _COUNTING}
    for field in ("detail", "isolates", "shown", *_COUNTING):
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
    if workload.metrics:
        return [metric["key"] for metric in workload.metrics][:4]
    return ["average_fps", "low_1pct"] if workload.kind in (Kind.SCENE, Kind.SOAK, Kind.IDLE) else []


def _allowed(workload: Workload, key: str, value: Any) -> Any:
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
