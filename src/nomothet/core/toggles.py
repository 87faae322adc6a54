"""Section 25 of the method: one setting switched within a run, stretch against stretch."""

from collections.abc import Sequence
from itertools import pairwise

from nomothet.core.segments import Span


def toggled_pairs(spans: Sequence[Span], on: str, off: str) -> list[tuple[Span, Span]]:
    """Neighbouring stretches of a run as pairs, the one with the setting on first.

    Each stretch is in one pair at most: off, on, off makes one pair, off, on, off, on two. Stretches of other labels
    between two are passed over; two of a kind in a row are no pair.

    >>> spans = [Span(0, 9, "off"), Span(10, 19, "on"), Span(20, 29, "off"), Span(30, 39, "on")]
    >>> [(a.start_s, b.start_s) for a, b in toggled_pairs(spans, "on", "off")]
    [(10, 0), (30, 20)]
    """
    own = sorted((span for span in spans if span.label in (on, off)), key=lambda span: span.start_s)
    pairs, taken = [], -1
    for at, (first, second) in enumerate(pairwise(own)):
        if first.label == second.label or at <= taken:
            continue
        pairs.append((second, first) if second.label == on else (first, second))
        taken = at + 1
    return pairs


def difference_of(on: float, off: float, *, ratio: bool) -> float | None:
    """What the setting does: the change in % on the ratio scale, else the plain difference.

    >>> difference_of(57.0, 60.0, ratio=True)
    -5.0
    """
    if not ratio:
        return on - off
    return 100 * (on - off) / off if off > 0 else None
