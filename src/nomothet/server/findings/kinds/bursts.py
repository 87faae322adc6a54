"""Burst and sustained: what a run holds in the long term, and why it drops (method 11)."""

from nomothet.core.notes import note
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.shapes import ExtentMark, ExtentRow, ExtentsShape, FindingAxis
from nomothet.server.matrix.limits import DropShape, LimitsCell
from nomothet.server.workloads.models import Kind as WorkloadKind
from nomothet.words.numbers import figure, signed

# A fall so small is no drop (section 11), and no finding unless the test is a soak.
LEAST_PCT = 3.0


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each test in which a configuration drops, and for each soak."""
    made = []
    for at, (pk, test) in enumerate(found.tests.items()):
        if pk in found.choice.without:
            continue
        limits = found.limits(pk)
        cells = {column: cell for column in found.columns if (cell := limits.get(column)) and cell.drop is not None}
        dropped = [column for column, cell in cells.items() if _drops(cell)]
        if cells and (dropped or test.workload.kind == WorkloadKind.SOAK):
            made.append(_of(kind, found, pk, cells, dropped, at))
    return made


def _drops(cell: LimitsCell) -> bool:
    """Whether the rate stays lower, or a drop has a known cause: with a lighter scene the rate may rise again."""
    drop = cell.drop
    if drop is None or drop.first_drop_s is None or not drop.cause:
        return False
    return drop.drop_pct >= LEAST_PCT or drop.cause != "unknown"


def _of(kind: Kind, found: Gathered, test: int, cells: dict[int, LimitsCell], dropped: list[int], at: int) -> Ranked:
    drops = {column: cell.drop for column, cell in cells.items() if cell.drop is not None}
    worst = max(dropped or list(drops), key=lambda column: drops[column].drop_pct)
    drop = drops[worst]
    holding = [found.columns[column].label for column in drops if column not in dropped and column in found.columns]
    rows = [row for row in found.leading() if row.test == test]
    unit = rows[0].unit if rows and rows[0].metric == "average_fps" else ""
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{test}",
            sentence=note(
                "finding_burst",
                test=found.names[test],
                own=found.columns[worst].label,
                dropped=bool(dropped),
                drop_pct=drop.drop_pct if not dropped or drop.drop_pct >= LEAST_PCT else None,
                at_s=drop.first_drop_s,
                cause=drop.cause,
                holding=holding,
            ),
            use=Use.CONDITION,
            columns=list(drops),
            about=rows,
            size=max(0.0, drop.drop_pct) if dropped else 0.0,
            order=at,
            undecided=any(one.passes < one.of for column, one in drops.items() if column in dropped),
            told=f"{signed(-drop.drop_pct)} %",
            verdict=drop.cause or "holds",
            tests=[test],
            compares=False,
            margin=False,
            extents=ExtentsShape(
                FindingAxis("rate", unit, zero=True),
                [
                    ExtentRow(
                        column,
                        found.columns[column].label,
                        one.sustained,
                        None,
                        None,
                        f"{_told(one)} {unit}".strip(),
                        [] if one.burst is None else [ExtentMark(one.burst, "burst")],
                    )
                    for column, one in drops.items()
                ],
                [],
                "Bars: what is held in the long term, from 0. Hollow: the burst. Medians over the passes.",
            ),
            heads=["configuration", "burst to sustained", "change", "first drop", "cause", "in passes",
                   "clock kept", "peak, and left to the limit"],
            lines=[_line(found, column, cell) for column, cell in cells.items()],
        ),
    )  # fmt: skip


def _told(drop: DropShape) -> str:
    return "" if drop.burst is None or drop.sustained is None else f"{figure(drop.burst)} to {figure(drop.sustained)}"


def _line(found: Gathered, column: int, cell: LimitsCell) -> list[str]:
    drop, heat = cell.drop, cell.heat
    assert drop is not None
    left = ""
    if heat is not None:
        margin = "" if heat.margin_c is None else f", {figure(heat.margin_c)} K left"
        left = f"{figure(heat.peak_c)} °C at {heat.peak_at_s:.0f} s{margin}"
    return [
        found.columns[column].label,
        _told(drop),
        f"{signed(-drop.drop_pct)} %",
        "none" if drop.first_drop_s is None else f"{drop.first_drop_s:.0f} s",
        drop.cause or "",
        f"{drop.passes} of {drop.of}",
        "" if drop.clock_retention is None else f"{figure(100 * drop.clock_retention)} %",
        left,
    ]


KIND = Kind("burst", "burst and sustained", "11", make, ("without",))
