"""Temperatures of Linux, on trees of files as drivers make them."""

import math
import tempfile
import unittest
from pathlib import Path

from nomothet.bench.linux_temperatures import Temperatures


class OnATree(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.devices = Path(folder.name)

    def write(self, path: str, text: str) -> Path:
        file = self.devices / "class" / path
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(f"{text}\n")
        return file

    def read(self) -> dict[str, float]:
        found = Temperatures(self.devices)
        return dict(zip(found.places, found.read(), strict=True))

    def test_by_chip_and_label(self) -> None:
        self.write("hwmon/hwmon0/name", "chip")
        self.write("hwmon/hwmon0/temp1_input", "61500")
        self.write("hwmon/hwmon0/temp1_label", "package")
        self.write("hwmon/hwmon0/temp2_input", "40000")
        self.assertEqual(self.read(), {"chip package": 61.5, "chip": 40.0})

    def test_two_alike_have_names_of_their_own(self) -> None:
        for at in range(2):
            self.write(f"hwmon/hwmon{at}/name", "drive")
            self.write(f"hwmon/hwmon{at}/temp1_input", f"{30 + at}000")
        self.assertEqual(self.read(), {"drive": 30.0, "drive 2": 31.0})

    def test_a_folder_further_down(self) -> None:
        self.write("hwmon/hwmon0/name", "board")
        self.write("hwmon/hwmon0/device/temp1_input", "35000")
        self.assertEqual(self.read(), {"board": 35.0})

    def test_zones_where_there_is_no_chip(self) -> None:
        self.write("thermal/thermal_zone0/type", "skin")
        self.write("thermal/thermal_zone0/temp", "29000")
        self.assertEqual(self.read(), {"skin": 29.0})
        self.write("hwmon/hwmon0/name", "chip")
        self.write("hwmon/hwmon0/temp1_input", "50000")
        self.assertEqual(self.read(), {"chip": 50.0})

    def test_what_cannot_be_read_is_left_out_and_later_no_number(self) -> None:
        self.write("hwmon/hwmon0/name", "radio")
        self.write("hwmon/hwmon0/temp1_input", "")
        held = self.write("hwmon/hwmon0/temp2_input", "44000")
        found = Temperatures(self.devices)
        self.assertEqual(found.places, ["radio"])
        held.write_text("")
        self.assertTrue(math.isnan(found.read()[0]))

    def test_a_system_without_any(self) -> None:
        self.assertEqual(self.read(), {})
