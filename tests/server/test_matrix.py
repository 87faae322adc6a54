"""The lenses: figures and verdicts as the method has them, whatever is set aside, chosen or published."""

import csv
import io
import math
import uuid

import numpy as np

from nomothet.core.compare import compare_with_baseline
from nomothet.core.frames import frame_figures
from nomothet.formats.frame_table import read_frame_table
from nomothet.server.passes.models import Pass, Remark
from tests.server.base import Browser, SceneTest, steady


class Lenses(SceneTest):
    def test_a_cell_against_the_baseline_is_what_the_core_says(self) -> None:
        rates = {0: [60.0, 60.6, 59.7], 1: [54.0, 54.4, 53.8]}
        expected = {}
        for column, values in rates.items():
            self.fill(column, values, seed=1 + 10 * column)
            expected[str(self.scene.columns[column].pk)] = [
                frame_figures(steady(rate, seed=1 + 10 * column + at)).average_fps for at, rate in enumerate(values)
            ]
        base, other = expected
        found = compare_with_baseline(expected, base)[other]
        row = self.row()
        comparison = row["cells"][other]["comparison"]
        self.assertAlmostEqual(comparison["change"], 100 * (found.change - 1))
        self.assertAlmostEqual(comparison["low"], 100 * ((found.change_low or 0) - 1))
        self.assertAlmostEqual(comparison["high"], 100 * ((found.change_high or 0) - 1))
        self.assertEqual((comparison["verdict"], row["noise"]["df"]), ("behind", 4))
        self.assertIsNone(row["cells"][base]["comparison"])
        self.assertAlmostEqual(row["cells"][base]["centre"], math.prod(expected[base]) ** (1 / 3))

    def test_another_baseline_turns_the_picture(self) -> None:
        self.fill(0, [60.0, 60.5])
        self.fill(1, [54.0, 54.5])
        first, second = (str(column.pk) for column in self.scene.columns)
        row = self.row(query=f"?baseline={second}")
        self.assertEqual(row["cells"][first]["comparison"]["verdict"], "ahead")
        self.assertIsNone(row["cells"][second]["comparison"])
        self.problem(Browser("reader").get(f"{self.review_path}/matrix?baseline=9999"), 422)
        self.problem(Browser("reader").get(f"{self.review_path}/matrix?baseline=A"), 422)

    def test_a_low_follows_the_reviews_definition(self) -> None:
        self.fill(0, [60.0])
        column = str(self.scene.columns[0].pk)
        figures = frame_figures(steady(60.0))
        self.assertAlmostEqual(self.row("low_1pct")["cells"][column]["centre"], figures.low_1pct.slowest_mean)
        browser = Browser("editor")
        browser.send("patch", self.review_path, {"low_definition": "percentile"}, **{"If-Match": '"v1"'})
        self.assertAlmostEqual(self.row("low_1pct")["cells"][column]["centre"], figures.low_1pct.percentile)

    def test_a_thin_tail_takes_part_in_no_verdict(self) -> None:
        for column in (0, 1):
            self.scene.owe(column=column, count=2)
            for seed in range(2):
                self.bench.deliver(steady(67, 500, seed))
        cell = self.row("low_1pct")["cells"][str(self.scene.columns[1].pk)]
        self.assertTrue(cell["thin"])
        self.assertIsNone(cell["comparison"])
        self.assertIn("thin tail", cell["why_not"])
        self.assertIsNotNone(self.row()["cells"][str(self.scene.columns[1].pk)]["comparison"])

    def test_a_thin_low_is_pooled_over_the_passes_of_the_cell(self) -> None:
        self.scene.owe(count=3)
        for seed in range(3):
            self.bench.deliver(steady(60, 500, seed))
        lows = Browser("reader").json(self.cell_path())["pooled_lows"]
        self.assertEqual([(low["metric"], low["frames"], low["passes"]) for low in lows], [("low_1pct", 1500, 3)])

    def test_noise_is_borrowed_from_other_reviews_where_there_is_none(self) -> None:
        self.fill(0, [60.0])
        self.fill(1, [40.0])
        other = str(self.scene.columns[1].pk)
        self.assertEqual(self.row()["cells"][other]["comparison"]["verdict"], "noise unknown")
        first = self.scene.review
        self.scene.review = self.scene.new_review("earlier", "What was measured before?")
        self.scene.tests, columns = list(self.scene.review.tests.all()), self.scene.columns
        self.scene.columns = list(self.scene.review.columns.all())
        self.fill(0, [60.0, 60.4, 59.8])
        self.scene.review, self.scene.columns = first, columns
        row = self.row()
        self.assertEqual((row["noise"]["source"], row["noise"]["df"]), ("borrowed", 2))
        self.assertEqual(row["cells"][other]["comparison"]["verdict"], "behind")

    def test_an_odd_pass_is_flagged_and_counts_all_the_same(self) -> None:
        self.fill(0, [60.0, 60.1, 59.9, 60.05, 52.0])
        matrix = Browser("reader").json(f"{self.review_path}/matrix")
        pips = matrix["progress"][0]["cells"][str(self.scene.columns[0].pk)]["pips"]
        self.assertEqual([pip["state"] for pip in pips], ["kept"] * 4 + ["flagged"])
        self.assertIn("below the median", pips[4]["words"])
        self.assertEqual(self.row()["cells"][str(self.scene.columns[0].pk)]["n"], 5)
        self.assertEqual((matrix["totals"]["kept"], matrix["totals"]["flagged"]), (5, 1))

    def test_owed_running_and_totals(self) -> None:
        self.scene.owe(count=3)
        self.bench.take()
        matrix = Browser("reader").json(f"{self.review_path}/matrix")
        cell = matrix["progress"][0]["cells"][str(self.scene.columns[0].pk)]
        self.assertEqual((cell["owed"], [run["number"] for run in cell["running"]]), (2, [1]))
        self.assertEqual((matrix["totals"]["owed"], matrix["totals"]["running"]), (2, 1))

    def test_the_matrix_takes_the_same_few_queries_however_much_there_is(self) -> None:
        browser = Browser("reader")
        self.fill(0, [60.0, 60.1])
        self.fill(1, [59.0, 58.7])
        path = f"{self.review_path}/matrix"
        browser.get(path)
        with self.assertNumQueries(12):
            browser.get(path)
        self.fill(0, [60.0] * 6)
        browser.get(path)
        with self.assertNumQueries(12):
            browser.get(path)


class SettingAside(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.ids = self.fill(0, [60.0, 60.2, 50.0])
        self.column = str(self.scene.columns[0].pk)
        self.tester = Browser("tester")

    def centre(self) -> tuple[int, float]:
        cell = self.row()["cells"][self.column]
        return cell["n"], round(cell["centre"], 2)

    def test_figures_follow_and_come_back(self) -> None:
        before = self.centre()
        path = f"/api/passes/{self.ids[2]}/set-aside"
        self.assertEqual(self.tester.send("put", path, {"reason": "an update ran"}).status_code, 204)
        n, centre = self.centre()
        self.assertEqual(n, 2)
        self.assertGreater(centre, before[1] + 3)
        self.assertEqual(self.tester.send("delete", path).status_code, 204)
        self.assertEqual(self.centre(), before)
        acts = list(Remark.objects.values_list("act", "reason", "by__username"))
        self.assertEqual(acts, [("set_aside", "an update ran", "tester"), ("taken_back", "", "tester")])

    def test_a_reason_is_needed(self) -> None:
        path = f"/api/passes/{self.ids[2]}/set-aside"
        self.problem(self.tester.send("put", path, {"reason": "  "}), 422)
        self.assertFalse(Pass.objects.get(pk=self.ids[2]).set_aside)

    def test_the_slower_of_two_people_is_told(self) -> None:
        path = f"/api/passes/{self.ids[2]}/set-aside"
        self.tester.send("put", path, {"reason": "a"})
        self.problem(Browser("editor").send("put", path, {"reason": "b"}), 409)
        self.assertEqual(Remark.objects.count(), 1)


class Traces(SceneTest):
    def test_no_spike_is_lost_by_thinning(self) -> None:
        frames = steady(100, 30_000)
        frames[[7, 12_345, 29_999]] = [90.0, 80.0, 70.0]
        self.scene.owe()
        pass_id = self.bench.deliver(frames)
        trace = Browser("reader").json(f"/api/passes/{pass_id}/trace?points=500")
        self.assertTrue(trace["thinned"])
        self.assertLessEqual(len(trace["t_s"]), 500)
        self.assertLessEqual({90.0, 80.0, 70.0}, set(trace["frame_ms"]))
        self.assertEqual(len(trace["hitches_s"]), 3)
        self.assertAlmostEqual(trace["t_s"][-1], frames.sum() / 1000, places=3)

    def test_a_stretch_is_shown_in_full(self) -> None:
        self.scene.owe()
        pass_id = self.bench.deliver(np.full(10_000, 10.0))
        trace = Browser("reader").json(f"/api/passes/{pass_id}/trace?points=500&from=10&to=12")
        self.assertFalse(trace["thinned"])
        self.assertGreaterEqual(len(trace["t_s"]), 200)
        self.assertTrue(all(9.9 <= t <= 12.1 for t in trace["t_s"]))


class Files(SceneTest):
    def send(self, content: bytes, pass_id: uuid.UUID | None = None, test: int = 0) -> object:
        path = f"{self.cell_path(test)}/frames/{pass_id or uuid.uuid4()}"
        return Browser("tester").drop_file(path, content)

    def test_a_file_becomes_a_pass_with_its_original_kept(self) -> None:
        content = b"frame_ms\n" + b"16.5\n17.25\n" * 600
        self.assertEqual(self.send(content).status_code, 201)  # type: ignore[attr-defined]
        browser = Browser("reader")
        (found,) = browser.json(self.cell_path())["passes"]
        average = next(f["value"] for f in found["figures"] if f["metric"] == "average_fps")
        self.assertAlmostEqual(average, 1000 / 16.875)
        captures = {capture["name"]: capture["id"] for capture in found["captures"]}
        original = browser.get(f"/api/captures/{captures['original']}.csv")
        self.assertEqual(original.content, content)
        exported = b"".join(browser.get(f"/api/captures/{captures['frames']}.csv"))
        again = read_frame_table(io.BytesIO(exported))
        self.assertEqual(again.frame_times_ms.tolist(), [16.5, 17.25] * 600)

    def test_the_same_file_sent_twice_is_one_pass(self) -> None:
        pass_id = uuid.uuid4()
        for _ in range(2):
            self.assertEqual(self.send(b"frame_ms\n16\n17\n", pass_id).status_code, 201)  # type: ignore[attr-defined]
        self.assertEqual(Pass.objects.count(), 1)

    def test_a_wrong_file_names_row_and_remedy_and_changes_nothing(self) -> None:
        problem = self.problem(self.send(b"frame_ms\n16\nx\n"), 422)  # type: ignore[arg-type]
        self.assertEqual(problem["row"], 3)
        self.assertIn("Correct or delete", problem["remedy"])
        self.assertEqual(Pass.objects.count(), 0)

    def test_an_empty_file_is_told(self) -> None:
        self.assertIn("empty", self.problem(self.send(b""), 422)["detail"])  # type: ignore[arg-type]

    def test_a_suite_takes_no_frame_times(self) -> None:
        problem = self.problem(self.send(b"frame_ms\n16\n17\n", test=1), 422)  # type: ignore[arg-type]
        self.assertIn("scores", problem["detail"])


class Exports(SceneTest):
    def test_figures_have_a_line_each_in_full_precision(self) -> None:
        ids = self.fill(0, [60.0, 50.0])
        Browser("tester").send("put", f"/api/passes/{ids[1]}/set-aside", {"reason": '=cmd, "quoted"'})
        self.scene.owe()
        self.bench.deliver(outcome="crashed", note="x")
        text = b"".join(Browser("reader").get(f"{self.review_path}/figures.csv")).decode()
        rows = list(csv.DictReader(io.StringIO(text)))
        average = [row for row in rows if row["metric"] == "average_fps"]
        self.assertEqual(float(average[0]["value"]), frame_figures(steady(60.0)).average_fps)
        self.assertEqual([row["set_aside"] for row in average], ["no", "yes"])
        self.assertEqual(average[1]["reason"], '\'=cmd, "quoted"')
        self.assertEqual([row["outcome"] for row in rows if not row["metric"]], ["crashed"])
        self.assertEqual({row["letter"] for row in rows}, {"A"})
