"""The tables of a package, with what their columns hold (Table Schema)."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from nomothet.server.csv_lines import csv_lines
from nomothet.server.matrix.export import COMPARISON_HEADER, FIGURE_HEADER

Data = Mapping[str, Any]
_NUMBERS = {
    "value", "half_width", "step", "centre", "low", "high", "change", "change_low", "change_high", "noise_spread",
    "noise_df", "error_level_pct", "margin", "frame_ms", "t_s", "at_s",
}  # fmt: skip
_WHOLE = {"pass", "n"}
_TIMES = {"started_at"}
PASS_HEADER = [
    "pass_id", "test", "detail", "configuration", "pass", "outcome", "set_aside", "reason", "note", "done_about_it",
    "ran_instead", "by", "helped_by", "typed_by", "started_at",
]  # fmt: skip


@dataclass(frozen=True)
class Table:
    """A table of the package: its name, what it holds, its columns and its lines."""

    name: str
    title: str
    header: Sequence[str]
    lines: Iterator[str]


def schema_of(header: Sequence[str]) -> dict[str, Any]:
    """The fields of a table; what is empty is missing."""
    return {"fields": [{"name": name, "type": _type(name)} for name in header], "missingValues": [""]}


def _type(name: str) -> str:
    if name in _NUMBERS:
        return "number"
    return "integer" if name in _WHOLE else "datetime" if name in _TIMES else "string"


def tables_of(content: Data) -> list[Table]:
    """The tables that a record holds besides its captures."""
    columns = content["review"]["columns"]
    differing = ["aspect", *(column["label"] for column in columns), "remark"]
    return [
        Table("figures", "Every figure of every pass", FIGURE_HEADER, iter([content["figures_csv"]])),
        Table(
            "comparisons",
            "Every cell with its centre, interval, comparison and verdict",
            COMPARISON_HEADER,
            iter([content.get("comparisons_csv", "")]),
        ),
        Table("passes", "Every pass with its outcome", PASS_HEADER, csv_lines(_passes(content))),
        Table(
            "differences",
            "What differs between the configurations",
            differing,
            csv_lines(_differences(content, differing)),
        ),
    ]


def _passes(content: Data) -> Iterator[list[object]]:
    tests = {test["id"]: test for test in content["review"]["tests"]}
    labels = {column["id"]: column["label"] for column in content["review"]["columns"]}
    yield list(PASS_HEADER)
    for one in content["passes"]:
        test = tests.get(one["test"], {"name": "", "detail": ""})
        yield [
            one["id"], test["name"], test["detail"], labels.get(one["column"], ""), one["number"], one["outcome_words"],
            "yes" if one["set_aside"] else "no", one["reason"], one["note"], one["action"], one["fallback"], one["by"],
            one["helped_by"], one["typed_by"], one["started_at"] or "",
        ]  # fmt: skip


def _differences(content: Data, header: Sequence[str]) -> Iterator[list[object]]:
    yield list(header)
    for row in content["review"]["differences"]["rows"]:
        values = [row["values"].get(str(column["id"])) or "" for column in content["review"]["columns"]]
        yield [row["label"], *values, row.get("remark", "")]
