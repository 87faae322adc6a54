"""Sets of tests and saved standings, as a person keeps and publishes them."""

import re

from playwright.sync_api import expect

from nomothet.server.reviews.models import Review
from nomothet.server.standings.models import SavedStanding, TestSet
from nomothet.server.systems.configurations import edit_configuration
from tests.browser.base import BrowserTest
from tests.server.base import steady


class Sets(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        for column, rate in ((0, 60.0), (1, 48.0)):
            self.scene.owe(column=column, count=2)
            for at in range(2):
                self.bench.deliver(steady(rate, seed=at))

    def test_a_test_is_kept_in_a_set_weighed_anew_and_measured_against(self) -> None:
        first, second = (column.configuration for column in self.scene.columns)
        self.sign_in("editor", "/standings")

        def keep() -> None:
            page = self.page
            page.get_by_role("button", name="keep in a set").click()
            dialog = page.get_by_role("dialog", name="Keep in a set")
            dialog.get_by_label("Name of the new set").fill("Opening night")
            dialog.get_by_role("button", name="Keep it").click()
            ranks = page.get_by_role("region", name="Opening night").get_by_role("table")
            expect(ranks.locator("tbody tr")).to_have_count(2)
            page.get_by_label("against").select_option(str(first.pk))
            expect(ranks.locator("tr", has_text=second.title)).to_contain_text("behind")
            page.get_by_role("button", name="Edit", exact=True).click()
            edit = page.get_by_role("dialog", name="Edit Opening night")
            edit.get_by_role("spinbutton").last.fill("2")
            edit.get_by_role("button", name="Save").click()
            expect(page.get_by_label("Edition")).to_be_visible()
            expect(page.get_by_role("list", name="Tests of the set")).to_contain_text("weight 2")
            page.get_by_role("button", name="Measure a machine").click()
            measure = page.get_by_role("dialog", name="Measure against Opening night")
            measure.get_by_label("The question of the review").fill("What does the newcomer do?")
            measure.get_by_label(second.title).first.check()
            measure.get_by_role("button", name="Make the review").click()
            expect(page.get_by_role("heading", name="What does the newcomer do?")).to_be_visible()

        self.do(keep)
        self.assertEqual(TestSet.objects.count(), 2)
        self.assertEqual(Review.objects.filter(question="What does the newcomer do?").count(), 1)
        self.assertEqual(self.complaints, [])

    def test_what_is_shown_is_saved_published_and_withdrawn(self) -> None:
        self.sign_in("editor", "/standings")

        def save() -> None:
            page = self.page
            saved = page.get_by_role("region", name="Saved standings")
            page.get_by_label("Only results with these words").fill(self.scene.columns[0].label)
            expect(page).to_have_url(re.compile("words="))
            saved.get_by_role("button", name="save what is shown").click()
            dialog = page.get_by_role("dialog", name="Save what is shown")
            dialog.get_by_label("Name").fill("Only the first")
            dialog.get_by_role("button", name="Save").click()
            saved.get_by_role("button", name="about Only the first").click()
            about = page.get_by_role("dialog", name="Only the first")
            about.get_by_role("button", name="Publish").click()
            link = about.get_by_role("link")
            expect(link).to_be_visible()
            address = link.get_attribute("href")
            about.get_by_label("Why it is withdrawn").fill("a wrong cooler")
            about.get_by_role("button", name="Withdraw").click()
            expect(about.get_by_role("button", name="Publish")).to_be_visible()
            page.goto(address)
            expect(page.get_by_text("a wrong cooler")).to_be_visible()

        self.do(save)
        self.assertIn("words", SavedStanding.objects.get().query)

    def test_what_is_owed_of_a_changed_configuration_is_asked_about_and_goes_on_beside(self) -> None:
        self.scene.owe(column=1, count=1)
        own = self.scene.columns[1]
        settings = {**own.configuration.settings, "image": 42}
        edit_configuration(self.scene.people["editor"], own.configuration, {"settings": settings})
        self.sign_in("editor", self.matrix_path)

        def decide() -> None:
            page = self.page
            asked = page.get_by_role("region", name="Changed in the middle")
            expect(asked).to_contain_text("2 passes ran before it; what of the 1 that is owed?")
            asked.get_by_role("button", name="measure with the change, beside").click()
            expect(asked).to_have_count(0)
            expect(page.get_by_role("columnheader", name=f"{own.label}, since")).to_contain_text("goes on from")

        self.do(decide)
        self.assertEqual(self.complaints, [])
