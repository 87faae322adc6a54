"""Energy: watts, energy of a task, and work per watt (method 14)."""

from collections.abc import Sequence
from dataclasses import dataclass

from nomothet.core.notes import note
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import UNDECIDED, Gathered
from nomothet.server.findings.shapes import CellRef, FindingBand
from nomothet.server.matrix.economy import EconomyCell, EconomyRow
from nomothet.words import say
from nomothet.words.economy import energy_words
from nomothet.words.findings import change_of, changes_of
from nomothet.words.numbers import figure

_OTHER_SIDE = {
    "ahead": "behind", "behind": "ahead", "slightly ahead": "slightly behind", "slightly behind": "slightly ahead",
}  # fmt: skip


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each test whose power is known on two configurations, the baseline among them."""
    made = []
    base = found.baseline
    for at, pk in enumerate(found.tests):
        row = found.economy(pk)
        if row is None or pk in found.choice.without or base is None:
            continue
        cells = {
            column.pk: cell
            for column in [base, *found.others]
            if (cell := row.cells.get(str(column.pk))) is not None and cell.per_watt is not None
        }
        if base.pk in cells and len(cells) > 1:
            made.append(_of(kind, found, row, cells, at))
    return made


def _of(kind: Kind, found: Gathered, row: EconomyRow, cells: dict[int, EconomyCell], at: int) -> Ranked:
    base = found.baseline
    assert base is not None
    others = {pk: cell for pk, cell in cells.items() if pk != base.pk and cell.better is not None}
    most = max(cells, key=lambda pk: cells[pk].per_watt or 0.0)
    # Where the baseline leads, it is told how far ahead of the next it is: that one's comparison, turned.
    other = base.pk if most != base.pk else max(others, key=lambda pk: others[pk].better or 0.0)
    told = _turned(others[other]) if most == base.pk else _told(others[most])
    apart = _apart(found, row)
    about = [one for one in found.leading() if one.test == row.test]
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{row.test}",
            sentence=note(
                "finding_energy",
                test=found.names[row.test],
                most=found.columns[most].label,
                other=found.columns[other].label,
                told=told.told,
                interval=told.interval,
                verdict=told.verdict,
                source=row.source_words,
                watts=cells[most].mean_w,
                idle_off=found.choice.idle_off,
            ),
            use=Use.CONDITION,
            columns=list(cells),
            about=about,
            size=abs(told.better) / (100 * found.review.margin),
            order=at,
            undecided=told.verdict in UNDECIDED,
            told=told.told,
            verdict=told.verdict,
            cells=[CellRef(one.test, pk, one.metric) for one in about for pk in cells],
            bands=_bands(found, others),
            heads=["configuration", f"power, {row.source_words}", "over idle", "energy of a pass",
                   f"work per watt, {row.per_unit}", f"against {base.label}"],
            lines=[_line(found, pk, cell) for pk, cell in cells.items()],
            left_out=_missing(found, row, cells),
            caveats=apart,
            sure="warns" if apart and told.verdict not in UNDECIDED else None,
        ),
    )  # fmt: skip


@dataclass(frozen=True)
class _Lead:
    """How far the one that does the most work per watt is ahead of another."""

    better: float
    told: str
    interval: str
    verdict: str


def _told(cell: EconomyCell) -> _Lead:
    return _Lead(cell.better or 0.0, cell.told, cell.interval, cell.verdict)


def _turned(cell: EconomyCell) -> _Lead:
    """The same comparison seen from the other side."""
    ratio = _inverse(cell.better or 0.0)
    ends = None
    if cell.better_low is not None and cell.better_high is not None:
        ends = (_inverse(cell.better_high), _inverse(cell.better_low))
    verdict = _OTHER_SIDE.get(cell.verdict, cell.verdict)
    return _Lead(100 * (ratio - 1), change_of(ratio), changes_of(*ends) if ends else "", verdict)


def _inverse(better: float) -> float:
    # A change of -100 % is what is left of a ratio that is too small for a percentage.
    return 1 / max(1e-15, 1 + better / 100)


def _bands(found: Gathered, others: dict[int, EconomyCell]) -> list[FindingBand]:
    return [
        FindingBand(
            pk, found.columns[pk].label, cell.better or 0.0, cell.better_low, cell.better_high, cell.told,
            cell.interval, cell.verdict, [],
        )
        for pk, cell in others.items()
    ]  # fmt: skip


def _line(found: Gathered, pk: int, cell: EconomyCell) -> list[str]:
    against = f"{cell.told} ({cell.interval}), {cell.verdict}" if cell.told else ""
    return [
        found.columns[pk].label,
        "" if cell.mean_w is None else f"{figure(cell.mean_w)} W",
        "" if cell.over_idle_w is None else f"{figure(cell.over_idle_w)} W",
        "" if cell.energy_j is None else energy_words(cell.energy_j),
        "" if cell.per_watt is None else figure(cell.per_watt),
        against,
    ]


def _apart(found: Gathered, row: EconomyRow) -> list[str]:
    """Package power leaves out a graphics card that has a sensor of its own."""
    card = found.samples[row.test].power.get("graphics power", {})
    with_card = [found.columns[int(pk)].label for pk in card if int(pk) in found.columns]
    return [say(note("caveat_card", labels=with_card))] if row.source == "power" and with_card else []


def _missing(found: Gathered, row: EconomyRow, cells: dict[int, EconomyCell]) -> Sequence[str]:
    return [
        f"{column.label}: {cell.why_not}"
        for column in found.buildable
        if column.pk not in cells and (cell := row.cells.get(str(column.pk))) is not None and cell.why_not
    ]


KIND = Kind("energy", "energy", "14", make, ("without", "baseline", "idle_off"))
