"""What the lenses show of one test: computed once, kept until something that it depends on changes.

A change of one pass computes its own test anew; all other tests of the review are read back as they were.
"""

import hashlib
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cache as once
from pathlib import Path
from typing import Any

from django.core.cache import cache

import nomothet.core
from nomothet.server.analysis.queries import Rated, rated_of, untrusted_metrics
from nomothet.server.matrix.alike import AlikeRow, alike_rows
from nomothet.server.matrix.figures import Evidence, gather
from nomothet.server.matrix.flags import flags_of
from nomothet.server.matrix.limits import LimitsRow, limits_rows
from nomothet.server.matrix.progress import Pip, pip_of
from nomothet.server.matrix.rows import Gaps, RowShape, row_of
from nomothet.server.passes.models import Origin
from nomothet.server.passes.typed import gaps_of
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.shown import metric_of
from nomothet.server.shapes import plain

_KEPT_S = 14 * 24 * 3600


@dataclass(frozen=True)
class Again:
    """The baseline's kept passes of the leading metric with the times they ran, and the other cells' values."""

    metric: str
    timed: list[tuple[datetime, float]]
    rest: dict[str, list[float]]


@dataclass(frozen=True)
class Part:
    """A test in all lenses. `last` is when a bench last ran a pass of it, by column."""

    test: int
    rows: list[RowShape]
    limits: LimitsRow
    alike: AlikeRow | None
    pips: dict[str, list[Pip]]
    notes: dict[str, list[str]]
    again: Again | None
    last: dict[str, datetime]
    # Kept passes that are still to be computed anew.
    recounting: int


def parts_of(review: Review, tests: Sequence[Test], columns: Sequence[Column], baseline: int | None) -> list[Any]:
    """Every test as plain data, in order; only what changed since it was kept is computed."""
    rated = rated_of(columns)
    distrust = untrusted_metrics(test.workload_id for test in tests)
    keys = {test.pk: _key(review, test, baseline, rated, distrust) for test in tests}
    held = cache.get_many(keys.values())
    wanted = [test for test in tests if keys[test.pk] not in held]
    if wanted:
        evidence = gather(review, wanted)
        accepted = {caveat.aspect: caveat.words for caveat in review.caveats.all()}
        context = _Context(review, evidence, gaps_of(review), accepted, baseline, rated, distrust, _sidelined(review))
        fresh = {keys[test.pk]: context.part(test) for test in wanted}
        # What leans on the noise of other reviews changes with them, and is not kept.
        cache.set_many({key: part for key, part in fresh.items() if not _borrows(part)}, _KEPT_S)
        held |= fresh
    return [held[keys[test.pk]] for test in tests]


@dataclass(frozen=True)
class _Context:
    review: Review
    evidence: Evidence
    gaps: Gaps
    accepted: Mapping[str, str]
    baseline: int | None
    rated: Mapping[int, Rated]
    distrust: Mapping[tuple[int, str], str]
    # Rows whose quantity another instrument counts for.
    sidelined: set[tuple[int, str]]

    def part(self, test: Test) -> Any:
        review, evidence = self.review, self.evidence
        flagged, notes = flags_of(review, test, evidence)
        own = {cell: found for cell, found in evidence.summaries.items() if cell[0] == test.pk}
        prints = {cell: found for cell, found in evidence.fingerprints.items() if cell[0] == test.pk}
        pips: dict[str, list[Pip]] = defaultdict(list)
        last: dict[str, datetime] = {}
        for row in evidence.passes:
            if row.test != test.pk:
                continue
            column = str(row.column)
            pips[column].append(pip_of(row, flagged.get(row.column, {})))
            if row.origin == Origin.BENCH:
                last[column] = max(row.started_at, last.get(column, row.started_at))
        part = Part(
            test=test.pk,
            rows=[self._row(test, metric) for metric in test.shown],
            limits=limits_rows([test], own, self.baseline, self.rated)[0],
            alike=next(iter(alike_rows(review, self.accepted, [test.pk], prints, self.baseline)), None),
            pips=dict(pips),
            notes={str(column): words for column, words in notes.items()},
            again=self._again(test),
            last=last,
            recounting=evidence.recounting[test.pk],
        )
        return {**plain(part), "last": last, "again": part.again}

    def _row(self, test: Test, metric: str) -> RowShape:
        untrusted = self.distrust.get((test.workload_id, metric), "")
        if not untrusted and (test.pk, metric) in self.sidelined:
            untrusted = "another instrument counts for this quantity"
        return row_of(self.review, test, metric, self.evidence, self.baseline, self.gaps, untrusted)

    def _again(self, test: Test) -> Again | None:
        if not self.review.returns_to_baseline or not test.shown or self.baseline is None:
            return None
        metric = metric_of(test, test.shown[0], self.review.low_definition)
        cells = self.evidence.values.get((test.pk, metric.key), {})
        own = cells.get(self.baseline)
        if own is None or any(own.thin):
            return None
        started = {
            row.number: row.started_at
            for row in self.evidence.passes
            if row.test == test.pk and row.column == self.baseline
        }
        timed = [(started[number], value) for number, value in zip(own.passes, own.numbers, strict=True)]
        rest = {str(column): values.numbers for column, values in cells.items() if column != self.baseline}
        return Again(metric.key, timed, rest)


def _sidelined(review: Review) -> set[tuple[int, str]]:
    """Of declared pairs of instruments, the rows that do not count."""
    other = {"a": ("test_b_id", "metric_b"), "b": ("test_a_id", "metric_a")}
    return {
        (getattr(pair, other[pair.counts][0]), getattr(pair, other[pair.counts][1]))
        for pair in review.pairs.filter(kind="instrument").exclude(counts="")
    }


def _borrows(part: Any) -> bool:
    return any(row["noise"]["source"] != "pooled" for row in part["rows"] if row["cells"])


def _key(
    review: Review,
    test: Test,
    baseline: int | None,
    rated: Mapping[int, Rated],
    distrust: Mapping[tuple[int, str], str],
) -> str:
    """Everything that the part depends on: evidence, plan, workload, what parts declare, trust, and the code."""
    trust = sorted((key[1], reason) for key, reason in distrust.items() if key[0] == test.workload_id)
    depends = (
        _code(), review.pk, review.version, test.pk, test.stamp, test.workload.edit, baseline, trust,
        sorted(map(str, rated.items())),
    )  # fmt: skip
    return f"part-{hashlib.sha256(repr(depends).encode()).hexdigest()}"


@once
def _code() -> str:
    """A mark of the code that computes parts, so that what other code has computed is not taken for its own."""
    files = [
        file
        for folder in (Path(nomothet.core.__file__).parent, Path(__file__).parent)
        for file in sorted(folder.glob("*.py"))
    ]
    return hashlib.sha256(b"".join(file.read_bytes() for file in files)).hexdigest()
