"""Traces of a pass, thinned for the screen without losing a spike."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nomothet.core.hitches import hitch_positions
from nomothet.core.per_second import quantity_of
from nomothet.core.sensor_trust import sensor_doubts
from nomothet.core.sensors import readings
from nomothet.formats.series import unpack
from nomothet.formats.words import NOT_RECORDED
from nomothet.server.analysis.models import Analysis, SensorDoubt
from nomothet.server.analysis.sensor_doubts import doubts_of
from nomothet.server.passes.models import Pass, Series
from nomothet.server.reviews.models import Test
from nomothet.words import says

Floats = NDArray[np.float64]

MOST_POINTS = 8000
# Lanes are low; they need fewer points than the frames.
_LANE_SHARE = 4


@dataclass(frozen=True)
class DoubtShape:
    """What a person has noted of a sensor; `kind` is one of formats.words.DOUBTS, `scope` pass, system or workload."""

    id: int
    sensor: str
    kind: str
    reason: str
    by: str
    scope: str


@dataclass(frozen=True)
class LaneShape:
    """A sensor over the time of the pass. `capacity` is the lane's full height, where the quantity has one.

    `limit` is what the part or the settings declare for a temperature or a power.
    """

    name: str
    unit: str
    place: str
    source: str
    capacity: float | None
    limit: float | None
    t_s: list[float]
    values: list[float | None]
    median: float | None
    peak: float | None
    # Why it is not to be trusted, in words.
    doubts: list[str]
    # What people have noted of it; where there is anything, no figure and no finding rests on it.
    doubted: list[DoubtShape]


@dataclass(frozen=True)
class BandShape:
    kind: str
    from_s: float
    to_s: float


@dataclass(frozen=True)
class TraceShape:
    """Frame times in ms over seconds since the start of the pass, with its hitches and sensor lanes.

    Where there are more frames than points asked for, each stretch keeps its shortest and its longest frame in their
    order, so that no spike is lost. `counts_from_s` and `counts_to_s` bound the part that the figures are made of.
    """

    pass_id: str
    duration_s: float
    counts_from_s: float
    counts_to_s: float
    frames: int
    thinned: bool
    t_s: list[float]
    frame_ms: list[float]
    hitches_s: list[float]
    lanes: list[LaneShape]
    # What limits each stretch of whole seconds; "" where a range is set aside.
    bands: list[BandShape]
    # When the run first dropped, and why.
    first_drop_s: float | None
    drop_cause: str
    # Sensors that a tool shows and that cannot be recorded.
    not_recorded: list[DoubtShape]


@dataclass(frozen=True)
class TraceFrame:
    """What is laid over a trace and follows from test and method: cuts, bands, the first drop, declared limits.

    A record keeps it as it was published. An end of None is that of the recording.
    """

    skip_s: float
    end_cut_s: float
    bands: list[BandShape]
    first_drop_s: float | None
    drop_cause: str
    # Declared limits by quantity.
    limits: dict[str, float | None]
    # What people have noted of its sensors.
    noted: list[DoubtShape] = field(default_factory=list)


def trace_frame(test: Test, content: Mapping[str, Any], noted: Sequence[SensorDoubt] = ()) -> TraceFrame:
    """The frame of a pass's trace as things stand.

    Parameters
    ----------
    content : mapping
        What the core found in the pass (analysis.models.Analysis); empty for nothing.
    """
    trend = content.get("sustained") or {}
    declared = content.get("declared") or {}
    return TraceFrame(
        skip_s=test.skip_s,
        end_cut_s=test.end_cut_s,
        bands=[BandShape(**band) for band in content.get("bands", [])],
        first_drop_s=trend.get("first_drop_s"),
        drop_cause=trend.get("cause") or "",
        limits={"temperature": declared.get("temperature_c"), "power": declared.get("power_w")},
        noted=[
            DoubtShape(
                one.pk,
                one.sensor,
                one.kind,
                one.reason,
                one.by.display_name,
                "pass" if one.owner_id else "system" if one.system_id else "workload",
            )
            for one in noted
        ],
    )


def trace(
    owner: Pass,
    points: int = 2000,
    from_s: float | None = None,
    to_s: float | None = None,
    frame: TraceFrame | None = None,
    only: Collection[int] | None = None,
) -> TraceShape:
    """The trace of a pass, all of it or a stretch of time.

    Parameters
    ----------
    frame : TraceFrame, optional
        What was published with the pass; as things stand without it.
    only : collection of int, optional
        The captures that may be seen; all of them without it.
    """
    points = min(max(points, 100), MOST_POINTS)
    if frame is None:
        analysis = Analysis.objects.filter(owner=owner).only("content").first()
        frame = trace_frame(owner.test, analysis.content if analysis else {}, doubts_of([owner])[owner.pk])
    frames = np.empty(0)
    ends = np.empty(0)
    starts_at = 0.0
    lanes = []
    for series in Series.objects.filter(owner=owner).lanes().order_by("pk"):
        if only is not None and series.pk not in only:
            continue
        columns = unpack(content) if (content := series.content) else {}
        if series.kind == "frames":
            frames = columns["frame_ms"].astype(float)
            ends = np.cumsum(frames)
            starts_at = series.starts_at_s
        elif columns:
            limit = frame.limits.get(quantity_of(series.name, series.unit) or "")
            noted = [one for one in frame.noted if one.sensor.casefold() == series.name.casefold()]
            lanes.append(_lane(series, columns, points, (from_s, to_s), limit, noted))
    t = starts_at + ends / 1000
    hitches = t[hitch_positions(frames, ends)] if len(frames) else t
    shown = _between(t, from_s, to_s)
    kept = shown[_thinned(frames[shown], points)]
    total = max(owner.duration_s or 0.0, float(t[-1]) if len(t) else 0.0)
    end = float(t[-1]) if len(t) else total
    return TraceShape(
        pass_id=str(owner.pk),
        duration_s=total,
        counts_from_s=starts_at + frame.skip_s if frame.skip_s else 0.0,
        counts_to_s=end - frame.end_cut_s if frame.end_cut_s else total,
        frames=len(frames),
        thinned=len(kept) < len(shown),
        t_s=t[kept].round(4).tolist(),
        frame_ms=frames[kept].round(3).tolist(),
        hitches_s=hitches.round(3).tolist(),
        lanes=lanes,
        bands=frame.bands,
        first_drop_s=frame.first_drop_s,
        drop_cause=frame.drop_cause,
        not_recorded=[one for one in frame.noted if one.kind == NOT_RECORDED],
    )


def _between(t: Floats, from_s: float | None, to_s: float | None) -> NDArray[np.int64]:
    first = 0 if from_s is None else max(0, int(np.searchsorted(t, from_s)) - 1)
    last = len(t) if to_s is None else min(len(t), int(np.searchsorted(t, to_s)) + 1)
    return np.arange(first, last)


def _thinned(values: Floats, points: int) -> NDArray[np.int64]:
    """Positions to draw: all, or the smallest and largest of each stretch."""
    n = len(values)
    if n <= points:
        return np.arange(n)
    stretches = points // 2
    width = -(-n // stretches)
    at = np.arange(stretches) * width
    kept = []
    # A missing reading, and what fills the last stretch up, is never the smallest or the largest.
    for bound, find in ((np.inf, np.argmin), (-np.inf, np.argmax)):
        table = np.full(stretches * width, bound)
        table[:n] = np.where(np.isnan(values), bound, values)
        kept.append(at + find(table.reshape(stretches, width), axis=1))
    positions: NDArray[np.int64] = np.unique(np.concatenate(kept))
    return positions[positions < n]


def _lane(
    series: Series,
    columns: dict[str, NDArray[np.generic]],
    points: int,
    stretch: tuple[float | None, float | None],
    limit: float | None,
    noted: list[DoubtShape],
) -> LaneShape:
    t = columns["t_s"].astype(float)
    values = readings(columns["value"].astype(float))
    shown = _between(t, *stretch)
    kept = shown[_thinned(values[shown], max(100, points // _LANE_SHARE))]
    there = values[np.isfinite(values)]
    return LaneShape(
        name=series.name,
        unit=series.unit,
        place=series.place,
        source=series.source,
        capacity=series.capacity,
        limit=limit,
        t_s=t[kept].round(3).tolist(),
        values=[None if value != value else value for value in values[kept].round(4).tolist()],
        median=float(np.median(there)) if len(there) else None,
        peak=float(there.max()) if len(there) else None,
        doubts=says(sensor_doubts(values, series.unit, series.name)),
        doubted=[one for one in noted if one.kind != NOT_RECORDED],
    )
