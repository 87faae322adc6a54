"""The simulated system: what is known of its physics shows in what it records."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

import httpx
import numpy as np

from nomothet.bench.errors import BenchError
from nomothet.bench.job import Control, Job, PassResult
from nomothet.bench.simulated.conditions import Conditions
from nomothet.bench.simulated.faults import FlakyTransport, read_fault
from nomothet.bench.simulated.machine import SimulatedMachine
from nomothet.bench.simulated.model import Simulation
from nomothet.bench.simulated.parameters import Parameters, read_parameters
from nomothet.bench.simulated.work import Scene
from nomothet.core.compare import compare_with_baseline
from nomothet.core.frames import frame_figures

DEMO = Path(__file__).resolve().parents[2] / "demo"
WREN = read_parameters(DEMO / "simulated" / "wren.toml")


def run(limit_w: float, workload: str = "reef-walk", number: int = 2, parameters: Parameters = WREN) -> PassResult:
    metrics = [{"key": "render_s", "unit": "s", "direction": "lower", "scale": "ratio"}]
    job = Job(
        1,
        number,
        workload,
        "1",
        "simulated",
        metrics,
        {"resolution": "1080p"},
        "c",
        {"power_limit_w": limit_w, "graphics_memory_gb": 4},
    )
    return SimulatedMachine(parameters, speed=0).run(job, Path("."), Control(lambda *told: None))


def lane(result: PassResult, name: str) -> np.ndarray[Any, Any]:
    return next(c for c in result.captures if c.name == name).columns["value"].astype(float)


def frames(result: PassResult) -> np.ndarray[Any, Any]:
    return next(c for c in result.captures if c.kind == "frames").columns["frame_ms"].astype(float)


class Physics(unittest.TestCase):
    def test_power_settles_at_the_limit(self) -> None:
        for limit in (20.0, 25.0):
            self.assertAlmostEqual(float(np.median(lane(run(limit), "power"))), limit, delta=0.3)

    def test_a_limit_under_the_firmwares_lowest_is_not_taken_and_that_is_observed(self) -> None:
        result = run(15.0)
        self.assertAlmostEqual(float(np.median(lane(result, "power"))), 18.0, delta=0.3)
        self.assertEqual(result.environment["observed"]["power_limit_w"], 18.0)
        self.assertEqual(result.environment["settings"]["power_limit_w"], 15.0)

    def test_temperature_settles_where_two_thermal_resistances_put_it(self) -> None:
        parameters = replace(WREN, heat=replace(WREN.heat, limit_c=1000.0))
        result = run(20.0, "kiln", parameters=parameters)
        heat = WREN.heat
        expected = heat.ambient_c + 20.0 * (heat.die_to_sink + heat.sink_to_air)
        self.assertAlmostEqual(float(lane(result, "temperature")[-40:].mean()), expected, delta=1.5)

    def test_heat_lowers_the_clock_and_brings_hitches(self) -> None:
        hot, cool = run(35.0, "dome-atlas"), run(28.0, "dome-atlas")
        self.assertGreaterEqual(float(lane(hot, "temperature").max()), WREN.heat.limit_c)
        self.assertLess(float(lane(cool, "temperature").max()), WREN.heat.limit_c)
        self.assertGreater(frame_figures(frames(hot)).hitches, 2 * frame_figures(frames(cool)).hitches)

    def test_frames_take_as_long_as_the_slower_part(self) -> None:
        demand = WREN.demands["reef-walk"]
        quiet = replace(WREN.noise, run_sd=0.0, frame_sd=0.0)
        calm = replace(demand, scene_swing=0.0, hitches_per_min=0.0, hot_hitches_per_min=0.0, duration_s=2.0)
        for megapixels in (0.1, 2.07):
            conditions = Conditions(megapixels=megapixels, threads=8, memory_gb=12)
            work = Scene(WREN.chip, quiet, calm, conditions, np.random.default_rng(1))
            recording = Simulation(WREN.chip, WREN.heat, calm, conditions, work).run()
            expected = max(demand.processor_ms, demand.graphics_ms + demand.graphics_ms_per_mpx * megapixels)
            np.testing.assert_allclose(recording.frame_ms, expected)

    def test_all_frames_together_last_as_long_as_the_run(self) -> None:
        self.assertAlmostEqual(frames(run(28.0)).sum() / 1000, 60.0, delta=0.3)

    def test_a_timed_task_ends_when_its_work_is_done(self) -> None:
        slow, fast = run(20.0, "kiln"), run(35.0, "kiln")
        self.assertEqual(fast.figures[0].metric, "render_s")
        self.assertAlmostEqual(fast.figures[0].value, fast.duration_s, delta=0.1)
        self.assertGreater(slow.duration_s, fast.duration_s)


class Analysis(unittest.TestCase):
    def test_a_known_gap_is_found_by_the_comparison(self) -> None:
        # Nothing holds this run back but its work, so 5 % more work must show as 5 % less speed.
        free = replace(WREN.chip, processor_w=1.0, graphics_w=1.0)
        calm = replace(WREN, chip=free, events=[])
        demand = calm.demands["reef-walk"]
        heavier = replace(
            demand,
            processor_ms=demand.processor_ms * 1.05,
            graphics_ms=demand.graphics_ms * 1.05,
            graphics_ms_per_mpx=demand.graphics_ms_per_mpx * 1.05,
        )
        burdened = replace(calm, demands={"reef-walk": heavier}, seed=5)

        def rates(parameters: Parameters) -> list[float]:
            passes = (run(100.0, number=number, parameters=parameters) for number in range(1, 6))
            return [frame_figures(frames(one)).average_fps for one in passes]

        found = compare_with_baseline({"A": rates(calm), "B": rates(burdened)}, "A")["B"]
        assert found.low is not None
        assert found.high is not None
        self.assertLess(found.low, 1 / 1.05)
        self.assertGreater(found.high, 1 / 1.05)
        self.assertAlmostEqual(found.noise.sd, WREN.noise.run_sd, delta=0.004)


class Seeds(unittest.TestCase):
    def test_the_same_pass_is_the_same_to_the_last_bit(self) -> None:
        np.testing.assert_array_equal(frames(run(28.0)), frames(run(28.0)))

    def test_other_passes_and_configurations_differ(self) -> None:
        self.assertFalse(np.array_equal(frames(run(28.0))[:100], frames(run(28.0, number=3))[:100]))


class Faults(unittest.TestCase):
    def test_an_event_on_purpose_has_its_outcome_and_note(self) -> None:
        event = WREN.events[1]
        job = Job(1, event.number, event.workload, "1", "simulated", [], {}, event.configuration, {})
        result = SimulatedMachine(WREN, speed=0).run(job, Path("."), Control(lambda *told: None))
        self.assertEqual((result.outcome, result.note, result.captures), ("did_not_start", event.note, []))

    def test_a_workload_that_it_does_not_know_is_refused(self) -> None:
        self.assertEqual(run(28.0, "unheard-of").outcome, "refused")

    def test_a_stopped_pass_keeps_what_was_recorded_until_then(self) -> None:
        control = Control(lambda phase, elapsed, left, readings: elapsed > 5 and control.stop_wanted.set())
        job = Job(1, 2, "reef-walk", "1", "simulated", [], {}, "c", {"power_limit_w": 28})
        result = SimulatedMachine(WREN, speed=100).run(job, Path("."), control)
        self.assertEqual(result.outcome, "stopped")
        self.assertAlmostEqual(frames(result).sum() / 1000, result.duration_s, delta=0.2)
        self.assertLess(result.duration_s, 60)


class ParameterFiles(unittest.TestCase):
    def check(self, text: str, words: str) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "x.toml"
            path.write_text(text)
            with self.assertRaisesRegex(BenchError, words):
                read_parameters(path)

    def test_mistakes_name_file_section_and_field(self) -> None:
        self.check("[chip]\ncoars = 3\n", r"x\.toml, \[chip\]: coars is not known")
        self.check("[chip]\ncores = 3\n", r"\[chip\].*missing")
        self.check("[chip\n", "x.toml")


class Asked(unittest.TestCase):
    """Faults that are asked for, in data or on the command line."""

    def with_fault(self, *texts: str) -> Parameters:
        return replace(WREN, events=[read_fault(text) for text in texts])

    def test_a_crash_at_a_second_keeps_what_was_recorded_until_then(self) -> None:
        result = run(28.0, parameters=self.with_fault("crashed@40"))
        self.assertEqual((result.outcome, result.duration_s), ("crashed", 40.0))
        self.assertAlmostEqual(frames(result).sum() / 1000, 40.0, delta=0.3)
        self.assertLess(float(result.captures[-1].columns["t_s"][-1]), 40.0)

    def test_visual_faults_come_with_the_temperature_and_not_below_it(self) -> None:
        hot = run(35.0, "dome-atlas", parameters=self.with_fault("visual_faults:92"))
        self.assertEqual(hot.outcome, "visual_faults")
        self.assertIn("from 92 °C", hot.note)
        self.assertEqual(run(18.0, "dome-atlas", parameters=self.with_fault("visual_faults:92")).outcome, "completed")

    def test_a_stuck_sensor_stands_still_and_the_others_move(self) -> None:
        result = run(28.0, parameters=self.with_fault("stuck:temperature"))
        self.assertEqual(float(np.ptp(lane(result, "temperature"))), 0.0)
        self.assertGreater(float(np.ptp(lane(result, "power"))), 0.0)

    def test_drift_makes_each_pass_slower_by_its_share(self) -> None:
        calm = replace(WREN, noise=replace(WREN.noise, run_sd=0.0, frame_sd=0.0))
        calm = replace(calm, events=[read_fault("drift:0.01")])
        rates = [frame_figures(frames(run(28.0, number=number, parameters=calm))).average_fps for number in (1, 11)]
        self.assertAlmostEqual(rates[0] / rates[1], 1.01**10, delta=0.01)

    def test_a_lost_memory_profile_is_observed_and_costs_speed(self) -> None:
        lost = run(28.0, parameters=self.with_fault("profile:2800"))
        self.assertEqual(lost.environment["observed"]["memory_mts"], 2800.0)
        whole = run(28.0, parameters=replace(WREN, events=[]))
        self.assertLess(frame_figures(frames(lost)).average_fps, 0.8 * frame_figures(frames(whole)).average_fps)

    def test_a_limit_that_the_firmware_keeps(self) -> None:
        result = run(35.0, parameters=self.with_fault("limit:20"))
        self.assertEqual(result.environment["observed"]["power_limit_w"], 20.0)
        self.assertAlmostEqual(float(np.median(lane(result, "power"))), 20.0, delta=0.3)

    def test_what_is_no_fault_is_refused_with_what_would_do(self) -> None:
        for text in ("flood", "crashed@soon", "drift:", "stuckness"):
            with self.subTest(text=text), self.assertRaisesRegex(BenchError, "try crashed@40"):
                read_fault(text)

    def test_a_flaky_network_is_lost_for_its_seconds_of_each_minute(self) -> None:
        now = 0.0
        transport = FlakyTransport(20, clock=lambda: now)
        request = httpx.Request("GET", "http://127.0.0.1:1/")
        for now, lost in ((50.0, True), (119.0, True)):
            with self.subTest(now=now), self.assertRaisesRegex(httpx.ConnectError, "on purpose" if lost else "refused"):
                transport.handle_request(request)
        now = 70.0
        with self.assertRaisesRegex(httpx.ConnectError, "(?i)refused"):
            transport.handle_request(request)


class Memory(unittest.TestCase):
    """What is not there shows where the model says."""

    def run_with(self, reserve: float, resolution: str) -> PassResult:
        configured = {"power_limit_w": 28, "graphics_memory_gb": reserve}
        job = Job(1, 2, "dome-atlas", "1", "simulated", [], {"resolution": resolution}, "c", configured)
        return SimulatedMachine(WREN, speed=0).run(job, Path("."), Control(lambda *told: None))

    def test_frames_collapse_where_graphics_memory_runs_out(self) -> None:
        rates = {
            (reserve, resolution): frame_figures(frames(self.run_with(reserve, resolution))).average_fps
            for reserve in (2.0, 4.0)
            for resolution in ("1080p", "4K")
        }
        demand = WREN.demands["dome-atlas"]
        wanted = demand.graphics_memory_gb + demand.graphics_memory_gb_per_mpx * 8.29
        self.assertTrue(2.0 < wanted < 4.0)
        self.assertLess(rates[2.0, "4K"], 0.5 * rates[4.0, "4K"])
        self.assertAlmostEqual(rates[2.0, "1080p"] / rates[4.0, "1080p"], 1.0, delta=0.03)

    def test_too_large_a_reserve_takes_the_programs_own_memory(self) -> None:
        result = self.run_with(8.0, "1080p")
        self.assertGreater(float(lane(result, "swap used").max()), 0)
        self.assertLess(
            frame_figures(frames(result)).average_fps,
            0.7 * frame_figures(frames(self.run_with(4.0, "1080p"))).average_fps,
        )

    def test_a_program_that_wants_far_too_much_does_not_start(self) -> None:
        plover = read_parameters(DEMO / "simulated" / "plover.toml")
        job = Job(1, 1, "reef-walk", "1", "simulated", [], {}, "c", {"graphics_memory_gb": 1})
        result = SimulatedMachine(plover, speed=0).run(job, Path("."), Control(lambda *told: None))
        self.assertEqual(result.outcome, "did_not_start")
        self.assertIn("wants 6.2 GB of 3 GB", result.note)


class Soaking(unittest.TestCase):
    def test_its_phases_are_told_as_far_as_it_came(self) -> None:
        heron = replace(read_parameters(DEMO / "simulated" / "heron.toml"), events=[])
        short = replace(heron.demands["lamp-test"], duration_s=100.0)
        for fault, phases in ((None, ["idle", "burst", "sustained", "recovery"]), ("crashed@10", ["idle", "burst"])):
            events = [read_fault(fault)] if fault else []
            machine = SimulatedMachine(replace(heron, demands={"lamp-test": short}, events=events), speed=0)
            job = Job(1, 1, "lamp-test", "1", "simulated", [], {}, "c", {"power_limit_w": 65})
            result = machine.run(job, Path("."), Control(lambda *told: None))
            self.assertEqual([one["label"] for one in result.phases], phases)
            self.assertAlmostEqual(result.phases[-1]["end_s"], result.duration_s, delta=0.2)


class Cabinet(unittest.TestCase):
    """Door and filter cost little each and a lot together: their heat adds up to over the limit."""

    def rate(self, **surroundings: str) -> float:
        heron = read_parameters(DEMO / "simulated" / "heron.toml")
        calm = replace(heron, noise=replace(heron.noise, run_sd=0.0, odd_share=0.0))
        configured = {"power_limit_w": 65, "fan_profile": "standard", **surroundings}
        settings = {"scene": "open reef", "resolution": "4K"}
        job = Job(1, 1, "reef-walk", "1", "simulated", [], settings, "c", configured)
        result = SimulatedMachine(calm, speed=0).run(job, Path("."), Control(lambda *told: None))
        return frame_figures(frames(result)).average_fps

    def test_the_interaction_is_in_the_model(self) -> None:
        bare = self.rate(door="open bench", dust_filter="none")
        door = self.rate(door="closed", dust_filter="none") / bare
        dust = self.rate(door="open bench", dust_filter="in") / bare
        both = self.rate(door="closed", dust_filter="in") / bare
        self.assertGreater(min(door, dust), 0.98)
        self.assertLess(both, door * dust - 0.01)
