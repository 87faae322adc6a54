"""One standing: results of a workload, its settings and a metric, against one of them."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime

from nomothet.core.economy import frontier
from nomothet.core.notes import Note
from nomothet.core.standings import Standing
from nomothet.server.standings.catalogue import MetricChoice, SettingsChoice
from nomothet.server.standings.choice import Choice
from nomothet.server.standings.measured_before import measured_before
from nomothet.server.standings.models import Result
from nomothet.server.standings.placing import (
    ReasonShape,
    compared_words,
    name_of,
    reasons_of,
    sentence_of,
    title_of,
    whole_results,
)
from nomothet.server.standings.ranking import Found, Ranking, find
from nomothet.server.standings.tasks import make_what_is_stale
from nomothet.server.systems.prices import ConfigurationPrice, prices_of
from nomothet.server.systems.states import ConfigurationState, states
from nomothet.words import say

# Every pair of these is compared.
_MOST_ON_A_FRONTIER = 80
# So many rows are sent at once.
PAGE = 100


@dataclass(frozen=True)
class StandingRow:
    """A result. `id` names its cell; `place` is "reference", "beside", "with a warning" or "not beside"."""

    id: str
    label: str
    system: str
    system_key: str
    configuration: int
    revision: int
    version: str
    review: int
    question: str
    test: int
    column: int
    position: int
    n: int
    sessions: int
    centre: float | None
    half: float | None
    first_at: datetime
    last_at: datetime
    place: str
    reasons: list[ReasonShape]
    # Against the reference, turned so that more is better; in percent, or in the unit of a difference.
    better: float | None
    better_low: float | None
    better_high: float | None
    verdict: str
    told: str
    interval: str
    sentence: str
    one_session: bool
    # In euro, as a whole; with why there is none.
    price: float | None
    priced_on: date | None
    no_price: str
    # How much of it 100 euro buy, of what is better when higher.
    for_price: float | None
    # What it was measured before: an image, a driver, a firmware or a version that is no longer the last.
    measured_before: list[str]
    # Those that cost no more and are ahead of it for certain (section 14).
    beaten_by: list[str]


@dataclass(frozen=True)
class StandingShape:
    """A standing with what may be chosen; `rows` are those of the page asked for, `count` is how many there are.

    `waiting` counts tests of the workload whose results are being made.
    """

    key: str
    name: str
    settings: str
    metric: str
    all_settings: list[SettingsChoice]
    all_metrics: list[MetricChoice]
    reference: str
    margin_pct: float | None
    count: int
    beside: int
    reviews: int
    rows: list[StandingRow]
    systems: list[str]
    waiting: int
    price_basis: str


def standing(choice: Choice) -> StandingShape | None:
    """A standing; None where the workload has no result."""
    pages = standing_pages(choice)
    return next(pages, None)


def standing_pages(choice: Choice) -> Iterator[StandingShape]:
    """A standing page by page, from that of the choice on; none where the workload has no result."""
    waiting = make_what_is_stale(choice.key)
    looked_at = find(choice)
    if looked_at is None:
        return
    ranking = Ranking(looked_at, choice.against)
    for offset in range(choice.offset, max(len(ranking.ranked), choice.offset + 1), PAGE):
        yield _page(looked_at, ranking, replace(choice, offset=offset), waiting)


def _page(looked_at: Found, ranking: Ranking, choice: Choice, waiting: int) -> StandingShape:
    metric, ranked, reference = looked_at.metric, ranking.ranked, ranking.reference
    shown = whole_results(ranked[choice.offset : choice.offset + PAGE])
    found = ranking.compared([name_of(one) for one in shown])
    held = states({one.configuration_id: one.configuration for one in shown}.values())
    priced, basis = _prices(shown, held, choice)
    beaten = _beaten(shown, found, priced, metric) if len(ranked) <= _MOST_ON_A_FRONTIER else {}
    page = _Page(reference, metric, found, priced, beaten, measured_before(shown, held))
    return StandingShape(
        key=choice.key,
        name=looked_at.name,
        settings=looked_at.settings,
        metric=metric.key,
        all_settings=looked_at.all_settings,
        all_metrics=looked_at.all_metrics,
        reference=name_of(reference) if reference is not None else "",
        margin_pct=None if reference is None or metric.scale != "ratio" else 100 * reference.review.margin,
        count=len(ranked),
        beside=sum(one.place != "not beside" for one in found.values()),
        reviews=len({one.review_id for one in ranked}),
        rows=[_row(one, page) for one in shown],
        systems=looked_at.systems,
        waiting=waiting,
        price_basis=basis,
    )


def _prices(
    results: Sequence[Result], held: Mapping[int, ConfigurationState], choice: Choice
) -> tuple[dict[str, ConfigurationPrice], str]:
    """The price of each result, as it is or as it was on its day."""
    days = {one.pk: one.last_at.date() for one in results} if choice.prices == "then" else None
    if days is None:
        by_configuration = prices_of(held, choice.basis)
        found = {name_of(one): by_configuration[one.configuration_id] for one in results}
    else:
        by_result = prices_of({one.pk: held[one.configuration_id] for one in results}, choice.basis, days=days)
        found = {name_of(one): by_result[one.pk] for one in results}
    return found, next((one.basis for one in found.values()), "")


def _beaten(
    results: Sequence[Result],
    found: Mapping[str, Standing],
    priced: Mapping[str, ConfigurationPrice],
    metric: MetricChoice,
) -> Mapping[str, list[str]]:
    """Among those that stand beside one another, what beats which for its price (section 14)."""
    if metric.scale != "ratio" or metric.direction == "neither":
        return {}
    beside = [one for one in results if found and found[name_of(one)].place != "not beside" and one.content["numbers"]]
    names = {name_of(one): title_of(one) for one in beside}
    cells = {name_of(one): (priced[name_of(one)].total, one.content["numbers"]) for one in beside}
    beaten_by = frontier(cells, metric.direction).beaten_by  # type: ignore[arg-type]
    return {name: [names[other] for other in by] for name, by in beaten_by.items()}


@dataclass(frozen=True)
class _Page:
    """What the rows of a standing are made of, by the names of results; `before` by their keys."""

    reference: Result | None
    metric: MetricChoice
    found: Mapping[str, Standing]
    priced: Mapping[str, ConfigurationPrice]
    beaten: Mapping[str, list[str]]
    before: Mapping[int, list[Note]]


def _row(one: Result, page: _Page) -> StandingRow:
    found, price = page.found.get(name_of(one)), page.priced[name_of(one)]
    metric, reference = page.metric, page.reference
    comparison = found.comparison if found else None
    ratio = metric.scale == "ratio"
    half = None
    if one.centre is not None and one.high is not None:
        half = one.high - one.centre
    return StandingRow(
        id=name_of(one),
        label=one.column.label,
        system=one.system.name,
        system_key=one.system.key,
        configuration=one.configuration_id,
        revision=one.configuration.revision,
        version=one.workload.version,
        review=one.review_id,
        question=one.review.question,
        test=one.test_id,
        column=one.column_id,
        position=one.column.position,
        n=one.n,
        sessions=len({session for session in one.content["sessions"] if session}),
        centre=one.centre,
        half=half,
        first_at=one.first_at,
        last_at=one.last_at,
        place=found.place if found else "not beside",
        reasons=reasons_of(found) if found else [],
        **compared_words(comparison, metric),
        sentence=sentence_of(one, reference, comparison, metric, ratio=ratio) if reference is not None else "",
        one_session=comparison.one_session if comparison else False,
        price=price.total,
        priced_on=price.on,
        no_price=price.words,
        for_price=_for_price(one.centre, price.total, metric),
        measured_before=[say(why) for why in page.before.get(one.pk, [])],
        beaten_by=page.beaten.get(name_of(one), []),
    )


def _for_price(centre: float | None, price: float | None, metric: MetricChoice) -> float | None:
    if centre is None or not price or metric.scale != "ratio":
        return None
    return 100 * centre / price if metric.direction == "higher" else None
