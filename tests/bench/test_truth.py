"""The known truth of simulated runs is recovered. `measure/truth.py` prints the hit rates over hundreds of runs."""

import unittest
from collections.abc import Callable

import numpy as np

from nomothet.bench.simulated.parameters import Noise
from nomothet.bench.simulated.truth import deepest_throttle, first_short_s, first_throttled_s, right_kinds
from nomothet.core.frames import frame_figures
from nomothet.core.noise import pooled_noise
from nomothet.core.overhead import recorder_overhead
from nomothet.core.shortage import collapse_of
from tests.bench import truth_cases

RUNS = 16


def throttled(make: Callable[[int], truth_cases.Case], by: str) -> list[tuple[truth_cases.Case, float]]:
    """Cases that truly throttle by 4 % or more, and well before their end; with the moment."""
    found = []
    for seed in range(500, 500 + 4 * RUNS):
        case = make(seed)
        at = first_throttled_s(case.recording, by)
        if at is not None and deepest_throttle(case.recording) >= 0.04 and at < case.recording.length_s - 10:
            found.append((case, at))
        if len(found) == RUNS:
            break
    return found


class Truth(unittest.TestCase):
    def test_what_limits_is_right_in_nearly_every_second(self) -> None:
        right = total = 0
        for seed in range(700, 700 + RUNS):
            case = truth_cases.any_case(seed)
            pairs = list(zip(case.limits().seconds, right_kinds(case.recording, case.conditions.limit_w), strict=False))
            right += sum(said in true for said, true in pairs)
            total += len(pairs)
        self.assertGreaterEqual(right / total, 0.95)

    def test_heat_and_power_are_found_when_they_begin(self) -> None:
        for make, by, cause in (
            (truth_cases.hot_case, "heat", "temperature"),
            (truth_cases.boosted_case, "power", "power"),
        ):
            cases = throttled(make, by)
            self.assertGreater(len(cases), RUNS // 2)
            near = 0
            for case, at in cases:
                said = case.sustained()
                near += said.cause == cause and said.first_drop_s is not None and -3 <= said.first_drop_s - at <= 2
            self.assertGreaterEqual(near / len(cases), 0.93)

    def test_a_steady_run_is_not_called_throttled(self) -> None:
        for seed in range(900, 900 + RUNS):
            case = truth_cases.steady_case(seed)
            if set(case.recording.held_by) == {""}:
                self.assertIn(case.sustained().cause, (None, "unknown"))

    def test_the_moment_at_which_graphics_memory_runs_out(self) -> None:
        near = 0
        for seed in range(RUNS):
            case = truth_cases.short_case(seed)
            said, true = collapse_of(case.run), first_short_s(case.recording, graphics=True)
            near += said is not None and true is not None and abs(said.at_s - true) <= 2
        self.assertGreaterEqual(near, RUNS - 1)

    def test_the_noise_and_what_recording_costs_come_back_out(self) -> None:
        parameters = truth_cases.read_parameters(truth_cases.SYSTEMS / "heron.toml")
        quiet = Noise(0.004, parameters.noise.frame_sd, 0.0, 0.0, recorder_cost=0.02)
        rates: dict[bool, list[float]] = {True: [], False: []}
        for number in range(12):
            for recording in (False, True):
                rates[recording].append(truth_cases.noisy_rate(parameters, quiet, number, recording))
        spread = pooled_noise([rates[True], rates[False]]).sd
        self.assertTrue(0.0025 < spread < 0.0065, spread)
        factor = recorder_overhead({"rally": (rates[False], rates[True])}).tests["rally"]
        assert factor.low is not None
        assert factor.high is not None
        self.assertTrue(factor.low <= 1 / 1.02 <= factor.high, factor)
        self.assertLess(factor.high, 1.0)

    def test_frames_are_what_the_model_made(self) -> None:
        case = truth_cases.steady_case(3)
        figures = frame_figures(case.frames)
        slowest = np.median([max(use.processor_ms, use.graphics_ms) for use in case.recording.uses])
        self.assertAlmostEqual(figures.p50_ms, slowest, delta=0.05 * slowest)
