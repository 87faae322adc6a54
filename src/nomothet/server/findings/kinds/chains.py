"""Chains: steps that are made on top of one another, over all tests and test by test (method 6)."""

import math
from collections.abc import Sequence
from itertools import pairwise

from nomothet.core.chain import ChainResult, chain, chain_over_tests
from nomothet.core.notes import note
from nomothet.server.findings.draft import Draft, drawn_up
from nomothet.server.findings.finding import Kind, Ranked, Use
from nomothet.server.findings.gathered import UNDECIDED, Gathered
from nomothet.server.findings.over_tests import cells_over_tests, left_out_words
from nomothet.server.findings.owing import advice
from nomothet.server.findings.rows import band_of, compares, counts, turn_of
from nomothet.server.matrix.row_shapes import RowShape
from nomothet.server.reviews.models import Column
from nomothet.words import say
from nomothet.words.findings import change_of, changes_of

# A chain has a beginning and two steps at least; one step is a comparison.
LEAST_COLUMNS = 3
# Names of machines and the like say nothing of what a step is.
_NOT_A_STEP = ("system",)


def make(kind: Kind, found: Gathered) -> list[Ranked]:
    """A finding over all tests, and one for each test that every step has been measured in."""
    columns = steps_of(found)
    if len(columns) < LEAST_COLUMNS:
        return []
    rows = [row for row in found.leading() if compares(row)]
    made = []
    tests = cells_over_tests(found, rows, columns)
    if len(rows) > 1:
        result, left_out = chain_over_tests(tests, [str(one.pk) for one in columns], found.review.margin)
        taken = [row for row in rows if str(row.test) not in left_out]
        if result is not None and len(taken) > 1:
            made.append(_of(kind, found, "all", columns, taken, result, left_out_words(found, left_out), 0))
    for at, row in enumerate(rows, 1):
        if all(counts(row, column) for column in columns):
            result = chain(
                [(str(one.pk), found.numbers(row, one.pk)) for one in columns], turn_of(row), found.review.margin
            )
            made.append(_of(kind, found, f"{row.test}", columns, [row], result, [], at))
    return made


def steps_of(found: Gathered) -> list[Column]:
    """The chain of a review: what was chosen, else the columns marked as steps, else a run of one-change columns."""
    if found.choice.columns:
        return [found.columns[pk] for pk in found.choice.columns]
    marked = [one for one in found.buildable if one.step is not None]
    if len(marked) >= LEAST_COLUMNS:
        return sorted(marked, key=lambda one: one.step or 0)
    return _run(found)


def changes(found: Gathered, before: Column, after: Column) -> dict[str, object]:
    """What a step changes: the outermost aspects with their new values."""
    a, b = found.aspects[before.pk], found.aspects[after.pk]
    differing = {key: b.get(key) for key in {*a, *b} if a.get(key) != b.get(key) and key not in _NOT_A_STEP}
    # An attribute of a part comes with the part.
    return {key: value for key, value in differing.items() if not any(key.startswith(f"{one}.") for one in differing)}


def _run(found: Gathered) -> list[Column]:
    """The longest run from the baseline in which each configuration changes one thing of the one before it.

    Levels of one factor alone are a sweep, and no chain.
    """
    base = found.baseline
    if base is None:
        return []
    order = [base, *found.others]
    one_change = {
        (a.pk, b.pk): next(iter(changed))
        for a in order
        for b in order
        if a.pk != b.pk and len(changed := changes(found, a, b)) == 1
    }
    best: list[Column] = [base]
    for at in range(len(order)):
        run = [base] if at == 0 else [base, order[at]] if (base.pk, order[at].pk) in one_change else []
        for column in order[1:]:
            if run and column not in run and (run[-1].pk, column.pk) in one_change:
                run = [*run, column]
        taken = [one_change[a.pk, b.pk] for a, b in pairwise(run)]
        if len(set(taken)) == len(taken) and len(run) > len(best):
            best = run
    return best


def _never_alone(found: Gathered, columns: Sequence[Column]) -> list[str]:
    """Steps that no configuration has taken by themselves from where the chain begins."""
    start = columns[0]
    alone = [changes(found, start, one) for one in found.buildable]
    return [after.label for before, after in pairwise(columns[1:]) if changes(found, before, after) not in alone]


def _of(
    kind: Kind,
    found: Gathered,
    key: str,
    columns: Sequence[Column],
    rows: Sequence[RowShape],
    result: ChainResult,
    left_out: list[str],
    at: int,
) -> Ranked:
    labels = [column.label for column in columns]
    steps = list(zip(columns, columns[1:], result.steps, strict=False))
    strongest = max(steps, key=lambda one: abs(math.log(one[2].step.ratio)))
    alone = _never_alone(found, columns)
    whole = result.end_to_end
    return drawn_up(
        kind,
        found,
        Draft(
            key=key,
            sentence=note(
                "finding_chain",
                start=labels[0],
                end=labels[-1],
                where=found.name(rows[0]) if key != "all" else "",
                tests=len(rows),
                ratio=whole.ratio,
                verdict=whole.verdict,
                before=strongest[0].label,
                after=strongest[1].label,
                step=strongest[2].step.ratio,
                step_verdict=strongest[2].step.verdict,
            ),
            use=Use.FACTOR,
            columns=[column.pk for column in columns],
            about=rows,
            size=abs(math.log(whole.ratio)) / math.log1p(found.review.margin),
            order=at,
            undecided=whole.verdict in UNDECIDED,
            told=change_of(whole.ratio),
            verdict=whole.verdict,
            left_out=left_out,
            bands=[
                *(band_of(f"{a.label} → {b.label}", one.step, b.pk) for a, b, one in steps),
                band_of(f"{labels[0]} → {labels[-1]}", whole, columns[-1].pk),
            ],
            heads=["step", "by itself", "interval", "verdict", "all so far"],
            lines=[
                [
                    f"{a.label} → {b.label}",
                    change_of(one.step.ratio),
                    changes_of(one.step.low, one.step.high),
                    one.step.verdict,
                    f"{change_of(one.running.ratio)}, {one.running.verdict}",
                ]
                for a, b, one in steps
            ],
            acts=[advice(say(note("act_alone", steps=alone, start=labels[0])))] if alone else [],
        ),
    )


KIND = Kind("chain", "chain of steps", "6", make, ("role", "without", "columns"))
