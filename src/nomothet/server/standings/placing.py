"""A result held against another one, and what is said of the two."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, Protocol

from django.db.models import QuerySet

from nomothet.core.compare_placed import PlacedComparison
from nomothet.core.errors import BadSample
from nomothet.core.margins import margin_of
from nomothet.core.notes import note
from nomothet.core.standings import Result as CoreResult
from nomothet.core.standings import Standing, Standings
from nomothet.server.reviews.models import Column, Review
from nomothet.server.standings.held import Held, cell_name, core_result, results_of
from nomothet.server.standings.models import Result
from nomothet.server.systems.models import Configuration, System
from nomothet.server.workloads.models import Workload
from nomothet.words import comparisons, say
from nomothet.words.standings import unlike_words

# What is read of what results are of: each is read once, however many results share it, and the rest of a review is
# long.
_OF: Mapping[str, QuerySet[Any]] = {
    "system": System.objects.only("name", "key"),
    "workload": Workload.objects.only("key", "version", "comparable"),
    "review": Review.objects.only("question", "margin", "margins"),
    "column": Column.objects.only("label", "position", "is_baseline"),
    "configuration": Configuration.objects.only("name", "revision", "system_id", "settings", "base_id"),
}


# So many comparisons of many results are kept.
_MOST_KEPT = 8


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


def whole_results(held: Sequence[Held], of: Collection[str] = tuple(_OF)) -> list[Result]:
    """Results with what they are of, or some of that, which is read in a query each."""
    results = results_of(held)
    for name in of:
        field: Any = Result._meta.get_field(name)
        found = _OF[name].in_bulk({getattr(one, field.attname) for one in results})
        for one in results:
            field.set_cached_value(one, found[getattr(one, field.attname)])
    return results


def name_of(result: Result) -> str:
    """What names a result among others."""
    return cell_name(result.test_id, result.column_id)


class Against:
    """Results by their names, held against one of them (method 26)."""

    def __init__(
        self, results: Mapping[str, CoreResult], reference: str, margin: float | None, direction: str, scale: str
    ) -> None:
        self._results = results
        self._standings = Standings(
            results, reference, direction=direction, scale=scale, margin=margin,  # type: ignore[arg-type]
        )  # fmt: skip

    @property
    def placed(self) -> Mapping[str, Standing]:
        """Where each stands, not compared yet."""
        return self._standings.placed

    def compared(self, names: Iterable[str]) -> Mapping[str, Standing]:
        """Where these stand, compared by the noise of all."""
        wanted = list(names)
        try:
            return {name: self._standings.of(name) for name in wanted}
        except BadSample:
            return {name: Standing("not beside", self._results[name].apart, (), None) for name in wanted}


def against(results: Sequence[Result], reference: Result, metric: Told) -> Mapping[str, Standing]:
    """Where each stands against the reference, compared."""
    core = {
        name_of(one): toward(core_result(one.content, one.fingerprint), one.workload, reference.workload)
        for one in results
    }
    return Against(
        core, name_of(reference), _margin(reference.review, metric), metric.direction, metric.scale
    ).compared(core)


def against_held(results: Sequence[Held], reference: Held, of: Review, metric: Told) -> Against:
    """Results against one of them, of which none is read whole; `of` is the review of that one."""
    editions = {one.workload_id for one in results}
    declared: dict[int, tuple[str, str, str]] = {}
    if len(editions) > 1:
        workloads = Workload.objects.only("version", "comparable").in_bulk(editions)
        base = workloads[reference.workload_id]
        declared = {pk: found for pk, one in workloads.items() if (found := declared_between(one, base))}
    return _against(
        tuple(results), reference, tuple(sorted(declared.items())), _margin(of, metric), metric.direction, metric.scale
    )


@lru_cache(maxsize=_MOST_KEPT)
def _against(
    results: tuple[Held, ...],
    reference: Held,
    declared: tuple[tuple[int, tuple[str, str, str]], ...],
    margin: float | None,
    direction: str,
    scale: str,
) -> Against:
    """The same results against the same one are asked for page by page."""
    said = dict(declared)
    core = {
        one.name: _toward(one.core, said[one.workload_id]) if one.workload_id in said else one.core for one in results
    }
    return Against(core, reference.name, margin, direction, scale)


def _margin(of: Review, metric: Told) -> float | None:
    return margin_of(metric.unit, metric.scale, of.margin, of.margins)  # type: ignore[arg-type]


def toward(core: CoreResult, own: Workload, other: Workload) -> CoreResult:
    """The same where its version was declared comparable with the reference's: the two are not held against one
    another by it."""
    declared = declared_between(own, other)
    return core if declared is None else _toward(core, declared)


def _toward(core: CoreResult, declared: tuple[str, str, str]) -> CoreResult:
    version, other_version, why = declared
    doubt = note("standing_other_edition", version=version, other=other_version, why=why)
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
