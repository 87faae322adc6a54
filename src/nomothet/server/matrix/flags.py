"""Flags of a test's cells and their passes; none of them removes anything but a pass that was run as another test."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from nomothet.core import passes
from nomothet.core.comparable import AMBIENT, AMBIENT_TOLERANCE_C, severity_of
from nomothet.core.notes import Note, note
from nomothet.core.passes import Flags, median_of
from nomothet.core.settings import CATALOGUE, is_known, setting_of
from nomothet.formats.words import OUTCOMES, Metric
from nomothet.server.evidence.figures import Cell, Evidence, LookedAt, block_flag
from nomothet.server.evidence.values import Values
from nomothet.server.matrix.lens import Context, Lens, LensResults, Shared
from nomothet.server.matrix.unmet import Unmet
from nomothet.server.passes.searches import SEARCHED
from nomothet.server.reviews.models import Review, Test
from nomothet.server.reviews.shown import metric_of, resolve
from nomothet.server.systems.queries import reading_of
from nomothet.words import say
from nomothet.words.fingerprints import label_of, text_of_value

Severity = Literal["blocks", "warns", "notes"]

# Observed numbers of a setting are the same within this share of one another: tools do not agree to the last digit.
_SAME = 0.05


@dataclass(frozen=True)
class FlagShape:
    """Something conspicuous about a cell. `key` names it for those who have looked at it."""

    key: str
    code: str
    words: str
    severity: Severity
    # The passes that it is about, by their numbers; empty for the cell as a whole.
    passes: list[int]


def _build(context: Context, test: Test, _: LensResults) -> dict[str, list[FlagShape]]:
    """What is conspicuous about each cell of a test, by column; the gravest first."""
    review, evidence = context.review, context.evidence
    found: dict[str, list[FlagShape]] = {}
    metric = metric_of(test, test.shown[0], review.low_definition) if test.shown else None
    cells = evidence.values.get((test.pk, metric.key), {}) if metric else {}
    lacking = {column: needs for (of, column), needs in context.shared.unmet.items() if of == test.pk}
    tried = {one.column for one in evidence.passes if one.test == test.pk and one.column in lacking}
    columns = {*cells, *(column for of, column in evidence.looked_at if of == test.pk), *tried}
    for column in sorted(columns):
        cell = (test.pk, column)
        own: list[FlagShape] = [
            *_blocked(evidence.blocked.get(cell, {})),
            *unlike_within(evidence.looked_at.get(cell, [])),
            *unlike_claims(evidence.looked_at.get(cell, [])),
        ]
        if metric and column in cells:
            others = [other.numbers for at, other in cells.items() if at != column]
            own += _of_values(cells[column], passes.flags(cells[column].numbers, metric.scale, others=others), metric)
        own += _of_figures(cell, evidence, review)
        if column in tried:
            own += _ran_anyway(lacking[column], evidence, cell, metric)
        if own:
            rank = {"blocks": 0, "warns": 1, "notes": 2}
            found[str(column)] = sorted(own, key=lambda one: rank[one.severity])
    return found


def flagged_passes(flags: Sequence[FlagShape]) -> dict[int, str]:
    """Conspicuous passes of a cell by their number, with why; what is only noted makes no pass conspicuous."""
    found: dict[int, str] = {}
    for one in flags:
        if one.severity != "notes":
            found |= {number: one.words for number in one.passes if number not in found}
    return found


def unlike_within(looked_at: Sequence[LookedAt]) -> list[FlagShape]:
    """Entries of the fingerprint in which passes of a cell differ from most of its passes."""
    keys = dict.fromkeys(key for one in looked_at for key in one.fingerprint)
    found = []
    for key in keys:
        told = [(one.number, one.fingerprint[key]) for one in looked_at if one.fingerprint.get(key) is not None]
        if key == AMBIENT:
            found += _air([(number, float(value)) for number, value in told])
            continue
        usual = _usual([value for _, value in told], key)
        other = [(number, value) for number, value in told if not _same(key, value, usual)]
        severity = severity_of(key)
        # What the test itself is, is told as a block.
        if other and severity != "blocks":
            values = list(dict.fromkeys(text_of_value(value) for _, value in other))
            numbers = [number for number, _ in other]
            words = note(
                "unlike_within", label=label_of(key), values=values, usual=text_of_value(usual), passes=numbers
            )
            found.append(_flag(f"unlike:{key}:{'+'.join(values)}", words, severity, numbers))
    return found


def unlike_claims(looked_at: Sequence[LookedAt]) -> list[FlagShape]:
    """What passes of a cell were run with, where their configuration says otherwise."""
    found: dict[tuple[str, str, str], list[int]] = {}
    for one in looked_at:
        for key, claimed, read in one.summary.get("not_as_claimed", []):
            told = (key, _with_unit(key, claimed), _with_unit(key, read))
            found.setdefault(told, []).append(one.number)
    return [
        _flag(
            f"claim:{key}:{read}",
            note("not_as_claimed", label=label_of(key), claimed=claimed, found=read, passes=numbers),
            "warns",
            numbers,
        )
        for (key, claimed, read), numbers in found.items()
    ]


def _with_unit(key: str, value: Any) -> str:
    unit = setting_of(key).spec.unit if is_known(key) else ""
    return f"{text_of_value(value)} {unit}".strip()


def _blocked(passes: Mapping[int, str]) -> list[FlagShape]:
    return [
        _flag(block_flag(number), note("ran_as_other", number=number, what=what), "blocks", [number])
        for number, what in passes.items()
    ]


def _of_values(values: Values, found: Flags, metric: Metric) -> list[FlagShape]:
    flags = []
    middle = median_of(values.numbers)
    for at in found.odd:
        away = values.numbers[at] / middle - 1 if metric.scale == "ratio" else values.numbers[at] - middle
        words = note(
            "outlier",
            number=values.passes[at],
            away=100 * away if metric.scale == "ratio" else away,
            unit="%" if metric.scale == "ratio" else metric.unit,
            cold=found.cold_first,
        )
        flags.append(_flag(f"outlier:{values.passes[at]}", words, "warns", [values.passes[at]]))
    if found.drift is not None:
        unit = "%" if metric.scale == "ratio" else metric.unit
        words = note("drifts", per_pass=found.drift.per_pass, unit=unit)
        flags.append(_flag(f"drift:{len(values.numbers)}", words, "warns", []))
    return flags


def _ran_anyway(needs: Sequence[Unmet], evidence: Evidence, cell: Cell, metric: Metric | None) -> list[FlagShape]:
    """A requirement that is not met, and what came of it, as one entry."""
    values = evidence.values.get((cell[0], metric.key), {}).get(cell[1]) if metric else None
    failed = [OUTCOMES[one.outcome] for one in evidence.passes
              if (one.test, one.column) == cell and one.outcome != "completed" and not one.set_aside]  # fmt: skip
    return [
        _flag(
            f"unmet:{need.aspect}",
            note(
                "ran_anyway",
                label=need.label,
                least=need.least,
                has=need.has,
                unit=need.unit,
                centre=median_of(values.numbers) if values else None,
                of=metric.unit if metric else "",
                failed=list(dict.fromkeys(failed)),
            ),
            "notes",
            [],
        )
        for need in needs
    ]


def _of_figures(cell: Cell, evidence: Evidence, review: Review) -> list[FlagShape]:
    """Flags on single figures of a cell's passes: a held rate, a thin tail, a run that was too short."""
    test, column = cell
    flags = []
    held = evidence.values.get((test, "held_fps"), {}).get(column)
    if held is not None:
        averages = evidence.values.get((test, "average_fps"), {}).get(column)
        of = len(averages.numbers) if averages else len(held.numbers)
        words = note("rate_held", fps=held.numbers[0], passes=len(held.numbers), of=of)
        flags.append(_flag(f"held:{held.numbers[0]:g}", words, "notes", []))
    low = evidence.values.get((test, resolve("low_1pct", review.low_definition)), {}).get(column)
    if low is not None and any(low.thin):
        flags.append(_flag("thin", note("tail_thin"), "notes", []))
    rising = [
        one.summary["rise_c_per_min"] for one in evidence.looked_at.get(cell, ()) if "rise_c_per_min" in one.summary
    ]
    if rising:
        flags.append(_flag("short", note("too_short", c_per_min=max(rising)), "warns", []))
    searches = contradiction(cell, evidence)
    return [*flags, *searches]


def contradiction(cell: Cell, evidence: Evidence) -> list[FlagShape]:
    """Searches of one cell whose brackets cannot both be true: one held a load at which another broke."""
    load = next(
        (
            found[cell[1]]
            for (test, _), found in evidence.values.items()
            if test == cell[0] and cell[1] in found and any(found[cell[1]].steps) and SEARCHED in found[cell[1]].methods
        ),
        None,
    )
    if load is None or len(load.numbers) < 2:
        return []
    broke = min(value + step for value, step in zip(load.numbers, load.steps, strict=True))
    held = max(load.numbers)
    if held < broke:
        return []
    return [_flag(f"searches:{held:g}:{broke:g}", note("searches_contradict", held=held, broke=broke), "warns", [])]


def _air(told: Sequence[tuple[int, float]]) -> list[FlagShape]:
    values = [value for _, value in told]
    if not values or max(values) - min(values) <= AMBIENT_TOLERANCE_C:
        return []
    return [_flag("air", note("air_changed", low=min(values), high=max(values)), "notes", [])]


def _usual(values: Sequence[Any], key: str) -> Any:
    """The most frequent value, the earliest of equals."""
    counted = Counter(map(repr, values))
    most = max(counted.values(), default=0)
    return next((value for value in values if counted[repr(value)] == most), None)


def _same(key: str, a: Any, b: Any) -> bool:
    setting = CATALOGUE.get(key)
    rate = reading_of(key, a, b)
    if rate is not None:
        # A tool may show the clock of a memory, which is half of its speed.
        a = rate.rate_mts
    numbers = all(isinstance(one, int | float) and not isinstance(one, bool) for one in (a, b))
    if numbers and setting is not None and setting.spec.kind == "number":
        return bool(abs(a - b) <= _SAME * max(abs(a), abs(b)))
    return bool(a == b)


def _flag(key: str, words: Note, severity: Severity, numbers: list[int]) -> FlagShape:
    return FlagShape(key[:200], words.code, say(words), severity, numbers)


def _depends(shared: Shared, test: Test) -> object:
    """What the configurations lack that the test asks for."""
    return sorted((column, repr(needs)) for (of, column), needs in shared.unmet.items() if of == test.pk)


FLAGS = Lens("flags", dict[str, list[FlagShape]], _build, depends=_depends)
