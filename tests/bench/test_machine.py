"""The real bench on the machine at hand, with short runs of the shipped workloads."""

import json
import math
import os
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np

from nomothet.bench import runners
from nomothet.bench.errors import BenchError
from nomothet.bench.job import Control, Job, PassResult
from nomothet.bench.machine import RealMachine
from nomothet.bench.runners import command_for
from nomothet.bench.sampling import read_samples
from nomothet.bench.tally import Tally
from nomothet.bench.workloads import parcel
from nomothet.bench.workloads.lantern_room import Room


def job(runner: str, settings: dict[str, Any], configured: dict[str, Any] | None = None, **more: Any) -> Job:
    return Job(1, 1, runner, "1", runner, more.get("metrics", []), settings, "here", configured or {})


SCORES = [
    {"key": "one_thread", "unit": "MB/s", "direction": "higher", "scale": "ratio"},
    {"key": "all_threads", "unit": "MB/s", "direction": "higher", "scale": "ratio"},
]


class MachineTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.told: list[tuple[str, float | None, dict[str, float | None]]] = []
        self.control = Control(lambda phase, elapsed, left, readings: self.told.append((phase, left, readings)))

    def run_job(self, one: Job, machine: RealMachine | None = None) -> PassResult:
        (self.folder / "job.json").write_text(json.dumps(one.as_dict()))
        return (machine or RealMachine(rate_hz=20)).run(one, self.folder, self.control)

    def run_script(self, script: str, machine: RealMachine | None = None) -> PassResult:
        """Run a workload that is a line of Python."""
        command = ["python3", "-c", script]
        with mock.patch("nomothet.bench.command_plan.command_for", return_value=command):
            return self.run_job(job("script", {}), machine)


class Readings(MachineTest):
    def test_the_idle_machine_is_read_in_plain_numbers(self) -> None:
        machine = RealMachine()
        # Use is told as soon as the system has counted time since the machine was first read.
        readings = next(read for read in iter(machine.readings, None) if "processor use" in read)
        self.assertGreater(readings["memory used"], 0)
        self.assertTrue(0 <= readings["processor use"] <= 100)
        self.assertTrue(all(math.isfinite(value) for value in readings.values()))
        self.assertFalse([name for name in readings if name.startswith("core ")])

    def test_the_hottest_place_is_the_temperature_and_a_failed_reading_is_left_out(self) -> None:
        sensors = mock.Mock()
        sensors.sensors = [mock.Mock(), mock.Mock(), mock.Mock()]
        for sensor, name in zip(sensors.sensors, ("temperature die", "temperature drive", "clock"), strict=True):
            sensor.name = name
        sensors.read.return_value = [61.0, 38.0, math.nan]
        with mock.patch("nomothet.bench.machine.SystemSensors", return_value=sensors):
            readings = RealMachine().readings()
        self.assertEqual(readings["temperature"], 61.0)
        self.assertNotIn("clock", readings)


class ShippedWorkloads(MachineTest):
    def test_the_scene_draws_times_each_frame_and_is_sampled(self) -> None:
        result = self.run_job(job("lantern-room", {"size": "160x90", "detail": 1, "seconds": 1}))
        self.assertEqual(result.outcome, "completed", result.note)
        captures = {captured.name: captured for captured in result.captures}
        frames = captures["frames"].columns["frame_ms"].astype(float)
        # However long a machine stalls: it draws until the asked time is over, and the frame under way is the last.
        self.assertGreater(frames.sum(), 999)
        self.assertLess(frames[:-1].sum(), 1001)
        use = captures["processor use"]
        self.assertTrue(np.all(np.diff(use.columns["t_s"].astype(float)) > 0))
        # The first sample may come before the system has counted any time.
        self.assertLessEqual(float(np.nanmax(use.columns["value"].astype(float))), 100)
        self.assertIn("core 0", captures)
        self.assertGreater(captures["memory used"].capacity or 0, 0)
        self.assertGreater(captures["frames"].starts_at_s, 0)
        self.assertIn("frame rate", self.told[-1][2])

    def test_the_suite_reports_its_two_scores(self) -> None:
        result = self.run_job(job("parcel", {"seconds": 1}, metrics=SCORES))
        self.assertEqual(result.outcome, "completed", result.note)
        self.assertEqual([figure.metric for figure in result.figures], ["one_thread", "all_threads"])
        self.assertTrue(all(figure.value > 0 for figure in result.figures))

    def test_one_thread_binds_the_workload_to_one_processor(self) -> None:
        one = job("script", {}, {"threads": 1})
        command = ["python3", "-c", "import os; print('figure n', len(os.sched_getaffinity(0)))"]
        metrics = [{"key": "n", "unit": "1", "direction": "higher", "scale": "ratio"}]
        with mock.patch("nomothet.bench.command_plan.command_for", return_value=command):
            result = self.run_job(Job(**{**one.as_dict(), "metrics": metrics}))
        self.assertEqual(result.figures[0].value, 1)
        self.assertEqual(result.environment["observed"], {"threads": 1})

    def test_the_recorders_own_cost_is_on_record(self) -> None:
        result = self.run_script("import time; time.sleep(0.5)")
        self.assertGreater(result.environment["recorder"]["samples"], 0)
        self.assertGreater(result.environment["recorder"]["processor_s"], 0)


class Outcomes(MachineTest):
    def test_a_crash_after_a_line_is_a_crash(self) -> None:
        result = self.run_script("print('frame 10', flush=True); raise SystemExit('out of lamps')")
        self.assertEqual(result.outcome, "crashed")
        self.assertIn("out of lamps", result.note)

    def test_an_end_by_a_signal_is_named(self) -> None:
        result = self.run_script("import os; print('frame 10', flush=True); os.kill(os.getpid(), 11)")
        self.assertEqual(result.outcome, "crashed")
        self.assertIn("SIGSEGV", result.note)

    def test_an_error_before_any_line_is_a_failed_start(self) -> None:
        self.assertEqual(self.run_script("raise SystemExit(3)").outcome, "did_not_start")

    def test_silence_is_a_hang_and_the_process_is_ended(self) -> None:
        result = self.run_script("import time; print('frame 10', flush=True); time.sleep(600)", RealMachine(20, 0.5))
        self.assertEqual(result.outcome, "hung")

    def test_a_wish_to_stop_is_followed_and_what_was_recorded_is_kept(self) -> None:
        script = "import time\nfor _ in range(10**4): print('frame 10', flush=True); time.sleep(0.01)"

        def stop_once_drawing(_phase: str, _at: float, _left: float | None, readings: dict[str, float | None]) -> None:
            if "frame rate" in readings:
                self.control.stop_wanted.set()

        self.control = Control(stop_once_drawing)
        result = self.run_script(script)
        self.assertEqual((result.outcome, result.owe_again), ("stopped", False))
        self.assertEqual(result.captures[0].name, "frames")

    def test_an_interrupted_bench_owes_the_pass_again(self) -> None:
        self.control.interrupted.set()
        result = self.run_script("import time; time.sleep(60)")
        self.assertEqual((result.outcome, result.owe_again), ("stopped", True))

    def test_what_cannot_be_had_is_refused_with_its_reason(self) -> None:
        for one in (
            job("lantern-room", {"size": "9x9"}),
            job("lantern-room", {}, {"threads": 10_000}),
            job("lantern-room", {}, {"threads": "many"}),
            job("unheard-of", {}),
        ):
            result = self.run_job(one)
            self.assertEqual(result.outcome, "refused")
            self.assertTrue(result.note)

    def test_a_killed_bench_leaves_what_was_recorded(self) -> None:
        (self.folder / "job.json").write_text("{}")
        (self.folder / "output.log").write_text("phase drawing\nframe 10.5\nframe 11\nfra")
        sensors = [{"name": "core 0", "unit": "%", "place": "core 0", "source": "x", "capacity": 100}]
        lines = [json.dumps({"sensors": sensors}), "[0.0, 5]", "[0.25, 7]", "[0.5, "]
        (self.folder / "samples.jsonl").write_text("\n".join(lines))
        result = RealMachine().recover(job("lantern-room", {}), self.folder)
        self.assertEqual((result.outcome, result.owe_again, result.duration_s), ("crashed", True, 0.25))
        self.assertEqual(result.captures[0].columns["frame_ms"].tolist(), [10.5, 11.0])
        self.assertEqual(result.captures[1].columns["value"].tolist(), [5.0, 7.0])


class Commands(unittest.TestCase):
    def test_settings_never_reach_a_shell_and_unknown_values_are_refused(self) -> None:
        for settings in ({"size": "160x90; rm -rf /"}, {"detail": "3 && x"}, {"seconds": True}, {"detail": 99}):
            with self.subTest(settings=settings), self.assertRaises(BenchError):
                command_for("lantern-room", settings)

    def test_every_runner_has_a_command_of_plain_words(self) -> None:
        for name in runners._RUNNERS:
            self.assertTrue(all(isinstance(word, str) for word in command_for(name, {})))


class Workloads(unittest.TestCase):
    def test_the_scene_draws_the_same_picture_on_any_number_of_threads(self) -> None:
        pictures = [Room(64, 36, 2, bands).draw(12) for bands in (1, 2, 5)]
        for picture in pictures[1:]:
            np.testing.assert_array_equal(picture, pictures[0])
        self.assertGreater(float(pictures[0].std()), 0.01)

    def test_pictures_move(self) -> None:
        room = Room(64, 36, 2, 1)
        self.assertGreater(float(np.abs(room.draw(0) - room.draw(30)).max()), 0.05)

    def test_more_detail_is_more_work_in_the_picture(self) -> None:
        self.assertFalse(np.array_equal(Room(64, 36, 1, 1).draw(0), Room(64, 36, 4, 1).draw(0)))

    def test_ledgers_are_the_same_for_a_seed_and_can_be_packed(self) -> None:
        data = parcel.ledger(20_000)
        self.assertEqual(data, parcel.ledger(20_000))
        self.assertEqual(len(data), 20_000)
        for pack, unpack in parcel._METHODS.values():
            self.assertEqual(unpack(pack(data)), data)
            self.assertLess(len(pack(data)), len(data))


class Lines(unittest.TestCase):
    def test_lines_that_are_not_ours_are_passed_over(self) -> None:
        tally = Tally()
        for line in ("frame", "frame x", "frame -1", "frame nan", "figure 3", "figure a b c", "hello", "", "phase"):
            self.assertFalse(tally.take(line), line)
        self.assertEqual((tally.frame_ms, tally.figures, tally.lines), ([], {}, 9))

    def test_a_figures_name_may_have_spaces(self) -> None:
        tally = Tally()
        tally.take("figure one_thread block sort 5.5\n")
        self.assertEqual(tally.figures, {"one_thread block sort": 5.5})

    def test_samples_of_nothing_are_no_series(self) -> None:
        self.assertEqual(read_samples(Path(os.devnull)), [])
