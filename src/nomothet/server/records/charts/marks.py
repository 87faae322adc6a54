"""What all charts draw: intervals, axes, and the point of a verdict."""

from collections.abc import Sequence

from nomothet.server.records.charts.scales import Scale
from nomothet.server.records.charts.svg import INK, LINE, QUIET, SHEET, tag, words


def interval(scale: Scale, low: float, high: float, at: float, ink: str, *, upright: bool = False,
             dash: str | None = None) -> str:  # fmt: skip
    """An interval along an axis; where it goes on beyond it, an arrow says so."""
    a, b = scale.within(low), scale.within(high)
    ends = {"x1": at, "x2": at, "y1": a, "y2": b} if upright else {"x1": a, "x2": b, "y1": at, "y2": at}
    drawn = tag("line", **ends, stroke=ink, stroke_width=2.4, stroke_dasharray=dash)
    for value, place, side in ((low, a, -1), (high, b, 1)):
        if scale(value) != place:
            # Along an upright axis, more is further up.
            drawn += _arrow(place, at, ink, side, upright=upright)
    return drawn


def _arrow(place: float, at: float, ink: str, side: int, *, upright: bool) -> str:
    if upright:
        return tag("path", d=f"M{at - 4:.1f} {place + 5 * side:.1f}L{at:.1f} {place:.1f}L{at + 4:.1f} "
                   f"{place + 5 * side:.1f}", fill="none", stroke=ink, stroke_width=1.6)  # fmt: skip
    return tag("path", d=f"M{place - 5 * side:.1f} {at - 4:.1f}L{place:.1f} {at:.1f}L{place - 5 * side:.1f} "
               f"{at + 4:.1f}", fill="none", stroke=ink, stroke_width=1.6)  # fmt: skip


def goes_on(scale: Scale, ends: Sequence[float]) -> bool:
    """Whether an interval reaches beyond the axis."""
    return any(not scale.low <= one <= scale.high for one in ends)


def x_axis(scale: Scale, ticks: Sequence[tuple[float, str]], at: float, top: float) -> str:
    """Fine lines across, and the words under them."""
    return "".join(
        tag("line", x1=scale(value), x2=scale(value), y1=top, y2=at, stroke=LINE)
        + words(told, scale(value), at + 15, text_anchor="middle", fill=QUIET)
        for value, told in ticks
    )


def y_axis(scale: Scale, ticks: Sequence[tuple[float, str]], at: float, right: float) -> str:
    """The same for an upright axis."""
    return "".join(
        tag("line", x1=at, x2=right, y1=scale(value), y2=scale(value), stroke=LINE)
        + words(told, at - 8, scale(value) + 4, text_anchor="end", fill=QUIET)
        for value, told in ticks
    )


def point(x: float, y: float, verdict: str, ink: str) -> str:
    """The point of a comparison: an arrowhead ahead or behind, a square level, a ring undecided."""
    if verdict.endswith("ahead"):
        return tag("path", d=f"M{x - 5:.1f} {y - 6:.1f}L{x + 6:.1f} {y:.1f}L{x - 5:.1f} {y + 6:.1f}z", fill=ink)
    if verdict.endswith("behind"):
        return tag("path", d=f"M{x + 5:.1f} {y - 6:.1f}L{x - 6:.1f} {y:.1f}L{x + 5:.1f} {y + 6:.1f}z", fill=ink)
    if verdict == "level":
        return tag("rect", x=x - 5, y=y - 5, width=10, height=10, fill=ink)
    return tag("circle", cx=x, cy=y, r=5, fill=SHEET, stroke=ink, stroke_width=2)


def ring(x: float, y: float, ink: str = INK, size: float = 4.6, width: float = 2.2) -> str:
    return tag("circle", cx=x, cy=y, r=size, fill=SHEET, stroke=ink, stroke_width=width)
