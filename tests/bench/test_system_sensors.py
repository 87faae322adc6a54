"""Sensors of the system: what is missing is left out, and rates are none where a counter began anew."""

import math
import unittest
from dataclasses import replace
from unittest import mock

from nomothet.bench.counters import CoreTimes, Counted, Counters, PsutilCounters
from nomothet.bench.system_sensors import SystemSensors

GIB = 1024**3
START = Counted(
    at_s=10.0, cores={0: CoreTimes(5.0, 100.0), 1: CoreTimes(7.0, 100.0)}, waited_s=1.0, memory=8 * GIB,
    available=6 * GIB, swap=GIB, swap_used=GIB // 2, read=0, written=0, received=0, sent=5_000_000, faults=40,
)  # fmt: skip


class Told(Counters):
    """Counters that tell what a test says, one after the other."""

    source = "test"

    def __init__(self, *moments: Counted, clock: float | None = 3000.0) -> None:
        self.moments = list(moments)
        self.clock = clock

    def count(self) -> Counted:
        if not self.moments:
            raise OSError("nothing to tell")
        return self.moments.pop(0)

    def clock_mhz(self) -> float | None:
        return self.clock


def sensors(told: Counters, heat: dict[str, float] | None = None) -> SystemSensors:
    temperatures = mock.Mock(places=list(heat or {}), source="test", read=lambda: list((heat or {}).values()))
    with (
        mock.patch("nomothet.bench.system_sensors.counters", return_value=told),
        mock.patch("nomothet.bench.system_sensors.Temperatures", return_value=temperatures),
    ):
        return SystemSensors()


def read(source: SystemSensors) -> dict[str, float]:
    return dict(zip([one.name for one in source.sensors], source.read(), strict=True))


class Sensors(unittest.TestCase):
    def test_every_sensor_of_this_machine_has_a_value_unit_place_and_source(self) -> None:
        source = SystemSensors()
        self.assertEqual(len(source.read()), len(source.sensors))
        for sensor in source.sensors:
            self.assertTrue(sensor.unit and sensor.place and sensor.source, sensor)

    def test_cores_are_told_one_by_one_together_and_by_the_busiest(self) -> None:
        # Of two seconds, core 0 worked half a second and core 1 one and a half.
        cores = {0: CoreTimes(5.5, 102.0), 1: CoreTimes(8.5, 102.0)}
        values = read(sensors(Told(START, replace(START, at_s=12.0, cores=cores))))
        told = [values[name] for name in ("core 0", "core 1", "processor use", "busiest core")]
        self.assertEqual(told, [25.0, 75.0, 50.0, 75.0])

    def test_memory_and_swap_are_told_in_gib(self) -> None:
        values = read(sensors(Told(START, replace(START, at_s=11.0, available=5 * GIB))))
        self.assertEqual([values[name] for name in ("memory used", "memory available", "swap used")], [3.0, 5.0, 0.5])

    def test_what_flows_is_told_for_each_second(self) -> None:
        later = replace(
            START, at_s=12.0, read=4_000_000, written=1_000_000, received=500_000, sent=9_000_000, faults=43,
            waited_s=2.0,
        )  # fmt: skip
        values = read(sensors(Told(START, later)))
        names = ("disk read", "disk written", "network received", "network sent", "major page faults")
        self.assertEqual([values[name] for name in names], [2.0, 0.5, 0.25, 2.0, 1.5])
        # A second of two cores' four.
        self.assertEqual(values["waiting for storage"], 25.0)

    def test_a_counter_that_begins_anew_gives_no_rate(self) -> None:
        anew = replace(START, at_s=14.0, sent=1_000_000, waited_s=0.0)
        values = read(sensors(Told(START, anew)))
        self.assertTrue(math.isnan(values["network sent"]))
        self.assertTrue(math.isnan(values["waiting for storage"]))
        self.assertEqual(values["disk read"], 0.0)

    def test_what_the_system_does_not_tell_is_left_out_and_named(self) -> None:
        little = replace(START, swap=0, swap_used=0, faults=None, waited_s=None)
        source = sensors(Told(little, replace(little, at_s=11.0), clock=None))
        self.assertEqual(source.missing, ["clock", "temperature", "swap (there is none)"])
        absent = {"clock", "swap used", "major page faults", "waiting for storage"}
        self.assertFalse(absent & {one.name for one in source.sensors})
        self.assertEqual(read(source)["network sent"], 0.0)

    def test_temperatures_are_told_by_their_place(self) -> None:
        values = read(sensors(Told(START, START), {"chip package": 61.5, "chip": 40.0}))
        self.assertEqual((values["temperature chip package"], values["temperature chip"]), (61.5, 40.0))

    def test_a_core_that_went_away_is_not_a_number_rather_than_zero(self) -> None:
        values = read(sensors(Told(START, replace(START, at_s=11.0, cores={0: CoreTimes(6.0, 101.0)}))))
        self.assertEqual((values["core 0"], values["processor use"]), (100.0, 100.0))
        self.assertTrue(math.isnan(values["core 1"]))

    def test_a_reading_that_fails_is_no_number_and_the_next_one_is(self) -> None:
        told = Told(START)
        source = sensors(told)
        self.assertTrue(all(math.isnan(value) for value in source.read()))
        told.moments.append(replace(START, at_s=12.0, sent=6_000_000))
        self.assertEqual(read(source)["network sent"], 0.5)

    def test_psutil_tells_the_same_names_where_a_system_has_nothing_of_its_own(self) -> None:
        source = sensors(PsutilCounters())
        own = {one.name for one in SystemSensors().sensors if not one.name.startswith("temperature ")}
        self.assertEqual(own - {one.name for one in source.sensors}, {"major page faults"})
        self.assertEqual(len(source.read()), len(source.sensors))

    def test_where_the_system_has_counted_no_time_there_is_no_use(self) -> None:
        values = read(sensors(Told(START, replace(START, at_s=10.001))))
        self.assertTrue(math.isnan(values["core 0"]) and math.isnan(values["processor use"]))
