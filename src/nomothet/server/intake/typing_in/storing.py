"""Storing what was typed, all of it or none; in a few statements whatever the number of cells."""

import uuid
from collections.abc import Iterable, Sequence

from django.db import transaction
from django.utils import timezone

from nomothet.core.readings import Reading
from nomothet.core.units import conversion
from nomothet.formats.words import METHOD_VERSION
from nomothet.server.analysis.commands import store_fingerprints
from nomothet.server.docket.commands import owe_again, settle
from nomothet.server.docket.models import Entry
from nomothet.server.feed.commands import announce
from nomothet.server.intake.typing_in.cells import NOBODY_ELSE, Cells, Hands, Landing, Looked, Typed, typed_metric
from nomothet.server.intake.typing_in.looking import look_at_one
from nomothet.server.passes.commands import stamp
from nomothet.server.passes.models import Figure, Gap, Origin, Pass, Remark
from nomothet.server.passes.signals import pass_changed
from nomothet.server.passes.stamping import Stamps
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.shown import plain_key, run_group
from nomothet.server.systems.states import states

# Test, column and number of a pass.
_Place = tuple[int, int, int]


def store(
    user: User, review: Review, batch: uuid.UUID, typed: Sequence[Typed], hands: Hands = NOBODY_ELSE
) -> list[Looked]:
    """Store typed figures, all or none. Sending the same batch again changes nothing."""
    require(user, Act.RECORD)
    with transaction.atomic():
        locked = Review.objects.select_for_update().get(pk=review.pk)
        cells = Cells(locked, typed, lock=True)
        looked = [look_at_one(cells, one) for one in typed]
        if _is_stored(batch):
            return looked
        wrong = next((one for one in looked if one.error or one.asks_method), None)
        if wrong is not None:
            reason = wrong.error or "Say how this row's readings were taken, and how exact they are."
            raise unusable(
                f"{reason} Nothing was stored.",
                test=wrong.typed.test,
                column=wrong.typed.column,
                metric=wrong.typed.metric,
                field="method" if not wrong.error else "text",
            )
        _Batch(user, batch, cells, hands).store(looked)
        _remember_methods(cells, looked)
        _tell(review, {(one.typed.test, one.typed.column) for one in looked})
    return looked


def take_back_batch(user: User, review: Review, batch: uuid.UUID) -> None:
    """Undo what was just typed: its passes are set aside, its figures on other passes are taken off with a remark."""
    require(user, Act.RECORD)
    with transaction.atomic():
        Review.objects.select_for_update().get(pk=review.pk)
        figures = list(Figure.objects.filter(batch=batch, owner__test__review=review).select_related("owner"))
        own = {owner.pk: owner for owner in Pass.objects.filter(test__review=review, batch=batch)}
        for figure in figures:
            if figure.owner_id not in own:
                Remark.objects.create(
                    owner=figure.owner, act="corrected", reason=f"{figure.metric} {figure.value:g} taken back", by=user
                )
                figure.delete()
        for owner in own.values():
            if not owner.set_aside:
                owner.set_aside = True
                owner.save(update_fields=["set_aside"])
                Remark.objects.create(owner=owner, act="set_aside", reason="typing was taken back", by=user)
        owe_again(own)
        Gap.objects.filter(batch=batch, test__review=review).delete()
        _tell(review, {(owner.test_id, owner.column_id) for owner in own.values()})


def _tell(review: Review, cells: Iterable[tuple[int, int]]) -> None:
    stamp(review.tests.all())
    announce("pass", review=review.pk)
    announce("docket", review=review.pk)
    for test, column in cells:
        pass_changed.send(Pass, test=test, column=column)


def _remember_methods(cells: Cells, looked: Sequence[Looked]) -> None:
    """A row that was never told how its readings are taken goes by what came with its first ones."""
    for one in looked:
        test, metric = cells.tests[one.typed.test], plain_key(one.typed.metric)
        if one.typed.method and metric not in test.readings:
            test.readings = {
                **test.readings,
                metric: {"method": one.typed.method, "half_width": one.typed.half_width},
            }
            test.save(update_fields=["readings"])


def _is_stored(batch: uuid.UUID) -> bool:
    return any(kind.objects.filter(batch=batch).exists() for kind in (Pass, Figure, Gap))


class _Batch:
    """Passes, figures and gaps of one act of typing."""

    def __init__(self, user: User, batch: uuid.UUID, cells: Cells, hands: Hands) -> None:
        self._user, self._batch, self._cells, self._hands = user, batch, cells, hands
        self._stamps = Stamps(cells.columns.values())
        self._passes: dict[_Place, Pass] = {}
        self._settled: list[tuple[Entry, uuid.UUID]] = []
        self._figures: list[Figure] = []
        self._gaps: dict[tuple[int, int, str], Gap] = {}
        self._filled: set[tuple[int, int, str]] = set()

    def store(self, looked: Sequence[Looked]) -> None:
        for one in looked:
            for landing in one.landings:
                self._take(one, landing)
        Pass.objects.bulk_create(self._passes.values())
        settle(self._settled)
        owners = {figure.owner_id for figure in self._figures} - {owner.pk for owner in self._passes.values()}
        there = set(Figure.objects.filter(owner__in=owners).values_list("owner_id", "metric"))
        if any((figure.owner_id, figure.metric) in there for figure in self._figures):
            raise conflict("This pass has got such a figure meanwhile. Nothing was stored; look again.")
        Figure.objects.bulk_create(self._figures)
        gaps = Gap.objects.filter(test__in={test for test, _, _ in self._filled})
        filled = [pk for pk, *cell in gaps.values_list("pk", "test", "column", "metric") if tuple(cell) in self._filled]
        Gap.objects.filter(pk__in=filled).delete()
        Gap.objects.bulk_create(self._gaps.values(), update_conflicts=True, update_fields=["reason", "by", "batch"])
        held = states(column.configuration for column in self._cells.columns.values())
        store_fingerprints([(owner, held[owner.column.configuration_id]) for owner in self._passes.values()])

    def _take(self, looked: Looked, landing: Landing) -> None:
        typed, reading = looked.typed, landing.reading
        test, column = self._cells.tests[typed.test], self._cells.columns[typed.column]
        cell = (test.pk, column.pk, typed.metric)
        if reading.missing:
            self._gaps[cell] = Gap(
                test=test,
                column=column,
                metric=typed.metric,
                reason=reading.missing,
                by=self._user,
                batch=self._batch,
            )
            return
        place = (test.pk, column.pk, landing.number)
        if landing.new:
            made = self._passes[place] = self._new_pass(test, column, looked, landing)
            if landing.settles is not None:
                self._settled.append((landing.settles, made.pk))
        if reading.value is None:
            return
        metric = typed_metric(test, typed.metric)
        self._figures.append(
            Figure(
                owner=self._passes.get(place) or _on_record(self._cells, place),
                metric=metric.key,
                unit=metric.unit,
                direction=metric.direction,
                scale=metric.scale,
                obtained="typed",
                value=reading.value,
                method=typed.method,
                half_width=reading.half_width,
                step=reading.step,
                bound=reading.bound,
                batch=self._batch,
                method_version=METHOD_VERSION,
            )
        )
        self._filled.add(cell)

    def _new_pass(self, test: Test, column: Column, looked: Looked, landing: Landing) -> Pass:
        now = timezone.now()
        reading = landing.reading
        return Pass(
            id=uuid.uuid5(self._batch, f"{test.pk}.{column.pk}.{landing.number}"),
            test=test,
            column=column,
            number=landing.number,
            origin=Origin.TYPED,
            outcome=reading.outcome,
            note=_note(reading),
            action=reading.action,
            fallback=reading.fallback,
            ran_by=self._hands.ran_by,
            helped_by=self._hands.helped_by,
            started_at=now,
            duration_s=_length_s(test, looked, reading),
            whole_at=now,
            brought_by=self._user,
            run_group=run_group(looked.typed.metric),
            environment=self._stamps.on({}, test, column),
            batch=self._batch,
            part={"done": reading.part[0], "whole": reading.part[1]} if reading.part else None,
            method_version=METHOD_VERSION,
        )


def _on_record(cells: Cells, place: _Place) -> Pass:
    test, column, number = place
    slots = cells.slots[test, column]
    return next(slot.owner for slot in slots if slot.number == number and slot.owner is not None)


def _note(reading: Reading) -> str:
    if reading.reason:
        return reading.reason
    if reading.part is None:
        return "typed in"
    done, whole = reading.part
    return f"typed in; a forecast from {done:g} of {whole:g}, as if all parts were equal"


def _length_s(test: Test, looked: Looked, reading: Reading) -> float | None:
    """How long a typed pass lasted: by its stopwatch, else by the workload; otherwise nobody knows."""
    timed = conversion(looked.unit, "s") if looked.typed.method == "stopwatch" else None
    if timed is not None and reading.value is not None and reading.part is None:
        return timed.of(reading.value)
    return test.workload.duration_s
