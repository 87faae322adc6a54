"""States beside the happy path: empty, failing, not live, not allowed, small."""

import re

from playwright.sync_api import expect

from nomothet.server.records.commands import publish
from nomothet.server.reviews.models import Review
from tests.browser.base import BrowserTest
from tests.server.base import steady


class States(BrowserTest):
    def test_a_server_that_is_gone_is_told_and_found_again(self) -> None:
        self.sign_in("reader", self.matrix_path)
        self.do(lambda: self.page.get_by_role("grid").wait_for())
        self.server.kill()

        def gone() -> None:
            page = self.page
            expect(page.get_by_text("not live just now, trying again")).to_be_visible()
            page.get_by_role("link", name="Systems").click()
            expect(page.get_by_role("alert")).to_contain_text("This could not be shown")

        self.do(gone)
        self.server.start()

        def back() -> None:
            page = self.page
            page.get_by_role("button", name="Try again").click()
            expect(page.get_by_role("link", name="Wren")).to_be_visible()
            expect(page.get_by_text("no run in progress")).to_be_visible()

        self.do(back)

    def test_no_review_says_how_to_begin(self) -> None:
        Review.objects.all().delete()
        self.sign_in("reader")
        self.do(lambda: expect(self.page.get_by_text("An editor asks the first question.")).to_be_visible())
        self.sign_in("editor")

        def begin() -> None:
            page = self.page
            page.get_by_text("Look at an example").click()
            expect(page.get_by_role("link", name="127.0.0.1:8420")).to_be_visible()
            page.get_by_role("link", name="Begin the first review").click()
            expect(page.get_by_role("heading", name="Your first review")).to_be_visible()

        self.do(begin)

    def test_an_empty_matrix_says_what_is_missing(self) -> None:
        self.sign_in("tester", self.matrix_path)

        def work() -> None:
            page = self.page
            cell = page.get_by_role("gridcell", name=re.compile("average, on 35 W"))
            expect(cell).to_contain_text("not run")
            cell.click()
            pane = page.get_by_role("region", name="Cell")
            expect(pane).to_contain_text("No pass here yet")
            pane.get_by_role("button", name="Ask for passes").click()
            dialog = page.get_by_role("dialog")
            expect(dialog.get_by_role("checkbox", name=re.compile("35 W"))).to_be_checked()
            expect(dialog.get_by_role("checkbox", name=re.compile("20 W"))).not_to_be_checked()
            page.keyboard.press("Escape")
            expect(dialog).to_have_count(0)

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_an_address_that_is_nowhere(self) -> None:
        self.sign_in("reader", "/nowhere")
        self.do(lambda: expect(self.page.get_by_role("heading")).to_contain_text("There is no such place"))

    def test_a_review_that_is_not_there(self) -> None:
        self.sign_in("reader", "/reviews/999/matrix")
        self.do(lambda: expect(self.page.get_by_role("alert")).to_contain_text("could not be shown"))

    def test_a_reader_sees_everything_and_is_offered_no_act(self) -> None:
        self.scene.owe(count=2)
        self.bench.deliver(steady(60))
        test, column = self.scene.tests[0].pk, self.scene.columns[0].pk
        self.sign_in("reader", f"{self.matrix_path}?lens=progress&cells={test}.average_fps.{column}")

        def work() -> None:
            page = self.page
            expect(page.get_by_role("region", name="Cell")).to_contain_text("pass 1")
            for name in ("Ask for passes", "set aside", "take off", "Begin the change"):
                expect(page.get_by_role("button", name=name)).to_have_count(0)
            page.get_by_role("gridcell").first.focus()
            page.keyboard.press("p")
            expect(page.get_by_role("status").last).to_contain_text("the role tester is needed")
            page.get_by_role("link", name="Brief").click()
            expect(page.get_by_role("heading", name="The brief")).to_be_visible()
            expect(page.get_by_role("button", name="Edit the brief")).to_have_count(0)

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_owed_passes_are_taken_off_the_docket(self) -> None:
        self.scene.owe(count=2)
        self.sign_in("tester", f"{self.matrix_path}?lens=progress")

        def work() -> None:
            page = self.page
            docket = page.get_by_label("Docket")
            expect(docket).to_contain_text("2 passes owed")
            docket.get_by_role("button", name="take off").click()
            expect(docket).to_contain_text("No pass is owed")

        self.do(work)

    def test_everybodys_baseline_is_chosen_in_the_column_head(self) -> None:
        for column, rate in ((0, 60.0), (1, 54.0)):
            self.scene.owe(column=column, count=2)
            for seed in range(2):
                self.bench.deliver(steady(rate, seed=seed))
        self.sign_in("editor", self.matrix_path)

        def work() -> None:
            page = self.page
            page.get_by_role("button", name=re.compile("20 W ?: choose the baseline")).click()
            page.get_by_role("menuitem", name="Make it everybody's baseline").click()
            cell = page.get_by_role("gridcell", name=re.compile("average, on 35 W"))
            expect(cell).to_contain_text("+11.")
            expect(page.get_by_role("status").last).to_contain_text("20 W is now the baseline")

        self.do(work)
        self.assertTrue(self.scene.review.columns.get(label="20 W").is_baseline)

    def test_a_record_fits_a_phone(self) -> None:
        self.scene.owe(count=2)
        for seed in range(2):
            self.bench.deliver(steady(60, seed=seed))
        record = publish(self.scene.people["editor"], self.scene.review)
        self.page = self.new_page()

        def work() -> None:
            page = self.page
            page.set_viewport_size({"width": 390, "height": 844})
            for path in ("", "/captures"):
                page.goto(f"/records/{record.slug}{path}")
                expect(page.get_by_role("heading", level=1)).to_be_visible()
                width = page.evaluate("document.documentElement.scrollWidth")
                self.assertLessEqual(width, 390)
            expect(page.get_by_role("img", name=re.compile("Frame time"))).to_be_visible()

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_the_first_page_loads_little_script(self) -> None:
        sizes: dict[str, int] = {}

        def work() -> None:
            page = self.page
            page.on(
                "response",
                lambda response: (
                    sizes.__setitem__(response.url, int(response.headers.get("content-length", -1)))
                    if response.url.endswith(".js")
                    else None
                ),
            )
            page.goto("/reviews", wait_until="networkidle")
            page.get_by_label("Name").wait_for()

        self.do(work)
        self.assertGreater(len(sizes), 0)
        # A size that is not told would be none, and the sum would say nothing.
        self.assertTrue(all(size > 0 for size in sizes.values()), sizes)
        self.assertLessEqual(sum(sizes.values()), 250_000)
