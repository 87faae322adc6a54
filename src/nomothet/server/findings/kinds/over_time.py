"""Over time: whether the baseline came back as it was, what sessions differ by, and what an update cost."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.noise import pooled
from nomothet.core.notes import note
from nomothet.core.pairwise import Pairwise, against, turned_cells
from nomothet.core.passes import ALPHA
from nomothet.server.evidence.returned import ReturnShape
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import UNDECIDED, Gathered
from nomothet.server.findings.rows import band_of, compares, turn_of
from nomothet.server.findings.shapes import CellRef, FindingBand
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.matrix.samples import Sample
from nomothet.words.findings import change_of, changes_of
from nomothet.words.numbers import signed

# Turned logs by column.
Cells = Mapping[int, Sequence[float]]
# So many sessions are drawn, those that differ most.
MOST_SESSIONS = 12


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding over all returns to the baseline, one over all sessions, and one for each update."""
    made = []
    returned = [one for one in found.shown.returned if one.test not in found.choice.without]
    if returned:
        made.append(_returned(kind, found, returned))
    rows = [row for row in found.leading() if compares(row)]
    made += _sessions(kind, found, rows)
    for at, row in enumerate(rows):
        for pk in found.columns:
            made += _updates(kind, found, row, pk, at)
    return made


def _returned(kind: Kind, found: Gathered, returned: Sequence[ReturnShape]) -> Ranked:
    base = found.baseline
    assert base is not None
    widest = max(returned, key=lambda one: abs(one.change))
    drifted = [one for one in returned if one.drifted]
    open_ones = [one for one in returned if one.verdict in UNDECIDED]
    rows = {row.test: row for row in found.leading()}
    bands = [
        FindingBand(
            base.pk, f"{found.names[one.test]}, again", _better(rows[one.test], one.change),
            *_ends(rows[one.test], one), f"{signed(one.change)} %", _interval(one), one.verdict, [],
        )
        for one in returned
        if one.test in rows and rows[one.test].scale == "ratio"
    ]  # fmt: skip
    return drawn_up(
        kind,
        found,
        Draft(
            key="returned",
            sentence=note(
                "finding_returned",
                baseline=base.label,
                tests=len(returned),
                drifted=[found.names[one.test] for one in drifted],
                open=len(open_ones),
                widest=found.names[widest.test],
                told=f"{signed(widest.change)} %",
            ),
            use=Use.TIME,
            columns=[base.pk],
            size=abs(widest.change),
            undecided=bool(open_ones) and not drifted,
            told=f"{signed(widest.change)} %",
            verdict="drifted" if drifted else widest.verdict,
            cells=[CellRef(one.test, base.pk, rows[one.test].metric) for one in returned if one.test in rows],
            bands=bands,
            compares=False,
            heads=["test", "again, against its first passes", "interval", "verdict", "passes"],
            lines=[
                [found.names[one.test], f"{signed(one.change)} %", _interval(one), one.verdict,
                 f"{one.n} and {one.n_first}"]
                for one in returned
            ],
        ),
    )  # fmt: skip


def _better(row: RowShape, change: float) -> float:
    return -change if row.direction == "lower" else change


def _ends(row: RowShape, one: ReturnShape) -> tuple[float | None, float | None]:
    if one.low is None or one.high is None:
        return None, None
    return (-one.high, -one.low) if row.direction == "lower" else (one.low, one.high)


def _interval(one: ReturnShape) -> str:
    return "" if one.low is None or one.high is None else f"{signed(one.low)} to {signed(one.high)} %"


def _groups(sample: Sample, turned: Sequence[float], of: Mapping[int, str]) -> dict[str, list[float]]:
    """The turned logs of a cell by what each of its passes is told of."""
    groups: dict[str, list[float]] = {}
    for number, value in zip(sample.passes, turned, strict=True):
        if number in of:
            groups.setdefault(of[number], []).append(value)
    return groups


def _against_first(found: Gathered, pk: int, turned: Cells, groups: Mapping[str, Sequence[float]]) -> list[Pairwise]:
    """The later groups of a cell against its first, with the noise of the whole test."""
    others = [values for column, values in turned.items() if column != pk]
    noise = pooled([*others, *groups.values()])
    first, *later = groups.values()
    return [against(values, first, noise, ALPHA, found.review.margin) for values in later]


@dataclass(frozen=True)
class _Session:
    """The later sessions of a cell against its first, the one that is farthest from it foremost."""

    row: RowShape
    column: int
    name: str
    compared: Pairwise
    passes: int


def _turned(found: Gathered, row: RowShape) -> Cells:
    """The logs of a row's cells by column, turned so that more is better."""
    every = {f"{pk}": numbers for pk in found.columns if (numbers := found.numbers(row, pk))}
    return {int(pk): values for pk, values in turned_cells(every, turn_of(row)).items()}


def _between_sessions(found: Gathered, row: RowShape, pk: int, turned: Cells) -> _Session | None:
    """What changes from session to session of a configuration; the baseline's is told by its return already."""
    sample = found.sample(row, pk)
    base = found.baseline
    if sample is None or None in sample.sessions or (found.shown.returned and base is not None and base.pk == pk):
        return None
    if len(set(sample.sessions)) < 2:
        return None
    groups = _groups(sample, turned[pk], dict(zip(sample.passes, map(str, sample.sessions), strict=True)))
    numbered = {f"{place}": values for place, values in enumerate(groups.values(), 1)}
    compared = list(zip(list(numbered)[1:], _against_first(found, pk, turned, numbered), strict=True))
    name, farthest = max(compared, key=lambda one: abs(one[1].ratio - 1))
    return _Session(row, pk, f"session {name}", farthest, len(numbered[name]))


def _sessions(kind: Kind, found: Gathered, rows: Sequence[RowShape]) -> list[Ranked]:
    """One finding over all cells that were measured in several sessions."""
    told = []
    for row in rows:
        turned = _turned(found, row)
        told += [one for pk in found.columns if (one := _between_sessions(found, row, pk, turned)) is not None]
    if not told:
        return []
    told.sort(key=lambda one: -abs(one.compared.ratio - 1))
    apart = [one for one in told if one.compared.verdict not in ("level", *UNDECIDED)]
    open_ones = [one for one in told if one.compared.verdict in UNDECIDED]
    first = (apart or told)[0]
    return [
        drawn_up(
            kind,
            found,
            Draft(
                key="sessions",
                sentence=note(
                    "finding_sessions",
                    cells=len(told),
                    apart=len(apart),
                    open=len(open_ones),
                    name=found.name(first.row),
                    own=found.columns[first.column].label,
                    ratio=first.compared.ratio,
                    verdict=first.compared.verdict,
                ),
                use=Use.TIME,
                columns=[one.column for one in told],
                size=abs(first.compared.ratio - 1) / found.review.margin,
                order=50,
                undecided=not apart and bool(open_ones),
                told=change_of(first.compared.ratio),
                verdict=first.compared.verdict,
                cells=[CellRef(one.row.test, one.column, one.row.metric) for one in told],
                compares=False,
                bands=[
                    band_of(f"{found.columns[one.column].label}, {found.names[one.row.test]}", one.compared, one.column)
                    for one in told[:MOST_SESSIONS]
                ],
                heads=["test and metric", "configuration", "when", "against its first session", "interval", "verdict"],
                lines=[
                    [
                        found.name(one.row),
                        found.columns[one.column].label,
                        f"{one.name}, {one.passes} {'pass' if one.passes == 1 else 'passes'}",
                        change_of(one.compared.ratio),
                        changes_of(one.compared.low, one.compared.high),
                        one.compared.verdict,
                    ]
                    for one in told
                ],
            ),
        )
    ]


def _updates(kind: Kind, found: Gathered, row: RowShape, pk: int, at: int) -> list[Ranked]:
    """What an update of driver, image, firmware or operating system cost between the passes of a cell."""
    updates = found.samples[row.test].updates.get(str(pk), [])
    sample = found.sample(row, pk)
    if not updates or sample is None:
        return []
    turned = _turned(found, row)
    groups = _groups(sample, turned[pk], dict(updates))
    if len(groups) < 2:
        return []
    compared = _against_first(found, pk, turned, groups)
    first, *later = groups
    last, values = compared[-1], list(groups.values())
    return [
        drawn_up(
            kind,
            found,
            Draft(
                key=f"update-{row.test}-{pk}",
                sentence=note(
                    "finding_update",
                    name=found.name(row),
                    own=found.columns[pk].label,
                    first=first,
                    last=later[-1],
                    ratio=last.ratio,
                    low=last.low,
                    high=last.high,
                    verdict=last.verdict,
                ),
                use=Use.TIME,
                columns=[pk],
                about=[row],
                size=abs(last.ratio - 1) / found.review.margin,
                order=at,
                undecided=last.verdict in UNDECIDED,
                told=change_of(last.ratio),
                verdict=last.verdict,
                compares=False,
                bands=[band_of(name, one, pk) for name, one in zip(later, compared, strict=True)],
                heads=["when", f"against {first}", "interval", "verdict", "passes"],
                lines=[
                    [name, change_of(one.ratio), changes_of(one.low, one.high), one.verdict, f"{len(own)}"]
                    for name, one, own in zip(later, compared, values[1:], strict=True)
                ],
            ),
        )
    ]


KIND = Kind("time", "over time", "19", make, ("role", "without"))
