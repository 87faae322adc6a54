"""All results as readers look at them: against a baseline of their choice, by metric, sorted and searched."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from nomothet.server.records.charts.svg import seal
from nomothet.words.numbers import figure, with_unit

Data = Mapping[str, Any]
# The sign of a verdict; the word always stands beside it.
SIGNS = {
    "ahead": "▸", "slightly ahead": "▸", "behind": "◂", "slightly behind": "◂", "level": "■", "undecided": "○",
    "noise unknown": "○",
}  # fmt: skip


@dataclass(frozen=True)
class Head:
    column: int
    label: str
    seal: str
    is_baseline: bool


@dataclass(frozen=True)
class Figure:
    """A cell: the figure, and what it is against the baseline."""

    value: str
    told: str
    interval: str
    verdict: str
    sign: str
    why: str
    tone: str


@dataclass(frozen=True)
class Line:
    """A row; `better` holds the sort keys by column."""

    test: str
    metric: str
    note: str
    direction: str
    cells: list[Figure]
    better: dict[int, float]


@dataclass(frozen=True)
class Choice:
    """What a reader has chosen."""

    baseline: int
    metric: str = ""
    sort: str = ""
    find: str = ""
    every: bool = False


@dataclass(frozen=True)
class Results:
    """The table, and how much of it is shown."""

    choice: Choice
    heads: list[Head]
    lines: list[Line]
    metrics: list[tuple[str, str]]
    baselines: list[Head]
    shown: int
    of: int
    low_words: str
    margin_pct: float
    notes: list[tuple[str, str]] = field(default_factory=list)


def read_choice(content: Data, query: Mapping[str, str]) -> Choice:
    """What the address asks for; what it asks for and there is not is left aside."""
    matrix = content["matrix"]
    asked = query.get("baseline", "")
    baseline = int(asked) if asked in content["against"] else matrix["baseline"]
    columns = {str(column["id"]) for column in content["review"]["columns"]}
    sort = query.get("sort", "")
    metrics = {row["metric"] for row in matrix["rows"]}
    return Choice(
        baseline=baseline,
        metric=query.get("metric", "") if query.get("metric", "") in metrics else "",
        sort=sort if sort in columns else "",
        find=query.get("find", "")[:80].strip(),
        every=query.get("every", "") == "1",
    )


def results_of(content: Data, choice: Choice) -> Results:
    """The rows that a reader has asked for."""
    matrix, review = content["matrix"], content["review"]
    missing = {line["test"]: {key: one["said"] for key, one in line["cells"].items()} for line in matrix["progress"]}
    heads = heads_of(content, choice.baseline)
    names = {test["id"]: ", ".join(filter(None, (test["name"], test["detail"]))) for test in review["tests"]}
    seen: set[int] = set()
    lines, matching = [], set()
    for row in matrix["rows"]:
        leading = row["test"] not in seen
        seen.add(row["test"])
        name = names.get(row["test"], "")
        if choice.find and choice.find.lower() not in f"{name} {row['label']}".lower():
            continue
        if choice.metric and row["metric"] != choice.metric:
            continue
        matching.add(row["test"])
        if not (leading or choice.every or choice.metric or choice.find):
            continue
        lines.append(_line(content, row, name, heads, choice, missing.get(row["test"], {})))
    if choice.sort:
        column = int(choice.sort)
        lines.sort(key=lambda line: -line.better.get(column, float("-inf")))
    metrics = list({row["metric"]: row["label"].split(",")[0] for row in matrix["rows"]}.items())
    notes = [(label, content["metric_notes"][key]) for key, label in metrics if key in content["metric_notes"]]
    return Results(
        choice=choice,
        heads=heads,
        lines=lines,
        metrics=metrics,
        baselines=[head for head in heads if str(head.column) in content["against"]],
        shown=len(matching),
        of=len(seen),
        low_words=matrix["low_words"],
        margin_pct=matrix["margin_pct"],
        notes=notes,
    )


def heads_of(content: Data, baseline: int) -> list[Head]:
    """The configurations with their seals."""
    return [
        Head(column["id"], column["label"], seal_of(column["position"]), column["id"] == baseline)
        for column in content["review"]["columns"]
    ]


def seal_of(position: int, size: int = 18) -> str:
    """A seal as a picture in running text; its letter is read with the label beside it."""
    drawn = seal(position, 14, 14, 28)
    return f'<svg class="seal" width="{size}" height="{size}" viewBox="0 0 28 28" aria-hidden="true">{drawn}</svg>'


def _line(
    content: Data,
    row: Data,
    name: str,
    heads: list[Head],
    choice: Choice,
    missing: Mapping[str, str],
) -> Line:
    against = content["against"].get(str(choice.baseline))
    told = against.get(row["key"], {}) if against is not None else None
    cells, better = [], {}
    for head in heads:
        cell = row["cells"].get(str(head.column))
        compared = (cell or {}).get("comparison") if told is None else told.get(str(head.column))
        if compared and not head.is_baseline:
            better[head.column] = float(compared["better"])
        why = row.get("gaps", {}).get(str(head.column)) or missing.get(str(head.column)) or "not run"
        cells.append(_figure(row, cell, None if head.is_baseline else compared, head, why))
    direction = {"higher": "more is better", "lower": "less is better"}.get(row["direction"], "")
    note = content["metric_notes"].get(row["metric"], "")
    return Line(name, row["label"], note, direction, cells, better)


def _figure(row: Data, cell: Data | None, compared: Data | None, head: Head, why: str) -> Figure:
    if cell is None:
        return Figure("", "", "", "", "", why, "")
    value = with_unit(cell["centre"], row["unit"]) if row["unit"] else figure(cell["centre"])
    if compared is None:
        return Figure(value, "", "", "", "", "" if head.is_baseline else cell.get("why_not", ""), "")
    verdict = compared["verdict"]
    tone = "better" if verdict.endswith("ahead") else "worse" if verdict.endswith("behind") else ""
    return Figure(value, compared["told"], compared["interval"], verdict, SIGNS.get(verdict, ""), "", tone)
