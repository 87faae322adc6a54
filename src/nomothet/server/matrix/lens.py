"""What a lens is: one view of a test, computed from the evidence and kept until something it depends on changes."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Generic, TypeVar

import msgspec
import zstandard

from nomothet.server.analysis.queries import Rated
from nomothet.server.evidence.figures import Evidence
from nomothet.server.evidence.idle import Idles
from nomothet.server.matrix.unmet import Lacking
from nomothet.server.reviews.models import Review, Test

Result = TypeVar("Result")

# By test and shown metric, why a column has no value.
Gaps = Mapping[tuple[int, str], Mapping[int, str]]


@dataclass(frozen=True)
class Shared:
    """What all tests of a review depend on beside their own evidence."""

    baseline: int | None
    rated: Mapping[int, Rated]
    distrust: Mapping[tuple[int, str], str]
    recorder: Mapping[tuple[int, str], float]
    labels: Mapping[int, str]
    # The idle baselines by column and metric, and whether they are taken off.
    idles: Idles
    idle_off: bool
    # What sensors read while a configuration did nothing, in W, by column and source.
    idle_w: Mapping[tuple[int, str], float]
    # What workloads ask for and configurations lack.
    unmet: Lacking


@dataclass(frozen=True)
class Context:
    """A review with the evidence that its lenses are built from."""

    review: Review
    evidence: Evidence
    gaps: Gaps
    shared: Shared
    # Rows whose quantity another instrument counts for.
    sidelined: set[tuple[int, str]]


@dataclass(frozen=True, eq=False)
class Lens(Generic[Result]):
    """One view of a test.

    Attributes
    ----------
    made : type
        What `build` makes; plain dataclasses, so that it can be kept.
    needs : tuple of Lens
        Lenses that are built before it and that `build` may ask for.
    depends : callable
        Beside the review, the test with its passes and its workload: what the result depends on. What it gives is part
        of the key under which the result is kept.
    leans : callable
        Whether a result rests on something of other reviews, and so is not kept.
    """

    key: str
    made: type[Result]
    build: "Callable[[Context, Test, LensResults], Result]"
    needs: "tuple[Lens[Any], ...]" = ()
    depends: Callable[[Shared, Test], object] = lambda _shared, _test: ()
    leans: Callable[[Result], bool] = lambda _result: False


@dataclass(frozen=True)
class Kept:
    """What all lenses show of a test, compressed: once to be worked with, once as the JSON that answers are made of.

    JSON alone would not do: it has no number that is not finite.
    """

    worked_with: bytes
    json: bytes


@dataclass
class LensResults:
    """What every lens shows of one test, built now or read back as they were kept."""

    test: int
    _built: dict[str, Any] = field(default_factory=dict)
    _kept: Kept | None = None

    def of(self, lens: Lens[Result]) -> Result:
        """What a lens shows of the test."""
        if lens.key not in self._built:
            self._built[lens.key] = msgspec.msgpack.decode(self._worked_with[lens.key], type=lens.made)
        result: Result = self._built[lens.key]
        return result

    def json(self, lens: Lens[Any]) -> msgspec.Raw:
        """The same as JSON."""
        return self._json[lens.key]

    def build(self, lens: Lens[Any], context: Context, test: Test) -> None:
        """Compute what a lens shows; those that it needs are there already."""
        self._built[lens.key] = lens.build(context, test, self)

    def kept(self) -> Kept:
        """All of it, for `read_back`."""
        both = msgspec.msgpack.encode(self._built), msgspec.json.encode(self._built)
        return Kept(*map(zstandard.compress, both))

    @cached_property
    def _worked_with(self) -> dict[str, msgspec.Raw]:
        assert self._kept is not None, "what was not built was kept"
        return msgspec.msgpack.decode(zstandard.decompress(self._kept.worked_with), type=dict[str, msgspec.Raw])

    @cached_property
    def _json(self) -> dict[str, msgspec.Raw]:
        if self._kept is None:
            return {key: msgspec.Raw(msgspec.json.encode(one)) for key, one in self._built.items()}
        return msgspec.json.decode(zstandard.decompress(self._kept.json), type=dict[str, msgspec.Raw])


def read_back(test: int, kept: Kept) -> LensResults:
    """LensResults as they were kept; each is decoded when it is asked for."""
    return LensResults(test, {}, kept)
