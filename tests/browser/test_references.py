"""Results of another review put beside a review, as a person does it."""

from django.utils import timezone
from playwright.sync_api import expect

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.standings.models import Reference
from nomothet.server.standings.tasks import prepare_results
from tests.browser.base import BrowserTest
from tests.server.base import steady


class References(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        people, own = self.scene.people, self.scene.tests[0]
        review = Review.objects.create(key="earlier", question="What is to beat?", editor=people["editor"])
        first = self.scene.columns[0]
        column = Column.objects.create(
            review=review, configuration=first.configuration, position=0, label="last winter", is_baseline=True
        )
        test = Test.objects.create(
            review=review, position=0, workload=own.workload, settings=own.settings, detail="", shown=own.shown
        )
        ask_for_passes(people["tester"], review, [test.pk], [column.pk], 2)
        for at in range(2):
            self.bench.deliver(steady(66.0, seed=at))
        self.scene.owe(count=2)
        for at in range(2):
            self.bench.deliver(steady(60.0, seed=at))
        prepare_results.call()

    def test_an_offer_is_put_beside_read_in_the_matrix_by_keyboard_and_taken_off(self) -> None:
        review = self.scene.review
        self.sign_in("editor", f"/reviews/{review.pk}/brief")

        def look() -> None:
            page = self.page
            offers = page.get_by_role("region", name="Measured earlier")
            expect(offers).to_contain_text("last winter")
            expect(offers).to_contain_text("(measured for later): has 1 of 2 tests")
            offers.get_by_role("button", name="put beside").click()
            expect(offers.get_by_role("img", name="reference 1, last winter")).to_be_visible()
            page.goto(f"{self.matrix_path}?lens=versus")
            cell = page.get_by_role("gridcell", name="last winter, from What is to beat?").first
            expect(cell).to_contain_text("+10")
            expect(cell).to_contain_text("ahead")
            cell.focus()
            page.keyboard.press("Enter")
            dialog = page.get_by_role("dialog")
            expect(dialog).to_contain_text("What is to beat?")
            expect(dialog).to_contain_text("sealed")
            page.keyboard.press("Escape")
            page.keyboard.press("ArrowLeft")
            expect(cell).not_to_be_focused()
            page.goto(f"/reviews/{review.pk}/brief")
            offers.get_by_role("button", name="take off").click()
            mark = offers.get_by_role("img", name="reference 1, last winter")
            expect(mark).to_have_count(0)
            page.get_by_role("button", name="Undo").click()
            expect(mark).to_be_visible()

        self.do(look)
        self.assertEqual(Reference.objects.get().removed_at, None)
        self.assertEqual(self.complaints, [])

    def test_figures_from_outside_stand_in_no_verdict(self) -> None:
        self.sign_in("editor", f"/reviews/{self.scene.review.pk}/brief")
        today = timezone.localdate().isoformat()

        def tell() -> None:
            page = self.page
            page.get_by_role("button", name="figures from outside").click()
            dialog = page.get_by_role("dialog", name="Figures from outside")
            dialog.get_by_label("What was measured").fill("the one in Velm")
            dialog.get_by_label("Where it is told").fill("a letter")
            dialog.get_by_label("Of which day").fill(today)
            dialog.get_by_label(self.scene.tests[0].workload.name).first.fill("71,5")
            dialog.get_by_role("button", name="Put beside").click()
            expect(dialog).to_have_count(0)
            page.goto(f"{self.matrix_path}?lens=versus")
            cell = page.get_by_role("gridcell", name="the one in Velm").first
            expect(cell).to_contain_text("71.5")
            expect(cell).to_contain_text("in no verdict")

        self.do(tell)
        self.assertEqual(self.complaints, [])
