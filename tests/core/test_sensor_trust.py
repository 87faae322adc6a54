"""Whether a sensor can be believed (section 24)."""

import unittest

import numpy as np

from nomothet.core.sensor_trust import sensor_doubts
from nomothet.words import says

RNG = np.random.default_rng(8)


class Doubts(unittest.TestCase):
    def test_a_sensor_that_moves_within_what_can_be_is_trusted(self) -> None:
        self.assertEqual(says(sensor_doubts(RNG.normal(60, 1, 200), "°C")), [])
        self.assertEqual(says(sensor_doubts(RNG.uniform(0, 100, 200), "%")), [])
        self.assertEqual(says(sensor_doubts(RNG.normal(0, 1e9, 50), "unheard of")), [])

    def test_a_standstill_is_told_of_what_never_stands_still(self) -> None:
        self.assertEqual(says(sensor_doubts(np.full(80, 35.0), "W")), ["stands still at 35 W"])
        self.assertEqual(says(sensor_doubts(np.full(80, 4600.0), "MHz")), [])
        self.assertEqual(says(sensor_doubts(np.full(10, 35.0), "W")), [])

    def test_what_cannot_be_is_counted_with_its_worst(self) -> None:
        self.assertEqual(says(sensor_doubts(np.array([50.0, 255.0, 300.0]), "°C")), ["2 values cannot be: 300 °C"])

    def test_gaps_are_told_from_a_twentieth_on(self) -> None:
        values = RNG.normal(60, 1, 100)
        values[:4] = np.nan
        self.assertEqual(says(sensor_doubts(values, "°C")), [])
        values[:20] = np.nan
        self.assertEqual(says(sensor_doubts(values, "°C")), ["20 % of its readings are missing"])
        self.assertEqual(says(sensor_doubts(np.full(9, np.nan), "°C")), ["no reading at all"])
        self.assertEqual(says(sensor_doubts(np.array([]), "°C")), [])
