"""What is other now than when the review was measured that this one is a copy of."""

from dataclasses import dataclass
from datetime import date

from nomothet.server.passes.models import Pass
from nomothet.server.people.models import User
from nomothet.server.planning.splits import changes_between, latest_of
from nomothet.server.reviews.models import Review
from nomothet.server.standings.measured_before import newest_editions
from nomothet.server.systems.prices import prices_of
from nomothet.server.systems.states import states

# A price that moved by less is the same price.
_SAME_PRICE = 0.5


@dataclass(frozen=True)
class CopiedShape:
    """The review that this one is a copy of, the day of its last pass, and what has changed since, in words.

    `revisions` and `editions` are changes that this review does not take part in yet: later revisions of its
    configurations and newer versions of its workloads.
    """

    review: int | None
    question: str
    measured_on: date | None
    revisions: list[str]
    editions: list[str]
    prices: list[str]
    people: list[str]


_NONE = CopiedShape(None, "", None, [], [], [], [])


def copied(review: Review) -> CopiedShape:
    """What has changed since the review that this one was copied from; a dozen queries at most."""
    source = review.copied_from
    if source is None:
        return _NONE
    last = Pass.objects.kept().filter(test__review=source).order_by("-started_at").values_list("started_at", flat=True)
    measured_on = last[0].date() if last else None
    return CopiedShape(
        review=source.pk,
        question=source.question,
        measured_on=measured_on,
        revisions=_revisions(review),
        editions=_editions(review),
        prices=_prices(review, measured_on) if measured_on else [],
        people=_people(source),
    )


def _revisions(review: Review) -> list[str]:
    columns = list(review.columns.select_related("configuration"))
    later = {one.pk: latest_of(one.configuration) for one in columns}
    held = states([*(one.configuration for one in columns), *later.values()])
    return [
        f"{one.label}: {'; '.join(changes_between(held[one.configuration_id], held[later[one.pk].pk]))}"
        for one in columns
        if later[one.pk].pk != one.configuration_id
    ]


def _editions(review: Review) -> list[str]:
    workloads = {test.workload.pk: test.workload for test in review.tests.select_related("workload")}
    newest = newest_editions(list(workloads.values()))
    return [
        f"{own.name}: version {newest[pk].version} is there, {own.version} is planned"
        for pk, own in workloads.items()
        if pk in newest
    ]


def _prices(review: Review, on: date) -> list[str]:
    columns = list(review.columns.select_related("configuration"))
    held = states(one.configuration for one in columns)
    own = {one.pk: held[one.configuration_id] for one in columns}
    now = prices_of(own)
    basis = next((one.basis for one in now.values()), "")
    then = prices_of(own, basis, days=dict.fromkeys(own, on))
    found = []
    for one in columns:
        before, after = then[one.pk].total, now[one.pk].total
        if before is not None and after is not None and abs(after - before) >= _SAME_PRICE:
            found.append(f"{one.label}: {after:.0f} € now, {before:.0f} € then")
    return found


def _people(source: Review) -> list[str]:
    """Who measured it and is no longer here."""
    gone = User.objects.filter(is_active=False, pk__in=Pass.objects.filter(test__review=source).values("brought_by"))
    return [one.display_name for one in gone.order_by("display_name")]
