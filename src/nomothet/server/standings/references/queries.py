"""References of a review, held against its baseline."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.standings.keeping import settings_tag
from nomothet.server.standings.models import Reference, Result
from nomothet.server.standings.placing import (
    ReasonShape,
    against,
    compared_words,
    name_of,
    reasons_of,
    sentence_of,
)
from nomothet.server.standings.references.freezing import thawed
from nomothet.server.standings.tasks import make_what_is_stale


@dataclass(frozen=True)
class ReferenceCell:
    """A reference in one row of a review. `place` says how it stands against the baseline (method 26); it is empty
    where the baseline has no result yet, and "foreign" where it is held against nothing."""

    test: int
    metric: str
    unit: str
    n: int
    centre: float | None
    half: float | None
    first_at: datetime | None
    last_at: datetime | None
    place: str
    reasons: list[ReasonShape]
    better: float | None
    better_low: float | None
    better_high: float | None
    verdict: str
    told: str
    interval: str
    sentence: str


@dataclass(frozen=True)
class ReferenceShape:
    """A column beside those of a review. `since_changed`: its review says something else by now."""

    id: int
    number: int
    kind: str
    label: str
    system: str
    configuration: str
    revision: int
    source: str
    source_review: int | None
    day: date
    seal: str
    taken_by: str
    taken_at: datetime
    since_changed: bool
    cells: list[ReferenceCell]


@dataclass(frozen=True)
class ReferencesShape:
    """The references of a review against one of its columns. `waiting` counts tests whose results are being made;
    `removed` are those that were taken off."""

    baseline: int | None
    references: list[ReferenceShape]
    waiting: int
    removed: list[ReferenceShape]


def references_of(review: Review, baseline: int | None = None) -> ReferencesShape:
    """The references of a review; a handful of queries and one comparison a row."""
    every = list(review.references.select_related("taken_by", "column"))
    standing = [one for one in every if one.removed_at is None]
    columns = list(review.columns.all())
    base = next((one for one in columns if one.pk == baseline), None)
    base = base or next((one for one in columns if one.is_baseline), columns[0] if columns else None)
    if not every:
        return ReferencesShape(base.pk if base else None, [], 0, [])
    waiting = make_what_is_stale(review=review.pk)
    cells = _cells(review, base, standing)
    return ReferencesShape(
        baseline=base.pk if base else None,
        references=[_shape(one, cells[one.pk]) for one in standing],
        waiting=waiting,
        removed=[_shape(one, []) for one in every if one.removed_at is not None],
    )


def _shape(one: Reference, cells: list[ReferenceCell]) -> ReferenceShape:
    content = one.content
    return ReferenceShape(
        id=one.pk,
        number=one.number,
        kind=one.kind,
        label=one.label,
        system=content["system"],
        configuration=content["configuration"],
        revision=content["revision"],
        source=one.source,
        source_review=one.column.review_id if one.column else None,
        day=one.day,
        seal=one.seal,
        taken_by=one.taken_by.display_name,
        taken_at=one.taken_at,
        since_changed=one.removed_at is None and _changed(one),
        cells=cells,
    )


def _changed(one: Reference) -> bool:
    """Whether its review says something else by now."""
    if one.column_id is None:
        return one.kind == Reference.Kind.OWN
    now = Result.objects.filter(column=one.column_id).values_list("test", "metric", "n", "centre")
    then = ((told["test"], told["metric"], told["n"], told["centre"]) for told in one.content["results"])
    return sorted(now, key=repr) != sorted(then, key=repr)


def _cells(review: Review, base: Column | None, standing: Sequence[Reference]) -> Mapping[int, list[ReferenceCell]]:
    own = [one for one in standing if one.kind == Reference.Kind.OWN]
    held = {one.pk: _by_row(thawed(one)) for one in own}
    bases: dict[tuple[int, str], Result] = {}
    if base is not None:
        results = Result.objects.filter(review=review, column=base).select_related(
            "review", "column", "system", "workload"
        )
        bases = {(one.test_id, one.metric): one for one in results}
    found: dict[int, list[ReferenceCell]] = defaultdict(list)
    for test in review.tests.select_related("workload").order_by("position"):
        at = (test.workload.key, settings_tag(test.settings))
        rows = {metric for by_row in held.values() for metric in by_row.get(at, {})}
        for metric in sorted(rows):
            here = {pk: by_row[at][metric] for pk, by_row in held.items() if metric in by_row.get(at, {})}
            for pk, cell in _row(test, metric, bases.get((test.pk, metric)), here).items():
                found[pk].append(cell)
        for one in standing:
            if one.kind == Reference.Kind.FOREIGN:
                found[one.pk] += _foreign(test, at, one)
    return found


def _by_row(results: Sequence[Result]) -> dict[tuple[str, str], dict[str, Result]]:
    """Results by workload with settings, then by metric; of several of the same, the latest."""
    found: dict[tuple[str, str], dict[str, Result]] = defaultdict(dict)
    for one in sorted(results, key=lambda one: one.last_at):
        found[one.key, one.settings][one.metric] = one
    return found


def _row(test: Test, metric: str, base: Result | None, here: Mapping[int, Result]) -> dict[int, ReferenceCell]:
    placed = against([base, *here.values()], base, base) if base is not None else {}
    found = {}
    for pk, one in here.items():
        stands = placed.get(name_of(one))
        comparison = stands.comparison if stands else None
        sentence = ""
        if base is not None:
            sentence = sentence_of(one, base, comparison, base, ratio=base.scale == "ratio")
        found[pk] = ReferenceCell(
            test=test.pk,
            metric=metric,
            unit=one.unit,
            n=one.n,
            centre=one.centre,
            half=one.high - one.centre if one.centre is not None and one.high is not None else None,
            first_at=one.first_at,
            last_at=one.last_at,
            place=stands.place if stands else "",
            reasons=reasons_of(stands) if stands else [],
            sentence=sentence,
            **compared_words(comparison, one),
        )
    return found


def _foreign(test: Test, at: tuple[str, str], one: Reference) -> list[ReferenceCell]:
    return [
        ReferenceCell(
            test=test.pk, metric=told["metric"], unit=told["unit"], n=0, centre=told["centre"], half=None,
            first_at=None, last_at=None, place="foreign", reasons=[], better=None, better_low=None,
            better_high=None, verdict="", told="", interval="", sentence="",
        )
        for told in one.content["results"]
        if (told["key"], told["settings"]) == at
    ]  # fmt: skip
