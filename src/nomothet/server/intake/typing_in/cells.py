"""What is typed, where it would land, and the cells of a review as they are before."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from nomothet.core.noise import pooled_noise
from nomothet.core.readings import Reading
from nomothet.formats.words import Metric
from nomothet.server.analysis.queries import rated_clocks
from nomothet.server.docket.commands import next_numbers, owed_in
from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Origin, Pass
from nomothet.server.passes.noise import borrowed_noises
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.shown import LOWS, metric_of, plain_key, run_group, told_low


@dataclass(frozen=True)
class Typed:
    """What somebody typed for one cell and metric, and how the reading was taken."""

    test: int
    column: int
    metric: str
    text: str
    method: str = ""
    half_width: float | None = None
    # The number of the pass that it belongs to, where somebody says so.
    onto: int | None = None
    # The run of a pasted table that it begins with: figures of one run of a cell are of one pass.
    run: int | None = None


@dataclass(frozen=True)
class Hands:
    """Who ran what is typed, where that is not who types it, and who helped or ran it elsewhere."""

    ran_by: str = ""
    helped_by: str = ""


# Whoever types it ran it, alone.
NOBODY_ELSE = Hands()


@dataclass(frozen=True)
class Landing:
    """Where one reading would go: the number of the pass, and whether that pass is there already."""

    reading: Reading
    number: int
    new: bool
    warnings: list[str]
    # The owed pass that it settles.
    settles: Entry | None = None


@dataclass(frozen=True)
class Looked:
    """What typed text would become, or why it cannot be taken."""

    typed: Typed
    unit: str = ""
    landings: list[Landing] = field(default_factory=list)
    error: str = ""
    # The row was never told how its readings are taken.
    asks_method: bool = False


@dataclass
class Slot:
    """A pass of a cell, on record or about to be made, with its figures by metric."""

    number: int
    figures: dict[str, float]
    joinable: bool
    kept: bool
    owner: Pass | None = None
    run_group: str = ""

    @property
    def captured(self) -> bool:
        """Whether it came from a bench or a file."""
        return self.owner is not None and self.owner.origin != Origin.TYPED


# Test, column and group of passes.
RunsOf = tuple[int, int, str]


def runs_of(typed: Typed) -> RunsOf:
    return typed.test, typed.column, run_group(typed.metric)


class Cells:
    """Tests, columns and passes of a review, read once for a whole block; what lands is noted as it lands."""

    def __init__(self, review: Review, typed: Sequence[Typed], *, lock: bool = False) -> None:
        self.review = review
        self.tests = {test.pk: test for test in review.tests.select_related("workload", "review")}
        self.columns = {column.pk: column for column in review.columns.select_related("configuration")}
        self.slots: dict[tuple[int, int], list[Slot]] = {}
        # What a pasted table has of a cell, and the pass that each of its runs became.
        self.pasted: dict[RunsOf, set[str]] = {}
        self.of_run: dict[tuple[RunsOf, int], Slot] = {}
        for one in typed:
            if one.run is not None and one.test in self.tests:
                metric = typed_metric(self.tests[one.test], one.metric).key
                self.pasted.setdefault(runs_of(one), set()).add(metric)
        wanted = {one.test for one in typed}
        found = Pass.objects.whole().filter(test__in=wanted).prefetch_related("figures")
        for owner in found.order_by("number", "started_at"):
            kept = owner.counts
            joinable = kept and not owner.attempts
            figures = {figure.metric: figure.value for figure in owner.figures.all()}
            slot = Slot(owner.number, figures, joinable, kept, owner, owner.run_group)
            self.slots.setdefault((owner.test_id, owner.column_id), []).append(slot)
        self._next = next_numbers(wanted)
        self._owed = owed_in(wanted, lock=lock)
        self._borrowed: dict[tuple[int, str], float | None] = {}
        self._rated: Mapping[int, float | None] | None = None

    def values(self, test: int, column: int, metric: str, group: str = "") -> list[float]:
        """Values on record; what is only about to be stored is not held against itself."""
        slots = [slot for slot in self.slots.get((test, column), []) if slot.run_group == group]
        return [slot.figures[metric] for slot in slots if slot.kept and slot.owner and metric in slot.figures]

    def next_number(self, test: Test, column: Column) -> tuple[int, Entry | None]:
        """A number for a pass about to be made, with the owed pass that it settles."""
        cell = (test.pk, column.pk)
        owed = self._owed.get(cell)
        if owed:
            entry = owed.pop(0)
            return entry.number, entry
        number = self._next.get(cell, 1)
        self._next[cell] = number + 1
        return number, None

    def rated_mhz(self, column: int) -> float | None:
        """What the processor of a configuration is rated for; two queries for all columns."""
        if self._rated is None:
            self._rated = rated_clocks(self.columns.values())
        return self._rated.get(column)

    def spread(self, test: Test, metric: Metric) -> float | None:
        """Noise of the row, or of earlier reviews where the row has none."""
        cells = [self.values(test.pk, column, metric.key) for column in self.columns]
        if metric.scale == "ratio":
            cells = [[value for value in cell if value > 0] for cell in cells]
        noise = pooled_noise(cells, metric.scale)
        if noise.source != "unknown":
            return noise.sd
        key = (test.workload_id, metric.key)
        if key not in self._borrowed:
            found = borrowed_noises([(*key, metric.scale)], self.review).get(key)
            self._borrowed[key] = found.sd if found else None
        return self._borrowed[key]


def typed_metric(test: Test, shown: str) -> Metric:
    """What a typed figure of a row measures: a low that a tool has shown is as that tool says, whatever the review's
    definition."""
    plain = plain_key(shown)
    return told_low(plain) if plain in LOWS else metric_of(test, plain, test.review.low_definition)


def typed_of(cells: Iterable[Mapping[str, Any]]) -> list[Typed]:
    return [Typed(**cell) for cell in cells]
