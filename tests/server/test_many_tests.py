"""Many tests at once: from a table, their metrics together, and one of them in another review."""

import json
from typing import Any

from django.http import HttpResponse

from nomothet.server.reviews.models import Review, Test
from nomothet.server.systems.models import Bundle
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest


class TableTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        Workload.objects.filter(pk=self.scene.scene.pk).update(
            settings=[
                {"key": "resolution", "label": "resolution", "values": ["1080p", "4K"]},
                {"key": "frame_cap_fps", "label": "frame cap", "unit": "fps"},
            ]
        )
        self.review: Review = self.scene.review

    def send(self, *lines: str, who: str = "editor", **more: Any) -> HttpResponse:
        return Browser(who).send("post", f"{self.review_path}/tests/table", {"text": "\n".join(lines), **more})

    def look(self, *lines: str) -> list[dict[str, Any]]:
        answer = self.send(*lines)
        self.assertEqual(answer.status_code, 200, answer.content)
        found: list[dict[str, Any]] = json.loads(answer.content)["tests"]
        return found

    def added(self) -> list[tuple[str, dict[str, Any]]]:
        tests = self.review.tests.filter(position__gt=1).select_related("workload").order_by("position")
        return [(test.workload.name, test.settings) for test in tests]


class FromTables(TableTest):
    def test_a_line_is_a_test_and_looking_adds_none(self) -> None:
        found = self.look("workload\tresolution\tframe cap", "Reef Walk 2\t4K\t60", "Loom")
        self.assertEqual(
            [(one["name"], one["detail"]) for one in found], [("Reef Walk 2", "4K · frame cap 60 fps"), ("Loom", "")]
        )
        self.assertEqual(self.added(), [])

    def test_several_values_make_a_test_each(self) -> None:
        self.send("workload\tresolution\tframe cap (fps)", "Reef Walk 2\t1080p, 4K\t30, 60", store=True)
        told = [(settings["resolution"], settings["frame_cap_fps"]) for _, settings in self.added()]
        self.assertEqual(told, [("1080p", 30), ("1080p", 60), ("4K", 30), ("4K", 60)])

    def test_workloads_that_nobody_knows_are_made_when_wanted(self) -> None:
        lines = ("game\tpreset\tresolution", "Harbour Run\thigh\t1440p", "Harbour Run\tlow\t1440p", "Silt\thigh\t1440p")
        self.assertEqual([one["new"] for one in self.look(*lines)], [True, True, True])
        self.assertIn("Harbour Run, Silt", self.problem(self.send(*lines, store=True), 422)["detail"])
        self.assertEqual(self.send(*lines, store=True, make=True).status_code, 200)
        self.assertEqual(
            self.added(),
            [
                ("Harbour Run", {"preset": "high", "resolution": "1440p"}),
                ("Harbour Run", {"preset": "low", "resolution": "1440p"}),
                ("Silt", {"preset": "high", "resolution": "1440p"}),
            ],
        )
        made = Workload.objects.get(name="Silt")
        self.assertEqual((made.kind, made.version), ("scene", "1"))
        self.assertEqual(self.review.tests.last().shown, ["average_fps", "low_1pct"])

    def test_a_column_says_of_what_kind_a_new_workload_is(self) -> None:
        lines = ("workload\tkind\tpreset", "Kiln\ttask\t", "Idle desk\t\t", "Silt\t\thigh")
        self.assertEqual(
            [one["kind"] for one in self.look(*lines)],
            ["timed task with phases", "idle baseline", "game or real-time scene"],
        )
        self.assertEqual(self.send(*lines, store=True, make=True).status_code, 200)
        kinds = dict(Workload.objects.filter(name__in=("Kiln", "Idle desk", "Silt")).values_list("name", "kind"))
        self.assertEqual(kinds, {"Kiln": "task", "Idle desk": "idle", "Silt": "scene"})
        self.assertEqual(self.review.tests.get(workload__name="Kiln").shown, ["time"])
        self.assertIn("no kind", self.look("workload\tkind", "Other\tboss")[0]["problem"])

    def test_a_bundle_stands_for_its_settings_and_an_override_goes_before_it(self) -> None:
        Bundle.objects.create(
            family="picture", name="sharp", workload="reef-walk", settings={"resolution": "4K", "frame_cap_fps": 60}
        )
        lines = ("workload\tpicture\tframe cap", "Reef Walk 2\tSharp\t", "Reef Walk 2\tsharp\t30")
        self.assertEqual(self.send(*lines, store=True).status_code, 200)
        told = [(settings["resolution"], settings["frame_cap_fps"]) for _, settings in self.added()]
        self.assertEqual(told, [("4K", 60), ("4K", 30)])
        self.assertIn("picture", self.look(lines[0], "Reef Walk 2\tdull\t")[0]["problem"])

    def test_a_value_that_is_not_allowed_is_named_and_nothing_is_added(self) -> None:
        lines = ("workload\tresolution", "Reef Walk 2\t4K", "Reef Walk 2\t8K")
        self.assertIn("cannot be '8K'", self.look(*lines)[1]["problem"])
        told = self.problem(self.send(*lines, store=True), 422)
        self.assertIn("Line 3", told["detail"])
        self.assertEqual(self.added(), [])

    def test_a_setting_that_the_workload_has_not_is_named(self) -> None:
        self.assertIn("no setting shadows", self.look("workload\tshadows", "Reef Walk 2\tlow")[0]["problem"])

    def test_tests_that_are_there_are_passed_over(self) -> None:
        lines = ("workload\tresolution", "Reef Walk 2\t4K")
        self.send(*lines, store=True)
        self.assertTrue(self.look(*lines)[0]["there"])
        self.assertIn("already", self.problem(self.send(*lines, store=True), 422)["detail"])
        self.send(*lines, "Reef Walk 2\t1080p", store=True)
        self.assertEqual(len(self.added()), 2)

    def test_of_two_editions_the_version_decides(self) -> None:
        Workload.objects.create(key="loom", name="Loom", version="3", kind="suite")
        self.assertIn("several versions: 3, 4", self.look("workload", "Loom", "Loom")[0]["problem"])
        found = self.look("workload\tversion", "Loom\t3")
        self.assertEqual((found[0]["version"], found[0]["problem"]), ("3", ""))

    def test_bars_and_wide_gaps_part_cells_too(self) -> None:
        for lines in (("workload | resolution", "Reef Walk 2 | 4K"), ("workload   resolution", "Reef Walk 2   4K")):
            with self.subTest(lines=lines):
                self.assertEqual(self.look(*lines)[0]["detail"], "4K")

    def test_a_table_without_lines_says_what_it_needs(self) -> None:
        self.assertIn("first line names the settings", self.problem(self.send("workload"), 422)["detail"])

    def test_a_line_that_makes_too_many_tests_is_refused_before_they_are_made(self) -> None:
        many = ",".join(map(str, range(90)))
        lines = ("workload | " + " | ".join("abcdefgh"), "Silt | " + " | ".join([many] * 8))
        self.assertIn("more than 200 tests", self.problem(self.send(*lines), 422)["detail"])
        choices = {"frame_cap_fps": list(range(60)), "resolution": ["1080p", "4K"] * 30}
        body = {"workload": self.scene.scene.pk, "choices": choices}
        self.problem(Browser("editor").send("post", f"{self.review_path}/tests", body), 422)

    def test_only_editors_add_tests(self) -> None:
        self.problem(self.send("workload", "Loom", who="tester"), 403)


class Metrics(TableTest):
    def show(self, *tests: int, who: str = "editor", **change: list[str]) -> HttpResponse:
        body = {"tests": [self.scene.tests[at].pk for at in tests], **change}
        return Browser(who).send("put", f"{self.review_path}/tests/shown", body)

    def shown(self, at: int) -> list[str]:
        return list(Test.objects.get(pk=self.scene.tests[at].pk).shown)

    def test_metrics_are_shown_in_many_tests_at_once_where_they_have_them(self) -> None:
        self.assertEqual(self.show(0, 1, add=["p99_ms", "one_thread"], remove=["low_1pct"]).status_code, 200)
        self.assertEqual(self.shown(0), ["average_fps", "p99_ms"])
        self.assertEqual(self.shown(1), ["one_thread", "p99_ms"])

    def test_a_metric_that_does_not_exist_is_refused_by_name(self) -> None:
        answer = Browser("editor").send(
            "patch", f"{self.review_path}/tests/{self.scene.tests[0].pk}", {"shown": ["average_fps", "sharpness"]},
            **{"If-Match": "*"},
        )  # fmt: skip
        told = self.problem(answer, 422)
        self.assertIn("'sharpness'", told["detail"])
        self.assertEqual(self.shown(0), ["average_fps", "low_1pct"])

    def test_a_metric_is_not_shown_twice(self) -> None:
        path = f"{self.review_path}/tests/{self.scene.tests[0].pk}"
        again = {"shown": ["average_fps", "average_fps"]}
        self.problem(Browser("editor").send("patch", path, again, **{"If-Match": "*"}), 422)

    def test_only_editors_choose_metrics(self) -> None:
        self.problem(self.show(0, add=["p99_ms"], who="tester"), 403)

    def test_what_a_game_reports_itself_stands_beside_its_rates(self) -> None:
        metrics = [{"key": "shots", "label": "shots", "unit": "1", "direction": "higher", "scale": "ratio"}]
        Workload.objects.create(key="silt", name="Silt", version="1", kind="scene", metrics=metrics)
        self.send("workload", "Silt", store=True)
        self.assertEqual(self.review.tests.last().shown, ["average_fps", "low_1pct", "shots"])


class Copies(TableTest):
    def copy(self, review: int, who: str = "editor") -> HttpResponse:
        path = f"{self.review_path}/tests/{self.scene.tests[0].pk}/copy"
        return Browser(who).send("post", path, {"review": review})

    def test_a_test_goes_into_another_review_with_its_settings_cuts_and_ways(self) -> None:
        Test.objects.filter(pk=self.scene.tests[0].pk).update(
            settings={"resolution": "4K"}, skip_s=5, readings={"average_fps": {"method": "meter", "half_width": 1}}
        )
        other = self.scene.new_review("another", "Another question?")
        self.assertEqual(self.copy(other.pk).status_code, 201)
        made = other.tests.last()
        assert made is not None
        self.assertEqual((made.settings, made.skip_s, made.detail), ({"resolution": "4K"}, 5, "kelp tunnel"))
        self.assertEqual(made.readings["average_fps"]["method"], "meter")
        self.assertEqual(made.passes.count(), 0)

    def test_a_review_that_has_it_takes_no_second(self) -> None:
        self.problem(self.copy(self.review.pk), 422)

    def test_only_editors_copy(self) -> None:
        self.problem(self.copy(self.review.pk, who="tester"), 403)
