"""Which frames of a run count: its cuts, its marked spans, and the ranges of time that were set aside (section 1)."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nomothet.core.errors import BadFrames
from nomothet.core.frames import Floats, cut_positions

Rule = Literal["all", "only", "without"]


@dataclass(frozen=True)
class Span:
    """A stretch of time on the clock of the pass, in seconds."""

    start_s: float
    end_s: float
    label: str = ""


@dataclass(frozen=True)
class Counting:
    """What counts of every pass of a test: `only` these spans, all `without` them, or `all`."""

    skip_s: float = 0.0
    end_cut_s: float = 0.0
    rule: Rule = "all"
    labels: tuple[str, ...] = ()


def pieces_that_count(
    frame_times_ms: Floats,
    counting: Counting,
    *,
    starts_at_s: float = 0.0,
    spans: Sequence[Span] = (),
    aside: Sequence[Span] = (),
) -> list[Floats]:
    """The stretches of frames that figures are made of, in their order.

    A frame belongs to a span or range when it ends within it. What is left out is as if it had not been recorded:
    figures do not look across a gap.

    Raises
    ------
    BadFrames
        When nothing is left, or none of the spans that count is marked in this pass.

    Examples
    --------
    >>> f = np.full(300, 10.0)
    >>> [len(piece) for piece in pieces_that_count(f, Counting(), aside=[Span(1.0, 2.0)])]
    [100, 100]
    """
    first, last = cut_positions(frame_times_ms, counting.skip_s, counting.end_cut_s)
    if counting.rule == "all" and not aside:
        return [frame_times_ms[first:last]]
    ends = starts_at_s + np.cumsum(frame_times_ms) / 1000
    counts = np.zeros(len(frame_times_ms), bool)
    counts[first:last] = True
    named = [span for span in spans if span.label in counting.labels]
    if counting.rule == "only":
        if not named:
            raise BadFrames(f"no span {' or '.join(repr(one) for one in counting.labels)} is marked in this pass")
        counts &= _within(ends, named)
    elif counting.rule == "without":
        counts &= ~_within(ends, named)
    counts &= ~_within(ends, aside)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], counts.view(np.int8), [0]])))
    if not len(edges):
        raise BadFrames("nothing is left of this pass: its cuts, spans and ranges set aside leave out every frame")
    return [frame_times_ms[a:b] for a, b in edges.reshape(-1, 2)]


def seconds_that_count(seconds: int, from_s: float, to_s: float, aside: Sequence[Span]) -> NDArray[np.bool_]:
    """Whole seconds that lie between the cuts and touch no range set aside.

    >>> seconds_that_count(5, 1.0, 5.0, [Span(2.5, 3.0)]).tolist()
    [False, True, False, True, True]
    """
    at = np.arange(seconds)
    counts = (at >= from_s - 1e-9) & (at + 1 <= np.ceil(to_s - 1e-9) + 1e-9)
    for span in aside:
        counts &= ~((at < span.end_s) & (at + 1 > span.start_s))
    return np.asarray(counts)


def _within(ends: Floats, spans: Sequence[Span]) -> NDArray[np.bool_]:
    inside = np.zeros(len(ends), bool)
    for span in spans:
        inside |= (ends > span.start_s) & (ends <= span.end_s)
    return inside


def without_spans(windows: Sequence[Span], taken: Sequence[Span]) -> list[Span]:
    """What is left of some windows once others are taken out of them.

    >>> without_spans([Span(0.0, 10.0)], [Span(4.0, 6.0), Span(9.0, 12.0)])
    [Span(start_s=0.0, end_s=4.0, label=''), Span(start_s=6.0, end_s=9.0, label='')]
    """
    left = list(windows)
    for gone in taken:
        left = [
            piece
            for window in left
            for piece in (
                Span(window.start_s, min(window.end_s, gone.start_s), window.label),
                Span(max(window.start_s, gone.end_s), window.end_s, window.label),
            )
            if piece.end_s > piece.start_s
        ]
    return left
