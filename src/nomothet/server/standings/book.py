"""The book of a machine: all that happened to it, and how warm it ran over the months."""

import statistics
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models.fields.json import KT

from nomothet.core.notes import note
from nomothet.formats.words import OUTCOMES
from nomothet.server.analysis.models import Analysis
from nomothet.server.docket.models import Changeover
from nomothet.server.history.models import Event
from nomothet.server.passes.models import Pass
from nomothet.server.standings.measured_before import told_of
from nomothet.server.standings.models import Result
from nomothet.server.standings.wear import wear_of
from nomothet.server.systems.models import Configuration, System
from nomothet.words import say
from nomothet.words.fingerprints import label_of

MOST_ENTRIES = 300
_MOST_PASSES = 20_000
_WENT_WELL = ("completed", "stopped")


@dataclass(frozen=True)
class BookEntry:
    """Something that happened: "session", "failed", "changed", "update" or "act"; `review` is where it belongs."""

    at: datetime
    kind: str
    words: str
    by: str
    review: int | None


@dataclass(frozen=True)
class BookWear:
    """What a sensor last read of a storage's wear, in percent."""

    name: str
    percent: float


@dataclass(frozen=True)
class BookMonth:
    """How warm a machine ran in a month: the median and the highest of its passes' peaks, in °C; and how worn its
    storage was, where that is told."""

    month: str
    passes: int
    median_c: float | None
    highest_c: float | None
    wear: list[BookWear]


@dataclass(frozen=True)
class BookShape:
    """The latest first; the months in their order. `more` says that earlier entries are left out."""

    entries: list[BookEntry]
    months: list[BookMonth]
    more: bool


def book_of(system: System) -> BookShape:
    """All that is on record of a machine."""
    configurations = {one.pk: one for one in Configuration.objects.filter(system=system)}
    passes = list(
        Pass.objects.whole()
        .filter(column__configuration__system=system)
        .order_by("-started_at")
        .values_list(
            "started_at", "outcome", "note", "test__review", "test__review__question", "test__workload__name",
            "column__configuration",
        )[:_MOST_PASSES]
    )  # fmt: skip
    entries = sorted(
        [
            *_sessions(passes, configurations),
            *_failures(passes, configurations),
            *_changes(system),
            *_updates(system),
            *_acts(system, configurations),
        ],
        key=lambda one: one.at,
        reverse=True,
    )
    return BookShape(entries[:MOST_ENTRIES], _months(system, passes), len(entries) > MOST_ENTRIES)


def _sessions(passes: list[tuple[Any, ...]], configurations: Mapping[int, Configuration]) -> Iterator[BookEntry]:
    by_day: dict[tuple[str, int], list[tuple[Any, ...]]] = defaultdict(list)
    for one in passes:
        by_day[one[0].date().isoformat(), one[3]].append(one)
    for (_, review), own in by_day.items():
        names = list(dict.fromkeys(configurations[one[6]].name for one in reversed(own)))
        failed = sum(one[1] not in _WENT_WELL for one in own)
        words = note("book_session", passes=len(own), failed=failed, configurations=names, question=own[0][4])
        yield BookEntry(own[0][0], "session", say(words), "", review)


def _failures(passes: list[tuple[Any, ...]], configurations: Mapping[int, Configuration]) -> Iterator[BookEntry]:
    for at, outcome, told, review, _, workload, configuration in passes:
        if outcome not in _WENT_WELL:
            name = configurations[configuration].name
            words = note("book_failed", outcome=OUTCOMES[outcome], test=workload, configuration=name, note=told[:300])
            yield BookEntry(at, "failed", say(words), "", review)


def _changes(system: System) -> Iterator[BookEntry]:
    done = Changeover.objects.filter(system=system, done_at__isnull=False).select_related("configuration", "started_by")
    for one in done.order_by("-done_at")[:MOST_ENTRIES]:
        assert one.done_at is not None
        by = one.started_by.display_name if one.started_by else ""
        words = note("book_visited", configuration=one.configuration.title, by=by, steps=len(one.steps))
        yield BookEntry(one.done_at, "changed", say(words), by, None)


def _updates(system: System) -> Iterator[BookEntry]:
    """What updates changed from one result of the machine to the next that tells of it."""
    known: dict[str, str] = {}
    rows = Result.objects.filter(system=system, leads=True).order_by("first_at", "pk")
    for at, fingerprint in rows.values_list("first_at", "fingerprint"):
        for key, value in told_of(fingerprint).items():
            before = known.get(key)
            if before is not None and before != value:
                yield BookEntry(
                    at, "update", say(note("book_updated", label=label_of(key), before=before, after=value)), "", None
                )
            known[key] = value


def _acts(system: System, configurations: Mapping[int, Configuration]) -> Iterator[BookEntry]:
    """What people did to the machine and its configurations."""
    for kind, ids in (("system", [system.pk]), ("configuration", list(configurations))):
        events = Event.objects.filter(kind=kind, object_id__in=ids).select_related("by").order_by("-at")
        for one in events[:MOST_ENTRIES]:
            name = system.name if kind == "system" else configurations[one.object_id].title
            changes = [
                change for field, (before, after) in one.changes.items() for change in _flat(field, before, after)
            ]
            by = one.by.display_name if one.by else ""
            yield BookEntry(one.at, "act", say(note("book_acted", name=name, act=one.act, changes=changes)), by, None)


def _flat(field: str, before: Any, after: Any) -> Iterator[list[Any]]:
    """A change of settings or parts as a change of each of them."""
    if not (isinstance(before, dict) or isinstance(after, dict)):
        yield [field, before, after]
        return
    a, b = (one if isinstance(one, dict) else {} for one in (before, after))
    for key in dict.fromkeys([*a, *b]):
        if a.get(key) != b.get(key):
            yield [key, _plain(a.get(key)), _plain(b.get(key))]


def _plain(value: Any) -> Any:
    return value if value is None or isinstance(value, str | int | float | bool) else str(value)


def _months(system: System, passes: list[tuple[Any, ...]]) -> list[BookMonth]:
    counted = Counter(one[0].strftime("%Y-%m") for one in passes)
    peaks: dict[str, list[float]] = defaultdict(list)
    rows = (
        Analysis.objects.kept()
        .filter(owner__column__configuration__system=system, summary__trend__peak_c__isnull=False)
        .annotate(peak=KT("summary__trend__peak_c"))
        .values_list("owner__started_at", "peak")[:_MOST_PASSES]
    )
    for at, peak in rows:
        # A peak that is not known is a null of JSON, which the database tells as a word.
        if peak not in (None, "null"):
            peaks[at.strftime("%Y-%m")].append(float(peak))
    wear = wear_of(system)
    return [
        BookMonth(
            month,
            counted[month],
            statistics.median(peaks[month]) if peaks[month] else None,
            max(peaks[month], default=None),
            [BookWear(name, percent) for name, percent in sorted(wear.get(month, {}).items())],
        )
        for month in sorted(counted)
    ]
