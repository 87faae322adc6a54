"""The sheet Findings: read, chosen by keys, linked, and opened where it comes from."""

import re

from playwright.sync_api import expect

from nomothet.server.docket.models import Entry
from nomothet.server.findings.models import DrawnFinding, Pin
from nomothet.server.findings.tasks import prepare_findings
from nomothet.server.passes.models import Figure
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

    def test_kinds_sections_lenses_and_words_lead_to_their_place_in_the_help(self) -> None:
        review = f"/reviews/{self.scene.review.pk}"
        self.sign_in("reader", f"{review}/findings")

        def led(link: str, place: str) -> None:
            self.page.get_by_role("link", name=link, exact=True).click()
            expect(self.page.locator(f"#{place}")).to_be_focused()
            self.page.go_back()

        def work() -> None:
            page = self.page
            drawn = page.get_by_role("region", name="The finding")
            expect(drawn).to_contain_text("Over 2 tests")
            led("over all tests", "over-all-tests")
            led("method 4", "section-4")
            page.goto(f"{review}/matrix?lens=versus")
            led("about Versus", "versus")
            led("margin", "margin")
            for lens in ("progress", "figures", "limits", "economy"):
                page.goto(f"{review}/matrix?lens={lens}")
                led(f"about {lens.title()}", lens)

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_a_finding_is_pinned_by_p_gets_a_note_and_says_what_changed_until_it_is_seen(self) -> None:
        self.sign_in("editor", f"/reviews/{self.scene.review.pk}/findings")
        page = self.page

        def pin() -> None:
            expect(page.get_by_role("list", name="Findings").get_by_role("button").first).to_contain_text(
                "Over 2 tests"
            )
            page.keyboard.press("p")
            expect(page.get_by_role("button", name=re.compile("^Unpin: Over 2 tests"))).to_be_visible()
            page.get_by_label("Note").fill("the answer")
            page.get_by_role("button", name="Save the note").click()
            expect(page.get_by_role("list", name="Findings").get_by_role("listitem").first).to_contain_text(
                "the answer"
            )

        self.do(pin)
        self.assertEqual(Pin.objects.get().note, "the answer")
        Figure.objects.filter(owner__column=self.scene.columns[1], metric="average_fps").update(value=30.0)
        Test.objects.update(stamp=1000)
        prepare_findings.func(self.scene.review.pk)

        def see() -> None:
            first = page.get_by_role("list", name="Findings").get_by_role("listitem").first
            expect(first).to_contain_text("still behind")
            page.get_by_role("button", name="I have seen this").click()
            expect(first).not_to_contain_text("still behind")
            page.keyboard.press("Escape")
            page.get_by_role("button", name=re.compile("^Unpin: ")).click()
            expect(page.get_by_text("Unpinned.")).to_be_visible()
            expect(page.get_by_role("button", name=re.compile("^Pin: Over 2 tests"))).to_be_visible()
            page.get_by_role("button", name="Undo").click()
            expect(page.get_by_role("button", name=re.compile("^Unpin: "))).to_be_visible()

        self.do(see)
        self.assertEqual(Pin.objects.get().note, "the answer")
        self.assertEqual(self.complaints, [])

    def test_another_finding_is_drawn_and_taken_away(self) -> None:
        self.sign_in("editor", f"/reviews/{self.scene.review.pk}/findings")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Draw another").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_role("button", name="Draw", exact=True).click()
            expect(dialog.get_by_role("alert")).to_contain_text("Choose what it is to be about")
            dialog.get_by_label("Against").select_option(label="20 W")
            dialog.get_by_role("button", name="Draw", exact=True).click()
            drawn = page.get_by_role("region", name="The finding")
            expect(drawn).to_contain_text("of 35 W come to")
            expect(page.get_by_role("list", name="Findings")).to_contain_text("drawn by Editor")
            drawn.get_by_role("button", name="Take away").click()
            expect(page.get_by_role("list", name="Findings")).not_to_contain_text("drawn by Editor")

        self.do(work)
        self.assertFalse(DrawnFinding.objects.exists())
        # The refused choice is told by the server with its status.
        self.assertTrue(all("422" in one for one in self.complaints), self.complaints)

    def test_what_is_missing_is_put_on_the_docket_by_one_act(self) -> None:
        self.sign_in("tester", f"/reviews/{self.scene.review.pk}/findings")
        self.scene.columns[1].passes.filter(test=self.scene.tests[0]).update(set_aside=True)
        Test.objects.update(stamp=1000)

        def work() -> None:
            page = self.page
            page.reload()
            page.get_by_role("button", name=re.compile("^cannot be told")).click()
            drawn = page.get_by_role("region", name="The finding")
            drawn.get_by_role("button", name=re.compile("^Put 3 passes on the docket")).click()
            expect(drawn).to_contain_text("3 passes wait on the docket already")

        self.do(work)
        self.assertEqual(Entry.objects.filter(state="owed").count(), 3)

    def test_a_picture_is_saved_with_its_sentence_and_the_table_as_csv(self) -> None:
        self.sign_in("reader", f"/reviews/{self.scene.review.pk}/findings")

        def work() -> tuple[str, str]:
            page = self.page
            drawn = page.get_by_role("region", name="The finding")
            expect(drawn).to_contain_text("Over 2 tests")
            drawn.get_by_role("button", name="Save picture, or copy it").click()
            with page.expect_download() as saved:
                page.get_by_role("menuitem", name="Save as SVG").click()
            with page.expect_download() as table:
                drawn.get_by_role("link", name="CSV").click()
            return (
                open(saved.value.path(), encoding="utf-8").read(),
                open(table.value.path(), encoding="utf-8-sig").read(),
            )

        svg, csv = self.do(work)
        self.assertIn("Over 2 tests, the averages of 20 W", svg)
        self.assertNotIn("var(--", svg)
        self.assertIn("over all tests", csv)
        self.assertIn("section 4", csv)

    def test_points_of_a_chart_are_read_by_keys(self) -> None:
        self.sign_in("reader", f"/reviews/{self.scene.review.pk}/findings")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name=re.compile("^sweep")).click()
            chart = page.get_by_role("region", name="The finding").get_by_role("img")
            chart.focus()
            page.keyboard.press("ArrowRight")
            expect(page.get_by_role("region", name="The finding").get_by_role("status")).to_contain_text(
                "20 W: 48.0 fps"
            )

        self.do(work)
        self.assertEqual(self.complaints, [])


class EconomyLens(BrowserTest):
    def test_it_is_opened_by_its_digit_and_says_what_is_missing(self) -> None:
        self.scene.owe()
        self.bench.deliver(steady(60.0))
        self.sign_in("reader", self.matrix_path)

        def work() -> None:
            page = self.page
            expect(page.get_by_role("grid")).to_be_visible()
            page.keyboard.press("5")
            expect(page).to_have_url(re.compile("lens=economy"))
            expect(page.get_by_role("grid")).to_contain_text("no power was recorded")
            expect(page.get_by_role("grid")).to_contain_text("note it on the shelf")

        self.do(work)
        self.assertEqual(self.complaints, [])


class ExpectationInTheBrief(BrowserTest):
    def test_it_is_said_in_a_form_and_held_against_what_is_found(self) -> None:
        self.scene.tests = list(self.scene.review.tests.all())
        for column, rate in ((0, 60.0), (1, 48.0)):
            self.scene.owe(column=column, count=2)
            for seed in (1, 2):
                self.bench.deliver(steady(rate, seed=seed))
        self.sign_in("editor", f"/reviews/{self.scene.review.pk}/brief")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Expect something that can be checked").click()
            form = page.get_by_role("form", name="Expect something")
            form.get_by_label("Configuration").select_option(label="20 W")
            form.get_by_label("Against").select_option(label="35 W")
            form.get_by_label("In which test").select_option(index=1)
            form.get_by_role("button", name="Expect it").click()
            said = page.get_by_role("list", name="Expectations in a form")
            expect(said).to_contain_text("20 W is level with")
            expect(said).to_contain_text("not held")
            page.get_by_role("link", name="Verdict").click()
            expect(page.get_by_role("list", name="Expectations in a form")).to_contain_text("not held")
            page.get_by_role("list", name="Expectations in a form").get_by_role("button", name="Remove").click()
            expect(page.get_by_text("The expectation is taken away.")).to_be_visible()
            expect(page.get_by_role("list", name="Expectations in a form")).to_have_count(0)

        self.do(work)
        self.assertEqual(Review.objects.get(pk=self.scene.review.pk).expectations, [])
        self.assertEqual(self.complaints, [])
