"""The values of a metric in a cell, and those that are worked out of others."""

from dataclasses import dataclass, field

from nomothet.core.worked_out import worked_out
from nomothet.server.reviews.models import Test
from nomothet.server.reviews.own_metrics import OwnMetric, own_metrics
from nomothet.server.reviews.shown import FIRST, metric_of, resolve

WORKED_OUT = "worked out"


@dataclass(frozen=True)
class Values:
    """The values of one metric in one cell with the numbers of their passes, in that order."""

    passes: list[int] = field(default_factory=list)
    numbers: list[float] = field(default_factory=list)
    thin: list[bool] = field(default_factory=list)
    # Extra standard deviation of readings that are not exact, and the step in which they were read (section 18).
    spreads: list[float] = field(default_factory=list)
    steps: list[float] = field(default_factory=list)
    half_widths: list[float] = field(default_factory=list)
    methods: list[str] = field(default_factory=list)

    def by_pass(self) -> dict[int, float]:
        """The value of each pass; the first, where a pass has several."""
        return dict(reversed(list(zip(self.passes, self.numbers, strict=True))))


# By test and metric, then by column.
AllValues = dict[tuple[int, str], dict[int, Values]]


def parts_of_worked_out(test: Test) -> list[str]:
    """The metrics that others of a test are worked out of."""
    return [part for one in own_metrics(test) if one.kind == "worked out" for part in (one.of, one.other)]


def work_out(test: Test, values: AllValues, low_definition: str) -> None:
    """Add to the values of a test those that are worked out of others, plain passes and first runs each for itself."""
    for one in own_metrics(test):
        if one.kind != "worked out" or not one.by:
            continue
        for group in ("", FIRST):
            a, b = (values.get((test.pk, group + resolve(part, low_definition)), {}) for part in (one.of, one.other))
            for column in a.keys() & b.keys():
                made = _worked_out(one, a[column], b[column], metric_of(test, one.other, low_definition).scale)
                if made.numbers:
                    values[test.pk, group + one.key][column] = made


def _worked_out(one: OwnMetric, a: Values, b: Values, scale_b: str) -> Values:
    assert one.by
    made = worked_out(a.by_pass(), b.by_pass(), one.by, "ratio" if scale_b == "ratio" else "difference")
    thin = {number: is_thin for part in (a, b) for number, is_thin in zip(part.passes, part.thin, strict=True)}
    whole = [(n, v, s) for n, v, s in zip(made.passes, made.values, made.spreads, strict=True)]
    # Nothing at or under 0 can be compared as a ratio.
    whole = [found for found in whole if one.scale == "difference" or found[1] > 0]
    return Values(
        [number for number, _, _ in whole],
        [value for _, value, _ in whole],
        [thin.get(number, False) for number, _, _ in whole],
        [spread for _, _, spread in whole],
        [0.0] * len(whole),
        [0.0] * len(whole),
        [WORKED_OUT] * len(whole),
    )
