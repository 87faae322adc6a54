"""A result held against another one, and what is said of the two."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Protocol

from django.db.models import Prefetch, prefetch_related_objects

from nomothet.core.compare_placed import PlacedComparison
from nomothet.core.errors import BadSample
from nomothet.core.margins import margin_of
from nomothet.core.notes import note
from nomothet.core.rounds import Placed
from nomothet.core.standings import Result as CoreResult
from nomothet.core.standings import Standing, compared, places
from nomothet.server.matrix.alike import varied
from nomothet.server.reviews.models import Column, Review
from nomothet.server.standings.models import Result
from nomothet.server.systems.models import Configuration, System
from nomothet.server.workloads.models import Workload
from nomothet.words import comparisons, say
from nomothet.words.standings import unlike_words

# What is read of what results are of: each is read once, however many results share it, and the rest of a review is
# long. Machines and workloads are few; the others are read of those results alone that are told of.
FEW = (
    Prefetch("system", System.objects.only("name", "key")),
    Prefetch("workload", Workload.objects.only("key", "version", "comparable")),
)
_OF = (
    *FEW,
    Prefetch("review", Review.objects.only("question", "margin", "margins")),
    Prefetch("column", Column.objects.only("label", "position", "is_baseline")),
    Prefetch("configuration", Configuration.objects.only("name", "revision", "system_id", "settings", "base_id")),
)


class Told(Protocol):
    """Of a metric, what a comparison needs and says."""

    @property
    def label(self) -> str: ...
    @property
    def unit(self) -> str: ...
    @property
    def direction(self) -> str: ...
    @property
    def scale(self) -> str: ...


@dataclass(frozen=True)
class ReasonShape:
    """Why a result does not stand beside the reference, or only with a warning."""

    words: str
    # "blocks" or "warns".
    severity: str


def load_what_they_are_of(results: Sequence[Result]) -> None:
    """Read the machines, workloads, reviews, columns and configurations of results, in a query each."""
    prefetch_related_objects(results, *_OF)


def name_of(result: Result) -> str:
    """What names a result for as long as its cell is there."""
    return f"{result.test_id}-{result.column_id}"


class Against:
    """Results held against one of them (method 26)."""

    def __init__(self, results: Sequence[Result], reference: Result, metric: Told) -> None:
        self._reference, self._metric = reference, metric
        self._core = {name_of(one): _toward(_core_result(one), one, reference) for one in results}
        # Where each stands, not compared yet.
        self.placed: Mapping[str, Standing] = places(self._core, name_of(reference))

    def compared(self, only: Collection[str] | None = None) -> dict[str, Standing]:
        """Where each stands; with `only` these alone are compared, by the noise of all."""
        review, metric = self._reference.review, self._metric
        margin = margin_of(metric.unit, metric.scale, review.margin, review.margins)  # type: ignore[arg-type]
        try:
            return compared(
                self._core, self.placed, name_of(self._reference),
                direction=metric.direction, scale=metric.scale, margin=margin, only=only,  # type: ignore[arg-type]
            )  # fmt: skip
        except BadSample:
            return {name: Standing("not beside", one.apart, (), None) for name, one in self._core.items()}


def against(results: Sequence[Result], reference: Result, metric: Told) -> dict[str, Standing]:
    """Where each stands against the reference, compared."""
    return Against(results, reference, metric).compared()


def _core_result(one: Result) -> CoreResult:
    """A result as the method takes it."""
    content, fingerprint = one.content, one.fingerprint
    parts = {key for key in fingerprint if key.startswith("part:")}
    return CoreResult(
        values=[Placed(v, None, s) for v, s in zip(content["numbers"], content["sessions"], strict=True)],
        fingerprint=fingerprint,
        varied=frozenset(varied({"system"}, fingerprint, {}) | parts),
        apart=tuple(note(code, **values) for code, values in content["apart"]),
        doubts=tuple(note("standing_doubt", words=words) for words in content["doubts"]),
        low_definition=content["low_definition"],
        power_source=content["power_source"],
        held=content["held"],
        spread=content["spread"],
    )


def _toward(core: CoreResult, one: Result, reference: Result) -> CoreResult:
    """The same where its version was declared comparable with the reference's: the two are not held against one
    another by it."""
    declared = declared_between(one.workload, reference.workload)
    if declared is None:
        return core
    own, other, why = declared
    doubt = note("standing_other_edition", version=own, other=other, why=why)
    fingerprint = {key: value for key, value in core.fingerprint.items() if key != "version"}
    return replace(core, fingerprint=fingerprint, doubts=(*core.doubts, doubt))


def declared_between(own: Workload, other: Workload) -> tuple[str, str, str] | None:
    """Two versions that were declared comparable, and why."""
    if own.version == other.version:
        return None
    for one, against_version in ((own, other.version), (other, own.version)):
        for said in one.comparable:
            if said["version"] == against_version:
                return own.version, other.version, str(said.get("why", ""))
    return None


def reasons_of(found: Standing) -> list[ReasonShape]:
    """Why it stands where it stands, in words."""
    severity = "blocks" if found.place == "not beside" else "warns"
    told = [ReasonShape(say(one), severity) for one in found.reasons]
    return told + [ReasonShape(unlike_words(one.key, one.b, one.a), one.severity) for one in found.differences]


def compared_words(placed: PlacedComparison | None, metric: Told) -> dict[str, Any]:
    if placed is None:
        return {"better": None, "better_low": None, "better_high": None, "verdict": "", "told": "", "interval": ""}
    one, ratio = placed.comparison, metric.scale == "ratio"

    def turned(value: float | None) -> float | None:
        return None if value is None else 100 * (value - 1) if ratio else value

    return {
        "better": turned(one.effect),
        "better_low": turned(one.low),
        "better_high": turned(one.high),
        "verdict": one.verdict,
        "told": comparisons.change_words(one, metric.unit, ratio=ratio),
        "interval": comparisons.interval_words(one, metric.unit, ratio=ratio),
    }


def sentence_of(one: Result, reference: Result, placed: PlacedComparison | None, metric: Told, *, ratio: bool) -> str:
    own, base = title_of(one), title_of(reference)
    if placed is None:
        if one.centre is None:
            return ""
        return comparisons.figure_sentence(own, metric.label, one.centre, metric.unit, one.n, "")
    told = comparisons.comparison_sentence(placed.comparison, metric.label, metric.unit, own, base, ratio=ratio)
    return " ".join(filter(None, [told, comparisons.placing_sentence(placed)]))


def title_of(one: Result) -> str:
    """A result as it is named among others: machine, configuration and day."""
    label = one.column.label
    whole = label if one.system.name.casefold() in label.casefold() else f"{one.system.name}, {label}"
    return f"{whole} ({one.last_at:%d.%m.%Y})"
