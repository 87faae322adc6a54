"""The evidence in a browser: the Limits lens, the pane's views, ranges set aside, pictures, what is missing."""

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import expect

from nomothet.server.analysis.models import AsideRange, Hypothesis, Look
from nomothet.server.passes.models import Figure, Mark
from nomothet.server.reviews.models import Test
from tests.browser.base import BrowserTest
from tests.server.base import steady
from tests.server.recordings import deliver_recorded

SENSORS = {
    ("graphics use", "%"): np.full(40, 99.0),
    ("processor use", "%"): np.full(40, 30.0),
    ("temperature", "°C"): np.linspace(60, 80, 40),
}


class Evidence(BrowserTest):
    def fill(self, columns: int = 1, passes: int = 2) -> None:
        for column in range(columns):
            self.scene.owe(column=column, count=passes)
            for seed in range(passes):
                frames = steady(66.0 - 6 * column, 2640, seed=seed + 1)
                deliver_recorded(self.bench, frames, SENSORS, duration_s=40.0)

    def cell(self, column: int = 0) -> str:
        return f'[data-cell="{self.scene.tests[0].pk}.average_fps.{self.scene.columns[column].pk}"]'

    def test_the_lens_says_what_held_a_cell_back_and_the_pane_why(self) -> None:
        self.fill(columns=2)
        self.sign_in("reader", f"{self.matrix_path}?lens=versus")

        def work() -> None:
            page = self.page
            page.locator(self.cell()).wait_for()
            page.keyboard.press("4")
            expect(page.locator(self.cell())).to_contain_text("limited by the graphics")
            expect(page.locator(self.cell(1))).to_contain_text("hides a difference")
            page.locator(self.cell(1)).click()
            page.get_by_role("region", name="Cell").get_by_role("tab", name="Limits").click()
            pane = page.get_by_role("region", name="Cell")
            expect(pane).to_contain_text("graphics use 99 %")
            expect(pane).to_contain_text("lower graphics settings would show it")
            expect(pane).to_contain_text("Hottest at 80.0 °C, after 39 s")
            expect(pane.get_by_role("button", name="Note one")).to_have_count(0)
            page.locator(self.cell()).click(modifiers=["Shift"])
            expect(pane).to_contain_text("20 W against 35 W: 1 % low 8.9 % lower")

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_passes_are_laid_over_one_another_in_trace_and_distribution(self) -> None:
        self.fill(passes=3)
        self.sign_in("reader", f"{self.matrix_path}?lens=versus")

        def work() -> None:
            page = self.page
            page.locator(self.cell()).click()
            pane = page.get_by_role("region", name="Cell")
            pane.get_by_role("img", name=re.compile("Frame time over the run")).wait_for()
            page.keyboard.press("a")
            expect(pane.get_by_role("img", name=re.compile("pass 1: 2640 frames.*pass 2: 2640", re.S))).to_be_visible()
            pane.get_by_label("Line up").select_option("match")
            expect(pane).to_contain_text("alike by")
            pane.get_by_role("button", name="as a rate").click()
            expect(pane).to_contain_text("higher is better")
            page.keyboard.press("v")
            expect(pane.get_by_role("img", name=re.compile("Distribution.*pass 3", re.S))).to_be_visible()
            pane.get_by_role("button", name="one pass alone").click()
            pane.get_by_role("tab", name="Notes").click()
            expect(pane).to_contain_text("pass 3: completed")

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_a_part_in_sight_is_set_aside_and_comes_back(self) -> None:
        self.fill(passes=1)
        self.sign_in("tester", f"{self.matrix_path}?lens=versus")

        def work() -> None:
            page = self.page
            page.locator(self.cell()).click()
            pane = page.get_by_role("region", name="Cell")
            pane.get_by_role("img", name=re.compile("Frame time")).wait_for()
            pane.get_by_role("button", name="Zoom in").click()
            pane.get_by_role("button", name="Set this part aside").click()
            page.get_by_label("Why").fill("a window was in front")
            page.get_by_role("dialog").get_by_role("button", name="Set aside").click()
            expect(pane).to_contain_text("set aside by Tester: a window was in front")

        self.do(work)
        kept = AsideRange.objects.get()
        self.assertAlmostEqual(kept.end_s - kept.start_s, 20, delta=0.5)
        self.assertLess(Figure.objects.get(metric="duration_s").value, 21)

        def back() -> None:
            page = self.page
            page.get_by_role("button", name="take back").first.click()
            expect(page.get_by_role("region", name="Cell")).to_contain_text("taken back by Tester")

        self.do(back)
        self.assertGreater(Figure.objects.get(metric="duration_s").value, 39)
        self.assertEqual(self.complaints, [])

    def test_a_part_is_named_by_its_seconds(self) -> None:
        self.fill(passes=1)
        self.sign_in("tester", f"{self.matrix_path}?lens=versus")

        def work() -> None:
            page = self.page
            page.locator(self.cell()).click()
            page.get_by_role("region", name="Cell").get_by_role("button", name="Name a part").click()
            dialog = page.get_by_role("dialog", name="Name a part of pass 1")
            dialog.get_by_label("From, in s").fill("12.5")
            dialog.get_by_label("To, in s").fill("30")
            dialog.get_by_label("Name", exact=True).fill("crowd")
            dialog.get_by_role("button", name="Keep the name").click()
            expect(page.get_by_role("region", name="Cell")).to_contain_text("crowd")

        self.do(work)
        mark = Mark.objects.get()
        self.assertEqual((mark.start_s, mark.end_s, mark.label), (12.5, 30.0, "crowd"))
        self.assertEqual(self.complaints, [])

    def test_the_warm_up_is_moved_by_the_keyboard(self) -> None:
        self.fill(passes=1)
        self.sign_in("editor", f"{self.matrix_path}?lens=versus")

        def work() -> None:
            page = self.page
            page.locator(self.cell()).click()
            handle = page.get_by_role("slider", name="Warm-up left out")
            handle.focus()
            page.keyboard.press("ArrowRight")
            expect(page.get_by_text("of every pass of this test are left out")).to_be_visible()

        self.do(work)
        self.assertEqual(Test.objects.get(pk=self.scene.tests[0].pk).skip_s, 0.5)
        self.assertEqual(self.complaints, [])

    def test_a_picture_is_saved_with_its_caption_and_seals(self) -> None:
        self.fill(passes=1)
        self.sign_in("reader", f"{self.matrix_path}?lens=versus")

        def save(view: str, form: str) -> bytes:
            page = self.page
            page.get_by_role("tab", name=view).click()
            page.get_by_role("button", name="Save picture, or copy it").click()
            with page.expect_download() as held:
                page.get_by_role("menuitem", name=f"Save as {form}").click()
            return Path(held.value.path()).read_bytes()

        def work() -> None:
            page = self.page
            page.locator(self.cell()).click()
            page.get_by_role("img", name=re.compile("Frame time")).wait_for()
            svg = save("Trace", "SVG").decode()
            self.assertIn("Reef Walk 2, kelp tunnel", svg)
            self.assertIn("A  35 W, pass 1", svg)
            self.assertIn("1 % low: mean of the slowest frames", svg)
            self.assertNotIn("var(--", svg)
            self.assertEqual(save("Trace", "PNG")[:8], b"\x89PNG\r\n\x1a\n")
            self.assertNotIn("var(--", save("Distribution", "SVG").decode())

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_what_is_missing_and_a_rival_explanation(self) -> None:
        self.scene.owe(count=5)
        for rate in (60.0, 60.1, 60.2, 60.05, 45.0):
            self.bench.deliver(steady(rate))
        self.sign_in("editor", f"{self.matrix_path}?lens=limits")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Look at the evidence").click()
            page.get_by_role("menuitem", name="What is missing").click()
            dialog = page.get_by_role("dialog")
            expect(dialog).to_contain_text("never asked: 3")
            flag = dialog.get_by_role("listitem").filter(has_text="outlier")
            flag.get_by_role("button", name="I have looked").click()
            expect(flag).to_contain_text("looked at by Editor")
            page.keyboard.press("Escape")
            page.locator(self.cell()).click()
            expect(page.get_by_role("region", name="Cell")).to_contain_text("below the median")
            page.get_by_role("region", name="Cell").get_by_role("tab", name="Limits").click()
            page.get_by_role("button", name="Note one").click()
            page.get_by_label("What may be the cause").fill("a guest opened the door")
            page.get_by_role("button", name="Keep it").click()
            expect(page.get_by_role("region", name="Explanations")).to_contain_text("a guest opened the door")

        self.do(work)
        self.assertEqual((Look.objects.count(), Hypothesis.objects.get().status), (1, "open"))
        self.assertEqual(self.complaints, [])
