"""A pass by hand and a pasted table, as whoever has no program on the machine does them."""

import re

from playwright.sync_api import expect

from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Figure, Pass
from nomothet.server.reviews.models import Test
from nomothet.server.workloads.models import Workload
from tests.browser.base import BrowserTest


class ByHand(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.scene.bench.delete()
        metrics = [{"key": "load_s", "label": "load", "unit": "s", "direction": "lower", "scale": "ratio"}]
        Workload.objects.filter(pk=self.scene.suite.pk).update(
            metrics=metrics, kind="task", steps=[{"kind": "scene", "words": "the largest save"}]
        )
        Test.objects.filter(pk=self.scene.tests[1].pk).update(shown=["load_s"])
        self.entries = self.scene.owe(test=1, count=2)

    def test_the_docket_leads_through_a_pass_and_on_to_the_next(self) -> None:
        self.sign_in("tester", f"/systems/{self.scene.system.pk}/docket")

        def run_one() -> None:
            page = self.page
            page.get_by_role("link", name="run by hand").click()
            page.get_by_role("button", name="Begin this pass").click()
            page.get_by_label("the largest save").click()
            expect(page.get_by_label("the largest save")).to_be_checked()
            page.locator("h1").click()
            page.keyboard.press("Space")
            expect(page.get_by_role("button", name=re.compile("^End"))).to_be_visible()
            page.keyboard.press("Space")
            page.get_by_role("button", name=re.compile("from the clock")).click()
            page.reload()
            # What stood in the fields has come back.
            expect(page.get_by_label("load", exact=True)).not_to_have_value("")
            page.get_by_role("button", name=re.compile("on to the next")).click()
            page.wait_for_url(f"**/hand/{self.entries[1].pk}")
            expect(page.get_by_role("button", name=re.compile("^Start"))).to_be_visible()

        self.do(run_one)
        owner = Pass.objects.get()
        self.assertEqual((owner.number, owner.procedure["steps"][0]["by"]), (1, "Tester"))
        self.assertEqual(Figure.objects.get().method, "stopwatch")
        self.assertEqual(Entry.objects.get(pk=self.entries[1].pk).state, "running")

        def fail_one() -> None:
            page = self.page
            page.get_by_role("combobox", name="How it ended").select_option("crashed")
            page.get_by_label("Why", exact=True).fill("out of memory")
            page.get_by_label("What ran instead").fill("a smaller save")
            page.get_by_role("button", name="Store this pass").click()
            expect(page.get_by_text("Nothing more is owed on Wren.")).to_be_visible()

        self.do(fail_one)
        crashed = Pass.objects.get(number=2)
        self.assertEqual(
            (crashed.outcome, crashed.note, crashed.fallback), ("crashed", "out of memory", "a smaller save")
        )
        self.assertEqual(self.complaints, [])

    def test_a_pasted_table_is_put_right_once_for_a_label_and_stored(self) -> None:
        self.sign_in("tester", f"{self.matrix_path}?lens=figures")
        first = f'[data-cell="{self.scene.tests[0].pk}.average_fps.{self.scene.columns[0].pk}"]'

        def paste() -> None:
            page = self.page
            page.locator(first).focus()
            page.evaluate(
                """selector => {
                    const data = new DataTransfer();
                    data.setData("text/plain", "\\t35 W\\t20 W\\nthe reef\\t60\\t50\\nthe reef\\t61\\t51\\n");
                    const paste = new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true });
                    document.querySelector(selector).dispatchEvent(paste);
                }""",
                first,
            )
            dialog = page.get_by_role("dialog", name="Where the table lands")
            expect(dialog).to_contain_text("2 rows or columns to be told")
            dialog.get_by_role("button", name=re.compile("^Row 1")).click()
            page.get_by_label("Row 1 is of the test").select_option(label="Reef Walk 2")
            page.keyboard.press("Escape")
            dialog.get_by_label("average").select_option("glance at an overlay")
            dialog.get_by_role("button", name="Store 4 readings").click()
            expect(page.get_by_text("4 readings stored.")).to_be_visible()
            expect(page.locator(first)).to_be_focused()

        self.do(paste)
        told = Pass.objects.order_by("column__position", "number").values_list("column__label", "figures__value")
        self.assertEqual(list(told), [("35 W", 60), ("35 W", 61), ("20 W", 50), ("20 W", 51)])
        self.assertEqual(self.complaints, [])
