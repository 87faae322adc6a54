"""All lenses on every test: computed once, kept until something that they depend on changes.

A change of one pass computes its own test anew; all other tests of the review are read back as they were.
"""

import hashlib
from collections.abc import Mapping, Sequence
from functools import cache as once
from pathlib import Path
from typing import Any

from django.core.cache import cache

import nomothet.core
import nomothet.words
from nomothet.server.analysis.queries import rated_of, untrusted_metrics
from nomothet.server.analysis.recorder import recorder_factors
from nomothet.server.evidence import figures
from nomothet.server.evidence.figures import gather
from nomothet.server.evidence.idle import idle_baselines, idle_power
from nomothet.server.matrix.again import AGAIN
from nomothet.server.matrix.alike import ALIKE
from nomothet.server.matrix.economy import ECONOMY
from nomothet.server.matrix.flags import FLAGS
from nomothet.server.matrix.lens import Context, Lens, LensResults, Shared, read_back
from nomothet.server.matrix.limits import LIMITS
from nomothet.server.matrix.progress import PASSES
from nomothet.server.matrix.rows import ROWS
from nomothet.server.matrix.samples import SAMPLES
from nomothet.server.matrix.unmet import unmet
from nomothet.server.passes.gaps import gaps_of
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.states import ConfigurationState

# Each after those that it needs.
LENSES: tuple[Lens[Any], ...] = (FLAGS, PASSES, LIMITS, ROWS, ALIKE, AGAIN, SAMPLES, ECONOMY)
_KEPT_S = 14 * 24 * 3600


def shared_of(
    review: Review,
    tests: Sequence[Test],
    columns: Sequence[Column],
    baseline: int | None,
    held: Mapping[int, ConfigurationState],
    *,
    idle_off: bool = False,
) -> Shared:
    """What all tests of a review depend on beside their own evidence."""
    return Shared(
        baseline,
        rated_of(columns, held),
        untrusted_metrics(test.workload_id for test in tests),
        recorder_factors(review, tests),
        {column.pk: column.label for column in columns},
        idle_baselines(tests),
        idle_off,
        idle_power(tests),
        unmet(tests, columns, held),
    )


def lens_results(review: Review, tests: Sequence[Test], shared: Shared) -> list[LensResults]:
    """Every test, in order; only what changed since it was kept is computed."""
    (found,) = _results(review, tests, [shared], LENSES)
    return found


def row_results(review: Review, tests: Sequence[Test], shared: Sequence[Shared]) -> list[list[LensResults]]:
    """The rows of every test alone, for each of several baselines; the evidence is read once for all."""
    return _results(review, tests, shared, (LIMITS, ROWS))


def _results(
    review: Review, tests: Sequence[Test], several: Sequence[Shared], lenses: tuple[Lens[Any], ...]
) -> list[list[LensResults]]:
    keys = {(at, test.pk): _key(review, test, one, lenses) for at, one in enumerate(several) for test in tests}
    kept = cache.get_many(keys.values())
    found = {where: read_back(where[1], kept[key]) for where, key in keys.items() if key in kept}
    wanted = [test for test in tests if any((at, test.pk) not in found for at in range(len(several)))]
    if wanted:
        evidence, gaps, sidelined = gather(review, wanted), gaps_of(review), _sidelined(review)
        fresh = {
            (at, test.pk): _built(Context(review, evidence, gaps, one, sidelined), test, lenses)
            for at, one in enumerate(several)
            for test in wanted
            if (at, test.pk) not in found
        }
        keep = {keys[where]: results.kept() for where, results in fresh.items() if not _leans(results, lenses)}
        cache.set_many(keep, _KEPT_S)
        found |= fresh
    return [[found[at, test.pk] for test in tests] for at in range(len(several))]


def _built(context: Context, test: Test, lenses: Sequence[Lens[Any]]) -> LensResults:
    results = LensResults(test.pk)
    for lens in lenses:
        results.build(lens, context, test)
    return results


def _leans(results: LensResults, lenses: Sequence[Lens[Any]]) -> bool:
    return any(lens.leans(results.of(lens)) for lens in lenses)


def _sidelined(review: Review) -> set[tuple[int, str]]:
    """Of declared pairs of instruments, the rows that do not count."""
    other = {"a": ("test_b_id", "metric_b"), "b": ("test_a_id", "metric_a")}
    return {
        (getattr(pair, other[pair.counts][0]), getattr(pair, other[pair.counts][1]))
        for pair in review.pairs.filter(kind="instrument").exclude(counts="")
    }


def _key(review: Review, test: Test, shared: Shared, lenses: Sequence[Lens[Any]]) -> str:
    """Everything that the results depend on: evidence, plan, workload, what each lens adds, and the code."""
    depends = (
        _code(), review.pk, review.version, test.pk, test.stamp, test.workload.edit, shared.baseline,
        [(lens.key, lens.depends(shared, test)) for lens in lenses],
    )  # fmt: skip
    return f"lens-{hashlib.sha256(repr(depends).encode()).hexdigest()}"


@once
def _code() -> str:
    """A mark of the code that computes results, so that what other code has computed is not taken for its own."""
    folders = [
        Path(one).parent for one in (nomothet.core.__file__, nomothet.words.__file__, figures.__file__, __file__)
    ]
    files = [file for folder in folders for file in sorted(folder.glob("*.py"))]
    return hashlib.sha256(b"".join(file.read_bytes() for file in files)).hexdigest()
