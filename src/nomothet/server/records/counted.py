"""By which rules the frames of each pass were counted, so that its figures can be worked out again from a package."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from nomothet.core.segments import Span
from nomothet.formats.series import unpack
from nomothet.server.analysis.computing import aside_by_pass, counting_of, spans_by_pass
from nomothet.server.passes.models import Pass, Series
from nomothet.server.reviews.models import Review


@dataclass(frozen=True)
class CountedBy:
    """What counted of a pass, and what its frame rate was judged by (method 1)."""

    skip_s: float
    end_cut_s: float
    rule: str
    labels: list[str]
    starts_at_s: float
    target_fps: float | None
    cap_fps: float | None
    graphics_use: float | None
    spans: list[Span] = field(default_factory=list)
    aside: list[Span] = field(default_factory=list)


def counted(review: Review, passes: Sequence[Pass]) -> dict[str, CountedBy]:
    """The rules by pass, of those that have frames."""
    spans, aside = spans_by_pass(passes), aside_by_pass(passes)
    uses: dict[object, list[float]] = defaultdict(list)
    lanes = Series.objects.filter(owner__in=passes)
    starts = dict(lanes.filter(kind="frames").values_list("owner_id", "starts_at_s"))
    for series in lanes.filter(kind="sensor", name__iexact="graphics use"):
        if content := series.content:
            values = unpack(content)["value"].astype(float)
            uses[series.owner_id] = values[np.isfinite(values)].tolist()
    made = {}
    for owner in passes:
        if owner.pk not in starts:
            continue
        counting, cap = counting_of(owner.test), owner.test.settings.get("frame_cap_fps")
        made[str(owner.pk)] = CountedBy(
            counting.skip_s,
            counting.end_cut_s,
            counting.rule,
            list(counting.labels),
            starts[owner.pk],
            review.target_fps,
            float(cap) if cap else None,
            float(np.median(uses[owner.pk])) if uses[owner.pk] else None,
            spans.get(owner.pk, []),
            aside.get(owner.pk, []),
        )
    return made
