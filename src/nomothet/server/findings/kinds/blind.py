"""What cannot be told: held rates, masks, holes, and configurations that a grid lacks, each with what would mend it."""

from collections.abc import Mapping

from nomothet.core.notes import note
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.kinds.grids import corners_of
from nomothet.server.findings.owing import advice, owing
from nomothet.server.findings.rows import SHOWS_NOTHING
from nomothet.server.findings.shapes import ActShape, CellRef
from nomothet.words import say

# What shows nothing, by code, and why that is.
_REASONS: Mapping[str, str] = {"held_at": "held", "masked": "masked"}


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each test that shows nothing, one over all holes, one for each configuration that is missing."""
    return [*_masked(kind, found), *_holes(kind, found), *_missing(kind, found)]


def _masked(kind: Kind, found: Gathered) -> list[Ranked]:
    made = []
    for at, row in enumerate(found.leading()):
        hidden = {
            column.pk: row.cells[str(column.pk)]
            for column in found.others
            if str(column.pk) in row.cells and row.cells[str(column.pk)].why_not_code in SHOWS_NOTHING
        }
        if not hidden:
            continue
        first = next(iter(hidden.values()))
        code = first.why_not_code
        limits = next((one for one in found.shown.limits if one.test == row.test), None)
        found_masks = [one for pk in hidden if limits and (one := limits.masked.get(str(pk))) is not None]
        masks, hidden_by = {one.words for one in found_masks}, [one.by for one in found_masks]
        acts = [advice(words) for words in sorted(masks)] or [advice(say(note("act_uncap")))]
        made.append(
            drawn_up(
                kind,
                found,
                Draft(
                    key=f"{_REASONS[code]}-{row.test}",
                    sentence=note(
                        "finding_blind",
                        name=found.name(row),
                        labels=[found.columns[pk].label for pk in hidden],
                        held=first.held_fps if code == "held_at" else None,
                        by=hidden_by[0] if hidden_by else "",
                    ),
                    use=Use.BLIND,
                    columns=list(hidden),
                    about=[row],
                    order=at,
                    sure="open",
                    verdict=_REASONS[code],
                    compares=False,
                    margin=False,
                    heads=["configuration", "why it shows nothing"],
                    lines=[[found.columns[pk].label, cell.why_not] for pk, cell in hidden.items()],
                    acts=acts,
                ),
            )
        )
    return made


def _holes(kind: Kind, found: Gathered) -> list[Ranked]:
    """Cells without any kept pass, where their test has been begun."""
    lacking: dict[tuple[int, int], int] = {}
    said: list[list[str]] = []
    cells: list[CellRef] = []
    for line in found.shown.progress:
        if line.test in found.choice.without or not any(_kept(cell.pips) for cell in line.cells.values()):
            continue
        metric = next((row.metric for row in found.leading() if row.test == line.test), "")
        for column in found.buildable:
            cell = line.cells.get(str(column.pk))
            if cell is not None and _kept(cell.pips):
                continue
            failed = [pip for pip in cell.pips if pip.state == "failed"] if cell else []
            if not failed:
                lacking[line.test, column.pk] = found.review.passes_per_test
            words = failed[-1].words if failed else cell.said if cell and cell.said else "not run"
            said.append([found.names[line.test], column.label, words])
            cells.append(CellRef(line.test, column.pk, metric))
    if not said:
        return []
    return [
        drawn_up(
            kind,
            found,
            Draft(
                key="holes",
                sentence=note(
                    "finding_holes", count=len(said), tests=len({one[0] for one in said}),
                    failed=len(said) - len(lacking),
                ),
                use=Use.BLIND,
                columns=[one.column for one in cells],
                order=90,
                sure="open",
                verdict="missing",
                compares=False,
                margin=False,
                cells=cells,
                heads=["test", "configuration", "why"],
                lines=said,
                acts=owing(found, lacking),
            ),
        )
    ]  # fmt: skip


def _kept(pips: list) -> bool:  # type: ignore[type-arg]
    return any(pip.state in ("kept", "flagged") for pip in pips)


def _missing(kind: Kind, found: Gathered) -> list[Ranked]:
    """Corners that a grid of the declared factors lacks."""
    corners = corners_of(found, found.factors)
    base = found.baseline
    if corners is None or base is None:
        return []
    missing = [corner for corner, column in corners.items() if column is None]
    if not missing or len(missing) > len(corners) // 2:
        return []
    second = [_second(found, at, corners) for at in range(len(found.factors))]
    first = [found.factor_levels[base.pk][factor.key] for factor in found.factors]
    named = [
        ", ".join(
            f"{factor.name} {(second if on else first)[at]}"
            for at, (factor, on) in enumerate(zip(found.factors, corner, strict=True))
        )
        for corner in missing
    ]
    act = ActShape("brief", say(note("act_configuration", named=named)), 0, 0.0, [])
    return [
        drawn_up(
            kind,
            found,
            Draft(
                key="missing",
                sentence=note("finding_missing", named=named, factors=[factor.name for factor in found.factors]),
                use=Use.BLIND,
                columns=[column.pk for column in corners.values() if column is not None],
                order=95,
                sure="open",
                verdict="missing",
                compares=False,
                margin=False,
                heads=["configuration that is missing"],
                lines=[[one] for one in named],
                acts=[act],
            ),
        )
    ]


def _second(found: Gathered, at: int, corners: Mapping[tuple[int, ...], object]) -> str:
    key = found.factors[at].key
    base = found.baseline
    assert base is not None
    first = found.factor_levels[base.pk][key]
    return next((own[key] for own in found.factor_levels.values() if own[key] != first), "")


KIND = Kind("blind", "cannot be told", "12", make, ("without",))
