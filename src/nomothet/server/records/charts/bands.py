"""Comparisons as marks on one axis of equal ratios, better to the right, with single tests as small rings."""

import math
from collections.abc import Mapping, Sequence

from nomothet.server.findings.shapes import FindingBand
from nomothet.server.records.charts.marks import goes_on, interval, point, ring, x_axis
from nomothet.server.records.charts.room import Room
from nomothet.server.records.charts.scales import Scale, span_of
from nomothet.server.records.charts.svg import BAND, INK, LEVEL, VERDICTS, cut, seal, tag, words

_TOP, _ROW, _BOTTOM = 8, 46, 24
_MOST_BANDS = 14
_MULTIPLES = (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100)


def bands_chart(
    bands: Sequence[FindingBand], margin: float, positions: Mapping[int, int], room: Room
) -> tuple[str, float, bool]:
    """What is drawn, its height, and whether an interval was cut."""
    shown = bands[:_MOST_BANDS]
    left, right = room.label_width, room.width - 18
    values = [_ratio(one.better) for one in shown] + [_ratio(dot.better) for one in shown for dot in one.dots]
    ends = [_ratio(end) for one in shown for end in (one.low, one.high) if end is not None]
    low, high = span_of([*values, 1 + margin / 100, _ratio(-margin)], ends, log=True)
    x = Scale(low * 0.985, high * 1.015, left, right, log=True)
    foot = _TOP + _ROW * len(shown)
    drawn = tag("rect", x=x(_ratio(-margin)), width=x(1 + margin / 100) - x(_ratio(-margin)), y=_TOP,
                height=_ROW * len(shown), fill=BAND)  # fmt: skip
    drawn += x_axis(x, _ticks(x.low, x.high, room), foot, _TOP)
    drawn += tag("line", x1=x(1), x2=x(1), y1=_TOP, y2=foot, stroke=INK)
    for at, one in enumerate(shown):
        drawn += _row(one, _TOP + _ROW * at + 16, x, positions, room)
    return drawn, foot + _BOTTOM, goes_on(x, ends)


def _row(one: FindingBand, y: float, x: Scale, positions: Mapping[int, int], room: Room) -> str:
    ink = VERDICTS.get(one.verdict, LEVEL)
    drawn = seal(positions[one.column], 12, y) if one.column in positions else ""
    drawn += words(cut(one.label, room.most_label), room.label_width - 10, y + 4, text_anchor="end")
    if one.low is not None and one.high is not None:
        dash = "2.6 2.6" if one.verdict == "undecided" else None
        drawn += interval(x, _ratio(one.low), _ratio(one.high), y, ink, dash=dash)
    drawn += point(x(_ratio(one.better)), y, one.verdict, ink)
    return drawn + "".join(ring(x(_ratio(dot.better)), y + 17, LEVEL, 3.4, 1.4) for dot in one.dots)


def _ratio(better: float) -> float:
    return max(0.001, 1 + better / 100)


def _ticks(low: float, high: float, room: Room) -> list[tuple[float, str]]:
    """Per cent where the axis is narrow, multiples where it spans more than a half and a double."""
    if low < 0.5 or high > 2:
        return [(one, f"{one:g} ×") for one in _MULTIPLES if low <= one <= high]
    most = 4 if room.narrow else 7
    step = next((one for one in (1, 2, 5, 10, 20, 25) if 100 * (high - low) / one <= most), 50)
    first, last = math.ceil((100 * low - 100) / step), math.floor((100 * high - 100) / step)
    return [(1 + at * step / 100, f"{100 + at * step} %") for at in range(first, last + 1)]
