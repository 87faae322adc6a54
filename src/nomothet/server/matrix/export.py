"""Exports as comma-separated values (RFC 4180)."""

import csv
import io
from collections.abc import Iterator

from nomothet.formats.series import unpack
from nomothet.formats.words import OUTCOMES
from nomothet.server.passes.models import Figure, Pass, Series
from nomothet.server.reviews.models import Review

FIGURE_HEADER = [
    "test", "settings", "configuration", "letter", "pass", "pass_id", "outcome", "set_aside", "reason", "metric",
    "value", "unit", "direction", "thin", "obtained", "method_version", "started_at",
]  # fmt: skip


def seal_letter(position: int) -> str:
    return chr(ord("A") + position) if position < 26 else f"A{chr(ord('A') + position - 26)}"


def _line(fields: list[object]) -> str:
    text = io.StringIO()
    csv.writer(text).writerow(["" if field is None else _harmless(field) for field in fields])
    return text.getvalue()


def _harmless(field: object) -> object:
    """Text that a spreadsheet would run as a formula is quoted with an apostrophe."""
    if isinstance(field, str) and field[:1] in ("=", "+", "-", "@", "\t", "\r"):
        return "'" + field
    return field


def figure_lines(review: Review) -> Iterator[str]:
    """Every figure of every whole pass of a review, one a line; passes without figures have a line too."""
    yield _line(list(FIGURE_HEADER))
    figures: dict[object, list[Figure]] = {}
    for figure in Figure.objects.filter(owner__test__review=review).order_by("pk"):
        figures.setdefault(figure.owner_id, []).append(figure)
    passes = (
        Pass.objects.filter(test__review=review)
        .exclude(whole_at=None)
        .select_related("test__workload", "column")
        .prefetch_related("remarks")
        .order_by("test__position", "column__position", "number")
    )
    for owner in passes:
        remarks = list(owner.remarks.all())
        start: list[object] = [
            owner.test.workload.name,
            owner.test.detail,
            owner.column.label,
            seal_letter(owner.column.position),
            owner.number,
            str(owner.pk),
            OUTCOMES[owner.outcome],
            "yes" if owner.set_aside else "no",
            remarks[-1].reason if owner.set_aside and remarks else "",
        ]
        end = owner.started_at.isoformat()
        own = figures.get(owner.pk, [])
        for f in own:
            thin = "yes" if f.thin else "no"
            yield _line([*start, f.metric, repr(f.value), f.unit, f.direction, thin, f.obtained, f.method_version, end])
        if not own:
            yield _line([*start, "", "", "", "", "", "", owner.method_version, end])


def capture_lines(series: Series) -> Iterator[str]:
    """The columns of a capture, one row a line, in full precision."""
    columns = unpack(bytes(series.blob or b""))
    yield _line(list(columns))
    lists = [column.tolist() for column in columns.values()]
    for row in zip(*lists, strict=True):
        yield ",".join("" if value != value else repr(value) for value in row) + "\r\n"
