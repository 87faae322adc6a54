"""Reviews as the screens show them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Case, F, Max, Min, Q, QuerySet, When
from django.db.models.functions import Coalesce, Least

from nomothet.core.margins import DIFFERENCE_MARGINS
from nomothet.core.parts import ORIGINS
from nomothet.server.reviews.differences import Compared, Differences, compared, differences
from nomothet.server.reviews.expectations import Expectation, expectations_of
from nomothet.server.reviews.levels import FactorShape, factors_of
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.short_names import short_names
from nomothet.server.systems.models import Configuration
from nomothet.server.systems.states import ConfigurationState
from nomothet.server.versions import content_tag
from nomothet.server.workloads.names import edition_names


@dataclass(frozen=True)
class ColumnShape:
    """A configuration in a review. `position` chooses the seal: 0 is A, 1 is B …"""

    id: int
    position: int
    label: str
    note: str
    # Its place in a chain of steps; null where it is in none.
    step: int | None
    # What If-Match wants when it is edited.
    tag: str
    is_baseline: bool
    system: str
    system_id: int
    system_key: str
    configuration: str
    configuration_id: int
    revision: int
    blocked: str
    latest: int | None
    # The column that it continues, its machine having been changed in the middle.
    continues: int | None
    levels: dict[str, str]
    has_passes: bool
    settings: dict[str, Any]


@dataclass(frozen=True)
class TestShape:
    id: int
    name: str
    workload: int
    version: str
    kind: str
    detail: str
    # What tells it from the other tests of its workload.
    short: str
    isolates: str
    has_passes: bool
    settings: dict[str, Any]
    shown: list[str]
    # Metrics that people added to it.
    metrics: list[dict[str, Any]]
    # Targets of its own by metric, null for none; "no_failure" is true or false.
    targets: dict[str, Any]
    # Where its power is told; empty for what most passes have.
    power: str
    skip_s: float
    end_cut_s: float
    # Which marked spans count of every pass: {"rule", "labels"}; empty for all of it.
    counts: dict[str, Any]
    procedure: str
    # What If-Match wants when it is edited.
    tag: str


@dataclass(frozen=True)
class RecordShape:
    slug: str
    edition: int
    published_at: datetime
    published_by: str
    change_note: str
    # Why it was withdrawn; empty where it stands.
    withdrawn: str


@dataclass(frozen=True)
class ReviewShape:
    """A review with its brief; `version` is what If-Match wants."""

    id: int
    key: str
    question: str
    expectation: str
    audience: str
    varies: str
    constant: str
    margin: float
    # On the difference scale, by quantity: the review's own margins and the usual ones.
    margins: dict[str, float]
    low_definition: str
    target_fps: float | None
    passes_per_test: int
    decision: str
    constraints: str
    disclosure: str
    skill_note: str
    expectation_at: datetime | None
    # In a form that can be held against the data.
    expectations: list[Expectation]
    first_pass_at: datetime | None
    # Whether a bench's clock was off, so that the server's time stands for its.
    times_doubtful: bool
    target_c: float | None
    target_s: float | None
    targets: dict[str, float]
    target_no_failure: bool
    single: bool
    expected_effect: float | None
    returns_to_baseline: bool
    asks_price: bool
    archived_at: datetime | None
    factors: list[FactorShape]
    # What If-Match wants when all factors are set at once.
    factors_tag: str
    origins: list[str]
    editor: str
    created_at: datetime
    version: int
    columns: list[ColumnShape]
    tests: list[TestShape]
    differences: Differences
    records: list[RecordShape]


def column_tag(column: Column) -> str:
    """A mark of what an edit of a configuration in a review can change."""
    return content_tag(column.label, column.note, column.step, column.configuration_id)


def test_tag(test: Test) -> str:
    """A mark of what an edit of a test can change."""
    cuts = (test.skip_s, test.end_cut_s, test.counts, test.power)
    return content_tag(test.settings, test.detail, test.isolates, test.shown, test.targets, *cuts)


def factors_tag(review: Review) -> str:
    """A mark of all factors of a review with the levels of its configurations."""
    return content_tag(review.factors, sorted(review.columns.values_list("pk", "levels")))


def _first_pass(review: Review) -> tuple[datetime | None, bool]:
    """When its first pass began at the earliest, and whether a time of any is doubtful: such a time gives way to the
    server's own, and no time is later than the server knows."""
    known = Coalesce(F("passes__taken_at"), F("passes__whole_at"))
    began = Case(When(passes__time_doubtful=True, then=known), default=Least(F("passes__started_at"), known))
    found = review.tests.filter(passes__isnull=False).aggregate(
        first=Min(began, filter=Q(passes__whole_at__isnull=False)), doubtful=Max("passes__time_doubtful")
    )
    return found["first"], bool(found["doubtful"])


def _with_passes(things: "QuerySet[Any]") -> set[int]:
    """Keys of the tests or columns that have passes."""
    return set(things.filter(passes__isnull=False).order_by().values_list("pk", flat=True).distinct())


def review_shape(review: Review, known: Compared | None = None) -> ReviewShape:
    """One review with its brief, its plan and the difference table.

    Parameters
    ----------
    known : Compared, optional
        Its columns side by side, where the caller has them already.
    """
    side_by_side = known or compared(review)
    columns, held = side_by_side.columns, side_by_side.held
    factors, levels = factors_of(review, side_by_side)
    tests = list(review.tests.select_related("workload"))
    names = edition_names(test.workload for test in tests)
    short = short_names(tests)
    with_passes = (
        _with_passes(review.tests.all()),
        _with_passes(review.columns.all()),
    )
    latest: dict[int, int] = {
        old: new
        for new, old in Configuration.objects.filter(replaces__in=[c.configuration_id for c in columns]).values_list(
            "pk", "replaces"
        )
        if old is not None
    }
    records = review.records.defer("content")
    first_pass_at, times_doubtful = _first_pass(review)
    return ReviewShape(
        id=review.pk,
        key=review.key,
        question=review.question,
        expectation=review.expectation,
        audience=review.audience,
        varies=", ".join(factor["name"] for factor in review.factors),
        constant=review.constant,
        margin=review.margin,
        margins={name: review.margins.get(name, usual) for name, (_, usual) in DIFFERENCE_MARGINS.items()},
        low_definition=review.low_definition,
        target_fps=review.target_fps,
        passes_per_test=review.passes_per_test,
        decision=review.decision,
        constraints=review.constraints,
        disclosure=review.disclosure,
        skill_note=review.skill_note,
        expectation_at=review.expectation_at,
        expectations=expectations_of(review),
        first_pass_at=first_pass_at,
        times_doubtful=times_doubtful,
        target_c=review.target_c,
        target_s=review.target_s,
        targets=review.targets,
        target_no_failure=review.target_no_failure,
        single=review.single,
        expected_effect=review.expected_effect,
        returns_to_baseline=review.returns_to_baseline,
        asks_price=review.asks_price,
        archived_at=review.archived_at,
        factors=factors,
        factors_tag=factors_tag(review),
        origins=_origins(columns, held),
        editor=review.editor.display_name,
        created_at=review.created_at,
        version=review.version,
        columns=[
            ColumnShape(
                id=column.pk,
                position=column.position,
                label=column.label,
                note=column.note,
                step=column.step,
                tag=column_tag(column),
                is_baseline=column.is_baseline,
                system=column.configuration.system.name,
                system_id=column.configuration.system_id,
                system_key=column.configuration.system.key,
                configuration=column.configuration.name,
                configuration_id=column.configuration_id,
                revision=column.configuration.revision,
                blocked=column.configuration.blocked,
                latest=latest.get(column.configuration_id),
                continues=column.continues_id,
                levels=levels[at],
                has_passes=column.pk in with_passes[1],
                settings=held[column.configuration_id].settings,
            )
            for at, column in enumerate(columns)
        ],
        tests=[
            TestShape(
                id=test.pk,
                name=names[test.workload_id],
                workload=test.workload_id,
                isolates=test.isolates,
                has_passes=test.pk in with_passes[0],
                version=test.workload.version,
                kind=test.workload.kind,
                detail=test.detail,
                short=short[test.pk],
                settings=test.settings,
                shown=test.shown,
                metrics=test.metrics,
                targets=test.targets,
                power=test.power,
                skip_s=test.skip_s,
                end_cut_s=test.end_cut_s,
                counts=test.counts,
                procedure=test.workload.procedure,
                tag=test_tag(test),
            )
            for test in tests
        ],
        differences=differences(review, side_by_side),
        records=[
            RecordShape(r.slug, r.edition, r.published_at, r.publisher, r.change_note, r.withdrawn_why) for r in records
        ],
    )


# So many things of one origin are named.
_MOST_NAMED = 4


def _origins(columns: Sequence[Column], held: Mapping[int, ConfigurationState]) -> list[str]:
    """Where every machine and part comes from, by origin: carried to the record as disclosure."""
    told: dict[str, dict[str, None]] = {}
    for column in columns:
        system = column.configuration.system
        things: list[tuple[str, str, str]] = [(system.name, system.origin, system.origin_note)]
        things += [
            (fit.part.name, fit.part.origin, fit.part.origin_note)
            for fit in held[column.configuration_id].fitted.values()
        ]
        for name, origin, note in things:
            told.setdefault(origin, {})[f"{name}, {note}" if note else name] = None
    return [_of_origin(origin, list(told[origin])) for origin in ORIGINS if origin in told]


def _of_origin(origin: str, names: Sequence[str]) -> str:
    head = "origin not said" if origin == ORIGINS[0] else origin
    # Only what was plainly bought needs no full list.
    most = _MOST_NAMED if origin in ("bought", ORIGINS[0]) else len(names)
    more = f" and {len(names) - most} more" if len(names) > most else ""
    return f"{head}: {'; '.join(names[:most])}{more}"
