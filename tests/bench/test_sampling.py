"""Sampling: a steady clock, what is missing left out, and every sample on disk as it comes."""

import json
import tempfile
import time
import unittest
from pathlib import Path

import numpy as np

from nomothet.bench.sampling import Sampler, read_samples
from nomothet.bench.system_sensors import SystemSensors


class Sampling(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "samples.jsonl"

    def sample(self, wanted: int) -> Sampler:
        sampler = Sampler([SystemSensors()], self.path, time.monotonic(), 50)
        sampler.start()
        deadline = time.monotonic() + 20
        while sampler.samples < wanted and time.monotonic() < deadline:
            time.sleep(0.01)
        sampler.stop()
        return sampler

    def test_samples_rise_in_time_and_none_is_lost(self) -> None:
        sampler = self.sample(20)
        series = read_samples(self.path)
        t = series[0].columns["t_s"].astype(float)
        self.assertEqual(len(t), sampler.samples)
        self.assertTrue(np.all(np.diff(t) > 0))
        self.assertTrue(all(len(one.columns["value"]) == len(t) for one in series))
        self.assertGreater(sampler.cost_s, 0)

    def test_a_sample_is_on_disk_before_the_next(self) -> None:
        sampler = Sampler([SystemSensors()], self.path, time.monotonic(), 50)
        sampler.start()
        while sampler.samples < 3:
            time.sleep(0.01)
        lines = self.path.read_text().splitlines()
        sampler.stop()
        self.assertGreaterEqual(len(lines), 3)
        self.assertIn("sensors", json.loads(lines[0]))

    def test_the_latest_readings_are_there_to_be_told(self) -> None:
        sampler = self.sample(2)
        self.assertIn("memory used", sampler.latest)

    def test_a_sensor_without_any_reading_is_no_series(self) -> None:
        sensors = [{"name": n, "unit": "%", "place": n, "source": "x", "capacity": None} for n in ("a", "b")]
        self.path.write_text(json.dumps({"sensors": sensors}) + "\n[0.0, 1, null]\n[0.5, 2, null]\n")
        self.assertEqual([one.name for one in read_samples(self.path)], ["a"])

    def test_a_header_alone_is_no_series(self) -> None:
        self.path.write_text(json.dumps({"sensors": []}) + "\n")
        self.assertEqual(read_samples(self.path), [])
