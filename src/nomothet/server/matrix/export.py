"""Exports as comma-separated values (RFC 4180)."""

import csv
import io
from collections.abc import Iterable, Iterator

from nomothet.formats.series import unpack
from nomothet.formats.words import OUTCOMES
from nomothet.server.passes.models import Figure, Pass, Series
from nomothet.server.reviews.models import Review

FIGURE_HEADER = [
    "test", "settings", "configuration", "letter", "pass", "pass_id", "outcome", "set_aside", "reason", "metric",
    "value", "unit", "direction", "thin", "obtained", "method", "half_width", "bound", "method_version", "started_at",
]  # fmt: skip


def seal_letter(position: int) -> str:
    return chr(ord("A") + position) if position < 26 else f"A{chr(ord('A') + position - 26)}"


def _lines(rows: Iterable[list[object]]) -> Iterator[str]:
    """Rows as lines; text that a spreadsheet would run as a formula is quoted with an apostrophe."""
    text = io.StringIO()
    writer = csv.writer(text)
    for row in rows:
        writer.writerow(["" if field is None else _harmless(field) for field in row])
        yield text.getvalue()
        text.seek(0)
        text.truncate()


def _harmless(field: object) -> object:
    if isinstance(field, str) and field[:1] in ("=", "+", "-", "@", "\t", "\r"):
        return "'" + field
    return field


def figure_lines(review: Review) -> Iterator[str]:
    """Every figure of every whole pass of a review, one a line; passes without figures have a line too."""
    return _lines(_figure_rows(review))


def _figure_rows(review: Review) -> Iterator[list[object]]:
    yield list(FIGURE_HEADER)
    figures: dict[object, list[list[object]]] = {}
    fields = (
        "owner_id", "metric", "value", "unit", "direction", "thin", "obtained", "method", "half_width", "bound",
        "method_version",
    )  # fmt: skip
    found = Figure.objects.filter(owner__test__review=review).order_by("pk").values_list(*fields)
    for owner_id, metric, value, unit, direction, thin, *rest in found:
        figures.setdefault(owner_id, []).append([metric, value, unit, direction, "yes" if thin else "no", *rest])
    passes = (
        Pass.objects.filter(test__review=review)
        .exclude(whole_at=None)
        .select_related("test__workload", "column")
        .prefetch_related("remarks")
        .defer("environment", "attempts", "part")
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
        for row in figures.get(owner.pk) or [[*[""] * 9, owner.method_version]]:
            yield [*start, *row, end]


def capture_lines(series: Series) -> Iterator[str]:
    """The columns of a capture, one row a line, in full precision."""
    columns = unpack(bytes(series.blob or b""))
    yield from _lines([list(columns)])
    lists = [column.tolist() for column in columns.values()]
    for row in zip(*lists, strict=True):
        yield ",".join("" if value != value else repr(value) for value in row) + "\r\n"
