"""The places of setting up: what they say when empty, whom they offer what, and acts with a way back."""

import re

from playwright.sync_api import expect

from nomothet.server.reviews.models import Review
from nomothet.server.shelf.models import Part
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.models import System
from nomothet.server.workloads.models import Workload
from tests.browser.base import BrowserTest
from tests.server.base import steady
from tests.server.setting_up import SLOTS, kit


class Places(BrowserTest):
    def fill(self) -> None:
        """One pass of the baseline."""
        self.scene.owe()
        self.bench.deliver(steady(60))

    def test_empty_places_say_what_to_do_first(self) -> None:
        Review.objects.all().delete()
        Workload.objects.all().delete()
        self.sign_in("reader", "/shelf")

        def work() -> None:
            page = self.page
            expect(page.get_by_text("The shelf is empty.")).to_be_visible()
            page.get_by_role("link", name="Workloads").click()
            expect(page.get_by_text("No workload yet.")).to_be_visible()
            page.goto(f"/systems/{self.scene.system.pk}/docket")
            expect(page.get_by_text("No pass is owed on Wren.")).to_be_visible()

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_a_reader_is_shown_everything_and_offered_no_act(self) -> None:
        part = kit("two of 8", 2, 8, 4800)
        self.scene.owe()
        self.sign_in("reader", f"/shelf?part={part.pk}")
        places = (
            (f"/shelf?part={part.pk}", "two of 8", ("Add a part", "Edit", "Duplicate", "Archive", "Add a price")),
            ("/workloads", "Reef Walk 2", ("Add a workload", "Edit", "New edition", "Archive")),
            (f"/systems/{self.scene.system.pk}", "Wren at 35 W", ("Add one", "Edit the system", "The same, but …")),
            (f"/systems/{self.scene.system.pk}/docket", "Wren at 35 W", ("Begin the change", "take off")),
            (f"/reviews/{self.scene.review.pk}/brief", "Plan check", ("Add tests", "Paste a table", "no longer")),
            ("/reviews", "How little power", ("Ask a question",)),
        )

        def look(path: str, words: str, acts: tuple[str, ...]) -> None:
            self.page.goto(path)
            expect(self.page.get_by_text(words).first).to_be_visible()
            for act in acts:
                expect(self.page.get_by_role("button", name=act, exact=True)).to_have_count(0)

        for path, words, acts in places:
            with self.subTest(path=path):
                self.do(lambda p=path, w=words, a=acts: look(p, w, a))
        self.assertEqual(self.complaints, [])

    def test_keys_lead_to_the_places_and_into_the_search(self) -> None:
        kit("two of 8", 2, 8, 4800)
        kit("two of 16", 2, 16, 5600)
        self.sign_in("reader")

        def work() -> None:
            page = self.page
            page.keyboard.press("g")
            page.keyboard.press("w")
            expect(page.get_by_role("heading", name="Workloads")).to_be_visible()
            page.keyboard.press("g")
            page.keyboard.press("h")
            expect(page.get_by_role("heading", name="Shelf")).to_be_visible()
            expect(page.get_by_role("button", name="two of 16")).to_be_visible()
            page.keyboard.press("/")
            expect(page.get_by_role("searchbox")).to_be_focused()
            page.keyboard.type("16")
            expect(page.get_by_role("button", name="two of 16")).to_be_visible()
            expect(page.get_by_role("button", name="two of 8", exact=True)).to_have_count(0)
            page.keyboard.press("Control+a")
            page.keyboard.type("anvil")
            expect(page.get_by_text("Nothing on the shelf fits.")).to_be_visible()

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_the_sheet_of_keys_is_printed_whole_and_alone(self) -> None:
        self.sign_in("reader", "/shelf")

        def work() -> None:
            page = self.page
            expect(page.get_by_role("heading", name="Shelf")).to_be_visible()
            page.keyboard.press("?")
            sheet = page.get_by_role("dialog", name="Keys and words")
            expect(sheet.get_by_role("button", name="print this sheet")).to_be_visible()
            page.emulate_media(media="print")
            expect(page.locator("#root")).to_be_hidden()
            expect(sheet.get_by_role("button", name="print this sheet")).to_be_hidden()
            cut = sheet.evaluate(
                "one => one.scrollHeight > one.clientHeight + 1 || one.getBoundingClientRect().top < 0"
            )
            self.assertFalse(cut)
            page.emulate_media(media="screen")
            expect(page.locator("#root")).to_be_visible()

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_a_part_is_archived_and_brought_back_by_undo(self) -> None:
        part = kit("two of 8", 2, 8, 4800)
        self.sign_in("tester", f"/shelf?part={part.pk}")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Archive", exact=True).click()
            expect(page.get_by_text("The shelf is empty.")).to_be_visible()
            page.get_by_role("button", name="Undo").click()
            expect(page.get_by_role("cell", name="two of 8")).to_be_visible()

        self.do(work)
        self.assertIsNone(Part.objects.get().archived_at)

    def test_a_list_is_imported_or_explained(self) -> None:
        self.sign_in("tester", "/shelf")

        def work() -> None:
            page = self.page
            picker = page.get_by_label("File to import")
            wrong = "kind,name,attribute,value,source\ndisplay,wall,refresh_hz,fast,label\n"
            picker.set_input_files({"name": "a.csv", "mimeType": "text/csv", "buffer": wrong.encode()})
            expect(page.get_by_role("status").last).to_contain_text("row 2")
            expect(page.get_by_role("status").last).to_contain_text("Nothing was imported")
            right = wrong.replace("fast", "60")
            picker.set_input_files({"name": "b.csv", "mimeType": "text/csv", "buffer": right.encode()})
            expect(page.get_by_role("status").last).to_contain_text("1 object added")
            expect(page.get_by_role("cell", name="wall")).to_be_visible()

        self.do(work)

    def test_a_slot_map_is_edited_and_a_mistake_in_it_named(self) -> None:
        heron = System.objects.create(key="heron", name="Heron", slot_map=SLOTS)
        self.sign_in("tester", f"/systems/{heron.pk}")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Edit the system").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_role("button", name="One more slot").click()
            dialog.get_by_label("Name of slot 5").fill("A1")
            dialog.get_by_label("Channel of slot 5").fill("C")
            dialog.get_by_role("button", name="Save").click()
            expect(dialog.get_by_role("alert")).to_contain_text("Two slots have the name A1")
            dialog.get_by_label("Name of slot 5").fill("C1")
            dialog.get_by_label("Pre-run checks").fill("It is cool. | temperature at most 45 °C")
            dialog.get_by_role("button", name="Save").click()
            expect(page.get_by_role("dialog")).to_have_count(0)
            expect(page.get_by_text("5 memory slots")).to_be_visible()
            expect(page.get_by_text("It is cool. At most 45 °C.")).to_be_visible()

        self.do(work)
        heron.refresh_from_db()
        self.assertEqual(heron.checks[0]["reading"], "temperature")
        self.assertEqual((heron.checks[0]["at_most"], heron.checks[0]["unit"]), (45, "°C"))

    def test_a_frozen_configuration_becomes_a_revision(self) -> None:
        self.fill()
        self.sign_in("tester", f"/systems/{self.scene.system.pk}")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name=re.compile("^Wren at 35 W")).click()
            page.get_by_role("button", name="Edit", exact=True).click()
            dialog = page.get_by_role("dialog")
            expect(dialog).to_contain_text("this makes a revision")
            dialog.get_by_label("power limit", exact=True).fill("33 W")
            dialog.get_by_role("button", name="Make the revision").click()
            shown = page.get_by_role("region", name="Wren at 35 W, revision 2")
            expect(shown).to_contain_text("33 W")

        self.do(work)

    def test_a_blocked_configuration_keeps_its_reason_until_it_can_be_built(self) -> None:
        blocked = "the card is longer than the case"
        add_configuration(None, self.scene.system, name="long card", base=self.scene.configurations[0], blocked=blocked)
        self.sign_in("tester", f"/systems/{self.scene.system.pk}")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name=re.compile("^long card")).click()
            shown = page.get_by_role("region", name="long card")
            expect(shown).to_contain_text(blocked)
            shown.get_by_role("button", name="Mark as buildable").click()
            expect(shown).not_to_contain_text("Cannot be built")

        self.do(work)

    def test_a_review_is_duplicated_archived_and_brought_back(self) -> None:
        self.sign_in("editor")

        def work() -> None:
            page = self.page
            menu = page.get_by_role("button", name=re.compile("what can be done"))
            menu.first.click()
            page.get_by_role("menuitem", name="Duplicate its plan").click()
            expect(page.get_by_role("heading", name=re.compile(r"\(again\)"))).to_be_visible()
            page.get_by_role("link", name="Reviews", exact=True).click()
            number = page.get_by_role("search").get_by_role("status")
            expect(number).to_have_text("2 reviews")
            menu.last.click()
            page.get_by_role("menuitem", name="Archive it").click()
            expect(number).to_have_text("1 review")
            page.get_by_role("button", name="Undo").click()
            expect(number).to_have_text("2 reviews")

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_an_edition_is_made_and_fixed_fields_are_explained(self) -> None:
        self.fill()
        self.sign_in("editor", f"/workloads?workload={self.scene.scene.pk}")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Edit", exact=True).click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("Procedure in a sentence").fill("another way")
            dialog.get_by_role("button", name="Save").click()
            expect(dialog.get_by_role("alert")).to_contain_text("Make a new edition")
            dialog.get_by_role("button", name="Leave as it is").click()
            page.get_by_role("button", name="New edition").click()
            page.get_by_label("Version").fill("2.4")
            page.get_by_role("button", name="Make it").click()
            made = page.get_by_role("region", name="Reef Walk 2 2.4")
            expect(made).to_contain_text("never compared with this one")

        self.do(work)

    def test_a_factor_that_is_no_setting_is_named_with_its_levels(self) -> None:
        self.sign_in("editor", f"/reviews/{self.scene.review.pk}/brief")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="A factor that is no setting").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("Its name").fill("hall")
            dialog.get_by_label("Level of 35 W").fill("north")
            dialog.get_by_label("Level of 20 W").fill("south")
            dialog.get_by_role("button", name="Declare it").click()
            factors = page.get_by_role("region", name="Factors")
            expect(factors).to_contain_text("south")
            expect(page.get_by_role("region", name="Plan check")).to_contain_text(
                "power limit and hall change together"
            )
            page.get_by_role("button", name="Undo").click()
            expect(factors).not_to_contain_text("south")

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_a_test_is_edited_in_place(self) -> None:
        self.sign_in("editor", f"/reviews/{self.scene.review.pk}/brief")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Edit Reef Walk 2, kelp tunnel").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("Warm-up cut in s").fill("5")
            dialog.get_by_label("0.1 % low").check()
            dialog.get_by_role("button", name="Save").click()
            expect(page.get_by_role("region", name="Tests")).to_contain_text("The first 5 s are cut.")

        self.do(work)
        test = self.scene.review.tests.first()
        assert test is not None
        self.assertEqual((test.skip_s, test.shown), (5, ["average_fps", "low_1pct", "low_01pct"]))
