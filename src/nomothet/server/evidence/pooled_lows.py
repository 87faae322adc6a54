"""Lows over the frames of all kept passes of a cell, where the single passes are too short for them (section 2)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nomothet.core.errors import BadFrames
from nomothet.core.frames import Floats
from nomothet.core.passes import LowDefinition
from nomothet.core.pooled_low import pooled_low
from nomothet.core.segments import Counting, Span, pieces_that_count
from nomothet.formats.series import unpack
from nomothet.server.analysis.computing import aside_by_pass, counting_of, spans_by_pass
from nomothet.server.passes.models import Pass, Series
from nomothet.server.reviews.models import Test
from nomothet.server.reviews.shown import resolve

_LOWS = (("low_1pct", 0.01), ("low_01pct", 0.001))


@dataclass(frozen=True)
class PooledLowShape:
    """A low over the frames that count of all kept passes."""

    metric: str
    value: float
    low: float | None
    high: float | None
    frames: int
    passes: int


def pooled_lows(test: Test, passes: Sequence[Pass]) -> list[PooledLowShape]:
    """The lows whose tails are thin in single passes; what is cut, set aside or not kept is in none of them."""
    definition: LowDefinition = test.review.low_definition  # type: ignore[assignment]
    kept = [owner for owner in passes if owner.is_kept]
    thin = {figure.metric for owner in kept for figure in owner.figures.all() if figure.thin}
    wanted = [(low, share) for low, share in _LOWS if resolve(low, definition) in thin]
    if not wanted:
        return []
    frames = _frames_that_count(test, kept)
    shapes = []
    for low, share in wanted:
        pooled = pooled_low(frames, share, definition)
        if pooled is not None:
            shapes.append(PooledLowShape(low, pooled.value, pooled.low, pooled.high, pooled.frames, pooled.passes))
    return shapes


def _frames_that_count(test: Test, kept: Sequence[Pass]) -> list[Floats]:
    counting = counting_of(test)
    spans, aside = spans_by_pass(kept), aside_by_pass(kept)
    found = []
    for series in Series.objects.filter(owner__in=kept, kind="frames").order_by("pk"):
        if content := series.content:
            times = unpack(content)["frame_ms"].astype(float)
            own = _pieces(times, series, counting, spans[series.owner_id], aside[series.owner_id])
            if own:
                found.append(np.concatenate(own))
    return found


def _pieces(
    times: Floats, series: Series, counting: Counting, spans: Sequence[Span], aside: Sequence[Span]
) -> list[Floats]:
    try:
        return list(
            pieces_that_count(times, counting, starts_at_s=series.starts_at_s, spans=list(spans), aside=list(aside))
        )
    except BadFrames:
        # A pass in which nothing counts has no frames to add.
        return []
