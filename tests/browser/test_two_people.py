"""Two people at one matrix: what one does, the other sees without a reload, and nobody overwrites anybody."""

import re
from typing import Any

from playwright.sync_api import expect

from nomothet.server.passes.models import Pass
from tests.browser.base import BrowserTest
from tests.server.base import steady


class TwoPeople(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        for column, fps in ((0, 60.0), (1, 50.0)):
            self.scene.owe(column=column, count=3)
            for seed in range(3):
                self.bench.deliver(steady(fps, 1200, seed=seed))
        self.first = self.page
        self.sign_in("tester", f"{self.matrix_path}?lens=figures")
        self.second = self.page = self.new_page()
        self.sign_in("editor", f"{self.matrix_path}?lens=figures")

    def cell(self, page: Any, fps: str) -> Any:
        return page.get_by_role("gridcell").filter(has_text=re.compile(rf"{re.escape(fps)} fps"))

    def test_a_pass_set_aside_by_one_leaves_the_figures_of_the_other(self) -> None:
        def work() -> None:
            expect(self.cell(self.second, "60.0").first).to_contain_text("3 passes")
            self.first.bring_to_front()
            self.cell(self.first, "60.0").first.click()
            self.first.get_by_role("button", name="Set aside").first.click()
            dialog = self.first.get_by_role("dialog")
            dialog.get_by_role("textbox").fill("a guest leaned on the case")
            dialog.get_by_role("button", name=re.compile("Set")).click()
            expect(dialog).to_have_count(0)
            expect(self.cell(self.second, "60.0").first).to_contain_text("2 passes")

        self.do(work)
        self.assertEqual(Pass.objects.filter(set_aside=True).count(), 1)

    def test_a_part_that_one_leaves_out_goes_from_the_trace_of_the_other(self) -> None:
        owner = Pass.objects.filter(test=self.scene.tests[0], column=self.scene.columns[0]).order_by("-number").first()
        assert owner is not None

        def open_trace() -> None:
            self.cell(self.second, "60.0").first.click()
            self.second.get_by_role("tab", name="Trace").wait_for()

        def leave_out() -> None:
            answer = self.first.evaluate(
                """async (path) => (await fetch(path, {method: "POST",
                    headers: {"Content-Type": "application/json",
                              "X-CSRFToken": document.cookie.match(/csrftoken=(\\w+)/)[1]},
                    body: JSON.stringify({start_s: 2, end_s: 4, reason: "a system update was fetched"})})).status""",
                f"/api/passes/{owner.pk}/ranges",
            )
            assert answer == 201, answer

        def seen() -> None:
            expect(self.second.get_by_text("a system update was fetched").first).to_be_visible()

        for step in (open_trace, leave_out, seen):
            self.do(step)

    def test_another_baseline_for_one_is_not_one_for_the_other(self) -> None:
        def work() -> None:
            self.first.goto(f"{self.matrix_path}?lens=versus&baseline={self.scene.columns[1].pk}")
            expect(self.first.get_by_role("grid")).to_contain_text("+20.0 %")
            self.second.goto(f"{self.matrix_path}?lens=versus")
            expect(self.second.get_by_role("grid")).to_contain_text("−16.7 %")

        self.do(work)
