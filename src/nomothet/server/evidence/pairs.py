"""Pairs of rows with their gap in every configuration; the two are never pooled."""

import itertools
import re
from collections.abc import Mapping
from dataclasses import dataclass

from nomothet.core import compare, passes
from nomothet.core.derived import pixel_ratio
from nomothet.core.errors import BadSample
from nomothet.server.analysis.models import Pair, PairKind
from nomothet.server.evidence.figures import Evidence, gather
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import metric_of

_PIXELS = {"720p": (1280, 720), "1080p": (1920, 1080), "1440p": (2560, 1440), "4K": (3840, 2160)}
_SIZE = re.compile(r"(\d{3,5})\s*[x×]\s*(\d{3,5})")


@dataclass(frozen=True)
class GapShape:
    """The plain change from the first row to the second in a configuration, in % (ratio scale) or the metric's unit."""

    change: float
    low: float | None
    high: float | None
    a: float
    b: float
    n_a: int
    n_b: int


@dataclass(frozen=True)
class PairShape:
    """Two rows; `id` is null for one that is only proposed. `pixel_ratio` stands beside a ratio of resolutions."""

    id: int | None
    kind: str
    kind_words: str
    test_a: int
    metric_a: str
    test_b: int
    metric_b: str
    counts: str
    words: str
    unit: str
    pixel_ratio: float | None
    gaps: dict[str, GapShape]


def pairs(review: Review) -> list[PairShape]:
    """Declared pairs first, then those that the tests propose by themselves."""
    tests = list(review.tests.select_related("workload"))
    evidence = gather(review, tests)
    declared, proposed = _known(review, tests)
    return [*(_shape(review, evidence, one.pk, one) for one in declared),
            *(_shape(review, evidence, None, one) for one in proposed)]  # fmt: skip


def telling_pairs(review: Review, tests: list[Test], evidence: Evidence, most: int) -> list[PairShape]:
    """Of the pairs those that say something by themselves, as far as both were measured somewhere.

    Declared ones all; of the proposed so many at most, and of two settings only resolutions: what sizes and caps do is
    told elsewhere.
    """
    declared, proposed = _known(review, tests)
    shapes = [shape for one in declared if (shape := _shape(review, evidence, one.pk, one)).gaps]
    found = 0
    for one in proposed:
        if one.kind == PairKind.SETTING and _pixels(one.test_a.settings, one.test_b.settings) is None:
            continue
        shape = _shape(review, evidence, None, one)
        if shape.gaps and found < most:
            shapes.append(shape)
            found += 1
    return shapes


def _known(review: Review, tests: list[Test]) -> tuple[list[Pair], list[Pair]]:
    """What somebody has declared, and what the tests propose beside it."""
    declared = list(review.pairs.select_related("test_a__workload", "test_b__workload"))
    known = {(one.test_a_id, one.metric_a, one.test_b_id, one.metric_b) for one in declared}
    proposed = [
        one
        for one in _proposed(review, tests)
        if (one.test_a_id, one.metric_a, one.test_b_id, one.metric_b) not in known
    ]
    return declared, proposed


def _proposed(review: Review, tests: list[Test]) -> list[Pair]:
    """Tests of one workload that differ in one setting, or in a comparable edition only; by their leading metric."""
    found = []
    for a, b in itertools.combinations([test for test in tests if test.shown], 2):
        if a.workload.key != b.workload.key or a.shown[0] != b.shown[0]:
            continue
        apart = [key for key in {*a.settings, *b.settings} if a.settings.get(key) != b.settings.get(key)]
        kind = None
        if a.workload_id != b.workload_id and not apart and _comparable(a, b):
            kind = PairKind.EDITION
        elif a.workload_id == b.workload_id and len(apart) == 1:
            kind = PairKind.PLAY if apart[0] in ("play", "route") else PairKind.SETTING
        if kind is not None:
            found.append(Pair(review=review, kind=kind, test_a=a, metric_a=a.shown[0], test_b=b, metric_b=b.shown[0]))
    return found


def _comparable(a: Test, b: Test) -> bool:
    """Whether somebody has declared that the two editions can be compared, and why; else they are two workloads."""
    return any(
        one.get("version") == other.version
        for workload, other in ((a.workload, b.workload), (b.workload, a.workload))
        for one in workload.comparable
    )


def _shape(review: Review, evidence: Evidence, pk: int | None, pair: Pair) -> PairShape:
    first = metric_of(pair.test_a, pair.metric_a, review.low_definition)
    second = metric_of(pair.test_b, pair.metric_b, review.low_definition)
    of_a = evidence.values.get((pair.test_a_id, first.key), {})
    of_b = evidence.values.get((pair.test_b_id, second.key), {})
    gaps = {}
    for column in of_a.keys() & of_b.keys():
        gap = _gap(of_a[column].numbers, of_b[column].numbers, first.scale)
        if gap is not None:
            gaps[str(column)] = gap
    return PairShape(
        id=pk,
        kind=pair.kind,
        kind_words=PairKind(pair.kind).label,
        test_a=pair.test_a_id,
        metric_a=pair.metric_a,
        test_b=pair.test_b_id,
        metric_b=pair.metric_b,
        counts=pair.counts,
        words=_words(pair, first.label, second.label),
        unit="%" if first.scale == "ratio" else first.unit,
        pixel_ratio=_pixels(pair.test_a.settings, pair.test_b.settings),
        gaps=gaps,
    )


def _gap(a: list[float], b: list[float], scale: passes.Scale) -> GapShape | None:
    try:
        found = compare.compare_with_baseline({"a": a, "b": b}, "a", scale=scale)["b"]
    except (BadSample, KeyError):
        return None

    def shown(value: float | None) -> float | None:
        return value if value is None or scale != "ratio" else 100 * (value - 1)

    centre_a, centre_b = (passes.centre(values, scale) for values in (a, b))
    return GapShape(
        shown(found.change) or 0.0,
        shown(found.change_low),
        shown(found.change_high),
        centre_a,
        centre_b,
        len(a),
        len(b),
    )


def _words(pair: Pair, first: str, second: str) -> str:
    a, b = (f"{test.workload.name} {test.workload.version}" for test in (pair.test_a, pair.test_b))
    if pair.kind == PairKind.EDITION:
        return f"{b} against {a}"
    if pair.test_a_id == pair.test_b_id:
        return f"{pair.test_a.workload.name}: {second} against {first}"
    detail_a, detail_b = (test.detail or test.workload.name for test in (pair.test_a, pair.test_b))
    return f"{pair.test_a.workload.name}: {detail_b} against {detail_a}"


def _pixels(a: Mapping[str, object], b: Mapping[str, object]) -> float | None:
    sizes = [_size(str(one.get("resolution", ""))) for one in (a, b)]
    first, second = sizes
    return pixel_ratio(first, second) if first and second and first != second else None


def _size(said: str) -> tuple[int, int] | None:
    found = _SIZE.fullmatch(said)
    return _PIXELS.get(said) or ((int(found[1]), int(found[2])) if found else None)
