"""Comparisons that hide a difference: held by a cap, or limited by what the factor does not act on."""

import csv
import io
from typing import Any

import numpy as np
from django.core.cache import cache

from nomothet.server.matrix.export import comparison_lines
from nomothet.server.matrix.matrix import matrix
from nomothet.server.reviews.models import Review
from tests.server.base import Browser, SceneTest, steady
from tests.server.recordings import deliver_recorded

SECONDS = 30
GRAPHICS = {("graphics use", "%"): np.full(SECONDS, 99.0), ("processor use", "%"): np.full(SECONDS, 30.0)}
IDLE_GRAPHICS = {("graphics use", "%"): np.full(SECONDS, 50.0), ("processor use", "%"): np.full(SECONDS, 30.0)}


class Hidden(SceneTest):
    def bring(self, column: int, rates: list[float], sensors: dict[tuple[str, str], Any]) -> None:
        for at, fps in enumerate(rates):
            self.scene.owe(column=column)
            frames = steady(fps, int(fps * SECONDS), seed=10 * column + at)
            deliver_recorded(self.bench, frames, sensors, duration_s=float(SECONDS))

    def cell(self, metric: str = "average_fps") -> dict[str, Any]:
        return dict(self.row(metric)["cells"][str(self.scene.columns[1].pk)])

    def vary(self, aspect: str) -> None:
        factors = [{"key": "part", "name": "part", "aspects": [aspect], "levels": []}]
        Review.objects.filter(pk=self.scene.review.pk).update(factors=factors)

    def test_two_cells_at_the_graphics_tell_nothing_of_the_power_limit(self) -> None:
        self.bring(0, [66.0, 66.1, 65.9], GRAPHICS)
        self.bring(1, [66.0, 66.2, 65.9], GRAPHICS)
        cell = self.cell()
        self.assertIsNone(cell["comparison"])
        self.assertEqual((cell["why_not_code"], cell["n"]), ("masked", 3))
        self.assertIn("limited by the graphics: shows nothing", cell["why_not"])
        self.assertIn("shows nothing", cell["sentence"])

    def test_a_difference_that_shows_all_the_same_is_told(self) -> None:
        self.bring(0, [66.0, 66.1, 65.9], GRAPHICS)
        self.bring(1, [50.0, 50.1, 49.9], GRAPHICS)
        self.assertEqual(self.cell()["comparison"]["verdict"], "behind")

    def test_where_what_is_varied_reaches_the_graphics_nothing_is_hidden(self) -> None:
        self.bring(0, [66.0, 66.1, 65.9], GRAPHICS)
        self.bring(1, [66.0, 66.2, 65.9], GRAPHICS)
        for aspect in ("part.graphics.name", "dust_filter", "fan_profile", "system"):
            cache.clear()
            self.vary(aspect)
            cell = self.cell()
            with self.subTest(aspect=aspect):
                self.assertEqual((cell["why_not"], cell["comparison"]["verdict"]), ("", "level"))
        for aspect in ("memory_mts", "power_limit_w"):
            cache.clear()
            self.vary(aspect)
            with self.subTest(aspect=aspect):
                self.assertEqual(self.cell()["why_not_code"], "masked")

    def test_one_cell_at_the_graphics_hides_nothing(self) -> None:
        self.bring(0, [66.0, 66.1, 65.9], GRAPHICS)
        self.bring(1, [66.0, 66.2, 65.9], IDLE_GRAPHICS)
        self.assertIsNotNone(self.cell()["comparison"])

    def test_two_cells_held_at_one_cap_show_nothing_and_enter_no_comparison(self) -> None:
        self.bring(0, [60.0, 60.0, 60.0], IDLE_GRAPHICS)
        self.bring(1, [60.0, 60.0, 60.0], IDLE_GRAPHICS)
        cell = self.cell()
        self.assertEqual((cell["comparison"], cell["why_not_code"]), (None, "held_at"))
        self.assertEqual(cell["held_fps"], 60)

    def test_one_held_cell_is_still_compared(self) -> None:
        self.bring(0, [60.0, 60.0, 60.0], IDLE_GRAPHICS)
        self.bring(1, [44.0, 44.1, 43.9], IDLE_GRAPHICS)
        self.assertEqual(self.cell()["comparison"]["verdict"], "behind")

    def test_the_reason_stands_in_the_export_and_among_what_is_missing(self) -> None:
        self.bring(0, [66.0, 66.1, 65.9], GRAPHICS)
        self.bring(1, [66.0, 66.2, 65.9], GRAPHICS)
        review = Review.objects.get(pk=self.scene.review.pk)
        lines = list(csv.DictReader(io.StringIO("".join(comparison_lines(review, matrix(review))))))
        own = next(one for one in lines if one["configuration"] == self.scene.columns[1].label)
        self.assertTrue(any("shows nothing" in value for value in own.values()))
        self.assertFalse(any("level" in value for value in own.values()))
        holes = Browser("reader").json(f"{self.review_path}/completeness")["holes"]
        self.assertIn("shows nothing", [hole["reason"] for hole in holes])
