#!/usr/bin/env python3
"""How often the figures over several cells hold the truth they were drawn from, with 3 and with 5 passes a cell.

Every line prints a rate over seeded draws with what is wanted of it.
"""

import argparse
import math
from collections.abc import Callable, Iterator

import numpy as np

from nomothet.core.chain import chain, chain_over_tests
from nomothet.core.compare import compare_with_baseline
from nomothet.core.compare_placed import compare_placed
from nomothet.core.crossover import crossover
from nomothet.core.economy import frontier, work_per_watt
from nomothet.core.expectation import held_against
from nomothet.core.grid import grid
from nomothet.core.overall import TestCells, overall
from nomothet.core.pairwise import Pairwise
from nomothet.core.rounds import Placed
from nomothet.core.scaling import scaling
from nomothet.core.sweep import Level, sweep

SD = 0.01
Rng = np.random.Generator


def cell(rng: Rng, log: float, passes: int) -> list[float]:
    return list(100 * np.exp(log + rng.normal(0, SD, passes)))


def holds(found: Pairwise, log: float) -> bool:
    assert found.low is not None
    assert found.high is not None
    return math.log(found.low) <= log <= math.log(found.high)


def chains(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    steps = [0.0, 0.05, 0.05, 0.12]
    found = chain([(f"step {at}", cell(rng, log, passes)) for at, log in enumerate(steps)])
    truth = [steps[at + 1] - steps[at] for at in range(3)]
    # Šidák: all three together at 95 %.
    yield "chain: all steps held", all(holds(one.step, log) for one, log in zip(found.steps, truth, strict=True))
    yield "chain: level step called ahead", found.steps[1].step.verdict == "ahead"


def grids(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    logs = {(0, 0): 0.0, (1, 0): 0.04, (0, 1): -0.03, (1, 1): 0.04 - 0.03 - 0.09}
    found = grid(["door", "filter"], {levels: cell(rng, log, passes) for levels, log in logs.items()})
    truth = {("door",): 0.04 - 0.045, ("filter",): -0.03 - 0.045, ("door", "filter"): -0.09}
    yield "grid: all effects held", all(holds(found.effects[of], log) for of, log in truth.items())


def sweeps(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    logs = [0.0, 0.3, 0.48, 0.5, 0.505]
    found = sweep([Level(at, cell(rng, log, passes)) for at, log in enumerate(logs)])
    gains = [logs[at] - logs[at - 1] for at in range(1, 5)]
    held = [holds(one.gain.comparison, log) for one, log in zip(found.levels[1:], gains, strict=True) if one.gain]
    yield "sweep: all gains held", all(held)
    # Level 2 is 2.5 % under the best and so enough at a margin of 3 %; level 1 is not.
    yield "sweep: enough too low", isinstance(found.enough, int) and found.enough < 2


def crossings(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    sizes = {2.0**at: (cell(rng, 0, passes), cell(rng, 0.05 * (at - 2.5), passes)) for at in range(6)}
    found = crossover(sizes).crossings
    yield "crossover: crossing held", any(one.low is not None and one.low <= 2**2.5 <= (one.high or 0) for one in found)


def overalls(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    gains = [0.10, 0.02, -0.03, 0.05]
    tests = {
        f"test {at}": TestCells(
            {"base": cell(rng, 0, passes), "one": cell(rng, gain, passes), "same": cell(rng, 0, passes)}
        )
        for at, gain in enumerate(gains)
    }
    found = overall(tests, "base").configurations
    one, same = found["one"], found["same"]
    assert one is not None
    assert same is not None
    yield "overall: both held", holds(one.compared, sum(gains) / 4) and holds(same.compared, 0.0)
    yield "overall: level called ahead", same.compared.verdict == "ahead"


def chains_over_tests(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    """Three tests that gain differently at each of two steps."""
    gains = {"a": (0.0, 0.0, 0.0), "b": (0.05, 0.02, -0.01), "c": (0.06, 0.05, 0.01)}
    tests = {
        f"test {at}": TestCells({name: cell(rng, own[at], passes) for name, own in gains.items()}) for at in range(3)
    }
    found, _ = chain_over_tests(tests, list(gains))
    assert found is not None
    means = {name: sum(own) / 3 for name, own in gains.items()}
    truth = [means["b"] - means["a"], means["c"] - means["b"]]
    yield "chain over tests: both held", all(holds(one.step, log) for one, log in zip(found.steps, truth, strict=True))


def economies(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    """Rates and watts with noise of their own; the truth of their ratio is known."""

    def work(rate: float, watts: float) -> list[float]:
        pairs = zip(cell(rng, rate, passes), cell(rng, watts, passes), strict=True)
        return [one for a, b in pairs if (one := work_per_watt(a, b)) is not None]

    found = compare_with_baseline({"base": work(0.0, 0.0), "one": work(-0.05, -0.3), "same": work(0.1, 0.1)}, "base")
    truth = {"one": 0.25, "same": 0.0}
    held = [
        one.low is not None and math.log(one.low) <= truth[name] <= math.log(one.high or 0)
        for name, one in found.items()
    ]
    yield "economy: both held", all(held)
    yield "economy: level called ahead", found["same"].verdict == "ahead"


def expectations(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    """One that is 4 % ahead, and one that is level, held against the opposite."""
    cells = {"base": cell(rng, 0, passes), "ahead": cell(rng, math.log(1.04), passes), "level": cell(rng, 0, passes)}
    found = compare_with_baseline(cells, "base")
    ahead, level = found["ahead"], found["level"]
    yield "expected level, 4 % ahead: held", held_against("level", ahead.low, ahead.high, 0.03) == "held"
    yield "expected ahead, level: held", held_against("ahead", level.low, level.high, 0.03) == "held"
    yield "expected ahead, 4 % ahead: not held", held_against("ahead", ahead.low, ahead.high, 0.03) == "not held"


def scalings(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    points = {
        n: cell(rng, math.log(n / (1 + 0.03 * (n - 1) + 0.0005 * n * (n - 1))), passes) for n in (1, 2, 4, 8, 16, 32)
    }
    law = scaling(points).universal
    assert law is not None
    yield "scaling: peak within 10 %", law.peak is not None and abs(law.peak / math.sqrt(0.97 / 0.0005) - 1) < 0.1


def frontiers(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    found = frontier(
        {"a": (90.0, cell(rng, 0, passes)), "b": (90.0, cell(rng, 0, passes)), "c": (80.0, cell(rng, 0, passes))}
    )
    yield "frontier: one of equals taken off", bool(found.beaten_by)


def rounds(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    """Four cells measured in rounds under a drift of 0.3 % a pass."""
    cells = {
        name: [Placed(100 * math.exp(0.003 * (4 * at + place) + rng.normal(0, SD)), at) for at in range(passes)]
        for place, name in enumerate("abcd")
    }
    found = compare_placed(cells, "a")
    truth = {name: 0.003 * place for place, name in enumerate("abcd") if place}
    yield (
        "rounds: all held",
        all(
            one.comparison.low is not None
            and math.log(one.comparison.low) <= truth[name] <= math.log(one.comparison.high or 0)
            for name, one in found.items()
        ),
    )


def sessions(rng: Rng, passes: int) -> Iterator[tuple[str, bool]]:
    """Half of the variance lies between sessions: four of them against one, with equal truth."""

    def measured(count: int) -> list[Placed]:
        shared = rng.normal(0, SD / math.sqrt(2), count)
        return [
            Placed(100 * math.exp(shared[at] + rng.normal(0, SD / math.sqrt(2))), session=at)
            for at in range(count)
            for _ in range(passes)
        ]

    for count, label in ((1, "sessions: one each, held"), (4, "sessions: four each, held")):
        one = compare_placed({"a": measured(count), "b": measured(count)}, "a")["b"].comparison
        yield label, one.low is not None and one.low <= 1 <= (one.high or 0)


WANTED = {
    "chain: all steps held": "94 to 96 %",
    "chain: level step called ahead": "at most 2.5 %",
    "grid: all effects held": "94 to 96 %",
    "sweep: all gains held": "94 to 96 %",
    "sweep: enough too low": "at most 5 %",
    "crossover: crossing held": "94 to 97 %",
    "overall: both held": "94 to 97 %",
    "overall: level called ahead": "at most 2.5 %",
    "chain over tests: both held": "94 to 97 %",
    "economy: both held": "94 to 97 %",
    "economy: level called ahead": "at most 2.5 %",
    "expected level, 4 % ahead: held": "at most 2.5 %",
    "expected ahead, level: held": "at most 2.5 %",
    "expected ahead, 4 % ahead: not held": "at most 2.5 %",
    "scaling: peak within 10 %": "",
    "frontier: one of equals taken off": "at most 5 %",
    "rounds: all held": "94 to 97 %; with 3 passes there are no rounds",
    "sessions: one each, held": "known to be too few",
    "sessions: four each, held": "94 to 96 %",
}
KINDS: tuple[Callable[[Rng, int], Iterator[tuple[str, bool]]], ...] = (
    chains, grids, sweeps, crossings, overalls, chains_over_tests, economies, expectations, scalings, frontiers,
    rounds, sessions,
)  # fmt: skip


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--runs", type=int, default=2000)
    runs = parser.parse_args().runs
    for passes in (3, 5):
        print(f"{passes} passes a cell, {runs} draws, noise {100 * SD:g} %")
        for kind in KINDS:
            rng = np.random.default_rng(passes)
            counts: dict[str, int] = {}
            for _ in range(runs):
                for label, true in kind(rng, passes):
                    counts[label] = counts.get(label, 0) + true
            for label, count in counts.items():
                print(f"  {label:36} {100 * count / runs:6.2f} %   wanted: {WANTED[label]}")


if __name__ == "__main__":
    main()
