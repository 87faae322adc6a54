"""Setting up in the browser: shelf, slot map, brief, docket, reading rules."""

import re

from playwright.sync_api import Page, expect

from nomothet.server.reviews.models import Review
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.models import Configuration, Observation, System
from tests.browser.base import BrowserTest
from tests.server.setting_up import SLOTS, kit


class SettingUpScreens(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.heron = System.objects.create(key="heron", name="Heron", slot_map=SLOTS)
        self.small, self.large = kit("two of 8", 2, 8, 4800), kit("two of 16", 2, 16, 5600)
        fitted = {"slot A2": {"part": self.small.pk, "module": 1}, "slot B2": {"part": self.small.pk, "module": 2}}
        settings = {"memory_mts": 4800, "fan_profile": 2}
        self.base = add_configuration(None, self.heron, name="as set up", settings=settings, fitted=fitted)

    def test_a_part_with_a_mistaken_unit_is_explained_and_then_added_with_its_price(self) -> None:
        self.sign_in("tester", "/shelf")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Add a part").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("Name", exact=True).fill("one of 32")
            dialog.get_by_label("rated speed", exact=True).fill("5.6")
            dialog.get_by_role("button", name="Add", exact=True).click()
            expect(dialog.get_by_role("alert")).to_contain_text("another unit")
            dialog.get_by_label("rated speed", exact=True).fill("5.6 GT/s")
            dialog.get_by_label("first timing", exact=True).fill("36")
            dialog.get_by_role("button", name="Add", exact=True).click()
            pane = page.get_by_role("complementary", name="one of 32")
            expect(pane).to_contain_text("44.8 GB/s")
            expect(pane).to_contain_text("12.9 ns")
            pane.get_by_role("button", name="Add a price").click()
            pane.get_by_label("Amount").fill("81.50")
            pane.get_by_role("button", name="Add", exact=True).click()
            expect(pane).to_contain_text("81.50 EUR")
            pane.get_by_role("button", name="History").click()
            expect(page.get_by_role("dialog")).to_contain_text("price added by Tester")
            page.keyboard.press("Escape")
            page.get_by_role("searchbox").fill("of 32")
            expect(page.get_by_role("status").first).to_contain_text("1 part")

        self.do(work)

    def test_modules_are_put_into_slots_by_keyboard_and_by_mouse(self) -> None:
        self.sign_in("tester", f"/systems/{self.heron.pk}")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="The same, but").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("Name", exact=True).fill("one channel")
            amount = dialog.get_by_role("status", name="Memory")
            expect(amount).to_contain_text("2 of 2 channels in use")
            slot = dialog.get_by_role("button", name=re.compile("Slot A1"))
            slot.focus()
            page.keyboard.press("Enter")
            expect(page.get_by_role("menuitem").first).to_be_focused()
            page.keyboard.press("End")
            expect(page.get_by_role("menuitem", name="two of 8, no. 2")).to_be_focused()
            page.keyboard.press("Enter")
            expect(amount).to_contain_text("1 of 2 channels in use")
            expect(amount).to_contain_text("Put them into A2 and B2.")
            expect(dialog.get_by_role("button", name="Slot A1: two of 8, no. 2, marked")).to_be_visible()
            dialog.get_by_text("two of 16, no. 1", exact=True).drag_to(
                dialog.get_by_role("button", name="Slot B1: empty")
            )
            expect(amount).to_contain_text("modules of several kits", ignore_case=True)
            dialog.get_by_role("button", name=re.compile("Slot B1")).click()
            page.get_by_role("menuitem", name="empty").click()
            dialog.get_by_role("button", name="Add it").click()
            shown = page.get_by_role("region", name="one channel")
            expect(shown).to_contain_text("The same as as set up, but slot B2 empty")
            expect(shown).to_contain_text("only 1 channel of 2")

        self.do(work)
        made = Configuration.objects.get(name="one channel")
        self.assertEqual(made.base_id, self.base.pk)
        self.assertEqual({f.place: f.part_id for f in made.fittings.all()}, {"slot A1": self.small.pk, "slot B2": None})
        self.assertEqual(self.complaints, [])

    def test_a_review_is_planned_from_its_question_to_a_sound_plan(self) -> None:
        fitted = {"slot A2": {"part": self.large.pk, "module": 1}, "slot B2": {"part": self.large.pk, "module": 2}}
        add_configuration(None, self.heron, name="large", base=self.base, settings={"fan_profile": 3}, fitted=fitted)
        self.scene.suite.settings = [{"key": "size", "label": "size", "values": ["small", "large"]}]
        self.scene.suite.save()
        self.sign_in("editor", "/reviews")

        def begin(page: Page) -> None:
            page.get_by_role("button", name="Ask a question").click()
            page.get_by_label("The question").fill("Is the large kit worth its price?")
            page.get_by_label("What do you expect?").fill("Hardly.")
            page.get_by_role("button", name="Begin the review").click()
            check = page.get_by_role("region", name="Plan check")
            expect(check).to_contain_text("a review needs two configurations")
            check.get_by_role("button", name="Add a configuration").click()
            for name in ("as set up", "large"):
                page.get_by_role("button", name=f"Add {name}", exact=True).click()
                expect(page.get_by_role("button", name=f"Add {name}", exact=True)).to_have_count(0)
            page.get_by_role("button", name="Done").click()

        def mend(page: Page) -> None:
            table = page.get_by_role("region", name="Configurations")
            expect(table).to_contain_text("2 undeclared")
            kit_row = table.get_by_role("row", name=re.compile("^memory kit"))
            kit_row.get_by_role("button", name="declare as factor").click()
            expect(page.get_by_role("region", name="Factors")).to_contain_text("two of 16")
            fan = table.get_by_role("row", name=re.compile("^fan profile"))
            fan.get_by_role("button", name="accept with a caveat").click()
            page.get_by_label("What it may do").fill("the louder fan may cool better")
            page.get_by_role("button", name="Accept with this caveat").click()
            expect(table).to_contain_text("accepted: the louder fan may cool better")
            page.get_by_role("button", name="Undo").last.click()
            expect(table).to_contain_text("1 undeclared")
            fan.get_by_role("button", name="Make fan profile equal").click()
            page.get_by_role("menuitem", name="2, as on as set up").click()
            expect(table).to_contain_text("all declared or accepted")

        def fill(page: Page) -> None:
            page.get_by_role("button", name="Add tests").first.click()
            page.get_by_role("button", name="From one workload, by choice").click()
            page.get_by_role("dialog").get_by_role("combobox").first.select_option(
                label="Loom 4, suite with named part scores"
            )
            page.get_by_label("small", exact=True).check()
            page.get_by_label("large", exact=True).check()
            page.get_by_role("button", name="Add 2 tests").click()
            tests = page.get_by_role("region", name="Tests")
            expect(tests.get_by_role("listitem")).to_have_count(2)
            tests.get_by_role("button", name="Move Loom, large up").click()
            expect(tests.get_by_role("listitem").first).to_contain_text("large")
            check = page.get_by_role("region", name="Plan check")
            check.get_by_role("button", name="Measure it again at the end").click()
            expect(check).to_contain_text("Nothing speaks against this plan.")
            expect(check).to_contain_text("12 passes")

        for step in (begin, mend, fill):
            self.do(lambda step=step: step(self.page))
        review = Review.objects.get(question="Is the large kit worth its price?")
        self.assertTrue(review.returns_to_baseline)
        self.assertEqual(self.complaints, [])

    def test_a_table_from_a_spreadsheet_is_shown_before_it_is_stored(self) -> None:
        self.sign_in("editor", f"/reviews/{self.scene.review.pk}/brief")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Paste a table").click()
            dialog = page.get_by_role("dialog")
            table = dialog.get_by_label("The table")
            table.fill("\t35 W\t20 W\nfan profile\t2\tquick")
            dialog.get_by_role("button", name="See what would change").click()
            expect(dialog.get_by_role("status")).to_contain_text("1 value would change")
            dialog.get_by_role("button", name="Make these changes").click()
            expect(page.get_by_role("region", name="Configurations")).to_contain_text("quick")
            cell = page.get_by_role("button", name=re.compile("power limit on 20 W"))
            cell.click()
            page.get_by_label("power limit on 20 W", exact=True).fill("-4")
            page.keyboard.press("Enter")
            expect(page.get_by_role("status").last).to_contain_text("another unit")
            cell.click()
            page.get_by_label("power limit on 20 W", exact=True).fill("22")
            page.keyboard.press("Enter")
            expect(cell).to_contain_text("22 W")

        self.do(work)

    def test_the_docket_at_the_machine_is_ticked_on_a_phone(self) -> None:
        review = self.scene.new_review("cabinet", "What does the cabinet cost?")
        System.objects.filter(pk=self.scene.system.pk).update(changes_by="tester", on_mismatch="stop")
        self.scene.review, self.scene.columns = review, list(review.columns.all())
        self.scene.tests = list(review.tests.all())
        self.scene.owe(count=1)
        self.page = self.new_page()
        self.do(lambda: self.page.set_viewport_size({"width": 390, "height": 844}))
        self.sign_in("tester", f"/systems/{self.scene.system.pk}/docket")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Begin the change").click()
            limit = page.get_by_role("listitem").filter(has_text="Set power limit to 35 W").last
            limit.get_by_label("read off the machine").fill("30")
            limit.get_by_role("button", name="Note").click()
            expect(limit).to_contain_text("35 W was to be seen")
            limit.get_by_label("read off the machine").fill("35 W")
            limit.get_by_role("button", name="Note").click()
            expect(limit).to_contain_text("Tester")
            boxes = page.get_by_role("checkbox")
            for at in range(boxes.count()):
                if not boxes.nth(at).is_checked():
                    boxes.nth(at).click()
                    expect(page.get_by_text(re.compile("is Wren at 35 W")).or_(boxes.nth(at))).to_be_visible()
            expect(page.get_by_text(re.compile("is Wren at 35 W"))).to_be_visible()
            width = page.evaluate("document.documentElement.scrollWidth")
            assert width <= 390, width

        self.do(work)
        self.assertEqual(self.bench.take()[1]["configuration"]["name"], "Wren at 35 W")

    def test_a_stopped_docket_says_why_and_goes_on_when_asked(self) -> None:
        System.objects.filter(pk=self.scene.system.pk).update(on_mismatch="stop", present=self.scene.configurations[0])
        Observation.objects.create(configuration=self.scene.configurations[0], key="power_limit_w", value=20)
        self.scene.owe(count=1)
        self.sign_in("tester", f"{self.matrix_path}?lens=progress")

        def work() -> None:
            docket = self.page.get_by_role("complementary", name="Docket")
            expect(docket.get_by_role("alert")).to_contain_text("power limit is set to 35 W and 20 W was observed")
            docket.get_by_label("Or go on").fill("the firmware takes no more")
            docket.get_by_role("button", name="Go on").click()
            expect(docket.get_by_role("alert")).to_have_count(0)

        self.do(work)
        self.assertNotEqual(self.bench.take()[1], {})

    def test_a_reading_rule_marks_what_it_finds(self) -> None:
        self.sign_in("editor", "/workloads")

        def work() -> None:
            page = self.page
            rules = page.get_by_role("region", name="Reading rules")
            rules.get_by_label("Sample").fill("tour average: 61.5 fps\n")
            rules.get_by_role("textbox", name=re.compile("^Expression")).fill("average: (?P<average_fps>[0-9.]+")
            rules.get_by_role("button", name="Try it").click()
            expect(rules.get_by_role("alert")).to_contain_text("RE2")
            rules.get_by_role("textbox", name=re.compile("^Expression")).fill("average: (?P<average_fps>[0-9.]+)")
            rules.get_by_role("button", name="Try it").click()
            expect(rules.get_by_label("Found", exact=True)).to_contain_text("average_fps: 61.5")
            expect(rules.locator("mark")).to_have_text("61.5")

        self.do(work)
