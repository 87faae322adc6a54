"""One ratio over the tests of a set for every configuration that has them all (method 4 and 26)."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any

from nomothet.core.errors import BadSample
from nomothet.core.notes import Note
from nomothet.core.overall import Overall, TestCells, overall
from nomothet.core.standings import Standing
from nomothet.server.reviews.models import Review
from nomothet.server.standings.held import Held, read
from nomothet.server.standings.measured_before import measured_before
from nomothet.server.standings.models import Result, TestSet
from nomothet.server.standings.placing import (
    Against,
    ReasonShape,
    against_held,
    compared_words,
    reasons_of,
    whole_results,
)
from nomothet.server.standings.sets.items import Item, read_items
from nomothet.server.standings.tasks import make_what_is_stale
from nomothet.server.systems.models import Configuration
from nomothet.words import say
from nomothet.words.standings import over_all_sentence, ratio_words

# So many configurations are sent at once, each with all tests.
ROWS = 50
# So many sets are kept as they were worked out last.
_MOST_KEPT = 4


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
    """A set with what has been measured of it; `edition` is what If-Match wants, `latest` the last edition's id. `rows`
    are those of the page asked for, `count` is how many there are."""

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
    reference_label: str
    count: int
    rows: list[SetRow]
    waiting: int


@dataclass(frozen=True)
class _Test:
    """A test of a set with the latest result of each configuration, held against that of the reference if it has
    one."""

    item: Item
    results: Mapping[int, Held]
    against: Against | None

    def stands(self, pk: int) -> Standing | None:
        """Where a configuration stands, not compared."""
        return self.against.placed[self.results[pk].name] if self.against and pk in self.results else None

    def compared(self, configurations: Collection[int]) -> Mapping[int, Standing]:
        """Where these configurations stand, compared."""
        if self.against is None:
            return {}
        names = {pk: self.results[pk].name for pk in configurations if pk in self.results}
        found = self.against.compared(set(names.values()))
        return {pk: found[name] for pk, name in names.items()}


def set_standing(
    one: TestSet, reference: int | None = None, *, offset: int = 0, most: int | None = ROWS
) -> SetStanding:
    """The standing of a set against a configuration; without one, the complete configuration that was measured last.

    Parameters
    ----------
    offset, most : int
        Which rows are told; all from the offset on where `most` is None.
    """
    items = read_items(one.items)
    waiting = make_what_is_stale(*{item.workload.key for item in items})
    found = [_latest(item) for item in items]
    everybody = list(dict.fromkeys(pk for by in found for pk in by))
    base = _reference(found, everybody, reference)
    of = Review.objects.only("margin", "margins").in_bulk({by[base].review_id for by in found if base in by})
    tests = [_test(item, by, base, of) for item, by in zip(items, found, strict=True)]
    lacks = {pk: _lacks(pk, tests) for pk in everybody}
    ratios = _ratios(one, tests, [pk for pk in everybody if not lacks[pk]], base)
    held = Configuration.objects.select_related("system").in_bulk([*everybody])
    everybody.sort(key=lambda pk: _order(pk, base, ratios, lacks[pk], held[pk].title))
    shown = everybody[offset : None if most is None else offset + most]
    compared = [test.compared(shown) for test in tests]
    results = whole_results([by[pk] for by in found for pk in shown if pk in by], of=("configuration", "workload"))
    facts = _Facts(base, held, tests, {one.pk: one for one in results}, compared, ratios, measured_before(results))
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
        reference_label=facts.label(base) if base is not None else "",
        count=len(everybody),
        rows=[_row(pk, facts) for pk in shown],
        waiting=waiting,
    )


@dataclass(frozen=True)
class _Facts:
    """What rows are made of, by configuration."""

    base: int | None
    configurations: Mapping[int, Configuration]
    tests: Sequence[_Test]
    # By their keys, those of the rows that are shown.
    results: Mapping[int, Result]
    compared: Sequence[Mapping[int, Standing]]
    ratios: Mapping[int, Overall]
    before: Mapping[int, list[Note]]

    def label(self, pk: int) -> str:
        return self.configurations[pk].title


def _latest(item: Item) -> dict[int, Held]:
    """The latest result of each configuration in a test."""
    rows = Result.objects.filter(key=item.workload.key, settings=item.tag, metric=item.shown, n__gt=0)
    # Of many results of a configuration one is read whole.
    latest = dict(rows.order_by("last_at", "pk").values_list("configuration_id", "pk"))
    held = read(Result.objects.filter(pk__in=latest.values()))
    return {one.configuration_id: one for one in held}


def _reference(found: Sequence[Mapping[int, Held]], everybody: Sequence[int], wanted: int | None) -> int | None:
    if wanted in everybody:
        return wanted
    whole = [pk for pk in everybody if all(pk in by for by in found)]
    return max(whole, key=lambda pk: max(by[pk].last_at for by in found), default=None)


def _test(item: Item, results: Mapping[int, Held], base: int | None, of: Mapping[int, Review]) -> _Test:
    if base is None or base not in results:
        return _Test(item, results, None)
    reference = results[base]
    against = against_held(list(results.values()), reference, of[reference.review_id], item.metric)
    return _Test(item, results, against)


def _lacks(pk: int, tests: Sequence[_Test]) -> int:
    """In how many tests a configuration has no result, or one that does not stand beside the reference's."""
    return sum(pk not in test.results or _stands_apart(pk, test) for test in tests)


def _stands_apart(pk: int, test: _Test) -> bool:
    stands = test.stands(pk)
    return stands is not None and stands.place == "not beside"


def _apart(pk: int, tests: Sequence[_Test]) -> list[str]:
    """Why results of a configuration do not stand beside the reference's."""
    told = [(test.item.words, stands) for test in tests if (stands := test.stands(pk)) and _stands_apart(pk, test)]
    return [f"{words}: {'; '.join(one.words for one in reasons_of(stands))}" for words, stands in told]


def _ratios(one: TestSet, tests: Sequence[_Test], whole: Sequence[int], base: int | None) -> Mapping[int, Overall]:
    if base is None or base not in whole or len(whole) < 2:
        return {}
    cells = tuple(
        (test.item.metric.direction, test.item.weight, tuple((pk, test.results[pk]) for pk in whole)) for test in tests
    )
    return _overall(cells, base, one.margin)


@lru_cache(maxsize=_MOST_KEPT)
def _overall(
    tests: tuple[tuple[str, float, tuple[tuple[int, Held], ...]], ...], base: int, margin: float
) -> Mapping[int, Overall]:
    """By configuration, over all tests; the same are asked for page by page."""
    cells = {
        str(at): TestCells({str(pk): held.numbers for pk, held in results}, direction, weight)  # type: ignore[arg-type]
        for at, (direction, weight, results) in enumerate(tests)
    }
    try:
        compared = overall(cells, str(base), margin).configurations
    except BadSample:
        return {}
    return {int(pk): ratio for pk, ratio in compared.items() if ratio is not None}


def _row(pk: int, facts: _Facts) -> SetRow:
    configuration, ratio = facts.configurations[pk], facts.ratios.get(pk)
    compared = ratio.compared if ratio else None
    cells = [
        _cell(at, test, facts.results[test.results[pk].pk], by.get(pk), facts.before)
        for at, (test, by) in enumerate(zip(facts.tests, facts.compared, strict=True))
        if pk in test.results
    ]
    missing, apart = [at for at, test in enumerate(facts.tests) if pk not in test.results], _apart(pk, facts.tests)
    best, worst = (int(ratio.best), int(ratio.worst)) if ratio else (None, None)
    return SetRow(
        configuration=pk,
        revision=configuration.revision,
        label=facts.label(pk),
        system=configuration.system.name,
        place=_place(pk, facts.base, missing or apart, cells),
        better=_percent(compared.ratio) if compared else None,
        better_low=_percent(compared.low) if compared else None,
        better_high=_percent(compared.high) if compared else None,
        verdict=compared.verdict if compared else "",
        told=ratio_words(compared) if compared else "",
        best=best,
        worst=worst,
        sentence=_sentence(pk, ratio, facts) if ratio else "",
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


def _cell(at: int, test: _Test, result: Result, stands: Standing | None, before: Mapping[int, list[Note]]) -> SetCell:
    words = compared_words(stands.comparison if stands else None, test.item.metric)
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
        measured_before=[say(why) for why in before.get(result.pk, ())],
    )


def _sentence(pk: int, ratio: Overall, facts: _Facts) -> str:
    other = facts.label(facts.base) if facts.base is not None else ""
    best, worst = facts.tests[int(ratio.best)].item.words, facts.tests[int(ratio.worst)].item.words
    return over_all_sentence(facts.label(pk), other, ratio.compared, ratio.tests, best, worst)


def _percent(ratio: float | None) -> float | None:
    return None if ratio is None else 100 * (ratio - 1)


def _order(pk: int, base: int | None, ratios: Mapping[int, Overall], lacks: int, label: str) -> tuple[int, float, str]:
    if pk in ratios:
        return 0, -ratios[pk].compared.ratio, label
    # The reference stands where no change is.
    return (0, -1.0, label) if pk == base else (1, float(lacks), label)


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
