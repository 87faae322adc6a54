"""A tuning chain planned in the brief, and a ladder of presets, as whoever has no program on the machine does it."""

import re

from playwright.sync_api import expect

from nomothet.server.docket.models import Entry
from nomothet.server.ladders.models import Ladder
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.configurations import add_configuration
from nomothet.server.systems.models import Configuration, OwnSetting, System
from nomothet.server.systems.states import state_of
from tests.browser.base import BrowserTest


class Chain(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.dunlin = System.objects.create(key="dunlin", name="Dunlin")
        self.base = add_configuration(None, self.dunlin, name="as delivered")
        self.review = Review.objects.create(
            key="chain", question="Which step of tuning pays?", editor=self.scene.people["editor"]
        )
        Column.objects.create(
            review=self.review, configuration=self.base, position=0, label="as delivered", is_baseline=True
        )
        Test.objects.create(review=self.review, workload=self.scene.scene, position=0, shown=["average_fps"])

    def test_configurations_are_made_set_declared_and_completed_where_they_are_planned(self) -> None:
        self.sign_in("editor", f"/reviews/{self.review.pk}/brief")

        def make(base: str, name: str) -> None:
            dialog = self.page.get_by_role("dialog")
            dialog.get_by_role("button", name=f"like it, but …: one like {base}").click()
            dialog.get_by_label("Name of the new configuration").fill(name)
            self.page.keyboard.press("Enter")
            expect(dialog.get_by_role("button", name=f"like it, but …: one like {name}")).to_be_visible()

        def put(label: str, *values: str) -> None:
            page = self.page
            page.get_by_role("button", name="Set one more setting").click()
            page.get_by_label("Setting", exact=True).fill(label)
            for column, value in zip(("as delivered", "tuned", "both"), values, strict=True):
                page.get_by_label(f"{label} on {column}").fill(value)
            page.keyboard.press("Enter")
            expect(page.get_by_label("Setting", exact=True)).to_have_count(0)

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Add a configuration").first.click()
            make("as delivered", "tuned")
            make("tuned", "both")
            page.get_by_role("button", name="Done").click()
            put("memory speed", "4800", "6000", "6000")
            put("first memory timing", "40", "30", "30")
            put("power limit", "65", "65", "88")
            page.get_by_role("button", name="declare several as one factor").click()
            dialog = page.get_by_role("dialog")
            for label in ("memory speed", "first memory timing"):
                dialog.get_by_label(label, exact=True).check()
            dialog.get_by_label("What it is called").fill("memory tuning")
            dialog.get_by_role("button", name="Declare it").click()
            expect(dialog).to_have_count(0)
            page.get_by_role("button", name="declare as factor").click()
            check = page.get_by_role("region", name="Plan check")
            expect(check).to_contain_text("Missing: power limit 88 W alone")
            check.get_by_role("button", name="Add what is missing").click()
            expect(page.get_by_role("columnheader", name=re.compile("power limit 88 W"))).to_be_visible()
            expect(check).not_to_contain_text("Missing")

        self.do(work)
        made = Configuration.objects.get(name__contains="power limit")
        self.assertEqual(state_of(made).settings, {"memory_mts": 4800, "memory_cas": 40, "power_limit_w": 88})
        self.assertEqual(self.complaints, [])

    def test_a_setting_that_nobody_knows_is_defined_on_the_spot_and_a_form_left_by_accident_comes_back(self) -> None:
        self.sign_in("editor", f"/reviews/{self.review.pk}/brief")

        def work() -> None:
            page = self.page
            page.get_by_role("button", name="Set one more setting").click()
            page.get_by_label("Setting", exact=True).fill("Game mode")
            page.get_by_role("button", name="define “Game mode”").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("How one sees that it holds").fill("the sign beside the clock")
            dialog.get_by_label("Acts on").select_option("graphics")
            page.keyboard.press("Escape")
            expect(dialog).to_have_count(0)
            page.get_by_role("button", name="define “Game mode”").click()
            expect(dialog.get_by_text("What you had typed here before is back.")).to_be_visible()
            expect(dialog.get_by_label("How one sees that it holds")).to_have_value("the sign beside the clock")
            expect(dialog.get_by_label("Acts on")).to_have_value("graphics")
            dialog.get_by_role("button", name="Define it").click()
            expect(dialog).to_have_count(0)
            page.get_by_label("Game mode on as delivered").select_option("on")
            page.get_by_role("button", name="Set it", exact=True).click()
            expect(page.get_by_text("Game mode on", exact=False).first).to_be_visible()

        self.do(work)
        own = OwnSetting.objects.get()
        self.assertEqual((own.key, own.verify), ("own.graphics.system.Game mode", "the sign beside the clock"))
        self.assertEqual(state_of(Configuration.objects.get(pk=self.base.pk)).settings, {own.key: "on"})
        self.assertEqual(self.complaints, [])


class LadderInTheBrief(BrowserTest):
    def test_a_ladder_is_made_tried_downwards_and_undone(self) -> None:
        review = self.scene.review
        for at, preset in enumerate(("high", "low")):
            Test.objects.create(
                review=review, workload=self.scene.scene, position=5 + at, detail=preset, shown=["average_fps"],
                settings={"preset": preset},
            )  # fmt: skip
        self.sign_in("editor", f"/reviews/{review.pk}/brief")

        def work() -> None:
            page = self.page
            section = page.get_by_role("region", name="Ladders")
            section.get_by_role("button", name="Make a ladder").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("high").check()
            dialog.get_by_label("low").check()
            expect(dialog.get_by_text("rung 2")).to_be_visible()
            dialog.get_by_label("What it is called").fill("presets")
            dialog.get_by_role("button", name="Make it of 2 tests").click()
            expect(section.get_by_role("row", name=re.compile("presets"))).to_be_visible()
            section.get_by_role("button", name="try it downwards").click()
            expect(section.get_by_text("on the docket").first).to_be_visible()
            section.get_by_role("button", name="no ladder").click()
            expect(section.get_by_role("row", name=re.compile("presets"))).to_have_count(0)
            page.get_by_role("button", name="Undo").last.click()
            expect(section.get_by_role("row", name=re.compile("presets"))).to_be_visible()

        self.do(work)
        self.assertEqual(Ladder.objects.get().name, "presets")
        self.assertEqual({entry.test.detail for entry in Entry.objects.all()}, {"high"})
        self.assertEqual(self.complaints, [])
