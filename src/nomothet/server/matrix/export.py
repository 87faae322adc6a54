"""A review's figures and comparisons as comma-separated values (RFC 4180)."""

from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from nomothet.formats.words import OUTCOMES
from nomothet.server.csv_lines import csv_fields, csv_lines
from nomothet.server.matrix.matrix import MatrixShape
from nomothet.server.matrix.row_shapes import CellShape, RowShape
from nomothet.server.passes.models import Figure, Origin, Pass
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


def seal_letter(position: int) -> str:
    return chr(ord("A") + position) if position < 26 else f"A{chr(ord('A') + position - 26)}"


def figure_lines(review: Review, passes: Iterable[Pass] | None = None) -> Iterator[str]:
    """Every figure of every whole pass of a review, one a line; passes without figures have a line too.

    Parameters
    ----------
    passes : iterable of Pass, optional
        The passes in order of tests, columns and numbers with their remarks, where these are read already.
    """
    yield from csv_lines([list(FIGURE_HEADER)])
    figures: dict[object, list[list[object]]] = {}
    fields = (
        "owner_id", "metric", "value", "unit", "direction", "thin", "obtained", "method", "half_width", "step", "bound",
        "method_version",
    )  # fmt: skip
    found = Figure.objects.filter(owner__test__review=review).order_by("pk").values_list(*fields)
    for owner_id, metric, value, unit, direction, thin, *rest in found:
        figures.setdefault(owner_id, []).append([metric, value, unit, direction, "yes" if thin else "no", *rest])
    for owner in passes or passes_in_order(review):
        # What all figures of a pass share is written once.
        start, end = csv_fields(_pass_fields(owner)), csv_fields([owner.started_at.isoformat()])
        rows = figures.get(owner.pk) or [[*[""] * (_OWN - 1), owner.method_version]]
        yield from (f"{start},{line.removesuffix(_END)},{end}{_END}" for line in csv_lines(rows))


def passes_in_order(review: Review) -> Iterable[Pass]:
    """The whole passes of a review with their remarks, by test, column and number."""
    return (
        Pass.objects.whole()
        .filter(test__review=review)
        .light()
        .prefetch_related("remarks")
        .order_by("test__position", "column__position", "number")
    )


def comparison_lines(review: Review, matrix: MatrixShape) -> Iterator[str]:
    """Every cell of the matrix with its centre, interval, comparison and verdict, or why it has none."""
    return csv_lines(_comparison_rows(review, matrix))


def settings_text(settings: Mapping[str, Any]) -> str:
    """Settings of a test in one field: "resolution=4K; preset=high"."""
    return "; ".join(f"{key}={value}" for key, value in sorted(settings.items()))


def _pass_fields(owner: Pass) -> list[object]:
    """Of a pass, what comes before its figures."""
    remarks = list(owner.remarks.all())
    return [
        *_test_fields(owner.test),
        owner.column.label,
        seal_letter(owner.column.position),
        owner.number,
        str(owner.pk),
        OUTCOMES[owner.outcome],
        "yes" if owner.is_kept else "no",
        "yes" if owner.set_aside else "no",
        remarks[-1].reason if owner.set_aside and remarks else "",
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
