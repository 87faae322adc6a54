"""Declaring ladders, and trying them downwards."""

from collections.abc import Sequence

from django.db import transaction

from nomothet.server.docket.commands import MOST_AT_ONCE, ask_for_passes
from nomothet.server.docket.models import Entry, State
from nomothet.server.feed.commands import announce
from nomothet.server.ladders.models import Going, Ladder
from nomothet.server.ladders.queries import LadderShape, ladders
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, may, require
from nomothet.server.problems import unusable
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.models import Column, Review

MOST_RUNGS = 20


def declare_ladder(user: User, review: Review, name: str, tests: Sequence[int]) -> Ladder:
    """Make tests of one workload a ladder, the most demanding first.

    Raises
    ------
    Problem
        422 where they are fewer than two, of several workloads, or the name is taken.
    """
    require(user, Act.EDIT_REVIEW)
    found = {test.pk: test for test in review.tests.select_related("workload").filter(pk__in=tests)}
    if len(tests) != len(set(tests)) or len(found) != len(tests):
        raise unusable("A test is not in this review, or is named twice; reload the brief.", field="tests")
    if not 2 <= len(tests) <= MOST_RUNGS:
        raise unusable(f"A ladder has 2 to {MOST_RUNGS} tests.", field="tests")
    if len({test.workload_id for test in found.values()}) > 1:
        raise unusable("The rungs of a ladder are tests of one workload.", field="tests")
    name = " ".join(name.split()) or found[tests[0]].workload.name
    if review.ladders.filter(name__iexact=name).exists():
        raise unusable(f"There is a ladder named {name} already; choose another name.", field="name")
    with transaction.atomic():
        made = Ladder.objects.create(review=review, name=name, rungs=list(tests))
        touch(user, review, "ladder declared", {"ladder": [None, name]})
    return made


def remove_ladder(user: User, ladder: Ladder) -> None:
    """Take a ladder away; its tests and their passes stay."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        touch(user, ladder.review, "ladder taken away", {"ladder": [ladder.name, None]})
        ladder.delete()


def begin_descent(user: User, ladder: Ladder, columns: Sequence[int], passes: int) -> int:
    """Try a ladder downwards on configurations: owe the next rung now, and each further one once a rung has missed.

    Returns how many configurations are being tried.
    """
    require(user, Act.ASK_FOR_PASSES)
    if not 1 <= passes <= MOST_AT_ONCE:
        raise unusable(f"Ask for 1 to {MOST_AT_ONCE} passes at a time.", field="passes")
    chosen = list(ladder.review.columns.filter(pk__in=columns).select_related("configuration"))
    if len(chosen) != len(set(columns)):
        raise unusable("A configuration is not in this review; reload and try again.", field="columns")
    with transaction.atomic():
        shape = _shape(ladder)
        open_ones = [one for one in chosen if shape.cells[str(one.pk)].next is not None]
        for column in open_ones:
            Going.objects.update_or_create(ladder=ladder, column=column, defaults={"passes": passes, "asked_by": user})
            _owe_next(user, ladder, shape, column, passes)
        announce("docket", review=ladder.review_id)
    return len(open_ones)


def stop_descent(user: User, ladder: Ladder) -> None:
    """Owe no further rungs by itself; what is owed stays on the docket."""
    require(user, Act.ASK_FOR_PASSES)
    with transaction.atomic():
        ladder.going.all().delete()
        announce("docket", review=ladder.review_id)


def go_on(ladder: Ladder, column: Column) -> None:
    """Owe the next rung where the present one has missed; end the descent where it is over.

    A rung that nothing is told of, or that waits on the docket, is waited for.
    """
    with transaction.atomic():
        going = ladder.going.select_for_update().filter(column=column).select_related("asked_by").first()
        if going is None:
            return
        shape = _shape(ladder)
        cell = shape.cells[str(column.pk)]
        if cell.next is None or not may(going.asked_by, Act.ASK_FOR_PASSES):
            going.delete()
            return
        told = {rung.test: rung.word for rung in cell.rungs}
        if told[cell.next] == "":
            _owe_next(going.asked_by, ladder, shape, column, going.passes)


def _owe_next(user: User, ladder: Ladder, shape: LadderShape, column: Column, passes: int) -> None:
    test = shape.cells[str(column.pk)].next
    under_way = Entry.objects.filter(
        test__in=shape.tests, column=column, state__in=[State.OWED, State.RUNNING], recorder=""
    )
    if test is not None and not under_way.exists():
        ask_for_passes(user, ladder.review, [test], [column.pk], passes)


def _shape(ladder: Ladder) -> LadderShape:
    return next(one for one in ladders(ladder.review) if one.id == ladder.pk)
