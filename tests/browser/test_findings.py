"""The sheet Findings: read, chosen by keys, linked, and opened where it comes from."""

import re

from playwright.sync_api import expect

from nomothet.server.reviews.models import Review, Test
from tests.browser.base import BrowserTest
from tests.server.base import steady


class FindingsSheet(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        review = self.scene.review
        Review.objects.filter(pk=review.pk).update(target_fps=50)
        Test.objects.create(
            review=review, workload=self.scene.scene, position=4, detail="open reef", shown=["average_fps"]
        )
        self.scene.tests = list(review.tests.all())
        for test, column, rate in ((0, 0, 60.0), (0, 1, 48.0), (2, 0, 58.0), (2, 1, 47.0)):
            self.scene.owe(test=test, column=column, count=2)
            for seed in (1, 2):
                self.bench.deliver(steady(rate, seed=seed))

    def test_a_finding_is_chosen_by_keys_kept_in_the_address_and_leads_to_its_cells(self) -> None:
        self.sign_in("reader", f"/reviews/{self.scene.review.pk}/findings")

        def work() -> None:
            page = self.page
            listed = page.get_by_role("list", name="Findings")
            first = listed.get_by_role("button").first
            expect(first).to_contain_text("Over 2 tests")
            expect(first).to_have_attribute("aria-current", "true")
            drawn = page.get_by_role("region", name="The finding")
            expect(drawn.get_by_role("img", name=re.compile("^Over 2 tests"))).to_be_visible()
            page.keyboard.press("ArrowDown")
            expect(page).to_have_url(re.compile("finding="))
            expect(listed.get_by_role("button").nth(1)).to_have_attribute("aria-current", "true")
            page.reload()
            expect(listed.get_by_role("button").nth(1)).to_have_attribute("aria-current", "true")
            page.get_by_role("searchbox").fill("meets every")
            expect(listed.get_by_role("button")).to_have_count(1)
            expect(drawn).to_contain_text("35 W meets every target")
            page.get_by_role("searchbox").fill("")
            page.get_by_role("button", name=re.compile("^over all tests")).click()
            drawn.get_by_role("link", name=re.compile("cells of")).click()
            expect(page).to_have_url(re.compile(r"/matrix\?lens=versus&cells="))
            expect(page.get_by_role("region", name="Cell")).to_be_visible()

        self.do(work)
        self.assertEqual(self.complaints, [])
