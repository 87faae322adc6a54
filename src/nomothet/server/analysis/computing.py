"""From the captures of a pass to its figures and what the core finds in them."""

import hashlib
import uuid
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np
from django.db.models import Q

from nomothet.core.errors import BadFrames
from nomothet.core.frames import Floats, FrameFigures, figures_of_pieces
from nomothet.core.pass_analysis import Declared, PassAnalysis, analyse_pass
from nomothet.core.per_second import Lane, lane_of
from nomothet.core.segments import Counting, Rule, Span, pieces_that_count
from nomothet.core.sensors import readings
from nomothet.formats.series import unpack
from nomothet.formats.words import NOT_RECORDED
from nomothet.server.analysis.models import AsideRange, SensorDoubt
from nomothet.server.passes.models import Mark, Pass, Series
from nomothet.server.reviews.models import Test
from nomothet.server.systems.states import ConfigurationState
from nomothet.server.workloads.models import Kind

# Phases of a soak that are no part of what it holds in the long term.
_BEFORE, _AFTER = ("idle",), ("recovery",)


@dataclass(frozen=True)
class RawLane:
    """What a sensor read, as it came: its name, unit, times in seconds and values."""

    name: str
    unit: str
    t_s: Floats
    values: Floats


@dataclass(frozen=True)
class Captures:
    """The unpacked captures of a pass: its frames, when the first begins, and the lanes whose quantity is known."""

    frame_times_ms: Floats | None
    starts_at_s: float
    lanes: list[Lane]
    # What recorded the frames.
    source: str = ""
    # Every lane as it came.
    raw: list[RawLane] = field(default_factory=list)


@dataclass(frozen=True)
class Computed:
    """Figures and findings of a pass; `no_figures` says why frames gave none."""

    figures: FrameFigures | None
    analysis: PassAnalysis
    no_figures: str
    source: str = ""


def captures_of(owner: Pass) -> Captures:
    """The captures of a pass, without the sensors that somebody doubts; two queries."""
    doubted = doubted_sensors(owner)
    frames, starts_at, source, lanes = None, 0.0, "", []
    raw: list[RawLane] = []
    for series in Series.objects.filter(owner=owner).lanes().order_by("pk"):
        columns = unpack(content) if (content := series.content) else {}
        if series.kind == "frames" and columns:
            frames, starts_at, source = columns["frame_ms"].astype(float), series.starts_at_s, series.source
        elif columns and series.name.casefold() not in doubted:
            t, values = columns["t_s"].astype(float), readings(columns["value"].astype(float))
            lane = lane_of(series.name, series.unit, t, values, series.capacity) if len(t) else None
            lanes += [lane] if lane else []
            raw.append(RawLane(series.name, series.unit, t, values))
    return Captures(frames, starts_at, lanes, source, raw)


def doubted_sensors(owner: Pass) -> set[str]:
    """The names of a pass's sensors that count for nothing, without regard to case; one query."""
    noted = SensorDoubt.objects.filter(back_at=None).exclude(kind=NOT_RECORDED)
    of_pass = Q(owner=owner) | Q(workload=owner.test.workload_id) | Q(system=owner.column.configuration.system_id)
    return {name.casefold() for name in noted.filter(of_pass).values_list("sensor", flat=True)}


def spans_by_pass(passes: Iterable[Pass]) -> dict[uuid.UUID, list[Span]]:
    """The marked spans of passes; an impression over a time is none. One query."""
    found: dict[uuid.UUID, list[Span]] = defaultdict(list)
    marks = Mark.objects.filter(owner__in=passes, end_s__isnull=False, grade=None)
    for owner, start, end, label in marks.values_list("owner", "start_s", "end_s", "label"):
        if end:
            found[owner].append(Span(start, end, label))
    return found


def spans_of(owner: Pass) -> list[Span]:
    """The marked spans of one pass."""
    return spans_by_pass([owner])[owner.pk]


def aside_by_pass(passes: Iterable[Pass]) -> dict[uuid.UUID, list[Span]]:
    """The ranges of passes that are set aside now; one query."""
    found: dict[uuid.UUID, list[Span]] = defaultdict(list)
    ranges = AsideRange.objects.filter(owner__in=passes, back_at=None)
    for owner, start, end in ranges.values_list("owner", "start_s", "end_s"):
        found[owner].append(Span(start, end))
    return found


def aside_of(owner: Pass) -> list[Span]:
    """The ranges of one pass that are set aside now."""
    return aside_by_pass([owner])[owner.pk]


def counting_of(test: Test) -> Counting:
    """What counts of every pass of a test."""
    rule: Rule = test.counts.get("rule", "all")
    return Counting(test.skip_s, test.end_cut_s, rule, tuple(test.counts.get("labels", ())))


def rules_of(test: Test) -> str:
    """A mark of everything about a test that decides which frames count and how they are judged."""
    rules: tuple[object, ...] = (test.skip_s, test.end_cut_s, sorted(test.counts.items()), test.review.target_fps)
    if test.metrics:
        rules = (*rules, [sorted(one.items()) for one in test.metrics])
    return hashlib.sha256(repr(rules).encode()).hexdigest()[:16]


def compute(
    test: Test, owner: Pass, captures: Captures, spans: Sequence[Span], aside: Sequence[Span], declared: Declared
) -> Computed:
    """Figures and findings of a pass; reads nothing from the database but what is given."""
    frames = captures.frame_times_ms
    figures, why = None, ""
    if frames is not None:
        try:
            figures = frame_figures_of(test, captures, spans, aside)
        except BadFrames as error:
            why = str(error)
    first, last = _window(test, owner, captures, spans)
    analysis = analyse_pass(
        frames,
        captures.lanes,
        starts_at_s=captures.starts_at_s,
        length_s=owner.duration_s or 0.0,
        from_s=first,
        to_s=last,
        aside=aside,
        held_fps=figures.held_fps if figures else None,
        declared=declared,
        wants_settling=test.workload.kind in (Kind.SOAK, Kind.TASK),
        one_work=test.workload.kind in (Kind.SCENE, Kind.SOAK, Kind.TASK),
    )
    return Computed(figures, analysis, why, captures.source)


def frame_figures_of(
    test: Test, captures: Captures, spans: Sequence[Span] = (), aside: Sequence[Span] = ()
) -> FrameFigures:
    """The figures of section 1 over what counts of a pass.

    Raises
    ------
    BadFrames
        When nothing is left.
    """
    assert captures.frame_times_ms is not None
    pieces = pieces_that_count(
        captures.frame_times_ms, counting_of(test), starts_at_s=captures.starts_at_s, spans=spans, aside=aside
    )
    return figures_of_pieces(
        pieces,
        target_fps=test.review.target_fps,
        declared_cap_fps=test.settings.get("frame_cap_fps") or None,
        median_graphics_use=_median(captures.lanes, "graphics use"),
    )


def declared_of(test: Test, owner: Pass, state: ConfigurationState) -> Declared:
    """What part and settings declare; an observed power limit comes before the one that was set."""
    observed = owner.environment.get("observed", {}) if isinstance(owner.environment, dict) else {}
    limit = observed.get("power_limit_w", state.settings.get("power_limit_w"))
    processor = state.parts.get("processor")
    hottest = processor.part.value("limit_c") if processor else None
    return Declared(_number(hottest), _number(limit), _number(test.settings.get("frame_cap_fps")))


def _window(test: Test, owner: Pass, captures: Captures, spans: Sequence[Span]) -> tuple[float, float | None]:
    first = captures.starts_at_s + test.skip_s if test.skip_s else 0.0
    frames = captures.frame_times_ms
    end = captures.starts_at_s + float(frames.sum()) / 1000 if frames is not None else owner.duration_s or 0.0
    last = end - test.end_cut_s if test.end_cut_s else None
    if test.workload.kind == Kind.SOAK:
        first = max([first, *(span.end_s for span in spans if span.label in _BEFORE)])
        last = min([last or end, *(span.start_s for span in spans if span.label in _AFTER)])
    return first, last


def _median(lanes: Sequence[Lane], quantity: str) -> float | None:
    values = next((lane.values for lane in lanes if lane.quantity == quantity), np.empty(0))
    there = values[np.isfinite(values)]
    return float(np.median(there)) if len(there) else None


def _number(value: object) -> float | None:
    if isinstance(value, bool) or not isinstance(value, int | float) or value <= 0:
        return None
    return float(value)
