"""Making the results of tests, and knowing which are not as their evidence is now."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db import transaction
from django.db.models import F, Q, QuerySet

from nomothet.core import passes
from nomothet.core.comparable import merged
from nomothet.core.errors import BadSample
from nomothet.core.noise import reading_error
from nomothet.core.notes import Note, note
from nomothet.formats.words import Metric
from nomothet.server.analysis.queries import untrusted_metrics
from nomothet.server.evidence.figures import Evidence, PassRow, gather
from nomothet.server.evidence.values import Values
from nomothet.server.matrix.economy import ECONOMY
from nomothet.server.matrix.flags import unlike_claims
from nomothet.server.matrix.results import lens_results, shared_of
from nomothet.server.matrix.rows import held_rates
from nomothet.server.matrix.samples import placements
from nomothet.server.meeting import tried_again
from nomothet.server.passes.tallies import refresh_all
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.shown import LOWS, metric_of, plain_key, row_keys
from nomothet.server.standings.measured_before import note_last_told
from nomothet.server.standings.models import KeptTest, Result
from nomothet.server.systems.states import states
from nomothet.server.versions import content_tag

# Rises when this file makes something else of the same evidence.
_MADE_BY = 1
PER_WATT = "per_watt"
_RATES = ("average_fps", "p50_ms")


def stale_tests() -> QuerySet[Test]:
    """Tests that were run, and whose results are not kept as their evidence is now."""
    refresh_all()
    others = Test.objects.exclude(
        kept_results__stamp=F("stamp"),
        kept_results__review_version=F("review__version"),
        kept_results__workload_edit=F("workload__edit"),
        kept_results__made_by=_MADE_BY,
    )
    return others.filter(Q(tally__last_at__isnull=False) | Q(kept_results__isnull=False))


def keep(tests: Iterable[int]) -> None:
    """Make the results of tests anew, a review at a time."""
    wanted = Test.objects.filter(pk__in=list(tests)).select_related("workload", "review").order_by("review_id", "pk")
    by_review: dict[int, list[Test]] = {}
    for test in wanted:
        by_review.setdefault(test.review_id, []).append(test)
    for found in by_review.values():
        _keep(found[0].review, found)


# Whoever looks at a standing may have kept other results by now, so that the request as a whole is not repeated.
@tried_again
def _keep(review: Review, tests: Sequence[Test]) -> None:
    columns = list(review.columns.select_related("configuration"))
    held = states([column.configuration for column in columns])
    baseline = next((column.pk for column in columns if column.is_baseline), columns[0].pk if columns else None)
    economies = {
        one.test: one.of(ECONOMY)
        for one in lens_results(review, tests, shared_of(review, tests, columns, baseline, held))
    }
    evidence, distrust = gather(review, tests), untrusted_metrics(test.workload_id for test in tests)
    for test in tests:
        cells = _Cells(review, test, columns, evidence, distrust)
        rows = row_keys(test, has_first=evidence.first_runs(test.pk))
        made = [result for shown in rows for result in cells.of(shown)]
        economy = economies[test.pk]
        if economy.source and economy.per_unit:
            per_watt = Metric(PER_WATT, "work per watt", economy.per_unit, "higher", "ratio")
            for column in columns:
                cell = economy.cells.get(str(column.pk))
                if cell is not None and cell.values:
                    values = Values(numbers=list(cell.values), spreads=[0.0] * len(cell.values))
                    made += cells.result(per_watt, PER_WATT, column, values, power_source=economy.source)
        note_last_told(made)
        with transaction.atomic():
            # One at a time, in the order in which passes are brought in: the review comes before its tests. What was
            # changed meanwhile has another stamp, and is stale again.
            Review.objects.select_for_update().get(pk=review.pk)
            KeptTest.objects.update_or_create(
                test=test,
                defaults={
                    "stamp": test.stamp,
                    "review_version": review.version,
                    "workload_edit": test.workload.edit,
                    "made_by": _MADE_BY,
                    "key": test.workload.key,
                    "settings": settings_tag(test.settings),
                    "settings_words": test.detail,
                    "leading": sum(one.leads for one in made),
                },
            )
            Result.objects.filter(test=test).delete()
            Result.objects.bulk_create(made, batch_size=200)


@dataclass(frozen=True)
class _Cells:
    """What the results of a test are made of."""

    review: Review
    test: Test
    columns: Sequence[Column]
    evidence: Evidence
    distrust: Mapping[tuple[int, str], str]

    def of(self, shown: str) -> list[Result]:
        """The results of one row."""
        metric = metric_of(self.test, shown, self.review.low_definition)
        values = self.evidence.values.get((self.test.pk, metric.key), {})
        apart = self.evidence.apart.get((self.test.pk, metric.key), {})
        found = []
        for column in self.columns:
            if column.pk in values:
                found += self.result(metric, shown, column, values[column.pk])
            elif column.pk in apart:
                told = [one.value for one in apart[column.pk]]
                found += self.result(
                    metric, shown, column, Values(numbers=told, spreads=[0.0] * len(told)), note("standing_remembered")
                )
        return found

    def result(
        self, metric: Metric, shown: str, column: Column, values: Values, *apart: Note, power_source: str = ""
    ) -> list[Result]:
        """One result; none where nothing was run."""
        ran = self._ran(column.pk)
        if not ran:
            return []
        reasons = [*apart, *self._reasons(shown, values)]
        numbers = values.numbers
        spread = reading_error(numbers, values.spreads, metric.scale) if values.spreads else 0.0
        try:
            summary = passes.summary(numbers, metric.scale, spread)
            centre, low, high = summary.centre, summary.low, summary.high
        except BadSample:
            centre, low, high = None, None, None
            reasons.append(note("standing_no_ratio"))
        looked_at = self.evidence.looked_at.get((self.test.pk, column.pk), [])
        rate = held_rates(self.evidence, self.test.pk).get(column.pk)
        placed = placements(self.evidence, self.test.pk)
        content = {
            "numbers": numbers,
            "sessions": [placed.get((column.pk, number), (None, None))[1] for number in values.passes]
            or [None] * len(numbers),
            "spread": spread,
            "held": rate if plain_key(shown) in _RATES else None,
            "low_definition": self._definition(shown),
            "power_source": power_source,
            "apart": [[one.code, dict(one.values)] for one in reasons],
            "doubts": [flag.words for flag in unlike_claims(looked_at)],
        }
        return [
            Result(
                review=self.review,
                test=self.test,
                column=column,
                configuration_id=column.configuration_id,
                system_id=column.configuration.system_id,
                workload=self.test.workload,
                key=self.test.workload.key,
                settings=settings_tag(self.test.settings),
                settings_words=self.test.detail,
                metric=shown,
                leads=bool(self.test.shown) and shown == self.test.shown[0],
                label=metric.label,
                unit=metric.unit,
                direction=metric.direction,
                scale=metric.scale,
                n=len(numbers),
                centre=centre,
                low=low,
                high=high,
                first_at=min(ran),
                last_at=max(ran),
                content=content,
                fingerprint=self._fingerprint(column.pk),
            )
        ]

    def _reasons(self, shown: str, values: Values) -> list[Note]:
        found = []
        if any(values.thin):
            found.append(note("thin_tail"))
        if reason := self.distrust.get((self.test.workload_id, shown)):
            found.append(note("untrusted", reason=reason))
        return found

    def _ran(self, column: int) -> list[datetime]:
        cell = (self.test.pk, column)
        return [one.started_at for one in self.evidence.passes if (one.test, one.column) == cell and _in(one)]

    def _definition(self, shown: str) -> str:
        if plain_key(shown) not in LOWS:
            return ""
        return "told" if (self.test.pk, shown) in self.evidence.told else self.review.low_definition

    def _fingerprint(self, column: int) -> dict[str, Any]:
        blocked = self.evidence.blocked.get((self.test.pk, column), {})
        found = self.evidence.looked_at.get((self.test.pk, column), [])
        told = merged(one.fingerprint for one in found if one.number not in blocked)
        # A figure that was typed in carries no more than what its test says.
        settings = {f"setting:{key}": value for key, value in self.test.settings.items()}
        return {"workload": self.test.workload.key, "version": self.test.workload.version, **settings, **told}


def _in(one: PassRow) -> bool:
    return one.outcome == "completed" and not one.set_aside


def settings_tag(settings: Mapping[str, Any]) -> str:
    """A mark of a test's settings, the same wherever they are the same."""
    return content_tag(sorted((key, value) for key, value in settings.items() if value not in (None, "")))
