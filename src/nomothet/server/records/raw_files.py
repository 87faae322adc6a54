"""Which raw captures go out with a record, chosen by their names, with what they hold in sight.

Frame times always go: without them nobody could work the figures out again. Sensors go unless they are left out.
Original files, just as somebody dropped them, stay inside unless they are wanted: they may name people and folders.
What a program has written never goes.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import zstandard
from django.db.models import Count, Max, QuerySet, Sum

from nomothet.formats.output import OUTPUT
from nomothet.server.passes.models import Series
from nomothet.server.reviews.models import Review

FILE = "file"
FRAMES = "frames"
_SHOWN = 400


@dataclass(frozen=True)
class RawFiles:
    """What is chosen: names of sensors that stay inside, and whether original files go out."""

    without: frozenset[str] = field(default_factory=frozenset)
    with_files: bool = False


@dataclass(frozen=True)
class RawChoice:
    """Captures of one name; `goes` is what happens without a choice, `fixed` that there is none. `beginning` shows an
    original file."""

    name: str
    kind: str
    unit: str
    passes: int
    bytes: int
    sources: list[str]
    goes: bool
    fixed: bool
    beginning: str


AS_USUAL = RawFiles()


def going_out(review: Review, chosen: RawFiles) -> QuerySet[Series]:
    """The captures of a review that are chosen."""
    found = Series.objects.filter(owner__test__review=review).exclude(kind=OUTPUT)
    found = found.exclude(kind="sensor", name__in=chosen.without)
    return found if chosen.with_files else found.exclude(kind=FILE)


def choices(review: Review) -> list[RawChoice]:
    """What there is to choose from; two queries, and one for each sort of original files."""
    found = Series.objects.filter(owner__test__review=review).exclude(kind=OUTPUT).exclude(owner__whole_at=None)
    counted = (
        found.values("kind", "name", "unit")
        .annotate(passes=Count("owner", distinct=True), bytes=Sum("size"), last=Max("pk"))
        .order_by("kind", "name")
    )
    sources: dict[tuple[str, str], set[str]] = {}
    for kind, name, source in found.exclude(source="").values_list("kind", "name", "source").distinct():
        sources.setdefault((kind, name), set()).add(source)
    return [_choice(one, sorted(sources.get((one["kind"], one["name"]), ()))) for one in counted]


def _choice(one: Mapping[str, Any], sources: list[str]) -> RawChoice:
    kind = one["kind"]
    return RawChoice(
        name=one["name"],
        kind=kind,
        unit=one["unit"],
        passes=one["passes"],
        bytes=one["bytes"] or 0,
        sources=sources,
        goes=kind != FILE,
        fixed=kind == FRAMES,
        beginning=_beginning(one["last"]) if kind == FILE else "",
    )


def _beginning(series: int) -> str:
    blob = Series.objects.get(pk=series).content
    try:
        with zstandard.ZstdDecompressor().stream_reader(blob) as reader:
            content = reader.read(_SHOWN * 4)
    except zstandard.ZstdError:
        return ""
    return content.decode("utf-8", errors="replace")[:_SHOWN]
