"""The cell pane: the passes of a cell with their figures, captures and history."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import numpy as np
from django.db.models import Prefetch

from nomothet.core.frames import Floats, frame_figures
from nomothet.formats.series import unpack
from nomothet.formats.words import FRAME_METRICS, OUTCOMES
from nomothet.server.analysis.computing import rules_of
from nomothet.server.analysis.models import AsideRange
from nomothet.server.analysis.own_figures import PAIR
from nomothet.server.evidence.pooled_lows import PooledLowShape, pooled_lows
from nomothet.server.evidence.stability import stability
from nomothet.server.passes.clocks import doubt_of
from nomothet.server.passes.marks import marks_of
from nomothet.server.passes.models import Origin, Pass, Picture, Series
from nomothet.server.passes.told import told_of
from nomothet.server.reviews.models import Column, Test
from nomothet.server.reviews.shown import LOWS, told_low
from nomothet.server.workloads.models import Kind
from nomothet.words import say, say_stored


@dataclass(frozen=True)
class FigureShape:
    metric: str
    label: str
    value: float
    unit: str
    direction: str
    obtained: str
    thin: bool
    method: str
    half_width: float | None
    bound: str


@dataclass(frozen=True)
class CaptureShape:
    id: int
    name: str
    kind: str
    unit: str
    place: str
    source: str
    bytes: int


@dataclass(frozen=True)
class RemarkShape:
    act: str
    reason: str
    by: str
    at: datetime


@dataclass(frozen=True)
class MarkedShape:
    """A mark on a pass; a span of frames has its own average and 1 % low."""

    id: int
    label: str
    words: str
    grade: int | None
    start_s: float
    end_s: float | None
    by: str
    average_fps: float | None
    low_1pct: float | None
    low_thin: bool


@dataclass(frozen=True)
class PictureShape:
    id: int
    caption: str
    width: int
    height: int
    at_s: float | None
    by: str


@dataclass(frozen=True)
class RangeShape:
    """A range of a pass set aside; `back_by` is empty while it is."""

    id: int
    start_s: float
    end_s: float
    reason: str
    by: str
    at: datetime
    back_by: str
    back_at: datetime | None


@dataclass(frozen=True)
class PassStepShape:
    """A step of a pass by hand; `at` is empty where it was not ticked."""

    kind: str
    words: str
    at: str
    by: str
    observed: float | None
    unit: str
    fits: bool


@dataclass(frozen=True)
class PassShape:
    """One pass with everything that is known about it."""

    id: str
    number: int
    origin: str
    outcome: str
    outcome_words: str
    note: str
    started_at: datetime
    # Why that time is doubtful, in words.
    time_doubt: str
    # Null where nobody knows.
    duration_s: float | None
    set_aside: bool
    # Whether it counts: whole, completed, not set aside, no part of a recorder pair.
    kept: bool
    method_version: int | None
    environment: dict[str, Any]
    figures: list[FigureShape]
    captures: list[CaptureShape]
    remarks: list[RemarkShape]
    marks: list[MarkedShape]
    pictures: list[PictureShape]
    attempts: int
    # Of a soak, whether it was stable and why not, in words.
    stability: str
    # Ranges of time that were set aside, also those that count again.
    ranges: list[RangeShape]
    # What the core found in it, as core.pass_analysis says it; nothing for a typed pass.
    analysis: dict[str, Any]
    # Whether its figures still follow earlier cuts, spans or target.
    recounting: bool
    # Why frames gave no figures.
    no_figures: str
    # "off" or "on" for a pass that was run to learn what recording costs.
    recorder: str
    # "first" for a first run after a start.
    run_group: str
    # What was done about a failure, and what was run instead.
    action: str
    fallback: str
    # Who ran it, who helped or ran it elsewhere, and who brought it; as typed, and in words.
    ran_by: str
    helped_by: str
    # The entity tag of what people have told of it, for the next telling.
    told_tag: str
    brought_by: str
    # Of a pass by hand, its steps with their ticks.
    steps: list[PassStepShape]


@dataclass(frozen=True)
class CellDetail:
    test: int
    column: int
    passes: list[PassShape]
    pooled_lows: list[PooledLowShape]


def cell_detail(test: Test, column: Column) -> CellDetail:
    """The passes of a cell; ten queries, one more where a span is marked, and three where a low is thin."""
    found = list(
        Pass.objects.filter(test=test, column=column)
        .exclude(whole_at=None)
        .select_related("analysis", "brought_by", "bench__system")
        .prefetch_related(
            "figures",
            "remarks__by",
            "ranges__by",
            "ranges__back_by",
            Prefetch("pictures", Picture.objects.defer("blob", "thumbnail").select_related("by")),
        )
        .order_by("number", "started_at")
    )
    captures: dict[str, list[CaptureShape]] = {}
    for series in Series.objects.filter(owner__in=found).defer("blob").order_by("pk"):
        shape = CaptureShape(series.pk, series.name, series.kind, series.unit, series.place, series.source, series.size)
        captures.setdefault(str(series.owner_id), []).append(shape)
    labels = {known["key"]: known["label"] for known in [*test.workload.metrics, *test.metrics]}
    labels |= {told.key: told.label for told in map(told_low, LOWS)}
    marked = _marks(test, found)
    passes = [_pass_shape(test, owner, captures.get(str(owner.pk), []), labels, marked) for owner in found]
    return CellDetail(test.pk, column.pk, passes, pooled_lows(test, found))


def _marks(test: Test, found: list[Pass]) -> dict[str, list[MarkedShape]]:
    """Marks by pass, with the figures of spans; frames are read only for passes that have spans."""
    marked: dict[str, list[MarkedShape]] = {}
    definition = test.review.low_definition
    held = marks_of([owner.pk for owner in found])
    spanned = [owner for owner in found if any(mark.end_s is not None for mark in held.get(str(owner.pk), []))]
    recorded = {one.owner_id: one for one in Series.objects.filter(owner__in=spanned, kind="frames")} if spanned else {}
    for owner in found:
        pass_id = str(owner.pk)
        marks = held.get(pass_id, [])
        frames = None
        series = recorded.get(owner.pk)
        if series is not None and (content := series.content):
            times = unpack(content)["frame_ms"].astype(float)
            frames = (times, series.starts_at_s + np.cumsum(times) / 1000)
        for mark in marks:
            average, low, thin = _span_figures(frames, mark.start_s, mark.end_s, definition)
            by = mark.by.display_name if mark.by else ""
            shape = MarkedShape(
                mark.pk, mark.label, mark.words, mark.grade, mark.start_s, mark.end_s, by, average, low, thin
            )
            marked.setdefault(pass_id, []).append(shape)
    return marked


def _span_figures(
    frames: tuple[Floats, Floats] | None, start_s: float, end_s: float | None, definition: str
) -> tuple[float | None, float | None, bool]:
    """Average and 1 % low of the frames that end within a span."""
    if frames is None or end_s is None:
        return None, None, False
    times, ends = frames
    inside = times[(ends > start_s) & (ends <= end_s)]
    if not len(inside):
        return None, None, False
    figures = frame_figures(inside)
    return figures.average_fps, float(getattr(figures.low_1pct, definition)), figures.low_1pct.thin


def _pass_shape(
    test: Test, owner: Pass, captures: list[CaptureShape], labels: dict[str, str], marked: dict[str, list[MarkedShape]]
) -> PassShape:
    found = getattr(owner, "analysis", None)
    return PassShape(
        id=str(owner.pk),
        number=owner.number,
        origin=owner.origin,
        outcome=owner.outcome,
        outcome_words=OUTCOMES[owner.outcome],
        note=owner.note,
        started_at=owner.started_at,
        time_doubt=say(doubt) if (doubt := doubt_of(owner)) else "",
        duration_s=owner.duration_s,
        set_aside=owner.set_aside,
        kept=owner.is_kept,
        method_version=owner.method_version,
        environment=owner.environment,
        figures=[
            FigureShape(
                f.metric,
                _label(f.metric, labels),
                f.value,
                f.unit,
                f.direction,
                f.obtained,
                f.thin,
                f.method,
                f.half_width,
                f.bound,
            )
            for f in sorted(owner.figures.all(), key=lambda figure: figure.pk)
        ],
        captures=captures,
        remarks=[RemarkShape(r.act, r.reason, r.by.display_name, r.at) for r in owner.remarks.all()],
        marks=marked.get(str(owner.pk), []),
        pictures=[
            PictureShape(p.pk, p.caption, p.width, p.height, p.at_s, p.by.display_name if p.by else "")
            for p in owner.pictures.all()
        ],
        attempts=len(owner.attempts),
        stability=say(stability(test, owner)) if test.workload.kind == Kind.SOAK else "",
        ranges=[_range_shape(one) for one in owner.ranges.all()],
        analysis=_said(found.content) if found else {},
        recounting=found is not None and owner.origin != Origin.TYPED and found.counted_by != rules_of(test),
        no_figures=found.no_figures if found else "",
        recorder=owner.recorder,
        run_group=owner.run_group,
        action=owner.action,
        fallback=owner.fallback,
        ran_by=owner.ran_by,
        helped_by=owner.helped_by,
        told_tag=told_of(owner).tag,
        brought_by=owner.brought_by.display_name if owner.brought_by else owner.who_ran,
        steps=[_pass_step(one) for one in owner.procedure.get("steps", [])],
    )


def _pass_step(step: Mapping[str, Any]) -> PassStepShape:
    return PassStepShape(
        step["kind"],
        step["words"],
        step.get("at", ""),
        step.get("by", ""),
        step.get("observed"),
        step.get("unit", ""),
        step.get("fits", True),
    )


def _said(content: Mapping[str, Any]) -> dict[str, Any]:
    """What the core found, with its notes as sentences."""
    told = dict(content)
    if told.get("limits"):
        evidence = {kind: say_stored(one) for kind, one in told["limits"]["evidence"].items()}
        told["limits"] = {**told["limits"], "evidence": evidence}
    if told.get("sustained"):
        told["sustained"] = {**told["sustained"], "evidence": say_stored(told["sustained"]["evidence"])}
    return told


def _range_shape(one: AsideRange) -> RangeShape:
    back = one.back_by.display_name if one.back_by else ""
    return RangeShape(one.pk, one.start_s, one.end_s, one.reason, one.by.display_name, one.at, back, one.back_at)


def _label(metric: str, labels: dict[str, str]) -> str:
    if metric in FRAME_METRICS:
        return FRAME_METRICS[metric].label
    key, _, nth = metric.partition(PAIR)
    label = labels.get(key, key.replace("_", " "))
    return f"{label}, pair {nth}" if nth else label
