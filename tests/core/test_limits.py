"""What limits a run (section 12), each line of the table by a run that shows just that."""

import unittest
from collections.abc import Mapping

import numpy as np

from nomothet.core.frames import Floats
from nomothet.core.limits import called, limits_of, masked_by, mean_shares
from nomothet.core.per_second import Run
from nomothet.core.shortage import collapse_of, headroom_pct
from nomothet.core.sustained import Limits

N = 40


def flat(value: float) -> Floats:
    return np.full(N, value)


def run_of(
    sensors: Mapping[str, Floats],
    capacities: Mapping[str, float] | None = None,
    rate: Floats | None = None,
    hitch: Floats | None = None,
    even: float = 0.5,
) -> Run:
    frames = flat(60.0) if rate is None else rate
    hits = np.zeros(N, bool) if hitch is None else hitch.astype(bool)
    return Run(N, frames, hits, 1000 / frames, flat(even), sensors, capacities or {})


class TheTable(unittest.TestCase):
    def name(self, run: Run, **more: object) -> str:
        return limits_of(run, **more).called  # type: ignore[arg-type]

    def test_each_kind_by_its_own_evidence(self) -> None:
        idle = {"busiest core": flat(50), "processor use": flat(30), "graphics use": flat(70)}
        full = {"graphics memory used": 4.0, "memory used": 16.0}
        cases = {
            "graphics": {"graphics use": flat(97)},
            "one thread": {"busiest core": flat(95), "processor use": flat(40)},
            "all threads": {"busiest core": flat(99), "processor use": flat(95)},
            "storage": {"waiting for storage": flat(30)},
            "graphics memory": {"graphics memory used": flat(3.95), "graphics use": flat(40)},
            "memory capacity": {"memory used": flat(15.6), "major page faults": flat(250)},
            "nothing recorded": {},
        }
        for kind, sensors in cases.items():
            with self.subTest(kind):
                self.assertEqual(self.name(run_of({**idle, **sensors}, full)), kind)

    def test_full_memory_alone_is_no_shortage(self) -> None:
        quiet = run_of({"graphics memory used": flat(3.95), "graphics use": flat(97)}, {"graphics memory used": 4.0})
        self.assertEqual(self.name(quiet), "graphics")
        hitching = run_of(
            {"graphics memory used": flat(3.95), "graphics use": flat(97)}, {"graphics memory used": 4.0}, hitch=flat(1)
        )
        self.assertEqual(self.name(hitching), "graphics memory")
        unpaged = run_of({"memory used": flat(15.6), "major page faults": flat(20)}, {"memory used": 16.0})
        self.assertEqual(self.name(unpaged), "nothing recorded")

    def test_growing_swap_shows_a_shortage_too(self) -> None:
        sensors = {"memory used": flat(15.6), "swap used": np.linspace(0, 2, N)}
        self.assertEqual(self.name(run_of(sensors, {"memory used": 16.0})), "memory capacity")

    def test_the_first_match_names_and_the_others_are_told_as_well(self) -> None:
        sensors = {"graphics use": flat(98), "busiest core": flat(95), "processor use": flat(40)}
        report = limits_of(run_of(sensors))
        self.assertEqual(report.shares, {"graphics": 1.0})
        self.assertEqual(report.also, {"one thread": 1.0})

    def test_a_cap_is_a_held_rate_with_graphics_to_spare(self) -> None:
        free = run_of({"graphics use": flat(60)}, even=0.95)
        self.assertEqual(self.name(free, held_fps=60.0), "rate cap")
        self.assertEqual(self.name(free, declared_cap_fps=60.0), "rate cap")
        self.assertEqual(self.name(free, declared_cap_fps=90.0), "nothing recorded")
        self.assertEqual(self.name(run_of({"graphics use": flat(98)}, even=0.95), held_fps=60.0), "graphics")

    def test_heat_and_power_need_a_clock_under_its_burst(self) -> None:
        sensors = {"clock": flat(4100), "temperature": flat(94), "power": flat(30), "busiest core": flat(95)}
        run = run_of(sensors)
        self.assertEqual(self.name(run, burst_clock_mhz=4600.0, declared=Limits(temperature_c=95)), "heat")
        self.assertEqual(self.name(run, burst_clock_mhz=4600.0, declared=Limits(99, 30)), "power")
        self.assertEqual(self.name(run, burst_clock_mhz=4300.0, declared=Limits(temperature_c=95)), "nothing recorded")

    def test_half_or_more_names_the_run_and_less_is_mixed(self) -> None:
        graphics = np.where(np.arange(N) < 19, 97.0, 50.0)
        threads = np.where(np.arange(N) < 19, 10.0, np.where(np.arange(N) < 30, 95.0, 10.0))
        run = run_of({"graphics use": graphics, "busiest core": threads, "processor use": flat(20)})
        report = limits_of(run)
        self.assertEqual(report.called, "mixed")
        self.assertAlmostEqual(sum(report.shares.values()), 1.0)
        self.assertEqual(called({"graphics": 0.5, "heat": 0.5}), "heat")

    def test_missing_sensors_are_named_and_nan_is_missing(self) -> None:
        report = limits_of(run_of({"graphics use": flat(np.nan), "busiest core": flat(99), "processor use": flat(30)}))
        self.assertIn("graphics use", report.missing)
        self.assertNotIn("busiest core", report.missing)
        self.assertEqual(report.called, "one thread")

    def test_what_is_set_aside_or_cut_off_is_in_no_share(self) -> None:
        graphics = np.where(np.arange(N) < 20, 97.0, 40.0)
        kept = np.arange(N) >= 10
        report = limits_of(run_of({"graphics use": graphics}), from_s=0, to_s=20, kept=kept)
        self.assertEqual(report.shares, {"graphics": 1.0})
        self.assertEqual(report.seconds, ("",) * 10 + ("graphics",) * 10)

    def test_masked_where_both_are_at_graphics_or_cap(self) -> None:
        self.assertEqual(masked_by("graphics", "graphics"), "graphics")
        self.assertEqual(masked_by("rate cap", "graphics"), "rate cap")
        self.assertIsNone(masked_by("heat", "graphics"))
        self.assertIsNone(masked_by("mixed", "mixed"))

    def test_a_cell_is_the_mean_of_its_passes(self) -> None:
        shares = mean_shares([{"heat": 0.2, "graphics": 0.8}, {"heat": 0.6, "graphics": 0.4}])
        self.assertEqual(list(shares), ["graphics", "heat"])
        self.assertAlmostEqual(shares["heat"], 0.4)
        self.assertEqual(mean_shares([]), {})


class Collapse(unittest.TestCase):
    def test_the_moment_what_was_used_and_what_it_cost(self) -> None:
        used = np.concatenate([np.linspace(1, 3.5, 15), flat(4.0)[:25]])
        rate = np.concatenate([np.full(15, 60.0), np.full(25, 24.0)])
        run = run_of({"graphics memory used": used}, {"graphics memory used": 4.0}, rate=rate)
        found = collapse_of(run)
        assert found is not None
        self.assertEqual((found.quantity, found.at_s, found.used), ("graphics memory used", 15, 4.0))
        assert found.cost_pct is not None
        self.assertAlmostEqual(found.cost_pct, 60.0)

    def test_a_run_that_begins_full_cannot_tell_the_cost(self) -> None:
        run = run_of({"graphics memory used": flat(4.0), "graphics use": flat(30)}, {"graphics memory used": 4.0})
        found = collapse_of(run)
        assert found is not None
        self.assertIsNone(found.cost_pct)

    def test_enough_memory_never_collapses(self) -> None:
        self.assertIsNone(collapse_of(run_of({"memory used": flat(8.0)}, {"memory used": 16.0})))
        self.assertIsNone(collapse_of(run_of({"memory used": flat(8.0)})))

    def test_headroom(self) -> None:
        self.assertAlmostEqual(headroom_pct(7.2, 8.0), 10.0)


class Threads(unittest.TestCase):
    def test_between_80_and_90_percent_the_busiest_core_decides(self) -> None:
        busy = run_of({"busiest core": flat(95), "processor use": flat(85)})
        self.assertEqual(limits_of(busy).called, "all threads")
        easy = run_of({"busiest core": flat(88), "processor use": flat(85)})
        self.assertEqual(limits_of(easy).called, "nothing recorded")

    def test_one_busy_core_says_nothing_where_the_total_is_unknown(self) -> None:
        self.assertEqual(limits_of(run_of({"busiest core": flat(99)})).called, "nothing recorded")
