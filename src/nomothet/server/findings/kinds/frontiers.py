"""The value frontier: what is neither dearer nor slower (method 14)."""

import math
from collections.abc import Mapping, Sequence

from nomothet.core.economy import Frontier, frontier, frontier_by
from nomothet.core.notes import note
from nomothet.core.overall import overall
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.over_tests import cells_over_tests, left_out_words
from nomothet.server.findings.rows import compares, counts, turn_of
from nomothet.server.findings.shapes import CurvePoint, CurvesShape, FindingAxis, FindingCurve
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Column
from nomothet.words.economy import euro
from nomothet.words.numbers import figure


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """One finding over all tests that take part, where two configurations have a price of one basis."""
    rows = [row for row in found.leading() if compares(row)]
    # One without any figure says nothing of its worth, and would leave every test out.
    columns = [one for one in found.buildable if any(str(one.pk) in row.cells for row in rows)]
    prices = {one.pk: found.prices[one.pk].total for one in columns}
    priced = [one for one in columns if prices[one.pk] is not None]
    if len(priced) < 2 or len({prices[one.pk] for one in priced}) < 2:
        return []
    tests = cells_over_tests(found, rows, priced)
    taken = [row for row in rows if not tests[str(row.test)].left_out]
    taken = [row for row in taken if all(counts(row, column) for column in priced)]
    if not taken:
        return []
    result, rates = _found(found, taken, priced, prices)
    why = {test: one.left_out for test, one in tests.items() if one.left_out}
    return [_of(kind, found, taken, priced, result, rates, left_out_words(found, why))]


def _found(
    found: Gathered, rows: Sequence[RowShape], priced: Sequence[Column], prices: Mapping[int, float | None]
) -> tuple[Frontier, dict[int, float]]:
    """The frontier, and each configuration's work in per cent of the first one's."""
    base = priced[0]
    names = {str(one.pk): one for one in priced}
    if len(rows) == 1:
        row = rows[0]
        given = {name: (prices[one.pk], found.numbers(row, one.pk)) for name, one in names.items()}
        result = frontier(given, turn_of(row), found.review.margin)
        centres = {one.pk: row.cells[str(one.pk)].centre for one in priced}
        turned = {pk: 1 / centre if row.direction == "lower" else centre for pk, centre in centres.items()}
        return result, {pk: 100 * value / turned[base.pk] for pk, value in turned.items()}
    tests = cells_over_tests(found, rows, priced)
    against = {name: overall(tests, name, found.review.margin).configurations for name in names}

    def surely_ahead(other: str, name: str) -> bool:
        one = against[name][other]
        return one is not None and one.compared.low is not None and one.compared.low > 1

    result = frontier_by({name: prices[one.pk] for name, one in names.items()}, surely_ahead)
    rates = {base.pk: 100.0}
    for name, one in against[str(base.pk)].items():
        if one is not None:
            rates[names[name].pk] = 100 * one.compared.ratio
    return result, rates


def _of(
    kind: Kind,
    found: Gathered,
    rows: Sequence[RowShape],
    priced: Sequence[Column],
    result: Frontier,
    rates: Mapping[int, float],
    left_out: list[str],
) -> Ranked:
    worth = {pk: rate / (found.prices[pk].total or math.inf) for pk, rate in rates.items()}
    best = max(worth, key=lambda pk: worth[pk])
    on_it = [found.columns[int(name)] for name in result.frontier]
    beaten = {found.columns[int(name)]: by for name, by in result.beaten_by.items()}
    basis = found.prices[priced[0].pk].basis
    day = min(on for one in priced if (on := found.prices[one.pk].on) is not None)
    without = [
        f"{one.label}: {found.prices[one.pk].words}" for one in found.buildable if found.prices[one.pk].total is None
    ]
    return drawn_up(
        kind,
        found,
        Draft(
            key="",
            sentence=note(
                "finding_frontier",
                frontier=[one.label for one in on_it],
                beaten=[(one.label, [found.columns[int(name)].label for name in by]) for one, by in beaten.items()],
                best=found.columns[best].label,
                basis=basis,
                day=day.isoformat(),
                tests=len(rows),
            ),
            use=Use.CONDITION,
            columns=[one.pk for one in priced],
            about=rows,
            size=100.0,
            undecided=all(row.noise.source == "unknown" for row in rows),
            told=f"{found.columns[best].label}",
            verdict="most for its price",
            left_out=[*without, *left_out],
            curves=_curves(found, priced, on_it, rates),
            heads=["configuration", f"price, {basis}", "made of", f"work, {priced[0].label} is 100 %",
                   "work for 100 €", "it is"],
            lines=[_line(found, one, rates[one.pk], beaten.get(one)) for one in priced],
        ),
    )  # fmt: skip


def _line(found: Gathered, one: Column, rate: float, by: Sequence[str] | None) -> list[str]:
    price = found.prices[one.pk]
    parts = " + ".join(f"{part.part} {euro(part.euro)} ({part.on.isoformat()})" for part in price.parts)
    told = "on the frontier" if by is None else f"beaten by {', '.join(found.columns[int(name)].label for name in by)}"
    total = price.total or 0.0
    return [
        one.label,
        euro(total),
        parts,
        f"{figure(rate)} %",
        f"{figure(100 * rate / total)} %" if total else "",
        told,
    ]


def _curves(
    found: Gathered, priced: Sequence[Column], on_it: Sequence[Column], rates: Mapping[int, float]
) -> CurvesShape:
    def point(one: Column) -> CurvePoint:
        total = found.prices[one.pk].total or 0.0
        told = f"{one.label}: {euro(total)}, {figure(rates[one.pk])} %"
        return CurvePoint(total, rates[one.pk], None, None, told, one.pk)

    return CurvesShape(
        FindingAxis("price", "€", zero=True),
        FindingAxis(f"work, {priced[0].label} is 100 %", "%", zero=True),
        [
            FindingCurve("on the frontier", 0, [point(one) for one in on_it], seals=True),
            FindingCurve(
                "beaten", 0, [point(one) for one in priced if one not in on_it], joined=False, faint=True, seals=True
            ),
        ],
        [],
        [],
        "Both axes begin at 0. Joined: nothing costs no more and is ahead for certain.",
    )


KIND = Kind("frontier", "value frontier", "14", make, ("role", "without", "basis", "differing"))
