"""A team of any size, as a year of work leaves it: machines, reviews with passes, talk, follow-ups and records.

One pass of each workload comes in as a bench sends it; the others are copies of its rows on other days, made by the
database itself, which is as good for lists and plans of queries, and makes 100,000 of them in minutes.
"""

import uuid
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import timedelta
from random import Random
from typing import Any

from django.db import connection, models
from django.utils import timezone

from nomothet.server.analysis.models import Analysis
from nomothet.server.docket.models import Entry, State
from nomothet.server.follow_ups.models import FollowUp
from nomothet.server.history.models import Event
from nomothet.server.passes.models import Figure, Pass, Series
from nomothet.server.people.models import SecurityEvent
from nomothet.server.records.commands import publish
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.shelf.models import Part, Price
from nomothet.server.systems.models import Configuration, Fitting, System
from nomothet.server.talk.models import Comment, Notice
from nomothet.server.verdicts.models import Verdict
from nomothet.server.workloads.models import Workload
from tests.server.base import BenchClient, Scene, steady

_BATCH = 2000
_PLACES = ("processor", "graphics", "storage", "cooling")
_DAYS = 365


@dataclass(frozen=True)
class Size:
    """How large a team is; machines have ten configurations each."""

    reviews: int = 1000
    machines: int = 200
    columns: int = 5
    tests: int = 10
    passes: int = 2
    workloads: int = 20
    # Published by the program itself; others hold a copy of what these hold.
    published: int = 5


@dataclass(frozen=True)
class _Kind:
    """A pass that came in, to be copied with all that hangs on it."""

    workload: Workload
    owner: Pass


@dataclass
class Team:
    """A team that grows: what there is, so that more of it can be made."""

    scene: Scene
    size: Size
    configurations: list[Configuration] = field(default_factory=list)
    kinds: list[_Kind] = field(default_factory=list)
    reviews: int = 0
    random: Random = field(default_factory=lambda: Random(7))


def team(size: Size) -> Team:
    """A team with machines, parts and workloads, and no review beyond that of the scene."""
    made = Team(Scene(), size)
    _machines(made)
    for at in range(size.workloads):
        made.kinds.append(_kind(made.scene, at))
    return made


def grow(made: Team, reviews: int) -> None:
    """Some reviews more, with all that hangs on them.

    Parameters
    ----------
    reviews : int
        How many there are afterwards, without that of the scene.
    """
    first = made.reviews
    added = range(first, reviews)
    today, editor = timezone.now(), made.scene.people["editor"]
    new = _all(
        Review(
            key=f"review-{at}", question=f"Does change {at} pay on machine {at % made.size.machines}?", editor=editor,
            position=at % 30000, target_fps=60, archived_at=today if at % 3 == 0 else None,
            factors=[{"key": "power_limit", "name": "power limit", "aspects": ["power_limit_w"], "levels": []}],
        )
        for at in added
    )  # fmt: skip
    columns = _all(
        Column(
            review=review, position=place, label=f"at {place}", is_baseline=place == 0,
            configuration=made.configurations[(first + at) * made.size.columns % len(made.configurations) + place],
        )
        for at, review in enumerate(new)
        for place in range(made.size.columns)
    )  # fmt: skip
    tests = _all(
        Test(
            review=review, position=place, detail="kelp tunnel", shown=["average_fps", "low_1pct"],
            workload=made.kinds[(first + at + place) % len(made.kinds)].workload, settings={"size": place % 3},
        )
        for at, review in enumerate(new)
        for place in range(made.size.tests)
    )  # fmt: skip
    _passes(made, columns, tests)
    _around(made, new)
    _records(made, new)
    made.reviews = reviews


def _machines(made: Team) -> None:
    now = timezone.now()
    systems = _all(System(key=f"machine-{at}", name=f"Machine {at}", description="A machine of the room.")
                   for at in range(made.size.machines))  # fmt: skip
    made.configurations += _all(
        Configuration(system=system, name=f"at {20 + at} W", settings={"power_limit_w": 20 + at})
        for system in systems
        for at in range(10)
    )
    parts = _all(Part(kind=kind, name=f"{kind.title()} {at}", attributes=[])
                 for kind in _PLACES for at in range(made.size.machines // 2))  # fmt: skip
    _all(Price(part=part, amount=100 + at, currency="EUR", on=(now - timedelta(days=90 * at)).date(), basis="street")
         for part in parts for at in range(4))  # fmt: skip
    held = {kind: [part for part in parts if part.kind == kind] for kind in _PLACES}
    _all(
        Fitting(configuration=made.configurations[10 * at], place=kind, part=held[kind][at % len(held[kind])])
        for at in range(len(systems))
        for kind in _PLACES
    )


def _kind(scene: Scene, at: int) -> _Kind:
    """A workload with one pass, which goes the way of all passes, in the review of the scene."""
    workload = Workload.objects.create(
        key=f"walk-{at}", name=f"Walk {at}", version="1", kind="scene", runner="simulated",
        settings=[{"key": "size", "label": "size", "values": [0, 1, 2]}],
    )  # fmt: skip
    test = Test.objects.create(
        review=scene.review, position=100 + at, workload=workload, shown=["average_fps", "low_1pct"]
    )
    scene.tests.append(test)
    scene.owe(test=len(scene.tests) - 1)
    told = {"observed": {"power_limit_w": 35}, "os": "image 41", "driver": "31.4"}
    pass_id = BenchClient(scene.token).deliver(steady(60 + at, frames=300, seed=at), environment=told)
    return _Kind(workload, Pass.objects.get(pk=pass_id))


def _passes(made: Team, columns: Sequence[Column], tests: Sequence[Test]) -> None:
    """Passes in every cell, a review at a time, spread over the days of a year."""
    by_review: dict[int, list[Column]] = {}
    for column in columns:
        by_review.setdefault(column.review_id, []).append(column)
    kinds = {kind.workload.pk: kind for kind in made.kinds}
    passes: list[Pass] = []
    entries: list[Entry] = []
    for test in tests:
        kind = kinds[test.workload_id]
        for column in by_review[test.review_id]:
            for number in range(1, made.size.passes + 1):
                passes.append(_copy(made, kind, test, column, number))
                entries.append(_entry(made, passes[-1]))
        if len(passes) >= _BATCH:
            _write(passes, entries, kinds)
    _write(passes, entries, kinds)


def _copy(made: Team, kind: _Kind, test: Test, column: Column, number: int) -> Pass:
    at = timezone.now() - timedelta(days=made.random.uniform(1, _DAYS))
    changes = {"test": test, "column": column, "number": number, "started_at": at, "whole_at": at}
    copied: Pass = _again(kind.owner, id=uuid.uuid4(), **changes)
    return copied


def _entry(made: Team, owner: Pass) -> Entry:
    """What is done; every hundredth cell owes one more."""
    place = {"test_id": owner.test_id, "column_id": owner.column_id}
    if made.random.random() > 0.01:
        return Entry(**place, number=owner.number, state=State.DONE, pass_id=owner.pk)
    return Entry(**place, number=owner.number + 100, state=State.OWED)


def _write(passes: list[Pass], entries: list[Entry], kinds: Mapping[int, _Kind]) -> None:
    """Write passes with all that hangs on what they are copies of, and forget them."""
    of = {test: kinds[workload].owner for test, workload in
          Test.objects.filter(pk__in={one.test_id for one in passes}).values_list("pk", "workload")}  # fmt: skip
    _all(passes)
    by_kind: dict[Any, list[str]] = defaultdict(list)
    for one in passes:
        by_kind[of[one.test_id].pk].append(str(one.pk))
    with connection.cursor() as cursor:
        for template, made in by_kind.items():
            for model in (Figure, Series, Analysis):
                cursor.execute(_copying(model, len(made)), [str(template), *made])
    _all(entries)
    passes.clear()
    entries.clear()


def _copying(model: type[models.Model], count: int) -> str:
    """A statement that copies the rows of one pass to others; their figures differ by a few percent from pass to pass,
    as much in one as in the other."""
    table = model._meta.db_table
    names = [one.column for one in model._meta.concrete_fields if not one.primary_key and one.column != "owner_id"]
    values = {name: f"held.`{name}`" for name in names}
    if model is Figure:
        values["value"] += " * (0.95 + 0.1 * (CRC32(made.id) MOD 1000) / 1000)"
    columns, which = ", ".join(f"`{name}`" for name in names), ", ".join(["%s"] * count)
    # All that stands in it is names of the models.
    selected = f"SELECT made.id, {', '.join(values.values())} FROM passes_pass made JOIN `{table}` held"  # noqa: S608
    return f"INSERT INTO `{table}` (owner_id, {columns}) {selected} ON held.owner_id = %s WHERE made.id IN ({which})"


def _again(row: Any, **changes: Any) -> Any:
    """A copy of a row, not written."""
    values = {one.attname: getattr(row, one.attname) for one in row._meta.concrete_fields}
    for name, value in changes.items():
        values[row._meta.get_field(name).attname] = value.pk if isinstance(value, models.Model) else value
    return type(row)(**values)


def _around(made: Team, reviews: Sequence[Review]) -> None:
    """Talk, verdicts, follow-ups, history and the security log."""
    people, now = made.scene.people, timezone.now()
    _all(Verdict(review=review, answer=f"It pays by {review.pk % 20} %.") for review in reviews if review.pk % 2)
    comments = _all(
        Comment(review=review, about="review", words="the review", text=f"@reader, look at step {at}.",
                by=people["tester"])
        for review in reviews for at in range(5)
    )  # fmt: skip
    _all(Notice(comment=comment, person=people["reader"], named=True, read_at=None if at % 10 == 0 else now)
         for at, comment in enumerate(comments))  # fmt: skip
    _all(
        FollowUp(what="Run it again", why="The driver is old.", review=review, waits_for="day", by=people["editor"],
                 due=(now + timedelta(days=review.pk % 200 - 60)).date(), person=people["tester"],
                 state="open" if review.pk % 3 == 0 else "done")
        for review in reviews
    )  # fmt: skip
    _all(Event(kind="review", object_id=review.pk, act="edited", changes={"margin": [0.03, 0.02]}, by=people["editor"])
         for review in reviews for _ in range(20))  # fmt: skip
    _all(SecurityEvent(kind="signed_in", by=people["reader"], about=people["reader"], address="192.0.2.7")
         for _ in reviews for _ in range(20))  # fmt: skip


def _records(made: Team, reviews: Sequence[Review]) -> None:
    """Editions of every second review."""
    shown = [review for review in reviews if review.pk % 2]
    held = [publish(made.scene.people["editor"], review) for review in shown[: made.size.published]]
    _all(
        _again(held[at % len(held)], id=None, review=review, request=None, slug=f"copied-{review.pk}")
        for at, review in enumerate(shown[len(held) :])
    )


def _all(rows: Sequence[Any] | Iterator[Any]) -> list[Any]:
    """Write rows, however many there are."""
    found = list(rows)
    return type(found[0]).objects.bulk_create(found, batch_size=_BATCH) if found else []
