"""Asking for passes, taking them, and telling how they go."""

import uuid
from collections.abc import Iterable, Sequence
from typing import Any

from django.db import models, transaction
from django.utils import timezone

from nomothet.server.docket.hold import hold_of
from nomothet.server.docket.models import Entry, State
from nomothet.server.docket.work import work_of
from nomothet.server.feed.commands import announce
from nomothet.server.meeting import tried_again
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.models import Bench, System
from nomothet.server.workloads.approvals import not_for_benches

MOST_AT_ONCE = 20


def next_number(test: Test, column: Column) -> int:
    """The number of the next pass of a cell, counting those owed."""
    highest = [
        test.entries.filter(column=column).aggregate(models.Max("number"))["number__max"],
        test.passes.filter(column=column).aggregate(models.Max("number"))["number__max"],
    ]
    return max(number or 0 for number in highest) + 1


def next_numbers(tests: Iterable[int]) -> dict[tuple[int, int], int]:
    """The same for every cell of some tests that has had one, by test and column; two queries."""
    wanted = list(tests)
    found: dict[tuple[int, int], int] = {}
    for rows in (Entry.objects.filter(test__in=wanted), Test.objects.filter(pk__in=wanted, passes__isnull=False)):
        names = ("test", "column", "number") if rows.model is Entry else ("pk", "passes__column", "passes__number")
        for test, column, highest in rows.order_by().values_list(*names[:2]).annotate(models.Max(names[2])):
            found[test, column] = max(found.get((test, column), 1), highest + 1)
    return found


def ask_for_passes(
    user: User,
    review: Review,
    tests: Sequence[int],
    columns: Sequence[int],
    count: int,
    recorder: Sequence[str] = (),
) -> list[Entry]:
    """Owe `count` more passes in every cell of the given tests and columns.

    Parameters
    ----------
    recorder : sequence of str
        "off" or "on" for each of the passes of a cell, where they are to show what recording costs.
    """
    require(user, Act.ASK_FOR_PASSES)
    if not 1 <= count <= MOST_AT_ONCE:
        raise unusable(f"Ask for 1 to {MOST_AT_ONCE} passes at a time.")
    chosen_tests = list(review.tests.filter(pk__in=tests).select_related("workload"))
    chosen_columns = list(review.columns.filter(pk__in=columns).select_related("configuration"))
    if len(chosen_tests) != len(set(tests)) or len(chosen_columns) != len(set(columns)):
        raise unusable("A test or configuration is not in this review; reload the matrix and ask again.")
    blocked = next((c for c in chosen_columns if c.configuration.blocked), None)
    if blocked is not None:
        raise unusable(
            f"{blocked.label} cannot be built: {blocked.configuration.blocked}. Unblock it, or leave it out.",
            field="columns",
        )
    with transaction.atomic():
        # Two people asking at once must not give one number to two passes.
        Review.objects.select_for_update().get(pk=review.pk)
        numbers = next_numbers(test.pk for test in chosen_tests)
        entries = [
            Entry(
                test=test,
                column=column,
                number=first + more,
                asked_by=user,
                recorder=recorder[more] if recorder else "",
            )
            for test in chosen_tests
            for column in chosen_columns
            for first in [numbers.get((test.pk, column.pk), 1)]
            for more in range(count)
        ]
        Entry.objects.bulk_create(entries)
        announce("docket", review=review.pk)
    return entries


def withdraw(user: User, entry: Entry) -> None:
    """Take back a pass that nobody has begun, or ask the bench to stop one that runs."""
    require(user, Act.STOP_PASSES)
    with transaction.atomic():
        locked = Entry.objects.select_for_update().get(pk=entry.pk)
        if locked.state == State.OWED:
            locked.state = State.WITHDRAWN
        elif locked.by_hand_id is not None:
            raise conflict("Somebody runs this pass by hand; it is given up where it was begun.")
        elif locked.state == State.RUNNING:
            locked.stop_wanted = True
        else:
            raise conflict("This pass is over; there is nothing to stop.")
        locked.save(update_fields=["state", "stop_wanted"])
        announce("docket", review=entry.column.review_id)


# That the bench was heard of is written before, so that its request as a whole is not repeated.
@tried_again
def take(bench: Bench, pass_id: uuid.UUID) -> Entry | None:
    """The next owed pass for a bench, in the order of work. Asking again with the same pass id gives the same entry.

    None also when the machine first has to be changed by a tester, or the docket is stopped.
    """
    with transaction.atomic():
        entry = Entry.objects.filter(pass_id=pass_id, bench=bench).first()
        if entry is None:
            entry = _first_owed(bench)
            if entry is None:
                return None
            entry.state = State.RUNNING
            entry.bench = bench
            entry.pass_id = pass_id
            entry.taken_at = timezone.now()
            entry.progress = {}
            entry.save(update_fields=["state", "bench", "pass_id", "taken_at", "progress"])
            announce("docket", review=entry.column.review_id)
    return entry


def give_back_lost(bench: Bench, holding: Sequence[uuid.UUID]) -> None:
    """Owe passes again that a bench took but has nothing of, as when it was killed before it had written them down."""
    with transaction.atomic():
        lost = bench.entries.filter(state=State.RUNNING).exclude(pass_id__in=holding)
        reviews = set(lost.values_list("column__review", flat=True))
        lost.update(state=State.OWED, pass_id=None, taken_at=None, progress={}, stop_wanted=False)
        for review in reviews:
            announce("docket", review=review)


def _first_owed(bench: Bench) -> Entry | None:
    """Lock the first pass in the order of work that the machine is ready for; None when it waits for a tester."""
    system = System.objects.select_related("present").get(pk=bench.system_id)
    if not Entry.objects.filter(state=State.OWED, column__configuration__system=system).exists():
        return None
    work = work_of(system)
    if not work.visits or hold_of(system) is not None:
        return None
    may_not = not_for_benches({entry.test.workload for visit in work.visits for entry in visit.entries}, system.pk)
    visit = next((one for one in work.visits if any(e.test.workload_id not in may_not for e in one.entries)), None)
    if visit is None:
        return None
    if visit.configuration.pk != system.present_id:
        if not work.bench_may_change:
            return None
        System.objects.filter(pk=system.pk).update(present=visit.configuration)
    for owed in visit.entries:
        if owed.test.workload_id in may_not:
            continue
        # Waits for a row that another transaction only looks past: skipping it would say that nothing is owed.
        entry = Entry.objects.select_for_update().filter(pk=owed.pk, state=State.OWED).first()
        if entry is not None:
            entry.test, entry.column = owed.test, owed.column
            return entry
    return None


def report_progress(bench: Bench, entry: Entry, progress: dict[str, Any]) -> bool:
    """Store how a running pass goes; returns whether it should stop."""
    with transaction.atomic():
        told: dict[str, Any] = {"progress": progress, "told_at": timezone.now()}
        attempts = progress.pop("attempts", None)
        if attempts is not None:
            told["attempts"] = attempts
        updated = Entry.objects.filter(pk=entry.pk, bench=bench, state=State.RUNNING).update(**told)
        if not updated:
            return True
        announce(
            "progress",
            review=entry.column.review_id,
            test=entry.test_id,
            column=entry.column_id,
            entry=entry.pk,
            progress=progress,
            **({"attempts": len(attempts)} if attempts is not None else {}),
        )
    return Entry.objects.filter(pk=entry.pk, stop_wanted=True).exists()


def owed_in(tests: Iterable[int], *, lock: bool = False) -> dict[tuple[int, int], list[Entry]]:
    """Passes owed in the cells of some tests, lowest number first, that whatever is brought in settles; one query.

    Passes that are run in pairs to learn what recording costs are not among them.
    """
    owed = Entry.objects.filter(test__in=list(tests), state=State.OWED, recorder="", attempts=[]).order_by("number")
    found: dict[tuple[int, int], list[Entry]] = {}
    for entry in owed.select_for_update() if lock else owed:
        found.setdefault((entry.test_id, entry.column_id), []).append(entry)
    return found


def settle(entries: Iterable[tuple[Entry, uuid.UUID]]) -> None:
    """Owed passes have been brought in under these ids, by other ways than a bench."""
    for entry, pass_id in entries:
        Entry.objects.filter(pk=entry.pk).update(state=State.DONE, pass_id=pass_id)


def number_for(test: Test, column: Column, pass_id: uuid.UUID) -> int:
    """The number of a pass that comes in by itself: that of the first one owed in its cell, which it settles, or a new
    one. Within a transaction that holds the review.
    """
    owed = owed_in([test.pk], lock=True).get((test.pk, column.pk))
    if not owed:
        return next_number(test, column)
    settle([(owed[0], pass_id)])
    return owed[0].number


def owe_again(pass_ids: Iterable[uuid.UUID]) -> None:
    """What these passes had settled is owed as before, under new numbers, since they are taken back."""
    for entry in Entry.objects.filter(pass_id__in=list(pass_ids), state=State.DONE).select_related("test", "column"):
        entry.number, entry.state, entry.pass_id = next_number(entry.test, entry.column), State.OWED, None
        entry.save(update_fields=["number", "state", "pass_id"])


def close(entry: Entry) -> None:
    """The pass of an entry is in; called inside the transaction that stores it."""
    entry.state = State.DONE
    entry.save(update_fields=["state"])
    if entry.owe_again:
        Entry.objects.create(
            test=entry.test,
            column=entry.column,
            number=next_number(entry.test, entry.column),
            asked_by=entry.asked_by,
            attempts=entry.attempts,
        )
