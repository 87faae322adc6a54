"""Sensors by name and unit (section 24), and the one table of units (section 18)."""

import unittest

import numpy as np

from nomothet.core.per_second import lane_of
from nomothet.core.sensors import misfit_of, possible_range, sensor_of
from nomothet.core.units import conversion, is_unit, unit_named


class Names(unittest.TestCase):
    def test_what_logs_call_their_columns(self) -> None:
        cases = [
            ("CPU Load", "%", "processor use"),
            ("CPUUsage", "%", "processor use"),
            ("cpu_temp", "°C", "temperature"),
            ("GPU Temp", "°F", "graphics temperature"),
            ("GPU Memory Used", "MB", "graphics memory used"),
            ("graphics memory used", "%", "graphics memory used"),
            ("RAM usage", "GB", "memory used"),
            ("Core Clock", "GHz", "clock"),
            ("package power", "mW", "power"),
            ("wall meter", "kW", "wall power"),
            ("busiest core", "%", "busiest core"),
            ("waiting for storage", "%", "waiting for storage"),
            ("major page faults", "1/s", "major page faults"),
            ("fan of the case", "rpm", "fan"),
            ("infant", "1/min", None),
            ("core 3", "%", None),
            ("memory clock", "MHz", None),
            ("battery", "%", None),
        ]
        for name, unit, expected in cases:
            with self.subTest(name=name, unit=unit):
                found = sensor_of(name, unit)
                self.assertEqual(found.key if found else None, expected)

    def test_a_unit_of_another_family_is_named(self) -> None:
        self.assertEqual(misfit_of("memory used", "°C"), None)
        self.assertEqual(misfit_of("memory used", "MHz"), "memory used")
        self.assertEqual(misfit_of("temperature", "MHz"), "temperature")
        self.assertEqual(misfit_of("power", "%"), "power")
        self.assertIsNone(misfit_of("room temperature", "K"))
        self.assertIsNone(misfit_of("something else", "V"))

    def test_what_can_be_is_told_in_the_unit_of_the_reading(self) -> None:
        self.assertEqual(possible_range("cpu temp", "°C"), (-20.0, 130.0))
        low, high = possible_range("cpu temp", "°F") or (0.0, 0.0)
        self.assertAlmostEqual(low, -4.0)
        self.assertAlmostEqual(high, 266.0)
        self.assertEqual(possible_range("graphics memory used", "%"), (-0.5, 100.5))
        self.assertIsNone(possible_range("anything", "furlongs"))


class Units(unittest.TestCase):
    def test_each_family_by_an_independent_figure(self) -> None:
        cases = [
            (1.0, "GB", "MB", 1024.0),
            (3.0 * 1024**3, "B", "GB", 3.0),
            (2048.0, "KB", "MB", 2.0),
            (2500.0, "MB/s", "GB/s", 2.5),
            (4.6, "GHz", "MHz", 4600.0),
            (212.0, "°F", "°C", 100.0),
            (300.0, "K", "°C", 26.85),
            (1.5, "kW", "W", 1500.0),
            (2.0, "Wh", "J", 7200.0),
            (1.0, "h", "min", 60.0),
            (250.0, "us", "ms", 0.25),
        ]
        for value, unit, wanted, expected in cases:
            with self.subTest(unit=unit, wanted=wanted):
                found = conversion(unit, wanted)
                assert found is not None
                self.assertAlmostEqual(found.of(value), expected)

    def test_families_never_mix(self) -> None:
        for unit, wanted in (("W", "GB"), ("°C", "%"), ("MB", "MB/s"), ("fps", "MHz")):
            self.assertIsNone(conversion(unit, wanted))

    def test_spellings(self) -> None:
        self.assertEqual([unit_named(one) for one in ("Celsius", "C", "pct", "RPM", "GBytes")],
                         ["°C", "°C", "%", "1/min", "GBytes"])  # fmt: skip
        self.assertEqual(unit_named("mW"), "mW")
        self.assertTrue(is_unit("°F"))
        self.assertFalse(is_unit("walks"))

    def test_readings_come_into_the_unit_of_their_quantity(self) -> None:
        for name, unit, value, wanted in (
            ("temperature", "K", 340.0, 66.85),
            ("temperature", "°F", 150.0, 65.5556),
            ("power", "kW", 0.065, 65.0),
            ("power", "mW", 15_000.0, 15.0),
            ("clock", "kHz", 4_600_000.0, 4600.0),
            ("memory used", "KB", 6 * 1024.0**2, 6.0),
            ("memory used", "B", 6 * 1024.0**3, 6.0),
        ):
            with self.subTest(unit=unit):
                lane = lane_of(name, unit, np.zeros(1), np.array([value]), None)
                assert lane is not None
                self.assertAlmostEqual(float(lane.values[0]), wanted, places=3)
