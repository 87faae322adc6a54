"""Load ladders: how much each configuration held, cold and hot, and what runs out first (method 8)."""

from collections import defaultdict
from dataclasses import dataclass

from nomothet.core.notes import note
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered
from nomothet.server.findings.shapes import ExtentMark, ExtentRow, ExtentsShape, FindingAxis
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Column
from nomothet.server.searches.queries import SearchShape, pass_search
from nomothet.server.workloads.models import Kind as WorkloadKind


@dataclass(frozen=True)
class _Searched:
    """The searches of a configuration."""

    column: Column
    searches: list[SearchShape]

    @property
    def held(self) -> int:
        """The highest load that every search held."""
        return min((one.cold.held or 0) for one in self.searches)

    @property
    def hot(self) -> list[SearchShape]:
        return [one for one in self.searches if one.hot is not None]


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding for each test that is a search."""
    tests = [test for test in found.tests.values() if test.workload.kind == WorkloadKind.LOAD_SEARCH]
    tests = [test for test in tests if test.pk not in found.choice.without]
    if not tests:
        return []
    passes = (
        Pass.objects.kept()
        .filter(test__in=tests)
        .exclude(attempts=[])
        .select_related("test__workload")
        .order_by("number")
    )
    by_cell: dict[tuple[int, int], list[SearchShape]] = defaultdict(list)
    for owner in passes:
        if owner.column_id in found.columns:
            by_cell[owner.test_id, owner.column_id].append(pass_search(owner))
    made = []
    for at, test in enumerate(tests):
        searched = [
            _Searched(column, by_cell[test.pk, pk]) for pk, column in found.columns.items() if by_cell[test.pk, pk]
        ]
        if searched:
            made.append(_of(kind, found, test.pk, searched, at))
    return made


def _of(kind: Kind, found: Gathered, test: int, searched: list[_Searched], at: int) -> Ranked:
    unit = searched[0].searches[0].unit
    best = max(searched, key=lambda one: one.held)
    worst = min(searched, key=lambda one: one.held)
    losses = [hot.loss_pct for one in searched for hot in one.hot if hot.loss_pct is not None]
    unstable = [one.column.label for one in searched if any(search.unstable for search in one.searches)]
    first = next((search.fits[0] for one in searched for search in one.searches if search.fits), None)
    ready = all(search.done for one in searched for search in one.searches)
    return drawn_up(
        kind,
        found,
        Draft(
            key=f"{test}",
            sentence=note(
                "finding_load",
                test=found.names[test],
                unit=unit,
                best=best.column.label,
                held=best.held,
                worst="" if worst is best or worst.held == best.held else worst.column.label,
                worst_held=worst.held,
                loss_pct=max(losses) if losses else None,
                unstable=unstable,
                runs_out=first.name if first else "",
            ),
            use=Use.FACTOR,
            columns=[one.column.pk for one in searched],
            about=[row for row in found.rows if row.test == test],
            size=1.0,
            order=at,
            undecided=not ready or any(len(one.searches) < 2 for one in searched),
            told=f"{best.held} {unit}".strip(),
            verdict="held",
            margin=False,
            extents=_extents(searched, unit),
            heads=["configuration", "cold", "hot", "lost to heat", "unstable", "runs out first"],
            lines=[line for one in searched for line in _lines(one)],
        ),
    )


def _extents(searched: list[_Searched], unit: str) -> ExtentsShape:
    rows = []
    for one in searched:
        for search in one.searches:
            marks = [] if search.cold.broken is None else [ExtentMark(search.cold.broken, "broke")]
            if search.hot is not None and search.hot.held is not None:
                marks.append(ExtentMark(search.hot.held, "held hot", open=False))
            held = search.cold.held
            rows.append(
                ExtentRow(one.column.pk, one.column.label, held, None, None, f"held {search.cold.words}", marks)
            )
    return ExtentsShape(
        FindingAxis("load held", unit, zero=True),
        rows,
        [],
        "Bars: the load held, from 0, one for each search. Hollow: the lowest load that broke; filled: held hot.",
    )


def _lines(one: _Searched) -> list[list[str]]:
    return [
        [
            one.column.label,
            search.cold.words,
            search.hot.words if search.hot else "not looked at",
            "" if search.loss_pct is None else f"{search.loss_pct:.0f} %",
            "" if not search.unstable else f"{search.unstable[0]} to {search.unstable[1]}",
            search.fits[0].name if search.fits else "not known",
        ]
        for search in one.searches
    ]


KIND = Kind("load", "load ladder", "8", make, ("without",))
