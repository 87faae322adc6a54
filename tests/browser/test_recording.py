"""Recording in a browser: typing into the matrix, a search by hand, a running pass, a folder of files."""

import io
import re
import zipfile

from playwright.sync_api import expect

from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.docket.models import Entry
from nomothet.server.imports.models import ImportJob
from nomothet.server.imports.running import run
from nomothet.server.passes.models import Figure, Mark, Pass
from nomothet.server.reviews.models import Test
from nomothet.server.workloads.models import Workload
from tests.browser.base import BrowserTest
from tests.server.base import BenchClient, steady
from tests.server.test_bringing_in import log


class Typing(BrowserTest):
    def cell(self, column: int = 0, metric: str = "average_fps") -> str:
        return f'[data-cell="{self.scene.tests[0].pk}.{metric}.{self.scene.columns[column].pk}"]'

    def test_figures_go_into_the_matrix_with_the_keyboard_alone(self) -> None:
        self.sign_in("tester", f"{self.matrix_path}?lens=figures")

        def type_in() -> None:
            page = self.page
            page.get_by_role("grid").wait_for()
            page.keyboard.press("t")
            expect(page.get_by_role("region", name="Typing in")).to_be_visible()
            page.locator(self.cell()).focus()
            page.keyboard.type("94.1 93.8 c")
            strip = page.get_by_role("region", name="Typing in")
            expect(strip).to_contain_text("94.1 fps pass 1")
            expect(strip).to_contain_text("crashed pass 3")
            strip.get_by_role("button", name="Remember it").click()
            expect(strip).to_contain_text("built-in test's own result, exact as shown")
            page.keyboard.press("Enter")
            expect(page.get_by_text("3 readings stored.")).to_be_visible()
            expect(page.locator(self.cell())).to_contain_text("2 passes")
            # Enter went down to the low of the same cell; a typed low joins those passes.
            expect(page.locator(self.cell(metric="low_1pct"))).to_be_focused()

        self.do(type_in)
        self.assertEqual(sorted(Figure.objects.values_list("value", flat=True)), [93.8, 94.1])

        def go_on() -> None:
            page = self.page
            page.keyboard.press("ArrowUp")
            page.keyboard.type("9410")
            strip = page.get_by_role("region", name="Typing in")
            expect(strip.get_by_role("alert")).to_contain_text("over 2,000 fps")
            page.keyboard.press("Enter")
            expect(strip).to_contain_text("Enter once more stores it")
            page.keyboard.press("Escape")
            expect(page.get_by_role("textbox")).to_have_count(0)
            page.get_by_role("button", name="Undo").click()
            expect(page.locator(self.cell())).to_contain_text("set aside")

        self.do(go_on)
        self.assertEqual(Figure.objects.count(), 2)
        self.assertEqual(self.complaints, [])

    def test_a_block_from_a_spreadsheet_is_shown_before_it_lands(self) -> None:
        self.sign_in("tester", f"{self.matrix_path}?lens=figures")

        def paste() -> None:
            page = self.page
            page.get_by_role("button", name="Type in").click()
            page.locator(self.cell()).focus()
            page.evaluate(
                """selector => {
                    const data = new DataTransfer();
                    data.setData("text/plain", "60.1\\t54.2\\n50\\tnonsense\\n");
                    const paste = new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true });
                    document.querySelector(selector).dispatchEvent(paste);
                }""",
                self.cell(),
            )
            dialog = page.get_by_role("dialog", name="Where the table lands")
            expect(dialog).to_contain_text("'nonsense' cannot be read")
            dialog.get_by_label("all of them").select_option("meter")
            expect(dialog.get_by_role("button", name=re.compile("^Store"))).to_be_disabled()
            dialog.get_by_role("button", name="Not now").click()
            expect(page.locator(self.cell())).to_be_focused()

        self.do(paste)
        self.assertEqual(Pass.objects.count(), 0)


class Searching(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        metric = {"key": "cameras", "label": "cameras held", "unit": "cameras", "direction": "higher", "scale": "ratio"}
        workload = Workload.objects.create(
            key="visitor-lens", name="Visitor Lens", version="1", kind="load_search", runner="simulated",
            metrics=[{**metric, "role": "load"}],
        )  # fmt: skip
        self.test = Test.objects.create(
            review=self.scene.review, position=2, workload=workload, detail="cold", shown=["cameras"],
            settings={"start": 4, "confirm": 1},
        )  # fmt: skip
        people = self.scene.people
        ask_for_passes(people["tester"], self.scene.review, [self.test.pk], [self.scene.columns[0].pk], 1)

    def test_a_tester_answers_and_the_bracket_closes(self) -> None:
        place = f"{self.test.pk}.cameras.{self.scene.columns[0].pk}"
        self.sign_in("tester", f"{self.matrix_path}?lens=progress&cells={place}")

        def search() -> None:
            page = self.page
            page.get_by_role("button", name="Search by hand").click()
            for load, holds in ((4, True), (6, False), (5, True)):
                expect(page.get_by_text(f"Try {load} cameras")).to_be_visible()
                if not holds:
                    page.get_by_label("and why").fill("pictures came late")
                page.get_by_role("button", name="It holds" if holds else "It breaks").click()
            # While the bracket closes, the running pass says it too.
            expect(page.get_by_role("region", name="Running pass")).to_have_count(0)
            expect(page.get_by_text("5 cameras held, 6 broke.")).to_be_visible()
            expect(page.get_by_role("img", name="Attempts of the search: 5 cameras held, 6 broke")).to_be_visible()
            expect(page.get_by_text("pictures came late")).to_be_visible()

        self.do(search)
        self.assertEqual(Pass.objects.get().figures.get().value, 5.0)
        self.assertEqual(self.complaints, [])


class Watching(BrowserTest):
    def test_a_running_pass_is_watched_marked_and_stopped(self) -> None:
        self.scene.owe()
        bench = BenchClient(self.scene.token)
        _, job = bench.take()

        def tell(elapsed: float, temperature: float) -> None:
            readings = {"temperature": temperature, "frame rate": 60.0}
            body = {"phase": "drawing", "elapsed_s": elapsed, "left_s": 60 - elapsed, "readings": readings}
            bench.send("post", f"/docket/{job['entry']}/progress", body)

        tell(10.0, 61.0)
        self.sign_in("tester", f"/running/{job['entry']}")

        def watch() -> None:
            page = self.page
            expect(page.get_by_role("region", name="Running pass")).to_contain_text("0:10 so far")
            expect(page.get_by_text("61.0 °C")).to_be_visible()

        self.do(watch)
        tell(12.0, 63.0)

        def mark_and_stop() -> None:
            page = self.page
            expect(page.get_by_text("63.0 °C")).to_be_visible()
            page.keyboard.press("c")
            expect(page.get_by_role("button", name="crowd c")).to_have_attribute("aria-pressed", "true")
            page.keyboard.press("c")
            expect(page.get_by_role("button", name="crowd c")).to_have_attribute("aria-pressed", "false")
            page.get_by_role("button", name="stutter").click()
            page.get_by_role("button", name="2 noticeable").click()
            expect(page.get_by_text("stutter: noticeable", exact=True)).to_be_visible()
            expect(page.get_by_text(re.compile("last heard .* ago"))).to_be_visible()
            page.get_by_role("button", name="Stop it").click()
            expect(page.get_by_text("stopping", exact=True)).to_be_visible()

        self.do(mark_and_stop)
        self.assertEqual(set(Mark.objects.values_list("label", "grade")), {("crowd", None), ("stutter", 2)})
        self.assertTrue(Entry.objects.get().stop_wanted)
        self.assertEqual(self.complaints, [])


class BringingIn(BrowserTest):
    def test_a_folder_is_sorted_into_cells_and_stored(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as target:
            for label in ("35W", "20W"):
                target.writestr(f"reef walk {label}.csv", log(steady(60, 1200)))
            target.writestr("notes.txt", "nothing")
        self.sign_in("tester", f"{self.matrix_path}?lens=figures")

        def bring() -> None:
            page = self.page
            page.get_by_role("button", name="Bring in files").click()
            dialog = page.get_by_role("dialog", name="Bring in files")
            upload = {"name": "monday.zip", "mimeType": "application/zip", "buffer": out.getvalue()}
            dialog.locator("input[type=file]").set_input_files([upload])
            expect(dialog).to_contain_text("3 files")
            expect(dialog.get_by_label("Configuration of reef walk 20W.csv")).to_have_value(
                str(self.scene.columns[1].pk)
            )
            dialog.get_by_role("button", name="Store 2 passes").click()
            expect(dialog).to_contain_text("Storing: 0 of 2")

        self.do(bring)
        # No worker runs beside a test: its work is done here, as the worker would.
        run(ImportJob.objects.get().pk)

        def close() -> None:
            page = self.page
            dialog = page.get_by_role("dialog", name="Bring in files")
            expect(dialog).to_contain_text("Done: 2 of 2")
            dialog.get_by_role("button", name="Close").click()
            cell = f'[data-cell="{self.scene.tests[0].pk}.average_fps.{self.scene.columns[1].pk}"]'
            expect(page.locator(cell)).to_contain_text("1 pass")

        self.do(close)
        self.assertEqual(Pass.objects.count(), 2)
        self.assertEqual(self.complaints, [])
