"""What somebody chose of a standing; it stands in the address of its page."""

from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date

from django.db.models import Model
from django.http import QueryDict

from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Column, Review
from nomothet.server.standings.facts import having
from nomothet.server.standings.held import Held
from nomothet.server.systems.models import Configuration, System
from nomothet.server.workloads.models import Workload

_LONGEST = 100
MOST_FACTS = 8
MOST_OFFSET = 1_000_000


@dataclass(frozen=True)
class Choice:
    """A workload's settings and metric, the reference, and which results are looked at."""

    key: str
    settings: str = ""
    metric: str = ""
    against: str = ""
    # Words that each have to stand in what is known of a result: machine, parts, configuration, review, image.
    words: str = ""
    system: str = ""
    review: int | None = None
    since: date | None = None
    until: date | None = None
    basis: str = ""
    # "then" for the prices of the day of each result.
    prices: str = ""
    # Facts that have to hold, by key and value.
    having: tuple[tuple[str, str], ...] = ()
    offset: int = 0


def read_choice(key: str, told: QueryDict) -> Choice:
    """The choice that an address tells.

    Raises
    ------
    Problem
        422 naming what is wrong.
    """
    return Choice(
        key=key,
        settings=_text(told, "settings"),
        metric=_text(told, "metric"),
        against=_text(told, "against"),
        words=_text(told, "words"),
        system=_text(told, "system"),
        review=_number(told, "review"),
        since=_day(told, "since"),
        until=_day(told, "until"),
        basis=_text(told, "basis"),
        prices=_text(told, "prices"),
        having=_facts(told),
        offset=min(_number(told, "offset") or 0, MOST_OFFSET),
    )


def chosen(results: Iterable[Held], choice: Choice) -> list[Held]:
    """The results that a choice looks at."""
    named = System.objects.filter(name=choice.system) if choice.system else System.objects.none()
    machines = set(named.values_list("pk", flat=True))
    fit = [one for one in results if _fits(one, choice, machines)]
    if choice.having:
        fit = having(fit, choice.having)
    words = choice.words.casefold().split()
    if not words:
        return fit
    told = zip(fit, _known_of(fit), strict=True)
    return [one for one, text in told if all(word in text for word in words)]


def _fits(one: Held, choice: Choice, machines: Collection[int]) -> bool:
    day = one.last_at.date()
    return (
        (not choice.system or one.system_id in machines)
        and (choice.review is None or one.review_id == choice.review)
        and (choice.since is None or day >= choice.since)
        and (choice.until is None or day <= choice.until)
    )


def _known_of(results: Sequence[Held]) -> Iterator[str]:
    """What is known of each, as one text."""

    def words(of: type[Model], field: str, keys: Iterable[int]) -> dict[int, str]:
        return dict(of._default_manager.filter(pk__in=set(keys)).values_list("pk", field))

    systems = words(System, "name", (one.system_id for one in results))
    labels = words(Column, "label", (one.column_id for one in results))
    configurations = words(Configuration, "name", (one.configuration_id for one in results))
    questions = words(Review, "question", (one.review_id for one in results))
    versions = words(Workload, "version", (one.workload_id for one in results))
    for one in results:
        own = (
            systems[one.system_id],
            labels[one.column_id],
            configurations[one.configuration_id],
            questions[one.review_id],
            versions[one.workload_id],
        )
        run = (f"{key} {value}" for key, value in one.core.fingerprint.items())
        yield " ".join([*own, *run]).casefold()


def _text(told: QueryDict, name: str) -> str:
    return str(told.get(name, ""))[:_LONGEST]


def _facts(told: QueryDict) -> tuple[tuple[str, str], ...]:
    """Facts as an address has them: "memory.channels=2", one a line."""
    lines = [line for line in str(told.get("having", "")).splitlines() if line.strip()]
    found = tuple((key, value) for key, is_one, value in (line.partition("=") for line in lines) if is_one)
    if len(found) < len(lines) or len(found) > MOST_FACTS:
        raise unusable(f"having holds up to {MOST_FACTS} lines such as memory.channels=2.", field="having")
    return found


def _number(told: QueryDict, name: str) -> int | None:
    text = told.get(name)
    if not text:
        return None
    if not (text.isascii() and text.isdigit() and len(text) < 10):
        raise unusable(f"{name} is a whole number, and this is {text[:20]!r}.", field=name)
    return int(text)


def _day(told: QueryDict, name: str) -> date | None:
    text = told.get(name)
    if not text:
        return None
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise unusable(f"{name} is a day such as 2026-11-03, and this is {text[:20]!r}.", field=name) from None
