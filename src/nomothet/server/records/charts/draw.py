"""The chart of a finding, whichever kind it is drawn as."""

from collections.abc import Mapping
from dataclasses import dataclass

from nomothet.server.findings.shapes import FindingShape
from nomothet.server.records.charts.bands import bands_chart
from nomothet.server.records.charts.curves import curves_chart
from nomothet.server.records.charts.extents import extents_chart
from nomothet.server.records.charts.room import WIDE, Room
from nomothet.server.records.charts.svg import picture

_BANDS = (
    "100 % is the baseline, equal ratios, better to the right. Shaded: the margin; bars: 95 %; rings: single tests."
)
_GOES_ON = " An interval that goes on beyond the chart ends in an arrow."


@dataclass(frozen=True)
class Drawn:
    """A chart as SVG with its caption; empty for a finding that is a sentence and a table."""

    svg: str
    caption: str


def chart_of(finding: FindingShape, positions: Mapping[int, int], room: Room = WIDE, *, alone: bool = False) -> Drawn:
    """A finding drawn.

    Parameters
    ----------
    positions : mapping of int to int
        Where each configuration's seal stands among the letters.
    alone : bool
        Whether the picture is a file of its own.
    """
    if finding.bands:
        content, height, cut = bands_chart(finding.bands, finding.margin_pct or 0.0, positions, room)
        caption = _BANDS
    elif finding.curves is not None:
        content, height, cut = curves_chart(finding.curves, positions, room)
        caption = finding.curves.caption
        if not finding.curves.y.log and not finding.curves.y.zero:
            caption += " The upright axis does not begin at 0."
    elif finding.extents is not None and finding.extents.rows:
        content, height, cut = extents_chart(finding.extents, positions, room)
        caption = finding.extents.caption
    else:
        return Drawn("", "")
    if not content:
        return Drawn("", "")
    svg = picture(content, room.width, height, finding.sentence, alone=alone)
    return Drawn(svg, caption + (_GOES_ON if cut else ""))
