"""The main path in a browser: sign in, watch, compare, set aside, import, publish, read."""

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import expect

from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Column, Test
from nomothet.server.systems.commands import issue_demo_token
from nomothet.server.systems.models import Configuration, System
from nomothet.server.workloads.models import Workload
from tests.browser.base import BrowserTest
from tests.server.base import steady


class Screens(BrowserTest):
    def fill(self) -> None:
        for column, rate in ((0, 60.0), (1, 54.0)):
            self.scene.owe(column=column, count=3)
            for seed in range(3):
                self.bench.deliver(steady(rate + seed / 10, seed=seed))

    def test_signing_in_and_finding_the_question(self) -> None:
        def work() -> None:
            page = self.page
            page.goto("/reviews")
            page.get_by_label("Name").fill("reader")
            page.get_by_label("Password").fill("wrong")
            # The browser tells of the refusal, which may come after the page does.
            with page.expect_console_message(lambda message: "401" in message.text):
                page.get_by_role("button", name="Sign in").click()
            expect(page.get_by_role("alert")).to_contain_text("Wrong name or password")

        self.do(work)
        self.complaints.clear()
        self.sign_in("reader")

        def read() -> None:
            page = self.page
            page.get_by_role("link", name="How little power").click()
            expect(page).to_have_url(re.compile("/matrix"))
            expect(page.get_by_role("heading", level=1)).to_contain_text("How little power")
            expect(page.get_by_role("button", name="Ask for passes")).to_have_count(0)
            # What is asked for while somebody signs out is refused.
            page.wait_for_load_state("networkidle")
            page.get_by_role("button", name="Reader").click()
            page.get_by_role("menuitem", name=re.compile("Sign out")).click()
            expect(page.get_by_label("Password")).to_be_visible()

        self.do(read)
        self.assertEqual(self.complaints, [])

    def test_a_pass_arrives_live_without_a_reload(self) -> None:
        self.sign_in("tester", f"{self.matrix_path}?lens=progress")

        def ask() -> None:
            page = self.page
            page.get_by_role("button", name="Ask for passes").first.click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_role("checkbox", name=re.compile("Loom")).uncheck()
            dialog.get_by_role("checkbox", name=re.compile("20 W")).uncheck()
            dialog.get_by_label("Passes for each cell").fill("2")
            dialog.get_by_role("button", name="Ask for 2 passes").click()
            cell = page.get_by_role("gridcell", name="Reef Walk 2, kelp tunnel, on 35 W")
            expect(cell.get_by_role("img", name="owed")).to_have_count(2)
            page.evaluate("window.unbroken = true")

        self.do(ask)
        entry = self.bench.take()
        progress = {"phase": "second lap", "elapsed_s": 10.0, "left_s": 50.0, "readings": {"frame rate": 59.5}}
        self.bench.send("post", f"/docket/{entry[1]['entry']}/progress", progress)

        def watch() -> None:
            cell = self.page.get_by_role("gridcell", name="Reef Walk 2, kelp tunnel, on 35 W")
            expect(cell).to_contain_text("second lap · 50 s left")
            docket = self.page.get_by_label("Docket")
            expect(docket).to_contain_text("59.5 fps")

        self.do(watch)
        self.bench.deliver(steady(60))

        def arrived() -> None:
            page = self.page
            cell = page.get_by_role("gridcell", name="Reef Walk 2, kelp tunnel, on 35 W")
            expect(cell.get_by_role("img", name="pass 2: kept")).to_be_visible()
            page.keyboard.press("2")
            row = page.get_by_role("gridcell", name=re.compile("kelp tunnel · average, on 35 W"))
            expect(row).to_contain_text("60.0 fps")
            self.assertTrue(page.evaluate("window.unbroken"))

        self.do(arrived)
        self.assertEqual(self.complaints, [])

    def test_lenses_cells_and_the_pane_by_keyboard(self) -> None:
        self.fill()
        self.sign_in("editor", self.matrix_path)

        def work() -> None:
            page = self.page
            page.get_by_role("grid").wait_for()
            for key, lens in (("1", "progress"), ("2", "figures"), ("3", "versus")):
                page.keyboard.press(key)
                expect(page).to_have_url(re.compile(f"lens={lens}"))
            versus = page.get_by_role("gridcell", name=re.compile("average, on 20 W"))
            expect(versus).to_contain_text("−10.0 %")
            expect(versus).to_contain_text("behind")
            page.get_by_role("gridcell", name=re.compile("average, on 35 W")).focus()
            page.keyboard.press("ArrowRight")
            expect(versus).to_be_focused()
            page.keyboard.press("Enter")
            pane = page.get_by_role("region", name="Cell")
            expect(pane).to_contain_text("20 W against 35 W: average 10.0 % lower")
            expect(pane.get_by_role("img", name=re.compile("Frame time over the run"))).to_be_visible()
            versus.focus()
            page.keyboard.press("ArrowLeft")
            expect(page.get_by_role("gridcell", name=re.compile("average, on 35 W"))).to_be_focused()
            page.keyboard.press("Space")
            expect(page).to_have_url(re.compile(r"cells=[^&]+(%2C|,)"))
            both = re.compile("20 W, pass 3: 2000 frames.*35 W, pass 3: 2000 frames")
            expect(pane.get_by_role("img", name=both)).to_be_visible()
            page.keyboard.press("b")
            versus.focus()
            page.keyboard.press("b")
            expect(page).to_have_url(re.compile("baseline="))
            expect(page.get_by_role("gridcell", name=re.compile("average, on 35 W"))).to_contain_text("+11.1 %")
            page.keyboard.press("Escape")
            expect(pane).to_have_count(0)
            page.keyboard.press("?")
            expect(page.get_by_role("dialog", name="Keys")).to_contain_text("lens")
            page.keyboard.press("Escape")
            expect(page.get_by_role("dialog")).to_have_count(0)

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_the_focus_stays_on_a_cell_whatever_lens_shows_it(self) -> None:
        self.fill()
        self.sign_in("editor", f"{self.matrix_path}?lens=progress")

        def work() -> None:
            page = self.page
            row = page.get_by_role("gridcell", name=re.compile("kelp tunnel.*, on 35 W"))
            row.first.focus()
            for key, lens in (("2", "figures"), ("3", "versus"), ("1", "progress"), ("2", "figures")):
                page.keyboard.press(key)
                expect(page.get_by_role("grid", name=re.compile(f" {lens}$"))).to_be_visible()
                expect(row.first).to_be_focused()
            # One key right after the other: neither undoes what the first one did.
            page.keyboard.press("3")
            page.keyboard.press("Enter")
            expect(page.get_by_role("region", name="Cell")).to_be_visible()
            expect(page).to_have_url(re.compile(r"lens=versus.*cells=\d+\.average"))

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_a_stretch_of_the_trace_is_zoomed_and_left_again(self) -> None:
        self.fill()
        test, column = self.scene.tests[0].pk, self.scene.columns[0].pk
        self.sign_in("reader", f"{self.matrix_path}?cells={test}.average_fps.{column}")

        def work() -> None:
            page = self.page
            plot = page.locator(".u-over").first
            box = plot.bounding_box()
            assert box is not None
            middle = box["y"] + box["height"] / 2
            with page.expect_request(re.compile("/trace.*from=")):
                page.mouse.move(box["x"] + 0.3 * box["width"], middle)
                page.mouse.down()
                page.mouse.move(box["x"] + 0.5 * box["width"], middle, steps=5)
                page.mouse.up()
            page.mouse.move(box["x"] + 0.4 * box["width"], middle, steps=3)
            expect(page.get_by_text(re.compile(r"\d s · A: \d"))).to_be_visible()
            page.get_by_role("button", name="whole run").click()
            with page.expect_request(re.compile("/trace.*from=")):
                page.get_by_role("button", name="Zoom in").click()

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_setting_aside_moves_the_figures_and_taking_back_returns_them(self) -> None:
        self.scene.owe(count=3)
        for rate in (60.0, 60.0, 50.0):
            self.bench.deliver(steady(rate))
        test, column = self.scene.tests[0].pk, self.scene.columns[0].pk
        self.sign_in("tester", f"{self.matrix_path}?lens=figures&cells={test}.average_fps.{column}")

        def work() -> None:
            page = self.page
            cell = page.get_by_role("gridcell", name=re.compile("average, on 35 W"))
            expect(cell).to_contain_text("56.5 fps")
            page.get_by_role("button", name="set aside").nth(2).click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("Why").fill("an update ran")
            dialog.get_by_role("button", name="Set aside").click()
            expect(cell).to_contain_text("60.0 fps")
            pane = page.get_by_role("region", name="Cell")
            expect(pane).to_contain_text("Set aside by Tester: an update ran")
            page.get_by_role("button", name="Undo").click()
            expect(cell).to_contain_text("56.5 fps")
            expect(pane).to_contain_text("Taken back by Tester")

        self.do(work)
        self.assertEqual(self.complaints, [])

    def test_a_wrong_file_is_explained_and_a_right_one_becomes_a_pass(self) -> None:
        self.sign_in("tester", f"{self.matrix_path}?lens=progress")
        with tempfile.TemporaryDirectory() as folder:
            wrong = Path(folder) / "wrong.csv"
            wrong.write_text("frame_ms\n16.5\nsixteen\n")
            right = Path(folder) / "right.csv"
            right.write_text("frame_ms\n" + "16.5\n" * 100)

            def work() -> None:
                page = self.page
                cell = page.get_by_role("gridcell", name="Reef Walk 2, kelp tunnel, on 20 W")
                self.drop(wrong)
                dialog = page.get_by_role("dialog")
                expect(dialog).to_contain_text("wrong.csv was not taken")
                expect(dialog).to_contain_text("Row 3 of the file")
                expect(dialog).to_contain_text("'sixteen' is not a number")
                dialog.get_by_role("button", name="Close").click()
                expect(cell).to_contain_text("not asked for")
                self.drop(right)
                expect(cell.get_by_role("img", name="pass 1: kept")).to_be_visible()

            self.do(work)
        self.assertEqual(Pass.objects.count(), 1)
        self.assertTrue(all("422" in complaint for complaint in self.complaints), self.complaints)

    def drop(self, path: Path) -> None:
        """Drop a file on the cell of the scene at 20 W."""
        page = self.page
        data = page.evaluate_handle(
            """([name, text]) => {
                const data = new DataTransfer();
                data.items.add(new File([text], name, { type: "text/csv" }));
                return data;
            }""",
            [path.name, path.read_text()],
        )
        cell = page.get_by_role("gridcell", name="Reef Walk 2, kelp tunnel, on 20 W")
        for event in ("dragover", "drop"):
            cell.dispatch_event(event, {"dataTransfer": data})

    def test_two_editors_of_one_brief_see_each_other(self) -> None:
        self.sign_in("editor", f"/reviews/{self.scene.review.pk}/brief")

        def begin() -> None:
            self.page.get_by_role("button", name="Edit the brief").click()
            self.page.get_by_label("Expected before").fill("a loss at 20 W")
            self.page.get_by_label("For", exact=True).fill("schools")

        self.do(begin)
        review = self.scene.review
        review.expectation, review.version = "no loss at all", 2
        review.save()

        def save() -> None:
            page = self.page
            page.get_by_role("button", name="Save").click()
            expect(page.get_by_role("alert")).to_contain_text("Somebody changed this")
            expect(page.get_by_role("alert")).to_contain_text("theirs: no loss at all")
            page.get_by_role("radio", name="mine: a loss at 20 W").check()
            page.get_by_role("button", name="Save what is chosen").click()
            expect(page.get_by_role("button", name="Edit the brief")).to_be_visible()

        self.do(save)
        review.refresh_from_db()
        self.assertEqual((review.expectation, review.audience), ("a loss at 20 W", "schools"))

    def test_edits_of_different_fields_are_merged_without_a_question(self) -> None:
        self.sign_in("editor", f"/reviews/{self.scene.review.pk}/brief")

        def begin() -> None:
            self.page.get_by_role("button", name="Edit the brief").click()
            self.page.get_by_label("Expected before").fill("a loss at 20 W")

        self.do(begin)
        review = self.scene.review
        review.audience, review.version = "libraries", 2
        review.save()

        def save() -> None:
            self.page.get_by_role("button", name="Save").click()
            expect(self.page.get_by_role("button", name="Edit the brief")).to_be_visible()

        self.do(save)
        review.refresh_from_db()
        self.assertEqual((review.expectation, review.audience), ("a loss at 20 W", "libraries"))

        def undo() -> None:
            self.page.get_by_role("button", name="Undo").click()
            expect(self.page.get_by_role("region", name="The brief")).to_contain_text("Not said.")

        self.do(undo)
        review.refresh_from_db()
        self.assertEqual((review.expectation, review.audience), ("", "libraries"))

    def test_publishing_and_reading_signed_out(self) -> None:
        self.fill()
        self.sign_in("editor", f"/reviews/{self.scene.review.pk}/verdict")

        def publish() -> str:
            page = self.page
            page.get_by_role("button", name="Write the verdict").click()
            page.get_by_role("combobox", name="Text").fill("35 W it is.\n\nUnless it is warm.")
            page.get_by_role("button", name="Save").click()
            expect(page.get_by_text("Unless it is warm.")).to_be_visible()
            page.get_by_role("button", name="Publish edition 1").click()
            page.get_by_role("dialog").get_by_role("button", name="Publish").click()
            link = page.get_by_role("dialog").get_by_role("link")
            return str(link.get_attribute("href"))

        path = self.do(publish)
        self.page = self.new_page()

        def read() -> None:
            page = self.page
            page.goto(path)
            expect(page.get_by_role("heading", level=1)).to_contain_text("How little power")
            expect(page.get_by_text("35 W it is.")).to_be_visible()
            expect(page.get_by_role("cell", name=re.compile("−10.0 %"))).to_contain_text("behind")
            with page.expect_download() as download:
                page.get_by_role("link", name="figures as CSV").click()
            self.assertIn("average_fps", Path(download.value.path()).read_text())
            page.get_by_role("link", name="every pass with its captures").click()
            expect(page.get_by_role("img", name=re.compile("Frame time over the run"))).to_be_visible()

        self.do(read)
        self.assertEqual(self.complaints, [])

    def test_a_token_is_shown_once_to_an_admin(self) -> None:
        self.sign_in("admin", f"/systems/{self.scene.system.pk}")

        def work() -> str:
            page = self.page
            page.get_by_role("button", name="Issue a new token").click()
            page.get_by_role("dialog").get_by_role("button", name="Issue a new token").click()
            words = page.get_by_role("dialog").locator("[data-token]").inner_text()
            page.get_by_role("button", name="I have copied it").click()
            page.reload()
            page.get_by_role("heading", name="Wren", exact=True).wait_for()
            expect(page.locator("[data-token]")).to_have_count(0)
            return words

        words = self.do(work)
        self.assertRegex(words, r"^NOMOTHET_BENCH_TOKEN=[\w-]{40,} nomothet bench --server http")

    def test_the_real_bench_fills_the_matrix(self) -> None:
        review = self.scene.new_review("this-machine", "What does this machine do?")
        system = System.objects.create(key="this-machine", name="This machine")
        here = Configuration.objects.create(system=system, name="all threads", settings={"threads": "all"})
        Column.objects.filter(review=review, position=0).update(configuration=here, label="all threads")
        room = Workload.objects.create(
            key="lantern-room", name="Lantern Room", version="1", kind="scene", runner="lantern-room"
        )
        settings = {"size": "160x90", "detail": 1, "seconds": 1}
        Test.objects.filter(review=review, position=0).update(workload=room, settings=settings)
        token = issue_demo_token(system)
        self.sign_in("tester", f"/reviews/{review.pk}/matrix?lens=progress")
        with tempfile.TemporaryDirectory() as spool:
            command = [sys.executable, "-m", "nomothet.cli.main", "bench", "--server", self.server.address]
            bench = subprocess.Popen(
                [*command, "--spool", spool],
                env={**os.environ, "NOMOTHET_BENCH_TOKEN": token},
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )
            self.addCleanup(bench.wait)
            self.addCleanup(bench.terminate)

            def work() -> None:
                page = self.page
                cell = page.get_by_role("gridcell", name=re.compile("Lantern Room.*all threads"))
                cell.focus()
                page.keyboard.press("p")
                page.get_by_role("dialog").get_by_role("button", name="Ask for 3 passes").click()
                expect(cell.get_by_role("img", name="pass 3: kept")).to_be_visible(timeout=60_000)
                cell.click()
                pane = page.get_by_role("region", name="Cell")
                expect(pane.get_by_role("img", name=re.compile("busiest core"))).to_be_visible()
                expect(pane.get_by_role("img", name=re.compile("memory used"))).to_be_visible()

            self.do(work)
            bench.terminate()
            bench.wait(20)
        self.assertEqual(self.complaints, [])
