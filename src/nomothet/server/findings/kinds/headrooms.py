"""Headroom: use of memory, graphics memory and storage against what there is (method 17)."""

from nomothet.core.notes import note
from nomothet.core.units import conversion, unit_named
from nomothet.server.evidence.memory_needed import QUANTITIES, EnoughShape, memory_needed
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.shapes import CellRef, ExtentMark, ExtentRow, ExtentsShape, FindingAxis, FindingRule
from nomothet.server.matrix.limits import LimitsCell
from nomothet.server.problems import Problem
from nomothet.words.numbers import compact, figure

_RESERVE = 0.20


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each memory whose use was recorded or typed."""
    made = []
    if not any(found.samples[test].uses for test in found.tests) and not _typed(found):
        return []
    for at, quantity in enumerate(QUANTITIES):
        try:
            answer = memory_needed(found.review, quantity, _RESERVE, over_idle=False, evidence=found.evidence)
        except Problem:
            # No kept pass has a record of it.
            continue
        made.append(_of(kind, found, answer, at))
    return made


def _typed(found: Gathered) -> bool:
    """Whether somebody has read a memory off."""
    return any(conversion(unit_named(row.unit), "GB") is not None for row in found.rows if row.unit)


def _of(kind: Kind, found: Gathered, answer: EnoughShape, at: int) -> Ranked:
    ran_out = _ran_out(found, answer.quantity)
    leading = found.names[answer.leading]
    rows = []
    for use in answer.uses:
        marks = [] if use.capacity is None else [ExtentMark(use.capacity, "there is")]
        label = f"{found.names[use.test]} on {found.columns[use.column].label}"
        rows.append(ExtentRow(use.column, label, use.peak, None, None, f"{figure(use.peak)} GB at the peak", marks))
    return drawn_up(
        kind,
        found,
        Draft(
            key=answer.quantity.replace(" ", "-"),
            sentence=note(
                "finding_headroom",
                quantity=answer.quantity,
                needed=answer.needed,
                reserve=_RESERVE,
                size=answer.size,
                at_least=answer.at_least,
                leading=leading,
                ran_out=[(found.columns[column].label, found.names[test]) for test, column, _ in ran_out],
            ),
            use=Use.CONDITION,
            columns=[use.column for use in answer.uses],
            size=float(len(ran_out)),
            order=at,
            undecided=answer.size is None,
            told=f"{figure(answer.needed)} GB",
            verdict="" if answer.size is None else f"{compact(answer.size)} GB are enough",
            compares=False,
            margin=False,
            cells=[CellRef(use.test, use.column, found.tests[use.test].shown[0]) for use in answer.uses
                   if found.tests[use.test].shown],
            tests=[use.test for use in answer.uses],
            extents=ExtentsShape(
                FindingAxis(answer.quantity, "GB", zero=True),
                rows,
                [FindingRule("x", answer.needed, "needed, with the reserve")],
                "Bars: the highest use that was not cut off, from 0. Hollow: how much there is.",
            ),
            heads=["test and configuration", "peak", "95 % of the time under", "there is", "left", "what happened"],
            lines=[
                *(_line(found, one) for one in _uses(found, answer.quantity)),
                ["sizes on offer", ", ".join(f"{compact(size)} GB" for size in answer.sizes) or "none known",
                 "", "", "", f"from the {answer.sizes_from}"],
            ],
            left_out=[f"the reserve is {100 * _RESERVE:.0f} % of the highest peak"],
        ),
    )  # fmt: skip


def _uses(found: Gathered, quantity: str) -> list[tuple[int, int, LimitsCell, str]]:
    return [
        (test, column, cell, quantity)
        for test in found.tests
        for column in found.columns
        if (cell := found.limits(test).get(column)) and any(one.quantity == quantity for one in cell.memory)
    ]


def _line(found: Gathered, one: tuple[int, int, LimitsCell, str]) -> list[str]:
    test, column, cell, quantity = one
    use = next(memory for memory in cell.memory if memory.quantity == quantity)
    collapse = cell.collapse if cell.collapse and cell.collapse.quantity == quantity else None
    happened = ""
    if collapse is not None:
        cost = "" if collapse.cost_pct is None else f", {collapse.cost_pct:.0f} % slower from then on"
        happened = f"ran out at {collapse.at_s:.0f} s{cost}"
    elif use.cut_off:
        happened = "full: more may have been wanted"
    return [
        f"{found.names[test]} on {found.columns[column].label}",
        f"{figure(use.peak)} GB",
        f"{figure(use.p95)} GB",
        "not known" if use.capacity is None else f"{compact(use.capacity)} GB",
        "" if use.headroom_pct is None else f"{figure(use.headroom_pct)} %",
        happened,
    ]


def _ran_out(found: Gathered, quantity: str) -> list[tuple[int, int, LimitsCell]]:
    return [
        (test, column, cell)
        for test, column, cell, _ in _uses(found, quantity)
        if cell.collapse is not None and cell.collapse.quantity == quantity
    ]


KIND = Kind("headroom", "headroom", "17", make)
