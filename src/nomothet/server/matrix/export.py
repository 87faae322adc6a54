"""A review's figures and comparisons as comma-separated values (RFC 4180)."""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from django.db import connection

from nomothet.formats.words import OUTCOMES
from nomothet.server.csv_lines import csv_fields, csv_lines
from nomothet.server.matrix.matrix import MatrixShape
from nomothet.server.matrix.row_shapes import CellShape, RowShape
from nomothet.server.passes.models import Figure, Origin, Pass, Remark
from nomothet.server.reviews.models import Column, Review, Test

FIGURE_HEADER = [
    "test", "version", "detail", "settings", "configuration", "letter", "pass", "pass_id", "outcome", "counts",
    "set_aside", "reason", "note", "done_about_it", "ran_instead", "group", "by", "helped_by", "typed_by",
    "metric", "value", "unit", "direction", "thin", "obtained", "method",
    "half_width", "step", "bound", "method_version", "started_at",
]  # fmt: skip
COMPARISON_HEADER = [
    "test", "version", "detail", "settings", "metric", "label", "unit", "direction", "configuration", "letter", "n",
    "centre", "low", "high", "change", "change_low", "change_high", "change_unit", "verdict", "why_not", "noise",
    "noise_spread", "noise_df", "error_level_pct", "margin", "flags", "missing", "target",
]  # fmt: skip
_END = "\r\n"
# Columns of a figure's own row, from metric to method version.
_OWN = FIGURE_HEADER.index("started_at") - FIGURE_HEADER.index("metric")
_ABOUT = (
    "metric", "unit", "direction", "thin", "obtained", "method", "half_width", "step", "bound", "method_version",
)  # fmt: skip


def seal_letter(position: int) -> str:
    return chr(ord("A") + position) if position < 26 else f"A{chr(ord('A') + position - 26)}"


def figure_lines(review: Review, passes: Iterable[Pass] | None = None) -> Iterator[str]:
    """Every figure of every whole pass of a review, one a line; passes without figures have a line too.

    Parameters
    ----------
    passes : iterable of Pass, optional
        The passes in order of tests, columns and numbers, where these are read already.
    """
    yield from csv_lines([list(FIGURE_HEADER)])
    figures, aside = _figures(review), aside_reasons(review)
    for owner in passes or passes_in_order(review):
        # What all figures of a pass share is written once.
        start, end = (
            csv_fields(_pass_fields(owner, aside.get(owner.pk, ""))),
            csv_fields([owner.started_at.isoformat()]),
        )
        rows = figures.get(str(owner.pk)) or [csv_fields([*[""] * (_OWN - 1), owner.method_version])]
        yield from (f"{start},{row},{end}{_END}" for row in rows)


def _figures(review: Review) -> dict[str, list[str]]:
    """The figures of a review as pieces of lines, by the pass; few differ in more than their value, and what is said
    about them is written once for all of these."""
    found = Figure.objects.filter(owner__test__review=review).order_by("pk")
    told: dict[tuple[object, ...], tuple[str, str]] = {}
    pieces: dict[str, list[str]] = defaultdict(list)
    # As the database gives them: to make an id of each would take longer than all else.
    with connection.cursor() as cursor:
        cursor.execute(*found.values_list("owner_id", "value", *_ABOUT).query.sql_with_params())
        for of, value, *about in cursor.fetchall():
            key = tuple(about)
            if key not in told:
                metric, unit, direction, thin, *rest = about
                told[key] = (csv_fields([metric]), csv_fields([unit, direction, "yes" if thin else "no", *rest]))
            start, end = told[key]
            pieces[of].append(f"{start},{value!r},{end}")
    return pieces


def passes_in_order(review: Review) -> Iterable[Pass]:
    """The whole passes of a review by test, column and number."""
    return (
        Pass.objects.whole()
        .filter(test__review=review)
        .light()
        .order_by("test__position", "column__position", "number")
    )


def aside_reasons(review: Review) -> dict[object, str]:
    """Why passes are set aside, by pass, as it was said last; one query."""
    said = Remark.objects.filter(owner__test__review=review, owner__set_aside=True)
    return dict(said.order_by("at", "pk").values_list("owner", "reason"))


def comparison_lines(review: Review, matrix: MatrixShape) -> Iterator[str]:
    """Every cell of the matrix with its centre, interval, comparison and verdict, or why it has none."""
    return csv_lines(_comparison_rows(review, matrix))


def settings_text(settings: Mapping[str, Any]) -> str:
    """Settings of a test in one field: "resolution=4K; preset=high"."""
    return "; ".join(f"{key}={value}" for key, value in sorted(settings.items()))


def _pass_fields(owner: Pass, aside_why: str) -> list[object]:
    """Of a pass, what comes before its figures."""
    return [
        *_test_fields(owner.test),
        owner.column.label,
        seal_letter(owner.column.position),
        owner.number,
        str(owner.pk),
        OUTCOMES[owner.outcome],
        "yes" if owner.is_kept else "no",
        "yes" if owner.set_aside else "no",
        aside_why,
        owner.note,
        owner.action,
        owner.fallback,
        owner.get_run_group_display() if owner.run_group else "",
        owner.who_ran,
        owner.helped_by,
        owner.brought_by.display_name if owner.brought_by and owner.origin == Origin.TYPED else "",
    ]


def _comparison_rows(review: Review, matrix: MatrixShape) -> Iterator[list[object]]:
    yield list(COMPARISON_HEADER)
    tests = {test.pk: test for test in review.tests.select_related("workload")}
    columns = list(review.columns.all())
    flags = {row.test: row.cells for row in matrix.flags}
    missing = {row.test: {column: cell.said for column, cell in row.cells.items()} for row in matrix.progress}
    for row in matrix.rows:
        for column in columns:
            key = str(column.pk)
            flagged = "; ".join(flag.words for flag in flags.get(row.test, {}).get(key, []))
            cell = row.cells.get(key)
            said = "" if cell else row.gaps.get(key, "") or missing.get(row.test, {}).get(key, "not run")
            start = [*_row_fields(tests[row.test], row), *_column_fields(column), *_cell_fields(row, cell)]
            yield [*start, flagged, said, "; ".join(one.words for one in row.targets.get(key, []))]


def _test_fields(test: Test) -> list[object]:
    return [test.workload.name, test.workload.version, test.detail, settings_text(test.settings)]


def _row_fields(test: Test, row: RowShape) -> list[object]:
    return [*_test_fields(test), row.metric, row.label, row.unit, row.direction]


def _column_fields(column: Column) -> list[object]:
    return [column.label, seal_letter(column.position)]


def _cell_fields(row: RowShape, cell: CellShape | None) -> list[object]:
    noise = [row.noise.source, row.noise.spread, row.noise.df, row.level_pct, row.margin]
    if cell is None:
        return [0, *[""] * 9, *noise]
    compared = cell.comparison
    if compared is None:
        return [cell.n, cell.centre, cell.low, cell.high, *[""] * 5, cell.why_not, *noise]
    unit = "%" if row.scale == "ratio" else row.unit
    change = [compared.change, compared.low, compared.high, unit, compared.verdict]
    return [cell.n, cell.centre, cell.low, cell.high, *change, cell.why_not, *noise]
