"""Series of points over two axes, each named where it ends."""

from collections.abc import Mapping, Sequence

from nomothet.server.findings.shapes import CurvesShape, FindingAxis, FindingCurve, FindingRule
from nomothet.server.records.charts.marks import goes_on, interval, ring, x_axis, y_axis
from nomothet.server.records.charts.room import Room
from nomothet.server.records.charts.scales import Scale, span_of
from nomothet.server.records.charts.svg import BAND, INK, LEVEL, MARK, QUIET, cut, seal, tag, words
from nomothet.words.numbers import compact

_HEIGHT, _LEFT, _TOP, _BOTTOM = 344, 62, 44, 74
_DASHES = ("6 4", "2 3", "9 3 2 3", "1 5", "12 4", "4 2 1 2", "7 2")
_APART = 13
_MOST_NAMED = 9


def curves_chart(curves: CurvesShape, positions: Mapping[int, int], room: Room) -> tuple[str, float, bool]:
    """What is drawn, its height, and whether an interval was cut."""
    edge, foot = room.width - room.name_width, _HEIGHT - _BOTTOM
    points = [point for curve in curves.curves for point in curve.points]
    if not points:
        return "", 0, False
    barred = [point for curve in curves.curves if curve.marks and not curve.faint for point in curve.points]
    ends = [end for point in barred for end in (point.low, point.high) if end is not None]
    x = _scale(curves.x, [point.x for point in points], _LEFT + 14, edge - 14)
    ys = span_of([*(point.y for point in points), *curves.shaded], ends, log=curves.y.log)
    y = _scale(curves.y, list(ys), foot, _TOP)
    drawn = ""
    if curves.shaded:
        low, high = min(curves.shaded), max(curves.shaded)
        drawn += tag("rect", x=_LEFT, width=edge - _LEFT, y=y(high), height=max(1.0, y(low) - y(high)), fill=BAND)
    drawn += words(_axis_words(curves.y), _LEFT, 14, fill=QUIET)
    drawn += y_axis(y, [(one, f"{one:g} {curves.y.unit}".strip()) for one in y.ticks(5)], _LEFT, edge)
    drawn += _places(curves, x, foot, positions, room)
    drawn += words(_axis_words(curves.x), (_LEFT + edge) / 2, _HEIGHT - 8, text_anchor="middle", fill=QUIET)
    drawn += "".join(_rule(rule, x, y, edge, foot) for rule in curves.rules)
    for at, curve in enumerate(curves.curves):
        drawn += _series(curve, at, x, y, positions)
    drawn += _names(curves.curves, x, y, edge, room)
    return drawn, _HEIGHT, goes_on(y, ends)


def _scale(axis: FindingAxis, values: Sequence[float], start: float, end: float) -> Scale:
    low, high = min(values), max(values)
    if axis.log:
        return Scale(max(low, 1e-12) / 1.06, high * 1.06, start, end, log=True)
    if axis.names:
        return Scale(0, max(1, len(axis.names) - 1), start, end)
    room = 0.06 * (high - low) or abs(high) / 2 or 1.0
    return Scale(min(0, low) if axis.zero else low - room, high + room, start, end)


def _places(curves: CurvesShape, x: Scale, foot: float, positions: Mapping[int, int], room: Room) -> str:
    """The places along the first axis, with the seal of the configuration that stands there alone."""
    found: dict[float, set[int]] = {}
    measured = [curve for curve in curves.curves if curve.marks]
    for point in (point for curve in measured for point in curve.points):
        found.setdefault(point.x, set()).add(point.column)
    most = _MOST_NAMED // 2 if room.narrow else _MOST_NAMED
    if len(found) > most:
        return x_axis(x, [(one, f"{one:g}") for one in x.ticks(5)], foot, _TOP)
    drawn = x_axis(x, [(place, _tick(curves.x, place)) for place in sorted(found)], foot, foot)
    if any(curve.seals for curve in measured):
        return drawn
    for place, columns in found.items():
        own = next(iter(columns)) if len(columns) == 1 else 0
        if own in positions:
            drawn += seal(positions[own], x(place), foot + 32, 20)
    return drawn


def _series(curve: FindingCurve, at: int, x: Scale, y: Scale, positions: Mapping[int, int]) -> str:
    ink = LEVEL if curve.faint else INK
    drawn = ""
    if curve.joined:
        path = " ".join(f"{x(point.x):.1f},{y(point.y):.1f}" for point in curve.points)
        drawn += tag("polyline", points=path, fill="none", stroke=ink, stroke_width=1.2 if curve.faint else 2.2,
                     stroke_dasharray=_dash(curve, at))  # fmt: skip
    if not curve.marks:
        return drawn
    for point in curve.points:
        if not curve.faint and point.low is not None and point.high is not None:
            drawn += interval(y, point.low, point.high, x(point.x), ink, upright=True)
        if curve.seals and point.column in positions:
            drawn += seal(positions[point.column], x(point.x), y(point.y), 22)
        else:
            drawn += ring(x(point.x), y(point.y), ink, 3 if curve.faint else 4.6, 1.3 if curve.faint else 2.2)
    return drawn


def _dash(curve: FindingCurve, at: int) -> str | None:
    return _DASHES[at % len(_DASHES)] if curve.dotted or curve.faint else None


def _rule(rule: FindingRule, x: Scale, y: Scale, edge: float, foot: float) -> str:
    if rule.across == "x":
        drawn = ""
        if rule.low is not None and rule.high is not None:
            a, b = (min(edge, max(_LEFT, x(one))) for one in (rule.low, rule.high))
            drawn = tag("rect", x=a, width=max(0.0, b - a), y=_TOP, height=foot - _TOP, fill=MARK, opacity=0.14)
        at = x(rule.at)
        anchor = "start" if at < _LEFT + 90 else "end"
        return (
            drawn
            + tag("line", x1=at, x2=at, y1=_TOP, y2=foot, stroke=MARK, stroke_dasharray="3 3")
            + words(rule.words, at - 5, _TOP - 4, text_anchor=anchor, fill=MARK, font_weight=600)
        )
    at = y(rule.at)
    return tag("line", x1=_LEFT, x2=edge, y1=at, y2=at, stroke=MARK, stroke_dasharray="3 3") + words(
        rule.words, _LEFT + 4, at - 4, fill=MARK, font_weight=600
    )


def _names(curves: Sequence[FindingCurve], x: Scale, y: Scale, edge: float, room: Room) -> str:
    """Each series named at its last point, moved apart where two would lie over one another."""
    ends: list[tuple[float, int, FindingCurve]] = []
    for at, curve in enumerate(curves):
        if curve.points:
            last = max(curve.points, key=lambda point: x(point.x))
            ends.append((y(last.y) + 4, at, curve))
    drawn, before = "", -1e9
    for place, at, curve in sorted(ends, key=lambda end: end[:2]):
        before = max(place, before + _APART)
        ink = LEVEL if curve.faint else INK
        drawn += tag("line", x1=edge + 3, x2=edge + 21, y1=before - 4, y2=before - 4, stroke=ink,
                     stroke_width=1.2 if curve.faint else 2.2, stroke_dasharray=_dash(curve, at))  # fmt: skip
        drawn += words(cut(curve.label, room.most_name), edge + 25, before, fill=QUIET if curve.faint else INK)
    return drawn


def _tick(axis: FindingAxis, value: float) -> str:
    at = round(value)
    if axis.names and 0 <= at < len(axis.names):
        return axis.names[at]
    return f"{compact(value)} {axis.unit}".strip()


def _axis_words(axis: FindingAxis) -> str:
    told = (axis.label, f"in {axis.unit}" if axis.unit else "", "equal ratios" if axis.log else "")
    return ", ".join(one for one in told if one)
