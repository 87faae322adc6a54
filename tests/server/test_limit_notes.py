"""What is told of a cell in the Limits lens beside its name, and of records that left that to their page."""

import unittest
from dataclasses import asdict, replace

from nomothet.server.matrix.limits import (
    CollapseShape,
    DropShape,
    HeatShape,
    LimitsCell,
    MemoryUseShape,
    ShareShape,
    notes_of,
    told_of,
)
from nomothet.server.records.earlier import readable
from nomothet.words import says
from nomothet.words.limits import length_words, limit_words

CELL = LimitsCell("graphics", "limited by the graphics", [], [], [], 3, None, None, [], None, [], [])
DROP = DropShape(8.1, 36.0, "heat", "", 3, 3, None)
FULL = CollapseShape("memory used", 95.0, 8.0, 8.0, 34.0, 3, 3, "GB")
MEMORY = MemoryUseShape("memory used", 7.9, 7.8, 8.0, 1.2, True)


class Notes(unittest.TestCase):
    def told(self, **changes: object) -> list[str]:
        return says(notes_of(replace(CELL, **changes)))  # type: ignore[arg-type]

    def test_nothing_is_told_of_a_quiet_cell(self) -> None:
        self.assertEqual(self.told(), [])

    def test_a_drop_is_told_with_its_cause_and_not_where_none_is_known(self) -> None:
        self.assertEqual(self.told(drop=DROP), ["drops at 36 s by heat, 8 % lost"])
        self.assertEqual(self.told(drop=replace(DROP, drop_pct=0.4)), ["drops at 36 s by heat"])
        for cause in ("unknown", "memory", None):
            with self.subTest(cause=cause):
                self.assertEqual(self.told(drop=replace(DROP, cause=cause)), [])
        self.assertEqual(self.told(drop=replace(DROP, first_drop_s=None)), [])

    def test_memory_that_ran_out_is_told_once_with_its_cost(self) -> None:
        self.assertEqual(self.told(collapse=FULL, memory=[MEMORY]), ["main memory full after 2 min, 34 % slower"])
        self.assertEqual(self.told(collapse=replace(FULL, cost_pct=0.2)), ["main memory full after 2 min, at no loss"])
        self.assertEqual(self.told(collapse=replace(FULL, cost_pct=None)), ["main memory full after 2 min"])

    def test_little_room_is_told_under_fifteen_per_cent(self) -> None:
        for headroom, count in ((14.9, 1), (15.0, 0)):
            with self.subTest(headroom=headroom):
                self.assertEqual(len(self.told(memory=[replace(MEMORY, headroom_pct=headroom)])), count)

    def test_what_limits_as_well_is_told_from_half_of_the_seconds(self) -> None:
        for share, told in ((0.49, []), (0.5, ["also one thread"])):
            with self.subTest(share=share):
                self.assertEqual(self.told(also=[ShareShape("one thread", share, "")]), told)

    def test_the_conspicuous_comes_before_the_peak(self) -> None:
        told = self.told(drop=DROP, heat=HeatShape(91.2, 120.0, None))
        self.assertEqual(told, ["drops at 36 s by heat, 8 % lost", "peak 91.2 °C at 2 min"])

    def test_lengths_change_their_unit_as_on_the_screens(self) -> None:
        told = [length_words(seconds) for seconds in (89, 90, 5399, 5400)]
        self.assertEqual(told, ["89 s", "2 min", "90 min", "1 h 30 min"])

    def test_a_limit_without_a_name_is_told_as_it_is(self) -> None:
        self.assertEqual(limit_words("storage"), "waiting for storage")
        self.assertEqual(limit_words("unheard of"), "unheard of")


class Sentences(unittest.TestCase):
    """What the pane says of a cell's passes together."""

    def told(self, **changes: object) -> str:
        return " ".join(says(told_of(replace(CELL, **changes))))  # type: ignore[arg-type]

    def test_a_drop_with_its_cause_and_in_how_many_passes(self) -> None:
        found = self.told(drop=replace(DROP, evidence="the clock fell from 4600 to 3600 MHz at 95 °C", passes=2))
        self.assertEqual(
            found,
            "Sustained is 8.1 % under the burst; first drop after 36 s in 2 of 3 passes: heat, "
            "the clock fell from 4600 to 3600 MHz at 95 °C.",
        )

    def test_a_rate_that_rises_is_no_drop_unless_a_cause_is_known(self) -> None:
        rising = replace(DROP, drop_pct=-8.1, evidence="the clock did not fall")
        self.assertEqual(self.told(drop=replace(rising, cause="unknown")), "Sustained is 8.1 % over the burst.")
        self.assertIn("first drop after 36 s", self.told(drop=rising))

    def test_level_is_under_one_per_cent_either_way(self) -> None:
        for drop_pct in (-0.9, 0.0, 0.9):
            with self.subTest(drop_pct=drop_pct):
                level = replace(DROP, drop_pct=drop_pct, first_drop_s=None, cause=None)
                self.assertEqual(self.told(drop=level), "Sustained is level with the burst.")

    def test_the_clock_is_told_against_its_rating(self) -> None:
        steady = replace(DROP, first_drop_s=None, cause=None, clock_retention=0.87)
        self.assertTrue(self.told(drop=steady).endswith("The clock holds 87 % of its rated highest."))

    def test_memory_that_ran_out_and_what_it_cost(self) -> None:
        self.assertEqual(
            self.told(collapse=replace(FULL, passes=1, of=1)),
            "Main memory ran out after 2 min: 8.00 of 8.00 GB used; the frame rate fell by 34 %, in 1 of 1 pass.",
        )
        self.assertIn("did not fall", self.told(collapse=replace(FULL, cost_pct=-1.0)))

    def test_the_hottest_moment_against_the_limit_of_the_part(self) -> None:
        for margin, words in (
            (None, "after 2 min."),
            (3.8, "3.80 K under the part's limit."),
            (0.4, "at the part's limit."),
        ):
            with self.subTest(margin=margin):
                self.assertTrue(self.told(heat=HeatShape(91.2, 120.0, margin)).endswith(words))

    def test_memory_at_most_and_what_is_missing(self) -> None:
        said = self.told(memory=[MEMORY], missing=["clock", "power"])
        self.assertIn("Main memory: 7.90 of 8.00 GB at most, 1 % free; more may have been wanted.", said)
        self.assertIn("No sensor: clock, power.", said)


class Records(unittest.TestCase):
    def test_a_record_of_the_second_format_is_told_with_what_its_page_said(self) -> None:
        cell = {
            name: value
            for name, value in asdict(replace(CELL, drop=DROP)).items()
            if name not in ("notes", "sentences")
        }
        limits = [{"test": 1, "cells": {"2": cell}, "masked": {}}]
        stored = {"format": 2, "matrix": {"limits": limits, "rows": []}, "passes": []}
        (row,) = readable(stored)["matrix"]["limits"]
        self.assertEqual(row["cells"]["2"]["notes"], ["drops at 36 s by heat, 8 % lost"])
        self.assertIn("Sustained is 8.1 % under the burst", row["cells"]["2"]["sentences"][0])
        self.assertNotIn("notes", cell)
