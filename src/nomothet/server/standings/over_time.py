"""Results of one system over its days, with what changed from one to the next and what each change cost."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from nomothet.core.comparable import comparability
from nomothet.server.matrix.alike import varied
from nomothet.server.standings.catalogue import MetricChoice
from nomothet.server.standings.choice import Choice
from nomothet.server.standings.held import Held
from nomothet.server.standings.models import Result
from nomothet.server.standings.placing import ReasonShape, against_held, name_of, reasons_of, title_of, whole_results
from nomothet.server.standings.ranking import find
from nomothet.server.standings.tasks import make_what_is_stale
from nomothet.words import comparisons
from nomothet.words.standings import unlike_words

# So many results of a configuration are drawn, the latest.
_LATEST = 60


@dataclass(frozen=True)
class OverTimePoint:
    """A result on its day. `low` and `high` are the ends of its own interval."""

    id: str
    at: datetime
    centre: float
    low: float | None
    high: float | None
    n: int
    title: str


@dataclass(frozen=True)
class OverTimeLine:
    """The results of one configuration, however many revisions, updates and reviews it went through."""

    label: str
    position: int
    points: list[OverTimePoint]


@dataclass(frozen=True)
class StandingChange:
    """From a result of a configuration to its next: what changed, and what that did; `beside` is false where the two
    may not be compared."""

    label: str
    since: str
    until: str
    at: datetime
    what: list[str]
    sentence: str
    told: str
    verdict: str
    beside: bool
    reasons: list[ReasonShape]


@dataclass(frozen=True)
class OverTimeShape:
    system: str
    systems: list[str]
    unit: str
    lines: list[OverTimeLine]
    changes: list[StandingChange]


def over_time(choice: Choice) -> OverTimeShape | None:
    """The days of one system: the one that is chosen, else that with the latest result; None without results."""
    make_what_is_stale(choice.key)
    looked_at = find(choice, of_one_system=True)
    if looked_at is None:
        return None
    held = {one.pk: one for one in looked_at.chosen if one.centre is not None}
    own = whole_results(list(held.values()))
    own.sort(key=lambda result: (result.first_at, result.pk))
    lines = {found[0].configuration.name: found[-_LATEST:] for found in _lines(own)}
    return OverTimeShape(
        system=own[0].system.name if own else choice.system,
        systems=looked_at.systems,
        unit=looked_at.metric.unit,
        lines=[
            OverTimeLine(label, found[0].column.position, [_point(one) for one in found])
            for label, found in lines.items()
        ],
        changes=[
            _change(label, a, b, [held[one.pk] for one in found], looked_at.metric)
            for label, found in lines.items()
            for a, b in itertools.pairwise(found)
        ],
    )


def _lines(results: Sequence[Result]) -> list[list[Result]]:
    """Results that follow one another: those of a configuration in all its revisions, and of others that choose the
    same and differ in what updates change alone."""
    lines: list[list[Result]] = []
    names: dict[str, int] = {}
    choices: dict[str, int] = {}
    for one in results:
        chosen = _chosen(one)
        at = names.get(one.configuration.name, choices.get(chosen))
        if at is None:
            at = len(lines)
            lines.append([])
        names.setdefault(one.configuration.name, at)
        choices.setdefault(chosen, at)
        lines[at].append(one)
    return lines


def _chosen(one: Result) -> str:
    entries = varied({"system"}, one.fingerprint, {}) | {key for key in one.fingerprint if key.startswith("part:")}
    return repr(sorted((key, str(one.fingerprint[key])) for key in entries & one.fingerprint.keys()))


def _point(one: Result) -> OverTimePoint:
    assert one.centre is not None
    return OverTimePoint(name_of(one), one.first_at, one.centre, one.low, one.high, one.n, title_of(one))


def _change(label: str, a: Result, b: Result, line: list[Held], metric: MetricChoice) -> StandingChange:
    base = next(one for one in line if one.pk == a.pk)
    found = against_held(line, base, a.review, metric).compared([name_of(b)])[name_of(b)]
    unlike = comparability(a.fingerprint, b.fingerprint).differences
    placed = found.comparison
    ratio = metric.scale == "ratio"
    told = (
        comparisons.comparison_sentence(
            placed.comparison, metric.label, metric.unit, title_of(b), title_of(a), ratio=ratio
        )
        if placed
        else ""
    )
    return StandingChange(
        label=label,
        since=name_of(a),
        until=name_of(b),
        at=b.first_at,
        what=[unlike_words(one.key, one.b, one.a) for one in unlike if one.severity != "notes"],
        sentence=" ".join(filter(None, [told, comparisons.placing_sentence(placed) if placed else ""])),
        told=comparisons.change_words(placed.comparison, metric.unit, ratio=ratio) if placed else "",
        verdict=placed.comparison.verdict if placed else "",
        beside=found.place != "not beside",
        reasons=reasons_of(found),
    )
