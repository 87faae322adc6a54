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

import msgspec
from django.core.cache import cache

import nomothet.core
import nomothet.words
from nomothet.core.notes import Note, note
from nomothet.core.settings import acted_on
from nomothet.server.analysis.queries import Rated, rated_of, untrusted_metrics
from nomothet.server.analysis.recorder import recorder_factors
from nomothet.server.evidence import figures
from nomothet.server.evidence.figures import Evidence, gather
from nomothet.server.evidence.returned import Timed
from nomothet.server.matrix.alike import AlikeRow, alike_rows
from nomothet.server.matrix.flags import FlagShape, flagged_passes, flags_of
from nomothet.server.matrix.limits import LimitsRow, limits_rows
from nomothet.server.matrix.progress import Pip, pip_of
from nomothet.server.matrix.rows import Gaps, RowContext, RowShape, row_of
from nomothet.server.passes.gaps import gaps_of
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.shown import metric_of

_KEPT_S = 14 * 24 * 3600


@dataclass(frozen=True)
class Again:
    """The baseline's kept passes of the leading metric with the times they ran, and the other cells' values."""

    metric: str
    timed: list[Timed]
    rest: dict[str, list[float]]


@dataclass(frozen=True)
class Part:
    """A test in all lenses; what is by column has the column's id for its key."""

    test: int
    rows: list[RowShape]
    limits: LimitsRow
    alike: AlikeRow | None
    pips: dict[str, list[Pip]]
    flags: dict[str, list[FlagShape]]
    # Why a cell whose passes are kept has no figures.
    no_figures: dict[str, str]
    again: Again | None
    # When passes ran.
    ran: dict[str, list[datetime]]
    # Kept passes that are still to be computed anew.
    recounting: int


def parts_of(review: Review, tests: Sequence[Test], columns: Sequence[Column], baseline: int | None) -> list[Part]:
    """Every test, in order; only what changed since it was kept is computed."""
    shared = _Shared(
        baseline,
        rated_of(columns),
        untrusted_metrics(test.workload_id for test in tests),
        recorder_factors(review, tests),
        {column.pk: column.label for column in columns},
    )
    keys = {test.pk: _key(review, test, shared) for test in tests}
    found = {key: _decoder().decode(kept) for key, kept in cache.get_many(keys.values()).items()}
    wanted = [test for test in tests if keys[test.pk] not in found]
    if wanted:
        evidence = gather(review, wanted)
        context = _Context(review, evidence, gaps_of(review), shared, _sidelined(review))
        fresh = {keys[test.pk]: context.part(test) for test in wanted}
        # What leans on the noise of other reviews changes with them, and is not kept.
        kept = {key: msgspec.msgpack.encode(part) for key, part in fresh.items() if not _borrows(part)}
        cache.set_many(kept, _KEPT_S)
        found |= fresh
    return [found[keys[test.pk]] for test in tests]


@dataclass(frozen=True)
class _Shared:
    """What all tests of a review depend on beside their own evidence."""

    baseline: int | None
    rated: Mapping[int, Rated]
    distrust: Mapping[tuple[int, str], str]
    recorder: Mapping[tuple[int, str], float]
    labels: Mapping[int, str]


@dataclass(frozen=True)
class _Context:
    review: Review
    evidence: Evidence
    gaps: Gaps
    shared: _Shared
    # Rows whose quantity another instrument counts for.
    sidelined: set[tuple[int, str]]

    def part(self, test: Test) -> Part:
        review, evidence, baseline = self.review, self.evidence, self.shared.baseline
        flags = flags_of(review, test, evidence)
        prints = {
            cell: [one.fingerprint for one in found] for cell, found in evidence.looked_at.items() if cell[0] == test.pk
        }
        accepted = {caveat.aspect: caveat.words for caveat in review.caveats.all()}
        acts_on = {acted_on(aspect) for factor in review.factors for aspect in factor["aspects"]}
        limits = limits_rows([test], evidence.summaries(test.pk), baseline, self.shared.rated, acts_on)[0]
        pips: dict[str, list[Pip]] = defaultdict(list)
        ran: dict[str, list[datetime]] = defaultdict(list)
        flagged = {column: flagged_passes(own) for column, own in flags.items()}
        for row in evidence.passes:
            if row.test == test.pk:
                blocked = evidence.blocked.get((test.pk, row.column), {})
                pips[str(row.column)].append(pip_of(row, flagged.get(row.column, {}), blocked))
                ran[str(row.column)].append(row.started_at)
        return Part(
            test=test.pk,
            rows=[self._row(test, metric, limits) for metric in test.shown],
            limits=limits,
            alike=next(iter(alike_rows(review, accepted, [test.pk], prints, baseline)), None),
            pips=dict(pips),
            flags={str(column): own for column, own in flags.items()},
            no_figures=self._no_figures(test),
            again=self._again(test),
            ran=dict(ran),
            recounting=evidence.recounting[test.pk],
        )

    def _row(self, test: Test, metric: str, limits: LimitsRow) -> RowShape:
        context = RowContext(
            review=self.review,
            evidence=self.evidence,
            baseline=self.shared.baseline,
            gaps=self.gaps,
            labels=self.shared.labels,
            masked={int(column): hidden for column, hidden in limits.masked.items()},
            distrust=self._distrust(test, metric),
            recorder_k=self.shared.recorder.get((test.pk, metric)),
        )
        return row_of(context, test, metric)

    def _distrust(self, test: Test, metric: str) -> Note | None:
        reason = self.shared.distrust.get((test.workload_id, metric))
        if reason:
            return note("untrusted", reason=reason)
        return note("instrument_sidelined") if (test.pk, metric) in self.sidelined else None

    def _no_figures(self, test: Test) -> dict[str, str]:
        return {
            str(column): why
            for (of, column), found in self.evidence.looked_at.items()
            if of == test.pk and (why := next((one.no_figures for one in found if one.no_figures), ""))
        }

    def _again(self, test: Test) -> Again | None:
        baseline = self.shared.baseline
        if not self.review.returns_to_baseline or not test.shown or baseline is None:
            return None
        metric = metric_of(test, test.shown[0], self.review.low_definition)
        cells = self.evidence.values.get((test.pk, metric.key), {})
        own = cells.get(baseline)
        if own is None or any(own.thin):
            return None
        started = {
            row.number: row.started_at for row in self.evidence.passes if (row.test, row.column) == (test.pk, baseline)
        }
        timed = [Timed(started[number], value) for number, value in zip(own.passes, own.numbers, strict=True)]
        rest = {str(column): values.numbers for column, values in cells.items() if column != baseline}
        return Again(metric.key, timed, rest)


def _sidelined(review: Review) -> set[tuple[int, str]]:
    """Of declared pairs of instruments, the rows that do not count."""
    other = {"a": ("test_b_id", "metric_b"), "b": ("test_a_id", "metric_a")}
    return {
        (getattr(pair, other[pair.counts][0]), getattr(pair, other[pair.counts][1]))
        for pair in review.pairs.filter(kind="instrument").exclude(counts="")
    }


def _borrows(part: Part) -> bool:
    return any(row.noise.source not in ("pooled", "own") for row in part.rows if row.cells)


def _key(review: Review, test: Test, shared: _Shared) -> str:
    """Everything that the part depends on: evidence, plan, workload, what parts declare, trust, and the code."""
    trust = sorted((key[1], reason) for key, reason in shared.distrust.items() if key[0] == test.workload_id)
    recorder = sorted((key[1], k) for key, k in shared.recorder.items() if key[0] == test.pk)
    depends = (
        _code(), review.pk, review.version, test.pk, test.stamp, test.workload.edit, shared.baseline, trust, recorder,
        sorted(map(str, shared.rated.items())),
    )  # fmt: skip
    return f"part-{hashlib.sha256(repr(depends).encode()).hexdigest()}"


@once
def _decoder() -> "msgspec.msgpack.Decoder[Part]":
    return msgspec.msgpack.Decoder(Part)


@once
def _code() -> str:
    """A mark of the code that computes parts, so that what other code has computed is not taken for its own."""
    folders = [
        Path(one).parent for one in (nomothet.core.__file__, nomothet.words.__file__, figures.__file__, __file__)
    ]
    files = [file for folder in folders for file in sorted(folder.glob("*.py"))]
    return hashlib.sha256(b"".join(file.read_bytes() for file in files)).hexdigest()
