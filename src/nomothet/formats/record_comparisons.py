"""The comparisons of a published record, made again from the passes that it names."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from nomothet.core.compare_placed import PlacedComparison, compare_placed
from nomothet.core.noise import Noise, reading_error
from nomothet.core.rounds import Placed

# Figures are compared to so many significant digits: further than any is shown.
_DIGITS = 1e-9


@dataclass(frozen=True)
class Compared:
    """A published value beside what was found again."""

    where: str
    published: str
    found: str
    agrees: bool


def comparisons_again(record: Mapping[str, Any], lines: Sequence[Mapping[str, str]]) -> Iterator[Compared]:
    """Every change with its interval and verdict word, against the record's baseline and against every other.

    Parameters
    ----------
    record : mapping
        The content of a record, with its samples.
    lines : sequence of mappings
        The rows of comparisons.csv: each row of the matrix over the configurations, in that order.
    """
    columns = [str(one["id"]) for one in record["review"]["columns"]]
    rows = record["matrix"]["rows"]
    baseline = str(record["matrix"]["baseline"])
    if len(lines) != len(rows) * len(columns):
        yield Compared("comparisons.csv", f"{len(lines)} lines", f"{len(rows) * len(columns)} cells", False)
    table = iter(lines)
    for row in rows:
        own = dict(zip(columns, table, strict=False))
        found = _row_again(record, row, baseline)
        for column, cell in row["cells"].items():
            told = cell["comparison"]
            if told is None or column not in own:
                continue
            where = f"{own[column]['test']}, {row['label']}, {own[column]['configuration']}"
            if column not in found:
                yield Compared(where, told["verdict"], "no passes to compare", False)
                continue
            values = list(_values(told, own[column], found[column], row["scale"]))
            wrong = next(((name, a, b) for name, a, b in values if not _same(a, b)), None)
            name, published, again = wrong or values[0]
            yield Compared(f"{where}, {name}", published, again, wrong is None)
        yield from _others(record, row, baseline)


def _others(record: Mapping[str, Any], row: Mapping[str, Any], baseline: str) -> Iterator[Compared]:
    """The verdict words against the other baselines that a reader may choose."""
    labels = {str(one["id"]): one["label"] for one in record["review"]["columns"]}
    for other, compared in record["against"].items():
        told = compared.get(row["key"], {})
        if other == baseline or not told:
            continue
        found = _row_again(record, row, other)
        for column, one in told.items():
            again = found[column].comparison.verdict if column in found else "no passes to compare"
            where = f"{row['label']}, {labels.get(column, column)} against {labels.get(other, other)}"
            yield Compared(where, one["verdict"], again, one["verdict"] == again)


def _row_again(record: Mapping[str, Any], row: Mapping[str, Any], baseline: str) -> dict[str, PlacedComparison]:
    samples = {c: one for c, one in record["samples"].get(row["key"], {}).items() if not one["thin"]}
    if baseline not in samples:
        return {}
    scale, noise, margin = row["scale"], row["noise"], row["margin"]
    percent = 100 if scale == "ratio" else 1
    borrowed = None
    if noise["source"] == "borrowed":
        borrowed = Noise(noise["spread"] / percent, noise["df"], "borrowed")
    return compare_placed(
        {
            column: [Placed(*of) for of in zip(one["numbers"], one["rounds"], one["sessions"], strict=True)]
            for column, one in samples.items()
        },
        baseline,
        direction=row["direction"],
        scale=scale,
        margin=None if margin is None else margin / percent,
        borrowed=borrowed,
        spreads={
            column: reading_error(one["numbers"], one["spreads"], scale)
            for column, one in samples.items()
            if any(one["spreads"])
        },
    )


def _values(
    told: Mapping[str, Any], line: Mapping[str, str], placed: PlacedComparison, scale: str
) -> Iterator[tuple[str, str, str]]:
    """What the record and its table say of a comparison, each beside what was found."""
    found = placed.comparison

    def shown(value: float | None) -> str:
        if value is None:
            return ""
        return repr(100 * (value - 1) if scale == "ratio" else value)

    change, low, high = (shown(one) for one in (found.change, found.change_low, found.change_high))
    yield "change", line["change"], change
    yield "lower end", line["change_low"], low
    yield "upper end", line["change_high"], high
    yield "verdict", line["verdict"], found.verdict
    yield "change shown", _text(told["change"]), change
    yield "lower end shown", _text(told["low"]), low
    yield "upper end shown", _text(told["high"]), high
    yield "verdict shown", told["verdict"], found.verdict


def _text(value: float | None) -> str:
    return "" if value is None else repr(float(value))


def _same(published: str, again: str) -> bool:
    try:
        return math.isclose(float(published), float(again), rel_tol=_DIGITS, abs_tol=1e-9)
    except ValueError:
        return published == again
