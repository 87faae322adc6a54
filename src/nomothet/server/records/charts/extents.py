"""Rows on one axis: a bar from 0, or a point with its interval, and further marks."""

from collections.abc import Mapping

from nomothet.server.findings.shapes import ExtentRow, ExtentsShape
from nomothet.server.records.charts.marks import goes_on, interval, ring, x_axis
from nomothet.server.records.charts.room import Room
from nomothet.server.records.charts.scales import Scale, span_of
from nomothet.server.records.charts.svg import BAND, INK, MARK, QUIET, SHEET, cut, seal, tag, words

_TOP, _ROW, _BOTTOM, _RIGHT = 26, 30, 42, 30
_MOST_ROWS = 20


def extents_chart(extents: ExtentsShape, positions: Mapping[int, int], room: Room) -> tuple[str, float, bool]:
    """What is drawn, its height, and whether an interval was cut."""
    rows = extents.rows[:_MOST_ROWS]
    zero = extents.axis.zero
    values = [row.value or 0.0 for row in rows] + [mark.value for row in rows for mark in row.marks]
    ends = [end for row in rows for end in (row.low, row.high) if end is not None]
    low, high = span_of([*values, *(rule.at for rule in extents.rules), *([0.0] if zero else [])], ends)
    pad = 0.04 * (high - low or 1)
    left, right = room.label_width + 18, room.width - _RIGHT
    x = Scale(min(0, low) if zero else low - pad, high + pad, left, right)
    foot = _TOP + _ROW * len(rows) + 4
    height = foot + _BOTTOM - 4
    drawn = x_axis(x, [(one, f"{one:g}") for one in x.ticks(4 if room.narrow else 6)], foot, _TOP)
    told = ", ".join(one for one in (extents.axis.label, f"in {extents.axis.unit}" if extents.axis.unit else "") if one)
    drawn += words(told, (left + right) / 2, height - 6, text_anchor="middle", fill=QUIET)
    for at, row in enumerate(rows):
        drawn += _row(row, _TOP + _ROW * at + _ROW / 2, x, positions, room, zero=zero)
    for rule in extents.rules:
        at_x = x(rule.at)
        drawn += tag("line", x1=at_x, x2=at_x, y1=_TOP - 6, y2=foot, stroke=MARK, stroke_dasharray="3 3")
        anchor = "end" if at_x > room.width - 160 else "middle"
        drawn += words(rule.words, at_x, _TOP - 10, text_anchor=anchor, fill=MARK, font_weight=600)
    return drawn, height, goes_on(x, ends)


def _row(row: ExtentRow, y: float, x: Scale, positions: Mapping[int, int], room: Room, *, zero: bool) -> str:
    sealed = row.column in positions
    drawn = seal(positions[row.column], 14, y) if sealed else ""
    drawn += words(cut(row.label, room.most_label), 28 if sealed else 6, y + 4)
    if row.value is not None and zero:
        a, b = sorted((x(0), x(row.value)))
        drawn += tag("rect", x=a, width=b - a, y=y - 7, height=14, fill=BAND, stroke=INK)
    if row.low is not None and row.high is not None:
        drawn += interval(x, row.low, row.high, y, INK)
    if row.value is not None and not zero:
        drawn += ring(x(row.value), y)
    for mark in row.marks:
        place = f"translate({x(mark.value):.1f} {y:.1f}) rotate(45)"
        drawn += tag("rect", x=-5, y=-5, width=10, height=10, transform=place, fill=SHEET if mark.open else INK,
                     stroke=INK, stroke_width=1.8)  # fmt: skip
    return drawn
