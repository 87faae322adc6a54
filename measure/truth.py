#!/usr/bin/env python3
"""How often the analysis finds the truth of simulated runs: what limits them, throttling, memory, noise, odd passes.

Every line prints a hit rate over seeded runs with what is wanted of it.
"""

import argparse
import sys
from collections import Counter
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from nomothet.bench.simulated.truth import deepest_throttle, first_short_s, first_throttled_s, right_kinds
from nomothet.core.compare import compare_with_baseline
from nomothet.core.noise import pooled_noise
from nomothet.core.passes import flags
from nomothet.core.shortage import collapse_of
from tests.bench import truth_cases

RUN_SD = 0.006
ODD_LOSS = 0.042


def limits(runs: int) -> None:
    right = total = 0
    wrong: Counter[tuple[str, str]] = Counter()
    for seed in range(runs):
        case = truth_cases.any_case(seed)
        truth = right_kinds(case.recording, case.conditions.limit_w)
        for said, true in zip(case.limits().seconds, truth, strict=False):
            right += said in true
            total += 1
            if said not in true:
                wrong[said, "/".join(sorted(true))] += 1
    say("what limits: seconds right", right, total, "at least 95 %")
    for (said, true), count in wrong.most_common(4):
        print(f"    said {said!r}, true {true!r}: {count}")


def onset(runs: int, by: str) -> None:
    """Runs are drawn until so many of them throttle by 4 % or more, ten seconds before the end at the latest."""
    found = near = cause = 0
    seed = 0
    away = []
    while found < runs:
        case = truth_cases.hot_case(seed) if by == "heat" else truth_cases.boosted_case(seed)
        seed += 1
        true = first_throttled_s(case.recording, by)
        if true is None or deepest_throttle(case.recording) < 0.04 or true > case.recording.length_s - 10:
            continue
        found += 1
        said = case.sustained()
        cause += said.cause == ("temperature" if by == "heat" else by)
        if said.first_drop_s is not None:
            # Seconds are told by their beginning.
            away.append(said.first_drop_s - true)
            near += -3 <= said.first_drop_s - true <= 2
    say(f"throttling by {by}: onset within 2 s", near, found, "at least 95 %")
    say(f"throttling by {by}: cause right", cause, found, "")
    print(f"    seconds away: median {np.median(away):+.1f}, worst {max(away, key=abs):+.1f}")


def steady(runs: int) -> None:
    """Runs are drawn until there are so many in which nothing ever held the clock."""
    seed = found = false = 0
    while found < runs:
        case = truth_cases.steady_case(seed)
        seed += 1
        if set(case.recording.held_by) != {""}:
            continue
        found += 1
        false += case.sustained().cause in ("temperature", "power", "memory")
    say("steady runs called throttled", false, runs, "under 2 %")


def shortage(runs: int) -> None:
    near = 0
    for seed in range(runs):
        case = truth_cases.short_case(seed)
        said, true = collapse_of(case.run), first_short_s(case.recording, graphics=True)
        near += said is not None and true is not None and abs(said.at_s - true) <= 2
    say("graphics memory runs out: moment within 2 s", near, runs, "at least 95 %")


def odd_passes(cells: int) -> None:
    """Tests of four configurations with five passes; in every second test one pass is 4.2 % slower."""
    rng = np.random.default_rng(77)
    hits = planted = alarms = clean = 0
    noises = []
    for at in range(cells):
        test = [list(rng.uniform(30, 120) * np.exp(rng.normal(0, RUN_SD, 5))) for _ in range(4)]
        odd = int(rng.integers(0, 5)) if at % 2 else -1
        noises.append(pooled_noise(test).sd)
        if odd >= 0:
            test[0][odd] *= 1 - ODD_LOSS
        for place, own in enumerate(test):
            found = flags(own, others=[other for other in test if other is not own]).odd
            if place == 0 and odd >= 0:
                planted += 1
                hits += odd in found
                continue
            alarms += len(found)
            clean += len(own)
    say("odd passes found (7 × the noise)", hits, planted, "")
    say("passes of pure noise called odd", alarms, clean, "under 1 %")
    print(f"noise recovered: {100 * np.sqrt(np.mean(np.square(noises))):.3f} % of {100 * RUN_SD:.3f} %")


def comparisons(count: int) -> None:
    for n in (3, 5):
        rng = np.random.default_rng([5, n])
        covered = ahead = wrong = 0
        for _ in range(count):
            true = rng.uniform(-0.1, 0.1)
            cells = {"A": np.exp(rng.normal(0, 0.01, n)), "B": np.exp(true + rng.normal(0, 0.01, n))}
            found = compare_with_baseline(cells, "A")["B"]
            assert found.low is not None
            assert found.high is not None
            wrong += found.verdict == "ahead" and true < np.log(1.03)
            covered += bool(np.log(found.low) <= true <= np.log(found.high))
        for _ in range(10 * count):
            # The worst truth there is: better by the margin exactly, and not by more.
            cells = {"A": np.exp(rng.normal(0, 0.01, n)), "B": np.exp(np.log(1.03) + rng.normal(0, 0.01, n))}
            ahead += compare_with_baseline(cells, "A")["B"].verdict == "ahead"
        say(f"{n} passes: intervals that cover the truth", covered, count, "94 to 96 %")
        say(f'{n} passes: "ahead" where it is not', wrong, count, "at most 2.5 %")
        say(
            f'{n} passes: "ahead" at the margin, the worst case',
            ahead,
            10 * count,
            "at most 2.5 %, give or take chance",
        )


def say(what: str, hits: int, of: int, wanted: str) -> None:
    print(f"{what:<46} {hits:6} of {of:6} = {100 * hits / max(1, of):6.2f} %   {wanted}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--runs", type=int, default=240)
    runs = parser.parse_args().runs
    limits(runs)
    onset(runs, "heat")
    onset(runs, "power")
    steady(runs)
    shortage(runs)
    odd_passes(5 * runs)
    comparisons(2000)


if __name__ == "__main__":
    main()
