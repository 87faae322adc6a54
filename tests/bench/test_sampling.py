"""Sampling: a steady clock, what is missing left out, and every sample on disk as it comes."""

import json
import math
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
import psutil

from nomothet.bench.sampling import Flows, Sampler, SystemSensors, read_samples


class Sensors(unittest.TestCase):
    def test_every_sensor_has_a_value_unit_place_and_source(self) -> None:
        sensors = SystemSensors()
        values = sensors.read()
        self.assertEqual(len(values), len(sensors.sensors))
        for sensor in sensors.sensors:
            self.assertTrue(sensor.unit and sensor.place and sensor.source, sensor)

    def test_one_lane_for_each_core_and_the_busiest(self) -> None:
        names = [sensor.name for sensor in SystemSensors().sensors]
        self.assertEqual(sum(name.startswith("core ") for name in names), psutil.cpu_count())
        with mock.patch("psutil.cpu_percent", return_value=[10.0] * ((len(names) and psutil.cpu_count()) or 1)):
            sensors = SystemSensors()
            values = dict(zip([s.name for s in sensors.sensors], sensors.read(), strict=True))
        self.assertEqual((values["busiest core"], values["processor use"]), (10.0, 10.0))

    def test_what_the_system_does_not_tell_is_left_out_and_named(self) -> None:
        with (
            mock.patch("psutil.cpu_freq", return_value=None),
            mock.patch("psutil.sensors_temperatures", return_value={}),
            mock.patch("psutil.swap_memory", return_value=mock.Mock(total=0, used=0)),
        ):
            sensors = SystemSensors()
            names = [sensor.name for sensor in sensors.sensors]
        self.assertEqual(sensors.missing, ["clock", "temperature", "swap (there is none)"])
        self.assertFalse({"clock", "swap used"} & set(names))

    def test_temperatures_are_told_by_their_place(self) -> None:
        reading = {"chip": [mock.Mock(label="package", current=61.5), mock.Mock(label="", current=40.0)]}
        with mock.patch("psutil.sensors_temperatures", return_value=reading):
            sensors = SystemSensors()
            values = dict(zip([s.name for s in sensors.sensors], sensors.read(), strict=True))
        self.assertEqual((values["temperature chip package"], values["temperature chip"]), (61.5, 40.0))

    def test_a_core_that_went_away_is_not_a_number_rather_than_zero(self) -> None:
        with mock.patch("psutil.cpu_percent", return_value=[5.0]), mock.patch("psutil.cpu_count", return_value=2):
            sensors = SystemSensors()
            values = dict(zip([s.name for s in sensors.sensors], sensors.read(), strict=True))
        self.assertEqual(values["core 0"], 5.0)
        self.assertTrue(math.isnan(values["core 1"]))

    def test_a_counter_that_begins_anew_gives_no_rate(self) -> None:
        sent = iter([5_000_000, 9_000_000, 1_000_000])
        now = iter([10.0, 12.0, 14.0])

        def counted(**_: object) -> dict[str, mock.Mock]:
            return {"lo": mock.Mock(bytes_recv=0, bytes_sent=0), "e": mock.Mock(bytes_recv=0, bytes_sent=next(sent))}

        with (
            mock.patch("psutil.net_io_counters", counted),
            mock.patch("psutil.disk_io_counters", return_value=None),
            mock.patch("nomothet.bench.sampling.time.monotonic", side_effect=now),
        ):
            flows = Flows()
            at = [sensor.name for sensor in flows.sensors].index("network sent")
            self.assertAlmostEqual(flows.read()[at], 2.0)
            self.assertTrue(math.isnan(flows.read()[at]))


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
