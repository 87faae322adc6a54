"""What a record holds: all that the public page shows, frozen."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from django.db.models import prefetch_related_objects

from nomothet.core.errors import BadSlots
from nomothet.core.parts import place_label
from nomothet.core.quantities import text_of
from nomothet.core.settings import setting_of
from nomothet.formats.words import GRADES, OUTCOMES
from nomothet.server.analysis.models import Analysis, Hypothesis
from nomothet.server.analysis.sensor_doubts import doubts_of
from nomothet.server.evidence.cell import CaptureShape
from nomothet.server.evidence.picture_pairs import PicturePairShape, picture_pairs
from nomothet.server.evidence.trace import TraceFrame, trace_frame
from nomothet.server.findings.findings import FindingsShape
from nomothet.server.ladders.queries import LadderShape, ladders
from nomothet.server.matrix.export import aside_reasons, comparison_lines, figure_lines, passes_in_order
from nomothet.server.matrix.matrix import MatrixShape, Seen
from nomothet.server.matrix.samples import Sample
from nomothet.server.passes.marks import marks_of
from nomothet.server.passes.models import Mark, Origin, Pass
from nomothet.server.people.models import User
from nomothet.server.records.against import AgainstShape, against
from nomothet.server.records.beside import RecordReference, record_measured_before, record_references
from nomothet.server.records.changes import CorrectionShape, changes
from nomothet.server.records.counted import CountedBy, counted
from nomothet.server.records.effort import EffortShape, effort
from nomothet.server.records.raw_files import AS_USUAL, RawFiles, going_out
from nomothet.server.reviews.models import Review
from nomothet.server.reviews.queries import ReviewShape, review_shape
from nomothet.server.shapes import plain
from nomothet.server.systems.models import System
from nomothet.server.systems.states import ConfigurationState, population, states
from nomothet.server.verdicts.frozen import NumberedFinding, RecordVerdict, frozen
from nomothet.server.verdicts.verdict import VerdictShape
from nomothet.server.workloads.metric_notes import explained

# Rises with the shape of what is stored; records of an earlier one are read through `earlier`.
FORMAT = 8


@dataclass(frozen=True)
class RecordMark:
    """A mark or an impression; `grade` is a word, empty for what is no impression."""

    label: str
    words: str
    grade: str
    start_s: float
    end_s: float | None


@dataclass(frozen=True)
class RecordPicture:
    id: int
    caption: str
    width: int
    height: int
    at_s: float | None


@dataclass(frozen=True)
class RecordPass:
    """A pass as the record shows it."""

    id: str
    test: int
    column: int
    number: int
    outcome: str
    outcome_words: str
    note: str
    set_aside: bool
    reason: str
    # Why it failed is its note; what was done about it, and what was run instead.
    action: str
    fallback: str
    # "first" for a first run after a start.
    run_group: str
    # Who ran it or brought it: a person, or the bench of a system; who helped, and who typed it.
    by: str
    helped_by: str
    typed_by: str
    started_at: datetime
    has_trace: bool
    frame: TraceFrame
    captures: list[CaptureShape]
    marks: list[RecordMark]
    pictures: list[RecordPicture]


@dataclass(frozen=True)
class NamedValue:
    name: str
    value: str


@dataclass(frozen=True)
class RecordConfiguration:
    """What a configuration is made of: its parts at their places, and what is set."""

    column: int
    system: str
    configuration: str
    parts: list[NamedValue]
    settings: list[NamedValue]


@dataclass(frozen=True)
class RecordHypothesis:
    """A possible explanation with what came of it."""

    words: str
    status: str
    grounds: str


@dataclass(frozen=True)
class RecordContent:
    """A published state of a review. Nothing in it changes after publishing."""

    format: int
    review: ReviewShape
    matrix: MatrixShape
    verdict: RecordVerdict
    # What the verdict names, and what else is pinned; with charts and tables.
    findings: list[NumberedFinding]
    hypotheses: list[RecordHypothesis]
    configurations: list[RecordConfiguration]
    passes: list[RecordPass]
    # The most demanding settings that meet the targets, by ladder and configuration.
    ladders: list[LadderShape]
    # What is said of pictures beside each other.
    picture_pairs: list[PicturePairShape]
    # Each row against every other baseline that a reader may choose, by column id, row key and column id.
    against: dict[str, dict[str, dict[str, AgainstShape]]]
    effort: EffortShape
    # What metrics mean, in words for readers.
    metric_notes: dict[str, str]
    # By which rules the frames of each pass were counted, by pass.
    counted: dict[str, CountedBy]
    # What comparisons are made of, by row key and column id.
    samples: dict[str, dict[str, Sample]]
    # What changed since the edition before, figure by figure.
    changes: list[CorrectionShape]
    # Results from elsewhere beside those of the review, and what of these was measured before an update.
    references: list[RecordReference]
    measured_before: list[str]
    # Everybody who ran, typed in or brought a pass, and the benches that ran some.
    measured_by: list[str]
    published_by: str
    published_at: datetime


def record_content(
    review: Review,
    whole: Seen,
    verdict: VerdictShape,
    found: FindingsShape,
    user: User,
    now: datetime,
    before: Mapping[str, Any] | None = None,
    raw: RawFiles = AS_USUAL,
) -> dict[str, Any]:
    """The content of a new edition, as plain JSON; the figures are kept as the CSV that readers can download.

    Parameters
    ----------
    before : mapping, optional
        The content of the edition that this one corrects.
    """
    matrix, found_passes = whole.shown, list(passes_in_order(review))
    prefetch_related_objects(found_passes, "pictures")
    passes = _passes(review, found_passes, raw)
    concluded, numbered = frozen(verdict, found)
    content = RecordContent(
        format=FORMAT,
        review=review_shape(review),
        # What was paid for parts is for the team.
        matrix=replace(matrix, economy=[], prices={}),
        verdict=concluded,
        findings=numbered,
        hypotheses=[
            RecordHypothesis(one.words, one.status, one.grounds) for one in Hypothesis.objects.filter(review=review)
        ],
        configurations=_configurations(review),
        passes=passes,
        ladders=ladders(review, matrix),
        picture_pairs=picture_pairs(review),
        against=against(review, matrix),
        effort=effort(review, found_passes),
        metric_notes=explained((row.metric, row.unit) for row in matrix.rows),
        counted=counted(review, found_passes),
        samples={row.key: sample for row in matrix.rows if (sample := whole.samples[row.test].metrics.get(row.metric))},
        changes=[],
        references=record_references(review, matrix.baseline),
        measured_before=record_measured_before(review),
        measured_by=list(dict.fromkeys(name for one in passes for name in (one.by, one.helped_by) if name)),
        published_by=user.display_name,
        published_at=now,
    )
    if before is not None:
        content = replace(content, changes=changes(before, plain(content)))
    return {
        **plain(content),
        "figures_csv": "".join(figure_lines(review, found_passes)),
        "comparisons_csv": "".join(comparison_lines(review, matrix)),
    }


def _passes(review: Review, found: Sequence[Pass], raw: RawFiles) -> list[RecordPass]:
    captures: dict[object, list[CaptureShape]] = {}
    for series in going_out(review, raw).defer("blob").order_by("pk"):
        captures.setdefault(series.owner_id, []).append(
            CaptureShape(series.pk, series.name, series.kind, series.unit, series.place, series.source, series.size)
        )
    contents = dict(Analysis.objects.filter(owner__test__review=review).values_list("owner", "content"))
    marks = marks_of([owner.pk for owner in found])
    noted, aside = doubts_of(found), aside_reasons(review)
    return [
        _pass(
            owner,
            aside.get(owner.pk, ""),
            captures.get(owner.pk, []),
            trace_frame(owner.test, contents.get(owner.pk, {}), noted[owner.pk]),
            marks.get(str(owner.pk), []),
        )
        for owner in found
    ]


def _pass(
    owner: Pass, aside_why: str, captures: list[CaptureShape], frame: TraceFrame, marks: list[Mark]
) -> RecordPass:
    return RecordPass(
        id=str(owner.pk),
        test=owner.test_id,
        column=owner.column_id,
        number=owner.number,
        outcome=owner.outcome,
        outcome_words=OUTCOMES[owner.outcome],
        note=owner.note,
        set_aside=owner.set_aside,
        reason=aside_why,
        action=owner.action,
        fallback=owner.fallback,
        run_group=owner.run_group,
        by=owner.who_ran,
        helped_by=owner.helped_by,
        typed_by=owner.brought_by.display_name if owner.brought_by and owner.origin == Origin.TYPED else "",
        started_at=owner.started_at,
        has_trace=any(capture.kind == "frames" for capture in captures),
        frame=frame,
        captures=captures,
        marks=[
            RecordMark(
                mark.label, mark.words, "" if mark.grade is None else GRADES[mark.grade], mark.start_s, mark.end_s
            )
            for mark in marks
        ],
        pictures=[RecordPicture(one.pk, one.caption, one.width, one.height, one.at_s) for one in owner.pictures.all()],
    )


def _configurations(review: Review) -> list[RecordConfiguration]:
    columns = list(review.columns.select_related("configuration__system"))
    held = states([column.configuration for column in columns])
    return [
        RecordConfiguration(
            column=column.pk,
            system=column.configuration.system.name,
            configuration=column.configuration.title,
            parts=_parts(column.configuration.system, held[column.configuration_id]),
            settings=[
                NamedValue(setting_of(key).spec.label, text_of(setting_of(key).spec, value))
                for key, value in held[column.configuration_id].settings.items()
            ],
        )
        for column in columns
    ]


def _parts(system: System, state: ConfigurationState) -> list[NamedValue]:
    parts = [NamedValue(place_label(place), fit.words) for place, fit in state.fitted.items()]
    if not state.slots:
        return parts
    try:
        memory = population(system, state.slots, state.settings)
    except BadSlots:
        # Slots that the system no longer has stand in the list all the same.
        return parts
    words = f"{memory.capacity_gb:g} GB in {memory.modules} modules on {memory.channels} channels"
    return [*parts, NamedValue("memory", words)]
