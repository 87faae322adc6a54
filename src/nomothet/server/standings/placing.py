"""A result held against another one, and what is said of the two."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Protocol

from django.db.models import Prefetch

from nomothet.core.compare_placed import PlacedComparison
from nomothet.core.errors import BadSample
from nomothet.core.margins import margin_of
from nomothet.core.notes import note
from nomothet.core.rounds import Placed
from nomothet.core.standings import Result as CoreResult
from nomothet.core.standings import Standing, standings
from nomothet.server.matrix.alike import varied
from nomothet.server.reviews.models import Column, Review
from nomothet.server.standings.models import Result
from nomothet.server.systems.models import Configuration, System
from nomothet.server.workloads.models import Workload
from nomothet.words import comparisons, say
from nomothet.words.standings import unlike_words

# What is read of what results are of: each is read once, however many results share it, and the rest of a review is
# long.
OF = (
    Prefetch("review", Review.objects.only("question", "margin", "margins")),
    Prefetch("column", Column.objects.only("label", "position", "is_baseline")),
    Prefetch("configuration", Configuration.objects.only("name", "revision", "system_id", "settings", "base_id")),
    Prefetch("system", System.objects.only("name", "key")),
    Prefetch("workload", Workload.objects.only("key", "version", "comparable")),
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


def name_of(result: Result) -> str:
    """What names a result for as long as its cell is there."""
    return f"{result.test_id}-{result.column_id}"


def against(results: Sequence[Result], reference: Result, metric: Told) -> dict[str, Standing]:
    """Where each stands against the reference (method 26)."""
    review = reference.review
    margin = margin_of(metric.unit, metric.scale, review.margin, review.margins)  # type: ignore[arg-type]
    core = {name_of(one): core_result(one, reference) for one in results}
    try:
        return standings(
            core, name_of(reference), direction=metric.direction, scale=metric.scale, margin=margin,  # type: ignore[arg-type]
        )  # fmt: skip
    except BadSample:
        return {name: Standing("not beside", one.apart, (), None) for name, one in core.items()}


def core_result(one: Result, reference: Result) -> CoreResult:
    content, fingerprint = one.content, dict(one.fingerprint)
    doubts = [note("standing_doubt", words=words) for words in content["doubts"]]
    if declared := declared_between(one.workload, reference.workload):
        fingerprint.pop("version", None)
        own, other, why = declared
        doubts.append(note("standing_other_edition", version=own, other=other, why=why))
    parts = {key for key in fingerprint if key.startswith("part:")}
    return CoreResult(
        values=[Placed(v, None, s) for v, s in zip(content["numbers"], content["sessions"], strict=True)],
        fingerprint=fingerprint,
        varied=frozenset(varied({"system"}, fingerprint, {}) | parts),
        apart=tuple(note(code, **values) for code, values in content["apart"]),
        doubts=tuple(doubts),
        low_definition=content["low_definition"],
        power_source=content["power_source"],
        held=content["held"],
        spread=content["spread"],
    )


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
