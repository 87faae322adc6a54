"""What the sentences of a review are held against: its comparisons, figures, findings and prices."""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from nomothet.claims.facts import Configuration, Facts, Found, Level, MeasuredTest, Price, Statement, Value
from nomothet.claims.speech import RESOLUTION
from nomothet.core.settings import is_known, setting_of
from nomothet.server.analysis.models import Hypothesis, Status
from nomothet.server.findings.findings import FindingsShape
from nomothet.server.findings.shapes import FindingShape
from nomothet.server.matrix.matrix import MatrixShape, rows_against
from nomothet.server.matrix.row_shapes import CellShape, ComparisonShape, RowShape
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.reviews.queries import ReviewShape
from nomothet.server.systems.models import System
from nomothet.server.workloads.models import Workload

_ROLES_BY_UNIT = {
    "fps": "average", "W": "power", "J": "power", "Wh": "power", "°C": "temperature", "dB": "noise", "s": "time",
    "min": "time", "ms": "time",
}  # fmt: skip
# Findings that compare what the matrix compares; of others their own words speak.
_COMPARING = ("versus", "lows", "open", "sweep")
# What people call what held a rate back.
_CAUSES: Mapping[str, tuple[str, ...]] = {
    "temperature": ("temperature", "heat", "hot", "warm", "thermal", "clock"),
    "power": ("power", "limit", "watts"),
    "memory": ("memory",),
}
# A setting with so many different numbers is no list of levels.
_MOST_LEVELS = 40
# So many other baselines are looked at for one text.
_MOST_BASELINES = 4


@dataclass(frozen=True)
class Sources:
    """What facts are made from, read once."""

    review: Review
    shape: ReviewShape
    shown: MatrixShape
    found: FindingsShape
    # The number in the text of each pinned finding, by its key.
    numbers: Mapping[str, int]


def facts_of(sources: Sources, texts: Iterable[str] = ()) -> Facts:
    """Everything that the sentences of a review are held against.

    Parameters
    ----------
    texts : iterable of str
        What is to be checked: pairs of configurations that are named together are compared with one another.
    """
    review, shown = sources.review, sources.shown
    columns = list(review.columns.select_related("configuration__system"))
    tests = list(review.tests.select_related("workload"))
    statements = _statements(shown.baseline, shown.rows)
    for base, rows in rows_against(review, _further_baselines(columns, shown, texts)).items():
        statements += _statements(base, rows)
    statements += _over_all(sources.found.findings)
    by_cell = {(one.own, one.test, one.role): one for one in statements if one.base == shown.baseline}
    return Facts(
        configurations=tuple(
            Configuration(
                column.pk,
                column.label,
                chr(ord("A") + column.position) if column.position < 26 else "",
                column.configuration.system.name,
                column.pk == shown.baseline,
            )
            for column in columns
        ),
        tests=tuple(MeasuredTest(one.pk, one.workload.name, tuple(_setting_words(one))) for one in tests),
        levels=(*_factor_levels(sources), *_test_levels(tests)),
        statements=tuple(statements),
        values=tuple(_values(shown)),
        findings=tuple(
            _found(one, sources.numbers[one.key], shown, by_cell)
            for one in sources.found.findings
            if one.key in sources.numbers
        ),
        prices=tuple(
            Price(int(column), one.total, "EUR") for column, one in shown.prices.items() if one.total is not None
        ),
        elsewhere=frozenset(_elsewhere(columns, tests)),
        explained=tuple(Hypothesis.objects.filter(review=review, status=Status.TESTED).values_list("words", flat=True)),
        margin_pct=shown.margin_pct,
    )


def role_of(row: RowShape) -> str:
    """What a row's metric is of, as people speak of it."""
    if row.metric.startswith("low_"):
        return "low"
    known = _ROLES_BY_UNIT.get(row.unit, "")
    if known == "time" and row.metric != "duration_s" and "time" not in row.label.lower() and row.unit == "ms":
        return "other"
    if known == "power" and row.kind == "part":
        return "other"
    return known or ("score" if row.direction != "neither" and row.scale == "ratio" else "other")


def _statements(base: int | None, rows: Sequence[RowShape]) -> list[Statement]:
    if base is None:
        return []
    return [
        _statement(int(column), base, row, cell, cell.comparison)
        for row in rows
        if not row.untrusted and row.kind in ("", "worked out")
        for column, cell in row.cells.items()
        if cell.comparison is not None and int(column) != base
    ]


def _statement(own: int, base: int, row: RowShape, cell: CellShape, one: ComparisonShape) -> Statement:
    unsettled = one.verdict if one.verdict in ("undecided", "noise unknown") else "thin" if cell.thin else ""
    return Statement(
        own=own,
        base=base,
        test=row.test,
        role=role_of(row),
        change=one.change,
        low=one.low,
        high=one.high,
        verdict=one.verdict,
        better={"higher": 1, "lower": -1}.get(row.direction, 0),
        unit="%" if row.scale == "ratio" else row.unit,
        unsettled=unsettled,
        passes=max(0, one.needed - one.n) or None if one.needed is not None else None,
    )


def _over_all(findings: Sequence[FindingShape]) -> list[Statement]:
    """What is found over all tests, as the program proposes it."""
    return [
        one for finding in findings if finding.kind == "overall" and finding.drawn is None for one in _whole(finding)
    ]


def _whole(finding: FindingShape) -> list[Statement]:
    """The comparison of a finding over all tests; where more is better, whatever the single tests count."""
    base, own = finding.columns[0], finding.columns[-1]
    role = "low" if finding.key.split("-")[1] == "lows" else "average"
    return [
        Statement(own, base, None, role, one.better, one.low, one.high, one.verdict, 1, "%",
                  one.verdict if one.verdict in ("undecided", "noise unknown") else "")
        for one in finding.bands
        if one.column == own
    ]  # fmt: skip


def _values(shown: MatrixShape) -> list[Value]:
    return [
        Value(int(column), row.test, role_of(row), row.unit, cell.centre, cell.low, cell.high)
        for row in shown.rows
        if row.unit and not row.untrusted
        for column, cell in row.cells.items()
    ]


def _found(
    one: FindingShape, number: int, shown: MatrixShape, by_cell: Mapping[tuple[int, int | None, str], Statement]
) -> Found:
    roles = {(row.test, row.metric): role_of(row) for row in shown.rows}
    statements: list[Statement] = []
    if one.kind == "overall":
        statements = _whole(one)
    elif one.kind in _COMPARING and one.drawn is None:
        keys = [(cell.column, cell.test, roles.get((cell.test, cell.metric), "")) for cell in one.cells]
        statements = [by_cell[key] for key in dict.fromkeys(keys) if key in by_cell]
    open_ = one.kind == "open" or one.sure == "undecided"
    return Found(
        number=number,
        kind="blind" if one.kind == "blind" else one.kind,
        columns=tuple(one.columns),
        tests=tuple(one.tests),
        sentence=one.sentence,
        told=one.told,
        verdict=one.verdict,
        unsettled=(one.verdict or "undecided") if open_ else "",
        passes=sum(act.passes for act in one.acts if act.kind == "owe") or None,
        statements=tuple(statements),
        texts=tuple(words for line in one.lines for words in line if words),
        causes=_CAUSES.get(one.verdict, (one.verdict,)) if one.kind == "burst" and one.verdict != "holds" else (),
        enough=tuple(one.enough),
        remarks=tuple(_remarks(one)),
    )


def _remarks(one: FindingShape) -> list[str]:
    """What is to be kept in mind of whatever rests on a finding."""
    alone = any(caveat.startswith("One session each") for caveat in one.caveats)
    return [*(["warns"] if one.sure == "warns" else []), *(["one session"] if alone else [])]


def _further_baselines(columns: Sequence[Column], shown: MatrixShape, texts: Iterable[str]) -> list[int]:
    """Configurations that are named beside another one which is not the baseline."""
    wanted: dict[int, None] = {}
    for text in texts:
        named = [
            one.pk
            for one in columns
            if one.pk != shown.baseline and re.search(rf"(?<!\w){re.escape(one.label)}(?!\w)", text)
        ]
        if len(named) > 1:
            wanted |= dict.fromkeys(named[1:2])
    return list(wanted)[:_MOST_BASELINES]


def _setting_words(test: Test) -> list[str]:
    told = [str(value) for value in test.settings.values() if isinstance(value, str)]
    told += [found[0] for found in RESOLUTION.finditer(test.detail)]
    told += [words.strip() for words in test.detail.split(",") if words.strip()]
    return list(dict.fromkeys(told))


def _factor_levels(sources: Sources) -> list[Level]:
    """The numbers that a declared factor was set to."""
    made = []
    for factor in sources.shape.factors:
        if len(factor.aspects) != 1 or not is_known(factor.aspects[0]):
            continue
        spec = setting_of(factor.aspects[0]).spec
        numbers = [
            float(value)
            for value in [
                *(column.settings.get(factor.aspects[0]) for column in sources.shape.columns),
                *_read_otherwise(sources.shown, factor.aspects[0]),
            ]
            if isinstance(value, int | float) and not isinstance(value, bool)
        ]
        if numbers and spec.unit:
            made.append(Level(factor.name, spec.unit, tuple(numbers)))
    return made


def _read_otherwise(shown: MatrixShape, aspect: str) -> list[float]:
    """What was read while passes ran, where that is another number than was set (flags of the matrix)."""
    start = f"claim:{aspect}:"
    told = {
        one.key.removeprefix(start).split()[0]
        for row in shown.flags
        for flags in row.cells.values()
        for one in flags
        if one.key.startswith(start)
    }
    return sorted(float(one) for one in told if one.replace(".", "", 1).isdigit())


def _test_levels(tests: Sequence[Test]) -> list[Level]:
    """Numbers of threads that the tests were run with."""
    threads = sorted({float(value) for one in tests if isinstance(value := one.settings.get("threads"), int)})
    return [Level("threads", "threads", tuple(threads))] if 0 < len(threads) <= _MOST_LEVELS else []


def _elsewhere(columns: Sequence[Column], tests: Sequence[Test]) -> list[str]:
    """Names of systems and workloads that this review does not have."""
    own = {one.configuration.system.name for one in columns} | {one.workload.name for one in tests}
    known = {*System.objects.values_list("name", flat=True), *Workload.objects.values_list("name", flat=True)}
    return sorted(known - own)
