"""Charts as SVG: well formed, with what they show where it belongs, and never a crash whatever the values."""

import math
import unittest
from typing import Any
from xml.etree import ElementTree

from nomothet.server.findings.shapes import (
    CurvePoint,
    CurvesShape,
    ExtentMark,
    ExtentRow,
    ExtentsShape,
    FindingAxis,
    FindingBand,
    FindingCurve,
    FindingDot,
    FindingRule,
    FindingShape,
)
from nomothet.server.records.charts import chart_of
from nomothet.server.records.charts.room import NARROW, WIDE
from nomothet.server.records.charts.scales import Scale, span_of
from nomothet.server.records.charts.svg import letter_of

SVG = "{http://www.w3.org/2000/svg}"


def finding(**more: Any) -> FindingShape:
    empty: dict[str, Any] = {
        "key": "a", "kind": "versus", "kind_words": "single differences", "sentence": "A < B & \"C\".", "told": "",
        "verdict": "", "sure": "decided", "columns": [1, 2], "tests": [1], "cells": [], "caveats": [], "left_out": [],
        "section": "3", "margin_pct": 3.0, "bands": [], "curves": None, "extents": None, "heads": [], "lines": [],
        "acts": [], "expected": [], "enough": [], "offers": [], "drawn": None, "drawn_by": "", "pin": None,
    }  # fmt: skip
    return FindingShape(**{**empty, **more})


def band(better: float, low: float | None = None, high: float | None = None, **more: Any) -> FindingBand:
    told = {"column": 2, "label": "kit 2", "told": "", "interval": "", "verdict": "ahead", "dots": [], **more}
    return FindingBand(better=better, low=low, high=high, **told)


def drawn(one: FindingShape, room: Any = WIDE) -> ElementTree.Element:
    return ElementTree.fromstring(chart_of(one, {1: 0, 2: 1}, room, alone=True).svg)  # noqa: S314 - our own


def curves(points: list[CurvePoint], **more: Any) -> CurvesShape:
    told: dict[str, Any] = {
        "x": FindingAxis("power limit", "W"), "y": FindingAxis("of the best", "%"),
        "curves": [FindingCurve("tour", 2, points)], "rules": [], "shaded": [97.0, 103.0], "caption": "More is better.",
    }  # fmt: skip
    return CurvesShape(**{**told, **more})


class Charts(unittest.TestCase):
    def test_a_chart_is_named_by_its_sentence_and_fits_its_room(self) -> None:
        for room in (WIDE, NARROW):
            picture = drawn(finding(bands=[band(10, 8, 12)]), room)
            self.assertEqual(picture.findtext(f"{SVG}title"), 'A < B & "C".')
            self.assertTrue(picture.attrib["viewBox"].startswith(f"0 0 {room.width} "))

    def test_more_is_further_right_and_dots_stand_under_their_band(self) -> None:
        dot = FindingDot(1, "tour", 30.0, "")
        picture = drawn(
            finding(bands=[band(10, 8, 12, verdict="undecided", dots=[dot]), band(-10, -12, -8, verdict="undecided")])
        )
        rings = [(float(one.attrib["cx"]), float(one.attrib["cy"])) for one in picture.iter(f"{SVG}circle")]
        self.assertGreater(rings[1][0], rings[0][0])
        self.assertGreater(rings[1][1], rings[0][1])
        self.assertLess(rings[2][0], rings[0][0])

    def test_an_interval_that_goes_on_is_cut_and_said_to(self) -> None:
        one = finding(bands=[band(10, -90, 900), band(12, 11, 13)])
        self.assertIn("ends in an arrow", chart_of(one, {}).caption)
        self.assertNotIn("arrow", chart_of(finding(bands=[band(10, 9, 11)]), {}).caption)

    def test_curves_stand_at_their_values_with_seals_where_a_configuration_stands_alone(self) -> None:
        points = [CurvePoint(15, 88, 87, 89, "", 2), CurvePoint(35, 100, None, None, "", 1)]
        rule = FindingRule("x", 28, "enough", 20, 30)
        picture = drawn(finding(curves=curves(points, rules=[rule, FindingRule("y", 90, "target")])))
        line = picture.find(f".//{SVG}polyline")
        assert line is not None
        (x1, y1), (x2, y2) = (map(float, one.split(",")) for one in line.attrib["points"].split())
        self.assertLess(x1, x2)
        self.assertGreater(y1, y2)
        texts = [one.text for one in picture.iter(f"{SVG}text")]
        self.assertLessEqual({"15 W", "35 W", "enough", "target", "A", "B"}, set(texts))

    def test_extents_begin_at_nothing_and_carry_their_marks(self) -> None:
        row = ExtentRow(2, "kit 2", 50.0, None, None, "", [ExtentMark(60.0, "burst")])
        other = ExtentRow(0, "kit 3", None, 1.0, 2.0, "", [])
        extents = ExtentsShape(
            FindingAxis("rate", "fps", zero=True), [row, other], [FindingRule("x", 30, "target")], "Bars."
        )
        picture = drawn(finding(extents=extents))
        self.assertIn("target", [one.text for one in picture.iter(f"{SVG}text")])
        self.assertEqual(chart_of(finding(extents=extents), {}).caption, "Bars.")

    def test_a_finding_without_a_drawing_has_none(self) -> None:
        empty = ExtentsShape(FindingAxis("rate", ""), [], [], "")
        for one in (finding(), finding(curves=curves([])), finding(extents=empty)):
            self.assertEqual(chart_of(one, {}).svg, "")

    def test_odd_values_are_drawn_all_the_same(self) -> None:
        for value in (0.0, -100.0, -99.999, 1e9, 1e-9):
            with self.subTest(value):
                drawn(finding(bands=[band(value, value, value), band(value, None, None, label="x" * 90)]))
                drawn(finding(curves=curves([CurvePoint(value, value, value, value, "")])))
                log = FindingAxis("size", "M", log=True)
                drawn(
                    finding(
                        curves=curves([CurvePoint(abs(value), abs(value), None, None, "")], x=log, y=log, shaded=[])
                    )
                )

    def test_what_is_told_is_text(self) -> None:
        one = finding(bands=[band(1, 0, 2, label="<script>&")])
        self.assertIn("&lt;script&gt;&amp;", chart_of(one, {}).svg)


class Scales(unittest.TestCase):
    def test_ticks_are_round_and_within(self) -> None:
        self.assertEqual(Scale(83.2, 101.7, 0, 100).ticks(5), [85.0, 90.0, 95.0, 100.0])
        self.assertEqual(Scale(0, 1, 0, 100).ticks(5), [0.0, 0.2, 0.4, 0.6, 0.8, 1.0])
        self.assertEqual(Scale(0.5, 80, 0, 100, log=True).ticks(), [0.5, 1, 2, 5, 10, 20, 50])

    def test_equal_ratios_take_equal_room(self) -> None:
        scale = Scale(1, 100, 0, 100, log=True)
        self.assertAlmostEqual(scale(10), 50)
        self.assertAlmostEqual(scale(math.sqrt(10)), 25)

    def test_the_span_holds_all_values_and_wide_ends_only_so_far(self) -> None:
        self.assertEqual(span_of([1, 2], [0.9, 2.2]), (0.9, 2.2))
        self.assertEqual(span_of([1, 2], [-50, 60]), (-0.5, 3.5))

    def test_seals_go_on_after_z(self) -> None:
        self.assertEqual([letter_of(at) for at in (0, 25, 26, 27)], ["A", "Z", "AA", "AB"])
