"""Figures, findings and the verdict to take along: as CSV, Markdown and JSON."""

import json
from collections.abc import Callable, Iterator, Mapping
from typing import Any

from nomothet.server.csv_lines import csv_lines
from nomothet.server.findings.findings import findings
from nomothet.server.matrix.export import comparison_lines, figure_lines
from nomothet.server.matrix.matrix import matrix
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import plain
from nomothet.server.verdicts.frozen import RecordVerdict, Segment, frozen
from nomothet.server.verdicts.verdict import verdict_shape
from nomothet.words.numbers import with_unit

TYPES = {"csv": "text/csv", "md": "text/markdown", "json": "application/json"}
_ESCAPED = str.maketrans({one: f"\\{one}" for one in "\\|*_`[]<>#"})


def _cell(text: object) -> str:
    """A text in a cell of a Markdown table, whose signs are letters."""
    return " ".join(str(text).split()).translate(_ESCAPED)


def markdown_table(heads: list[str], lines: list[list[str]]) -> Iterator[str]:
    """A table of GitHub Flavored Markdown, section 4.10."""
    yield f"| {' | '.join(_cell(head) for head in heads)} |\n"
    yield f"|{'---|' * len(heads)}\n"
    for line in lines:
        yield f"| {' | '.join(_cell(cell) for cell in line)} |\n"


def _findings_csv(review: Review) -> Iterator[str]:
    found = findings(review).findings
    rows: list[list[object]] = [["kind", "sentence", "amount", "verdict", "how sure", "pinned", "caveats"]]
    rows += [
        [
            one.kind_words,
            one.sentence,
            one.told,
            one.verdict,
            one.sure,
            one.pin.number if one.pin else "",
            "; ".join(one.caveats),
        ]
        for one in found
    ]
    return csv_lines(iter(rows))


def _findings_md(review: Review) -> Iterator[str]:
    yield f"# {_cell(review.question)}\n\n"
    for one in findings(review).findings:
        yield f"## {_cell(one.sentence)}\n\n{_cell(one.kind_words)}, {one.sure}, method {one.section}\n\n"
        yield from markdown_table(one.heads, one.lines) if one.lines else ()
        yield "".join(f"\n- {_cell(words)}" for words in one.caveats) + "\n\n"


def _findings_json(review: Review) -> Iterator[str]:
    yield json.dumps(plain(findings(review).findings), ensure_ascii=False)


def _concluded(review: Review) -> RecordVerdict:
    return frozen(verdict_shape(review), findings(review))[0]


def _verdict_md(review: Review) -> Iterator[str]:
    told, labels = _concluded(review), dict(review.columns.values_list("pk", "label"))
    yield f"# {_cell(review.question)}\n\n"
    if told.answer:
        yield f"**{_cell(told.answer)}**\n\n"
    for use in told.uses:
        yield f"## {'For ' + _cell(use.name) if use.name else 'In all'}\n\n"
        if use.outcome:
            yield f"{_cell(use.outcome)}\n\n"
        for one in use.judged:
            yield f"- {one.call}: {_cell(labels.get(one.column, ''))}{f' ({_cell(one.note)})' if one.note else ''}\n"
        yield "\n"
        for paragraph in use.paragraphs:
            yield f"{''.join(_segment(one) for one in paragraph)}\n\n"


def _segment(one: Segment) -> str:
    return one.text.translate(_ESCAPED) + (f" ({one.finding})" if one.finding else "")


def _verdict_json(review: Review) -> Iterator[str]:
    yield json.dumps(plain(_concluded(review)), ensure_ascii=False)


def _figures_md(review: Review) -> Iterator[str]:
    shown = matrix(review)
    columns = list(review.columns.values_list("pk", "label"))
    names = {test.pk: f"{test.workload.name}, {test.detail}" for test in review.tests.select_related("workload")}
    lines = []
    for row in shown.rows:
        cells = []
        for pk, _ in columns:
            cell = row.cells.get(str(pk))
            compared = f" ({cell.comparison.told}, {cell.comparison.verdict})" if cell and cell.comparison else ""
            cells.append(f"{with_unit(cell.centre, row.unit)}{compared}" if cell else "")
        lines.append([names.get(row.test, ""), row.label, *cells])
    yield f"# {_cell(review.question)}\n\n"
    yield from markdown_table(["test", "metric", *(label for _, label in columns)], lines)


def _figures_json(review: Review) -> Iterator[str]:
    yield json.dumps(plain(matrix(review).rows), ensure_ascii=False)


EXPORTS: Mapping[tuple[str, str], Callable[[Review], Iterator[str]]] = {
    ("figures", "csv"): figure_lines,
    ("figures", "md"): _figures_md,
    ("figures", "json"): _figures_json,
    ("cells", "csv"): lambda review: comparison_lines(review, matrix(review)),
    ("findings", "csv"): _findings_csv,
    ("findings", "md"): _findings_md,
    ("findings", "json"): _findings_json,
    ("verdict", "md"): _verdict_md,
    ("verdict", "json"): _verdict_json,
}


def export(review: Review, what: str, form: str) -> Iterator[str] | None:
    """The lines of an export; None where there is none of this name and form."""
    made: Any = EXPORTS.get((what, form))
    return None if made is None else made(review)
