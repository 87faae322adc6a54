"""The figures of a review's passes, read once for all lenses."""

import itertools
import math
import uuid
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Q

from nomothet.server.analysis.computing import rules_of
from nomothet.server.analysis.fingerprint import declared_blocks
from nomothet.server.analysis.models import Analysis, Look
from nomothet.server.analysis.own_figures import PAIR
from nomothet.server.evidence.values import Values, parts_of_worked_out, work_out
from nomothet.server.passes.models import Figure, Pass
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.own_metrics import own_metrics
from nomothet.server.reviews.shown import FIRST, LOWS, resolve, told_low

REMEMBERED = "remembered"
AS_TOLD = "as its tool says"
Cell = tuple[int, int]
# What findings and rows look at though no row shows it.
_ALWAYS = ("held_fps", "hitch_rate_per_min", "pacing_unevenness_pct")


@dataclass(frozen=True)
class PassRow:
    id: str
    test: int
    column: int
    number: int
    outcome: str
    set_aside: bool
    note: str
    started_at: datetime
    origin: str
    run_group: str = ""
    session: uuid.UUID | None = None
    in_rounds: bool = False


@dataclass(frozen=True)
class Apart:
    """A reading shown apart."""

    number: int
    value: float
    bound: str
    method: str


@dataclass(frozen=True)
class LookedAt:
    """What the core found in a kept pass, and how that was run."""

    number: int
    summary: Mapping[str, Any]
    fingerprint: Mapping[str, Any]
    no_figures: str


@dataclass(frozen=True)
class Evidence:
    """Passes of a review and the kept values of its shown metrics, by (test, metric) and column."""

    passes: list[PassRow]
    values: dict[tuple[int, str], dict[int, Values]]
    # Readings that are shown and take part in nothing: about, over, under, remembered.
    apart: dict[tuple[int, str], dict[int, list[Apart]]]
    looked_at: dict[Cell, list[LookedAt]]
    # By cell, the numbers of passes that were run as another test, with what is other; they are in no centre until
    # somebody decides.
    blocked: dict[Cell, dict[int, str]]
    # How many kept passes of a test are still to be computed anew, after a change of what counts.
    recounting: Counter[int]
    # Lows of tests, as (test, low), that are known as a tool told them only.
    told: set[tuple[int, str]]

    def first_runs(self, test: int) -> bool:
        """Whether a test has passes that are first runs."""
        return any(one.run_group for one in self.passes if one.test == test)

    def summaries(self, test: int) -> dict[Cell, list[Mapping[str, Any]]]:
        """What the core found in the passes of a test's cells that count."""
        return {
            cell: [one.summary for one in found if one.number not in self.blocked.get(cell, {})]
            for cell, found in self.looked_at.items()
            if cell[0] == test
        }


def gather(review: Review, tests: Iterable[Test]) -> Evidence:
    """Four queries, whatever the number of tests."""
    chosen = list(tests)
    pks = [test.pk for test in chosen]
    passes = [
        PassRow(str(row[0]), *row[1:])
        for row in Pass.objects.whole()
        .filter(test__in=pks, recorder="")
        .order_by("number", "started_at")
        .values_list(
            "id",
            "test_id",
            "column_id",
            "number",
            "outcome",
            "set_aside",
            "note",
            "started_at",
            "origin",
            "run_group",
            "session",
            "in_rounds",
        )
    ]
    looked_at, recounting = _looked_at(chosen)
    blocked = _blocked(chosen, looked_at)
    values, apart = _values(review, chosen, blocked)
    told = _take_told_lows(review, pks, values, apart)
    for test in chosen:
        work_out(test, values, review.low_definition)
    return Evidence(passes, values, apart, looked_at, blocked, recounting, told)


def block_flag(number: int) -> str:
    """The key under which somebody decides that a pass counts although it was run as another test."""
    return f"blocked:{number}"


def _values(
    review: Review, tests: list[Test], blocked: Mapping[Cell, Mapping[int, str]]
) -> tuple[dict[tuple[int, str], dict[int, Values]], dict[tuple[int, str], dict[int, list[Apart]]]]:
    asked = [metric for test in tests for metric in [*test.shown, *parts_of_worked_out(test), *LOWS, *_ALWAYS]]
    wanted = {resolve(metric, review.low_definition) for metric in asked} | {told_low(low).key for low in LOWS}
    toggles = {one.key for test in tests for one in own_metrics(test) if one.kind == "toggle"}
    chosen = Q(metric__in=wanted)
    for key in toggles:
        chosen |= Q(metric__startswith=f"{key}{PAIR}")
    rows = (
        Figure.objects.of_any_group()
        .filter(chosen, owner__test__in=[test.pk for test in tests])
        .order_by("owner__number", "owner__started_at", "pk")
        .values_list(
            "owner__test_id",
            "owner__column_id",
            "owner__number",
            "metric",
            "value",
            "thin",
            "half_width",
            "step",
            "bound",
            "method",
            "owner__run_group",
        )
    )
    values: dict[tuple[int, str], dict[int, Values]] = defaultdict(lambda: defaultdict(Values))
    apart: dict[tuple[int, str], dict[int, list[Apart]]] = defaultdict(lambda: defaultdict(list))
    for test, column, number, measured, value, thin, half_width, step, bound, method, group in rows:
        metric = (FIRST if group else "") + measured.partition(PAIR)[0]
        if number in blocked.get((test, column), ()):
            continue
        if half_width is None or method == REMEMBERED:
            apart[test, metric][column].append(Apart(number, value, bound, method))
            continue
        cell = values[test, metric][column]
        cell.passes.append(number)
        cell.numbers.append(value)
        cell.thin.append(thin)
        cell.spreads.append(max(2 * half_width, step) / math.sqrt(12))
        cell.steps.append(step)
        cell.half_widths.append(half_width)
        cell.methods.append(method)
    return values, apart


def _take_told_lows(
    review: Review,
    tests: list[int],
    values: dict[tuple[int, str], dict[int, Values]],
    apart: dict[tuple[int, str], dict[int, list[Apart]]],
) -> set[tuple[int, str]]:
    """Lows that tools told stand in a row of their own kind, or apart where the row has lows by its definition."""
    taken = set()
    for test, group in itertools.product(tests, ("", FIRST)):
        for low in LOWS:
            defined, told = (test, group + resolve(low, review.low_definition)), (test, group + told_low(low).key)
            for column, found in apart.pop(told, {}).items():
                apart[defined][column] += found
            if told not in values:
                continue
            if defined not in values:
                values[defined] = values.pop(told)
                taken.add((test, group + low))
                continue
            for column, own in values.pop(told).items():
                apart[defined][column] += [
                    Apart(number, value, "", AS_TOLD) for number, value in zip(own.passes, own.numbers, strict=True)
                ]
    return taken


def _looked_at(tests: list[Test]) -> tuple[dict[Cell, list[LookedAt]], Counter[int]]:
    rules = {test.pk: rules_of(test) for test in tests}
    found: dict[Cell, list[LookedAt]] = defaultdict(list)
    recounting: Counter[int] = Counter()
    rows = (
        Analysis.objects.kept()
        .filter(owner__test__in=rules)
        .order_by("owner__number", "owner__started_at")
        .values_list(
            "owner__test_id",
            "owner__column_id",
            "owner__number",
            "summary",
            "fingerprint",
            "no_figures",
            "counted_by",
            "owner__origin",
        )
    )
    for test, column, number, summary, fingerprint, no_figures, counted_by, origin in rows:
        recounting[test] += counted_by != rules[test] and origin != "typed"
        found[test, column].append(LookedAt(number, summary, fingerprint, no_figures))
    return found, recounting


def _blocked(tests: list[Test], looked_at: Mapping[Cell, list[LookedAt]]) -> dict[Cell, dict[int, str]]:
    """Passes whose workload version or settings are not those of their test, and that nobody has let stand."""
    by_test = {test.pk: declared_blocks(test) for test in tests}
    found: dict[Cell, dict[int, str]] = {}
    for cell, passes in looked_at.items():
        for one in passes:
            other = [
                f"{key.removeprefix('setting:')} {one.fingerprint[key]} instead of {wanted}"
                for key, wanted in by_test[cell[0]].items()
                if one.fingerprint.get(key) is not None and one.fingerprint[key] != wanted
            ]
            if other:
                found.setdefault(cell, {})[one.number] = ", ".join(other)
    if not found:
        return found
    decided = set(
        Look.objects.filter(test__in=by_test, flag__startswith="blocked:").values_list("test", "column", "flag")
    )
    return {
        cell: {number: why for number, why in passes.items() if (*cell, block_flag(number)) not in decided}
        for cell, passes in found.items()
    }
