"""Standings, follow-ups and a machine's book, as a person goes through them."""

import re

from playwright.sync_api import expect

from nomothet.server.follow_ups.models import FollowUp
from nomothet.server.reviews.models import Review
from tests.browser.base import BrowserTest
from tests.server.base import steady


class Standings(BrowserTest):
    def fill(self, rates: dict[int, float]) -> None:
        for column, rate in rates.items():
            self.scene.owe(column=column, count=2)
            for at in range(2):
                self.bench.deliver(steady(rate, seed=at), environment={"graphics driver": "31.4"})

    def test_results_are_held_against_another_reference_and_said_in_sentences(self) -> None:
        self.fill({0: 60.0, 1: 50.0})
        first, second = (column.label for column in self.scene.columns)
        self.sign_in("reader", "/reviews")

        def look() -> None:
            page = self.page
            page.get_by_role("link", name="Standings").click()
            table = page.get_by_role("table")
            expect(table.get_by_text("the reference", exact=True)).to_be_visible()
            expect(table.locator("tbody tr")).to_have_count(2)
            choice = page.get_by_label("against")
            value = choice.locator("option", has_text=second).get_attribute("value")
            choice.select_option(value)
            expect(table.locator("tr", has_text=first)).to_contain_text("ahead")
            table.locator("tr", has_text=first).get_by_role("checkbox").check()
            expect(page.get_by_role("region", name="In sentences")).to_contain_text("against")
            table.locator("tr", has_text=second).get_by_role("checkbox").check()
            page.get_by_role("button", name="Their traces over one another").click()
            drawn = page.get_by_role("region", name="In sentences")
            expect(drawn.get_by_role("img", name=re.compile("^Frame time over the run"))).to_be_visible()
            page.get_by_role("button", name="for the price").click()
            expect(page.get_by_text("No configuration here has a price.")).to_be_visible()
            page.get_by_role("button", name="over time").click()
            expect(page.get_by_role("img", name="Results by day")).to_be_visible()
            page.get_by_label("Only results with these words").fill("nothing of this kind")
            expect(page.get_by_text("No result of this choice has a figure.")).to_be_visible()
            page.reload()
            expect(page.get_by_label("Only results with these words")).to_have_value("nothing of this kind")

        self.do(look)
        self.assertEqual(self.complaints, [])

    def test_an_empty_standing_says_what_brings_results(self) -> None:
        self.sign_in("reader", "/standings")
        self.do(lambda: expect(self.page.get_by_text("No result yet.")).to_be_visible())

    def test_what_was_measured_before_an_update_is_measured_anew_by_one_act(self) -> None:
        self.fill({0: 60.0, 1: 50.0})
        self.bench.send("post", "/hello", {"inventory": {"graphics driver": "31.6"}})
        self.sign_in("editor", self.matrix_path)

        def again() -> None:
            page = self.page
            told = page.get_by_role("region", name="Measured before")
            expect(told).to_contain_text("2 cells measured before an update")
            expect(told).to_contain_text("measured under graphics driver 31.4; 31.6 since")
            expect(page.get_by_role("grid").get_by_text("measured before an update")).to_have_count(2)
            page.goto(f"/reviews/{self.scene.review.pk}/findings")
            expect(page.get_by_role("list", name="Findings")).to_contain_text("measured before an update")
            finding = page.get_by_role("region", name="The finding")
            expect(finding).to_contain_text("measured under graphics driver 31.4; 31.6 since")
            told.get_by_role("button", name="measure the same anew").click()
            page.wait_for_url("**/matrix?lens=progress")
            expect(page.get_by_role("heading", level=1)).to_contain_text("(again)")

        self.do(again)
        self.assertEqual(Review.objects.count(), 2)


class FollowUps(BrowserTest):
    def test_one_is_noted_on_a_brief_comes_due_and_is_ended(self) -> None:
        self.sign_in("tester", f"/reviews/{self.scene.review.pk}/brief")

        def note() -> None:
            page = self.page
            page.get_by_role("button", name="Note a follow-up").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("What is to be done").fill("Measure again with the new card")
            dialog.get_by_label("Waits for").select_option("part")
            dialog.get_by_label("Which, or who").fill("the card")
            dialog.get_by_role("button", name="Note it").click()
            expect(page.get_by_role("region", name="Follow-ups")).to_contain_text("waits for a part: the card")
            page.get_by_role("link", name="follow-ups").click()
            expect(page.get_by_text("Nothing is due.")).to_be_visible()
            page.get_by_role("button", name="Measure again with the new card: what can be done").click()
            page.get_by_role("menuitem", name="What it waits for is here").click()
            expect(page.get_by_text("1 follow-up due")).to_be_visible()
            expect(page.get_by_role("link", name="follow-ups 1")).to_be_visible()
            page.get_by_role("button", name="Measure again with the new card: what can be done").click()
            page.get_by_role("menuitem", name="It is done …").click()
            page.get_by_role("dialog").get_by_role("textbox").fill("It is a tenth faster.")
            page.get_by_role("dialog").get_by_role("button", name="It is done").click()
            expect(page.get_by_text("Nothing waits.")).to_be_visible()

        self.do(note)
        one = FollowUp.objects.get()
        self.assertEqual((one.state, one.outcome), ("done", "It is a tenth faster."))
        self.assertEqual(self.complaints, [])

    def test_what_is_watched_on_a_machine_stands_in_the_brief(self) -> None:
        self.sign_in("tester", f"/systems/{self.scene.system.pk}")

        def watch() -> None:
            page = self.page
            region = page.get_by_role("region", name="To be watched")
            region.get_by_role("textbox").fill("cooler paste of March")
            region.get_by_role("button", name="Watch it").click()
            expect(region.get_by_role("list")).to_contain_text("cooler paste of March")
            expect(page.get_by_role("region", name="Its book")).to_contain_text("to be watched")
            page.goto(f"/reviews/{self.scene.review.pk}/brief")
            expect(page.get_by_role("region", name="To be watched")).to_contain_text("Wren: cooler paste of March")

        self.do(watch)
        self.assertEqual(self.complaints, [])
