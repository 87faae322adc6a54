"""One ratio over the tests of a set for every configuration that has them all (method 4 and 26)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from nomothet.core.errors import BadSample
from nomothet.core.overall import Overall, TestCells, overall
from nomothet.core.standings import Standing
from nomothet.server.standings.measured_before import measured_before
from nomothet.server.standings.models import Result, TestSet
from nomothet.server.standings.placing import OF, ReasonShape, against, compared_words, name_of, reasons_of
from nomothet.server.standings.sets.items import Item, read_items
from nomothet.server.standings.tasks import make_what_is_stale
from nomothet.server.systems.models import Configuration
from nomothet.words import say
from nomothet.words.standings import over_all_sentence, ratio_words


@dataclass(frozen=True)
class SetItemShape:
    """A test of a set."""

    workload: int
    key: str
    name: str
    version: str
    words: str
    metric: str
    settings: dict[str, Any]
    unit: str
    direction: str
    weight: float


@dataclass(frozen=True)
class SetCell:
    """What a configuration has in a test of the set: its latest result; `better` is its change against the reference in
    percent, more being better."""

    item: int
    centre: float | None
    n: int
    last_at: datetime
    review: int
    test: int
    column: int
    place: str
    reasons: list[ReasonShape]
    better: float | None
    told: str
    verdict: str
    measured_before: list[str]


@dataclass(frozen=True)
class SetRow:
    """A configuration over the set. `place` is "reference", "beside", "with a warning" or "left out"; what is left out
    has no ratio: `missing` are numbers of tests without a result, `apart` says why results do not stand beside. `best`
    and `worst` are numbers of tests."""

    configuration: int
    revision: int
    label: str
    system: str
    place: str
    better: float | None
    better_low: float | None
    better_high: float | None
    verdict: str
    told: str
    best: int | None
    worst: int | None
    sentence: str
    missing: list[int]
    apart: list[str]
    cells: list[SetCell]


@dataclass(frozen=True)
class SetEdition:
    id: int
    edition: int
    by: str
    made_at: datetime


@dataclass(frozen=True)
class SetStanding:
    """A set with what has been measured of it; `edition` is what If-Match wants, `latest` the last edition's id."""

    id: int
    name: str
    edition: int
    latest: int
    editions: list[SetEdition]
    note: str
    margin: float
    archived: bool
    items: list[SetItemShape]
    reference: int | None
    rows: list[SetRow]
    waiting: int


def set_standing(one: TestSet, reference: int | None = None) -> SetStanding:
    """The standing of a set against a configuration; without one, the complete configuration that was measured last."""
    items = read_items(one.items)
    waiting = sum(make_what_is_stale(key) for key in sorted({item.workload.key for item in items}))
    found = [_latest(item) for item in items]
    everybody = {pk: result for by in found for pk, result in by.items()}
    base = _reference(found, everybody, reference)
    placed = [_placed(item, by, base) for item, by in zip(items, found, strict=True)]
    missing = {pk: [at for at, by in enumerate(found) if pk not in by] for pk in everybody}
    apart = {pk: _apart(pk, items, placed) for pk in everybody}
    ratios = _ratios(one, items, found, [pk for pk in everybody if not missing[pk] and not apart[pk]], base)
    before = measured_before([result for by in found for result in by.values()])
    rows = [
        _row(
            pk,
            result.configuration,
            result.system.name,
            base,
            items,
            found,
            placed,
            missing[pk],
            apart[pk],
            ratios,
            before,
        )
        for pk, result in everybody.items()
    ]
    editions = _editions(one)
    return SetStanding(
        id=one.pk,
        name=one.name,
        edition=one.edition,
        latest=editions[0].id,
        editions=editions,
        note=one.note,
        margin=one.margin,
        archived=one.archived_at is not None,
        items=[_item(item) for item in items],
        reference=base,
        rows=sorted(rows, key=_order),
        waiting=waiting,
    )


def _latest(item: Item) -> dict[int, Result]:
    """The latest result of each configuration in a test."""
    rows = Result.objects.filter(key=item.workload.key, settings=item.tag, metric=item.shown, n__gt=0)
    # Of many results of a configuration one is read whole.
    latest = dict(rows.order_by("last_at", "pk").values_list("configuration_id", "pk"))
    held = Result.objects.filter(pk__in=latest.values()).prefetch_related(*OF)
    return {one.configuration_id: one for one in held}


def _reference(
    found: Sequence[Mapping[int, Result]], everybody: Mapping[int, Result], wanted: int | None
) -> int | None:
    if wanted in everybody:
        return wanted
    whole = [pk for pk in everybody if all(pk in by for by in found)]
    return max(whole, key=lambda pk: max(by[pk].last_at for by in found), default=None)


def _placed(item: Item, by: Mapping[int, Result], base: int | None) -> dict[int, Standing]:
    if base is None or base not in by:
        return {}
    placed = against(list(by.values()), by[base], item.metric)
    return {pk: placed[name_of(result)] for pk, result in by.items()}


def _apart(pk: int, items: Sequence[Item], placed: Sequence[Mapping[int, Standing]]) -> list[str]:
    """Why results of a configuration do not stand beside the reference's."""
    return [
        f"{item.words}: {'; '.join(one.words for one in reasons_of(stands[pk]))}"
        for item, stands in zip(items, placed, strict=True)
        if pk in stands and stands[pk].place == "not beside"
    ]


def _ratios(
    one: TestSet, items: Sequence[Item], found: Sequence[Mapping[int, Result]], whole: Sequence[int], base: int | None
) -> dict[int, Overall]:
    if base not in whole or len(whole) < 2:
        return {}
    tests = {
        str(at): TestCells(
            {str(pk): by[pk].content["numbers"] for pk in whole},
            item.metric.direction,  # type: ignore[arg-type]
            item.weight,
        )
        for at, (item, by) in enumerate(zip(items, found, strict=True))
    }
    try:
        compared = overall(tests, str(base), one.margin).configurations
    except BadSample:
        return {}
    return {int(pk): ratio for pk, ratio in compared.items() if ratio is not None}


def _row(
    pk: int,
    configuration: Configuration,
    system: str,
    base: int | None,
    items: Sequence[Item],
    found: Sequence[Mapping[int, Result]],
    placed: Sequence[Mapping[int, Standing]],
    missing: list[int],
    apart: list[str],
    ratios: Mapping[int, Overall],
    before: Mapping[int, object],
) -> SetRow:
    ratio = ratios.get(pk)
    compared = ratio.compared if ratio else None
    cells = [
        _cell(at, item, by[pk], stands.get(pk), before)
        for at, (item, by, stands) in enumerate(zip(items, found, placed, strict=True))
        if pk in by
    ]
    label = configuration.title
    best, worst = (int(ratio.best), int(ratio.worst)) if ratio else (None, None)
    return SetRow(
        configuration=pk,
        revision=configuration.revision,
        label=label,
        system=system,
        place=_place(pk, base, missing or apart, cells),
        better=_percent(compared.ratio) if compared else None,
        better_low=_percent(compared.low) if compared else None,
        better_high=_percent(compared.high) if compared else None,
        verdict=compared.verdict if compared else "",
        told=ratio_words(compared) if compared else "",
        best=best,
        worst=worst,
        sentence=_sentence(label, base, found, ratio, items) if ratio else "",
        missing=missing,
        apart=apart,
        cells=cells,
    )


def _place(pk: int, base: int | None, lacks: Sequence[object], cells: Sequence[SetCell]) -> str:
    if pk == base:
        return "reference"
    if lacks or base is None:
        return "left out"
    return "with a warning" if any(cell.place == "with a warning" for cell in cells) else "beside"


def _cell(at: int, item: Item, result: Result, stands: Standing | None, before: Mapping[int, object]) -> SetCell:
    words = compared_words(stands.comparison if stands else None, item.metric)
    return SetCell(
        item=at,
        centre=result.centre,
        n=result.n,
        last_at=result.last_at,
        review=result.review_id,
        test=result.test_id,
        column=result.column_id,
        place=stands.place if stands else "",
        reasons=reasons_of(stands) if stands else [],
        better=words["better"],
        told=words["told"],
        verdict=words["verdict"],
        measured_before=[say(why) for why in before.get(result.pk, ())],  # type: ignore[attr-defined]
    )


def _sentence(
    own: str, base: int | None, found: Sequence[Mapping[int, Result]], ratio: Overall, items: Sequence[Item]
) -> str:
    other = next(by[base].configuration.title for by in found if base is not None and base in by)
    best, worst = items[int(ratio.best)].words, items[int(ratio.worst)].words
    return over_all_sentence(own, other, ratio.compared, ratio.tests, best, worst)


def _percent(ratio: float | None) -> float | None:
    return None if ratio is None else 100 * (ratio - 1)


def _order(row: SetRow) -> tuple[int, float, str]:
    if row.better is not None:
        return 0, -row.better, row.label
    # The reference stands where no change is.
    return (0, 0.0, row.label) if row.place == "reference" else (1, float(len(row.missing) + len(row.apart)), row.label)


def _item(item: Item) -> SetItemShape:
    workload = item.workload
    return SetItemShape(
        workload=workload.pk,
        key=workload.key,
        name=workload.name,
        version=workload.version,
        words=item.words,
        metric=item.shown,
        settings=dict(item.settings),
        unit=item.metric.unit,
        direction=item.metric.direction,
        weight=item.weight,
    )


def _editions(one: TestSet) -> list[SetEdition]:
    """All editions, the last first."""
    last = one
    while hasattr(last, "replaced_by"):
        last = last.replaced_by
    found: list[SetEdition] = []
    at: TestSet | None = last
    while at is not None:
        found.append(SetEdition(at.pk, at.edition, at.by.display_name, at.made_at))
        at = at.replaces
    return found
