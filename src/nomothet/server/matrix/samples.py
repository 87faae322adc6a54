"""What findings are made of: the values behind a test's cells, kept with its lenses so that none is read twice."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from nomothet.core.placing import Ran, rounds_of
from nomothet.core.rounds import Placed
from nomothet.server.evidence.figures import Evidence, LookedAt
from nomothet.server.matrix.lens import Context, Lens, LensResults
from nomothet.server.reviews.models import Test
from nomothet.server.reviews.shown import LOWS, metric_of, row_keys

# Of a fingerprint, what an update changes.
_UPDATED = ("image", "operating system", "graphics_driver", "driver", "firmware", "kernel", "program")
# Beside the rows of a test.
_BESIDE = (*LOWS, "hitch_rate_per_min", "pacing_unevenness_pct")


@dataclass(frozen=True)
class Sample:
    """The kept values of a metric in a cell, with the number, the round and the session of each pass, and the extra
    standard deviation of readings that are not exact."""

    passes: list[int]
    numbers: list[float]
    thin: bool
    rounds: list[int | None]
    sessions: list[str | None]
    spreads: list[float]

    @property
    def placed(self) -> list[Placed]:
        return [Placed(*one) for one in zip(self.numbers, self.rounds, self.sessions, strict=True)]


@dataclass(frozen=True)
class Drawn:
    """What a pass drew from a source: its mean in W and its energy in J."""

    number: int
    mean_w: float
    energy_j: float


@dataclass(frozen=True)
class Samples:
    """Of a test: by row or metric and column its values, by source and column what was drawn, the sustained clocks, and
    what an update changed between the passes of a cell, as (pass, what it ran with)."""

    metrics: dict[str, dict[str, Sample]]
    power: dict[str, dict[str, list[Drawn]]]
    clocks_mhz: dict[str, float]
    updates: dict[str, list[tuple[int, str]]]
    # By column, the memories that each pass used, as core.enough.Use says it.
    uses: dict[str, list[tuple[int, dict[str, Any]]]]


def placements(evidence: Evidence, test: int) -> Mapping[tuple[int, int], tuple[int | None, str | None]]:
    """The round and the session of each pass of a test, by column and number."""
    own = [one for one in evidence.passes if one.test == test and one.outcome == "completed" and not one.set_aside]
    ran = [Ran(one.column, one.started_at.timestamp(), one.started_at.timestamp(), one.in_rounds) for one in own]
    return {
        (one.column, one.number): (at, str(one.session) if one.session else None)
        for one, at in zip(own, rounds_of(ran), strict=True)
    }


def _build(context: Context, test: Test, _: LensResults) -> Samples:
    evidence, low = context.evidence, context.review.low_definition
    placed = placements(evidence, test.pk)
    metrics: dict[str, dict[str, Sample]] = {}
    for shown in dict.fromkeys([*row_keys(test, has_first=evidence.first_runs(test.pk)), *_BESIDE]):
        cells = evidence.values.get((test.pk, metric_of(test, shown, low).key), {})
        if cells:
            metrics[shown] = {
                str(column): Sample(
                    values.passes,
                    values.numbers,
                    any(values.thin),
                    [placed.get((column, number), (None, None))[0] for number in values.passes],
                    [placed.get((column, number), (None, None))[1] for number in values.passes],
                    values.spreads,
                )
                for column, values in cells.items()
            }
    power: dict[str, dict[str, list[Drawn]]] = {}
    clocks: dict[str, float] = {}
    updates: dict[str, list[tuple[int, str]]] = {}
    uses: dict[str, list[tuple[int, dict[str, Any]]]] = {}
    for (of, column), found in evidence.looked_at.items():
        if of != test.pk:
            continue
        counted = [one for one in found if one.number not in evidence.blocked.get((of, column), {})]
        for one in counted:
            for source, (mean_w, energy_j) in one.summary.get("power", {}).items():
                power.setdefault(source, {}).setdefault(str(column), []).append(Drawn(one.number, mean_w, energy_j))
        told = [one.summary["clocks"][1] for one in counted if _clock(one.summary) is not None]
        if told:
            clocks[str(column)] = sum(told) / len(told)
        updated = _updates(counted)
        if updated:
            updates[str(column)] = updated
        used = [(one.number, one.summary["uses"]) for one in counted if one.summary.get("uses")]
        if used:
            uses[str(column)] = used
    return Samples(metrics, power, clocks, updates, uses)


def _clock(summary: Mapping[str, Any]) -> float | None:
    clock: float | None = summary.get("clocks", [None, None])[1]
    return clock


def _updates(found: Sequence[LookedAt]) -> list[tuple[int, str]]:
    """The passes of a cell with what they ran with, where that is not the same for all."""
    told: dict[int, list[str]] = {}
    for key in _UPDATED:
        values = [(one.number, str(one.fingerprint[key])) for one in found if one.fingerprint.get(key) is not None]
        if len({value for _, value in values}) > 1:
            for number, value in values:
                told.setdefault(number, []).append(f"{key.replace('_', ' ')} {value}")
    return [(number, ", ".join(words)) for number, words in sorted(told.items())]


SAMPLES = Lens("samples", Samples, _build)
