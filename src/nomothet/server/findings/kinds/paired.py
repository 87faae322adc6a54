"""Pairs: two rows that are looked at together, and toggles within a pass (methods 22 and 25)."""

from collections.abc import Sequence

from nomothet.core.notes import note
from nomothet.server.evidence.pairs import GapShape, PairShape, telling_pairs
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.rows import told_with
from nomothet.server.findings.shapes import CellRef, ExtentRow, ExtentsShape, FindingAxis, FindingRule
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.words.numbers import difference_unit, figure, signed

# So many pairs that are only proposed are told.
MOST_PROPOSED = 6


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each pair with a gap on some configuration, and for each toggle."""
    known = telling_pairs(found.review, list(found.tests.values()), found.evidence, MOST_PROPOSED)
    known = [one for one in known if not {one.test_a, one.test_b} & set(found.choice.without)]
    made = [_of(kind, found, one, at) for at, one in enumerate(known)]
    toggles = [row for row in found.rows if row.kind == "toggle" and row.cells]
    made += [_toggle(kind, found, row, len(known) + at) for at, row in enumerate(toggles)]
    return made


def _ranks_otherwise(one: PairShape) -> bool:
    """Whether two instruments put the configurations in another order."""
    if one.kind != "instrument" or len(one.gaps) < 2:
        return False
    by_a = sorted(one.gaps, key=lambda column: one.gaps[column].a)
    return by_a != sorted(one.gaps, key=lambda column: one.gaps[column].b)


def _of(kind: Kind, found: Gathered, one: PairShape, at: int) -> Ranked:
    gaps = {int(column): gap for column, gap in one.gaps.items() if int(column) in found.columns}
    widest = max(gaps, key=lambda column: abs(gaps[column].change))
    gap = gaps[widest]
    certain = [found.columns[pk].label for pk, own in gaps.items() if _certain(own)]
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{one.test_a}-{one.metric_a}-{one.test_b}-{one.metric_b}",
            sentence=note(
                "finding_pair",
                kind_words=one.kind_words,
                words=one.words,
                own=found.columns[widest].label,
                told=f"{signed(gap.change)} {difference_unit(one.unit)}".strip(),
                interval=_interval(gap, one.unit),
                pixels=one.pixel_ratio,
                other_order=_ranks_otherwise(one),
            ),
            use=Use.PAIR,
            columns=list(gaps),
            size=abs(gap.change),
            order=at,
            undecided=not certain,
            told=f"{signed(gap.change)} {difference_unit(one.unit)}".strip(),
            verdict="",
            compares=False,
            margin=False,
            cells=[
                CellRef(test, pk, metric)
                for pk in gaps
                for test, metric in ((one.test_a, one.metric_a), (one.test_b, one.metric_b))
            ],
            extents=_extents(found, gaps, one.unit, one.words),
            heads=["configuration", "first", "second", "change", "interval"],
            lines=[
                [
                    found.columns[pk].label,
                    f"{figure(own.a)} (n {own.n_a})",
                    f"{figure(own.b)} (n {own.n_b})",
                    f"{signed(own.change)} {difference_unit(one.unit)}".strip(),
                    _interval(own, one.unit),
                ]
                for pk, own in gaps.items()
            ],
        ),
    )


def _certain(gap: GapShape) -> bool:
    return gap.low is not None and gap.high is not None and (gap.low > 0 or gap.high < 0)


def _interval(gap: GapShape, unit: str) -> str:
    if gap.low is None or gap.high is None:
        return ""
    return f"{signed(gap.low)} to {signed(gap.high)} {difference_unit(unit)}".strip()


def _extents(found: Gathered, gaps: dict[int, GapShape], unit: str, words: str) -> ExtentsShape:
    rows = [
        ExtentRow(
            pk,
            found.columns[pk].label,
            own.change,
            own.low,
            own.high,
            told_with(f"{signed(own.change)} {difference_unit(unit)}".strip(), _interval(own, unit)),
            [],
        )
        for pk, own in gaps.items()
    ]
    return ExtentsShape(
        FindingAxis(f"change, {words}", difference_unit(unit)),
        rows,
        [FindingRule("x", 0.0, "no change")],
        "The plain change from the first to the second; bars: 95 %.",
    )


def _toggle(kind: Kind, found: Gathered, row: RowShape, at: int) -> Ranked:
    cells = {pk: row.cells[str(pk)] for pk in found.columns if str(pk) in row.cells}
    widest = max(cells, key=lambda pk: abs(cells[pk].centre))
    unit = difference_unit(row.unit)
    told = f"{signed(cells[widest].centre)} {unit}".strip()
    intervals: Sequence[str] = [
        "" if one.low is None or one.high is None else f"{signed(one.low)} to {signed(one.high)} {unit}".strip()
        for one in cells.values()
    ]
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"toggle-{row.key.replace(':', '-')}",
            sentence=note(
                "finding_toggle",
                name=found.name(row),
                own=found.columns[widest].label,
                told=told,
                n=cells[widest].n,
            ),
            use=Use.PAIR,
            columns=list(cells),
            about=[row],
            size=abs(cells[widest].centre),
            order=at,
            undecided=cells[widest].low is None,
            told=told,
            verdict="",
            compares=False,
            margin=False,
            extents=ExtentsShape(
                FindingAxis(row.label, unit),
                [
                    ExtentRow(pk, found.columns[pk].label, one.centre, one.low, one.high,
                              f"{signed(one.centre)} {unit}".strip(), [])
                    for pk, one in cells.items()
                ],
                [FindingRule("x", 0.0, "no difference")],
                "On against off, in pairs within a pass; bars: 95 %.",
            ),
            heads=["configuration", "on against off", "interval", "pairs"],
            lines=[
                [found.columns[pk].label, f"{signed(one.centre)} {unit}".strip(), interval, f"{one.n}"]
                for (pk, one), interval in zip(cells.items(), intervals, strict=True)
            ],
        ),
    )  # fmt: skip


KIND = Kind("pairs", "pairs", "25", make, ("without",))
