"""Targets: which configurations meet all of them, and what the others miss (method 19)."""

from nomothet.core.notes import note
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import Gathered, Sure
from nomothet.server.ladders.queries import ladders
from nomothet.words.economy import euro


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """One finding over all targets of the review, and one for each ladder."""
    rows = [row for row in found.rows if any(row.targets.values())]
    columns = found.buildable
    if not rows or not columns:
        return []
    codes = {one.pk: [told.code for row in rows for told in row.targets.get(str(one.pk), [])] for one in columns}
    meeting = [one for one in columns if codes[one.pk] and set(codes[one.pk]) == {"met"}]
    meets = [one.label for one in meeting]
    misses = [
        (one.label, sum(code in ("missed", "average only") for code in codes[one.pk]), len(codes[one.pk]))
        for one in columns
        if {"missed", "average only"} & set(codes[one.pk])
    ]
    untold = [
        one.label for one in columns if one.label not in meets and not any(label == one.label for label, *_ in misses)
    ]
    priced = [(price, one) for one in meeting if (price := found.prices[one.pk].total) is not None]
    cheapest = min(priced, key=lambda pair: pair[0])[1].label if len(priced) > 1 else ""
    sure: Sure = "open" if len(untold) == len(columns) else "undecided" if untold else "decided"
    lines = [
        [found.name(row), *("; ".join(told.words for told in row.targets.get(str(one.pk), [])) for one in columns)]
        for row in rows
    ]
    if any(found.prices[one.pk].total is not None for one in columns):
        totals = [found.prices[one.pk].total for one in columns]
        lines.append(["price", *("" if total is None else euro(total) for total in totals)])
    whole = drawn_up(
        kind,
        found,
        Draft(
            key="",
            sentence=note("finding_targets", meets=meets, misses=misses, untold=untold, cheapest=cheapest),
            use=Use.SINGLE,
            columns=[one.pk for one in columns],
            about=rows,
            order=99,
            sure=sure,
            told=f"{len(meets)} of {len(columns)}",
            verdict="met",
            enough=[one.pk for one in meeting],
            compares=False,
            margin=False,
            heads=["test and metric", *(one.label for one in columns)],
            lines=lines,
        ),
    )
    return [whole, *_recommended(kind, found)]


def _recommended(kind: Kind, found: Gathered) -> list[Ranked]:
    """Of ladders, the most demanding settings that still meet the targets."""
    made = []
    for at, ladder in enumerate(ladders(found.review, found.shown)):
        cells = {int(column): cell for column, cell in ladder.cells.items() if int(column) in found.columns}
        told = {pk: cell for pk, cell in cells.items() if any(rung.word for rung in cell.rungs)}
        if not told:
            continue
        best = [(found.columns[pk].label, cell.best_name) for pk, cell in told.items() if cell.best is not None]
        about = [row for row in found.leading() if row.test in ladder.tests]
        made.append(
            drawn_up(
                kind,
                found,
                Draft(
                    key=f"ladder-{ladder.id}",
                    sentence=note("finding_ladder", name=ladder.name, best=best, of=len(told)),
                    use=Use.SINGLE,
                    columns=list(told),
                    about=about,
                    order=100 + at,
                    sure="decided" if best else "open",
                    told="; ".join(f"{label}: {name}" for label, name in best),
                    verdict="recommended" if best else "",
                    compares=False,
                    margin=False,
                    tests=ladder.tests,
                    heads=["configuration", *ladder.names],
                    lines=[
                        [found.columns[pk].label, *(rung.word or "not tried" for rung in cell.rungs)]
                        for pk, cell in told.items()
                    ],
                ),
            )
        )
    return made


KIND = Kind("targets", "targets", "19", make, ("without", "basis"))
