"""Keeping sets of tests, and measuring against them."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import changed, remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.commands.columns import add_column
from nomothet.server.reviews.commands.review import add_review
from nomothet.server.reviews.commands.tests import add_test_rows
from nomothet.server.reviews.models import Review
from nomothet.server.standings.models import TestSet
from nomothet.server.standings.sets.items import Item, checked, read_items
from nomothet.server.systems.models import Configuration

EDITABLE = ("name", "note", "margin", "items")


def add_set(user: User, name: str, items: Sequence[Mapping[str, Any]], **more: Any) -> TestSet:
    """Keep a set of tests.

    Raises
    ------
    Problem
        409 when another set is called so; 422 when a test cannot be in it.
    """
    require(user, Act.EDIT_WORKLOADS)
    kept = checked(items)
    with transaction.atomic():
        _check_name(name, None)
        made = TestSet.objects.create(name=name, items=kept, by=user, **more)
        _tell(user, made, "added", {"name": [None, name]})
    return made


def edit_set(user: User, before: TestSet, changes: Mapping[str, Any]) -> TestSet:
    """The next edition of a set, which the caller has locked; the one before stays as it was."""
    require(user, Act.EDIT_WORKLOADS)
    wanted = {name: changes[name] for name in EDITABLE if name in changes}
    if "items" in wanted:
        wanted["items"] = checked(wanted["items"])
    fields = {name: getattr(before, name) for name in EDITABLE}
    if not (told := changed(fields, {**fields, **wanted})):
        return before
    if hasattr(before, "replaced_by"):
        raise conflict("This is an earlier edition; edit the last one.")
    with transaction.atomic():
        _check_name(wanted.get("name", before.name), before)
        made = TestSet.objects.create(edition=before.edition + 1, replaces=before, by=user, **{**fields, **wanted})
        if "items" in told:
            told["items"] = [len(before.items), len(made.items)]
        _tell(user, made, "edited", told)
    return made


def archive_set(user: User, one: TestSet, archived: bool) -> None:
    """Take a set off the list, or bring it back."""
    require(user, Act.EDIT_WORKLOADS)
    with transaction.atomic():
        one.archived_at = timezone.now() if archived else None
        one.save(update_fields=["archived_at"])
        _tell(user, one, "archived" if archived else "brought back", {})


def measure_against(user: User, one: TestSet, configurations: Sequence[Configuration], question: str) -> Review:
    """A review with the tests of a set and the configurations given, owing their passes.

    Raises
    ------
    Problem
        422 when no configuration is given, or one is given twice.
    """
    require(user, Act.EDIT_REVIEW)
    if not configurations:
        raise unusable("Name one configuration at least that is measured.", field="configurations")
    items = read_items(one.items)
    with transaction.atomic():
        review = add_review(user, question, margin=one.margin, single=len(configurations) == 1)
        for configuration in configurations:
            add_column(user, review, configuration)
        # Several metrics of a workload with the same settings are one test.
        alike: dict[tuple[int, str], list[Item]] = {}
        for item in items:
            alike.setdefault((item.workload.pk, item.tag), []).append(item)
        tests = []
        for of_one in alike.values():
            row = (of_one[0].workload, of_one[0].settings)
            tests += add_test_rows(user, review, [row], shown=[item.shown for item in of_one])
        able = [column.pk for column in review.columns.filter(configuration__blocked="")]
        if able:
            ask_for_passes(user, review, [test.pk for test in tests], able, max(1, review.passes_per_test))
        remember(user, "review", review.pk, "made of a set", {"set": [None, f"{one.name}, edition {one.edition}"]})
    return review


def _check_name(name: str, before: TestSet | None) -> None:
    others = TestSet.objects.filter(name__iexact=name, replaced_by=None)
    if before is not None:
        others = others.exclude(pk=before.pk)
    if others.exists():
        raise conflict(f"Another set is called {name}.")


def _tell(user: User, one: TestSet, act: str, changes: Mapping[str, Any]) -> None:
    remember(user, "test_set", one.pk, act, changes)
    announce("standings")
