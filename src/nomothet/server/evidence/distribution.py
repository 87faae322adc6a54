"""The distribution of a pass's frame times, over what counts of it."""

from dataclasses import dataclass

import numpy as np

from nomothet.core.distribution import histogram, percentile_curve
from nomothet.core.errors import BadFrames
from nomothet.core.frames import figures_of_pieces
from nomothet.core.segments import pieces_that_count
from nomothet.server.analysis.computing import aside_of, captures_of, counting_of, spans_of
from nomothet.server.passes.models import Pass
from nomothet.server.problems import unusable


@dataclass(frozen=True)
class DistributionShape:
    """`share_slower[i]` of the frames last longer than `curve_ms[i]`; a histogram beside it.

    The lows are marked by the review's definition, in ms.
    """

    pass_id: str
    frames: int
    share_slower: list[float]
    curve_ms: list[float]
    edges_ms: list[float]
    counts: list[int]
    median_ms: float
    low_1pct_ms: float
    low_1pct_thin: bool
    low_01pct_ms: float
    low_01pct_thin: bool


def distribution(owner: Pass, top_ms: float | None = None) -> DistributionShape:
    """The distribution of a pass; frames that are cut off or set aside are left out.

    Parameters
    ----------
    top_ms : float, optional
        Upper end of the histogram, so that several can share a scale.
    """
    captures = captures_of(owner)
    if captures.frame_times_ms is None:
        raise unusable("This pass has no frames.")
    try:
        pieces = pieces_that_count(
            captures.frame_times_ms,
            counting_of(owner.test),
            starts_at_s=captures.starts_at_s,
            spans=spans_of(owner),
            aside=aside_of(owner),
        )
    except BadFrames as error:
        raise unusable(f"There is no distribution: {error}.") from None
    figures = figures_of_pieces(pieces)
    frames = np.concatenate(pieces)
    curve, bins = percentile_curve(frames), histogram(frames, top_ms=top_ms)
    definition = owner.test.review.low_definition
    return DistributionShape(
        pass_id=str(owner.pk),
        frames=len(frames),
        share_slower=[round(share, 8) for share in curve.share_slower],
        curve_ms=[round(value, 3) for value in curve.frame_ms],
        edges_ms=[round(edge, 3) for edge in bins.edges_ms],
        counts=bins.counts,
        median_ms=figures.p50_ms,
        low_1pct_ms=1000 / float(getattr(figures.low_1pct, definition)),
        low_1pct_thin=figures.low_1pct.thin,
        low_01pct_ms=1000 / float(getattr(figures.low_01pct, definition)),
        low_01pct_thin=figures.low_01pct.thin,
    )
