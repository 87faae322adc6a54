"""Metrics that people add to tests: readings, sensors, what is worked out, parts of a run, toggled settings."""

import json
import uuid
from typing import Any

import numpy as np
from django.http import HttpResponse

from nomothet.formats.series import pack
from nomothet.server.analysis.tasks import recompute_test
from nomothet.server.passes.models import Figure, Pass
from nomothet.server.reviews.models import Test
from nomothet.server.workloads.models import Workload
from tests.server.base import BenchClient, Browser, SceneTest, manifest, steady

WATTS = {"kind": "reading", "label": "package power, mean", "unit": "W", "direction": "lower", "lane": "power package",
         "statistic": "mean"}  # fmt: skip
METER = {"method": "meter", "half_width": 0.5}


class OwnMetricTest(SceneTest):
    def add(self, status: int = 201, tests: tuple[int, ...] = (0,), who: str = "editor", **metric: Any) -> Any:
        body = {"tests": [self.scene.tests[at].pk for at in tests], **metric}
        answer = Browser(who).send("post", f"{self.review_path}/metrics", body)
        if status != 201:
            return self.problem(answer, status)
        self.assertEqual(answer.status_code, 201, answer.content)
        return json.loads(answer.content)

    def deliver(self, frames: np.ndarray, lanes: dict[str, tuple[str, np.ndarray, np.ndarray]], **marks: Any) -> str:
        """A pass of the first cell with sensors beside its frames."""
        self.scene.owe()
        bench = BenchClient(self.scene.token)
        pass_id, job = bench.take()
        blobs = {"frames": pack({"frame_ms": frames})}
        blobs |= {name: pack({"t_s": t, "value": values}) for name, (_, t, values) in lanes.items()}
        body = manifest(job["entry"], blobs, duration_s=float(frames.sum()) / 1000, **marks)
        for series in body["series"]:
            if series["name"] in lanes:
                series["unit"] = lanes[series["name"]][0]
        self.assertEqual(bench.send("put", f"/passes/{pass_id}", body).status_code, 200)
        for name, blob in blobs.items():
            bench.chunk(pass_id, name, 0, blob)
        self.assertEqual(bench.send("post", f"/passes/{pass_id}/finish").status_code, 200)
        return pass_id

    def type_in(self, metric: str, text: str, column: int = 0) -> HttpResponse:
        cell = {"test": self.scene.tests[0].pk, "column": self.scene.columns[column].pk, "metric": metric}
        path = f"{self.review_path}/typed/{uuid.uuid4()}"
        return Browser("tester").send("put", path, {"cells": [{**cell, "text": text, **METER}]})

    def cell(self, metric: str, column: int = 0) -> Any:
        return self.row(metric)["cells"].get(str(self.scene.columns[column].pk))


class Readings(OwnMetricTest):
    def test_a_sensor_becomes_a_row_with_its_statistic_also_for_passes_that_are_in(self) -> None:
        t = np.arange(0.0, 33.0)
        self.deliver(steady(60), {"power package": ("W", t, np.where(t < 16, 20.0, 40.0))})
        self.add(**WATTS)
        recompute_test.call(self.scene.tests[0].pk)
        cell = self.cell("package_power_mean")
        self.assertAlmostEqual(cell["centre"], 30, delta=1)
        self.assertEqual((self.row("package_power_mean")["unit"], cell["n"]), ("W", 1))

    def test_a_new_pass_brings_it_with_it(self) -> None:
        self.add(**WATTS)
        t = np.arange(0.0, 33.0)
        self.deliver(steady(60), {"power package": ("mW", t, np.full(33, 25_000.0))})
        self.assertAlmostEqual(self.cell("package_power_mean")["centre"], 25)

    def test_energy_is_told_in_the_unit_that_was_wanted(self) -> None:
        self.add(**{**WATTS, "label": "energy", "unit": "Wh", "statistic": "integral"})
        frames = np.full(3600, 10.0)
        self.deliver(frames, {"power package": ("W", np.arange(0.0, 36.0), np.full(36, 100.0))})
        self.assertAlmostEqual(self.cell("energy")["centre"], 1.0, places=2)

    def test_a_reading_without_a_sensor_is_typed_compared_and_exported(self) -> None:
        self.add(**{**WATTS, "label": "wall power", "lane": "", "statistic": ""})
        for column, text in ((0, "60 61 60"), (1, "50 50 51")):
            self.assertEqual(self.type_in("wall_power", text, column).status_code, 201)
        self.assertEqual(self.cell("wall_power", 1)["comparison"]["verdict"], "ahead")
        text = b"".join(Browser("reader").get(f"{self.review_path}/figures.csv")).decode()
        self.assertIn("wall_power,60.0,W,lower", text)

    def test_a_typed_value_is_not_replaced_by_what_a_sensor_tells(self) -> None:
        self.add(**WATTS)
        t = np.arange(0.0, 33.0)
        pass_id = self.deliver(steady(60), {"fan": ("1/min", t, np.full(33, 900.0))})
        self.type_in("package_power_mean", "33")
        recompute_test.call(self.scene.tests[0].pk)
        self.assertEqual(Figure.objects.get(owner=pass_id, metric="package_power_mean").value, 33)

    def test_many_tests_get_it_at_once_and_lose_it_at_once(self) -> None:
        self.add(tests=(0, 1), **WATTS)
        self.assertTrue(all("package_power_mean" in test.shown for test in self.scene.review.tests.all()))
        answer = Browser("editor").send("delete", f"{self.review_path}/metrics/package_power_mean")
        self.assertEqual(answer.status_code, 200)
        self.assertFalse(any(test.metrics for test in self.scene.review.tests.all()))

    def test_what_makes_no_metric_is_refused_with_its_reason(self) -> None:
        self.assertIn("letter", self.add(422, **{**WATTS, "label": "1 W"})["detail"])
        self.assertIn("which figure of the sensor", self.add(422, **{**WATTS, "statistic": ""})["detail"])
        self.assertIn("already", self.add(422, **{**WATTS, "label": "average"})["detail"])
        self.assertEqual(self.add(403, who="tester", **WATTS)["status"], 403)
        self.assertEqual(Test.objects.get(pk=self.scene.tests[0].pk).metrics, [])


class WorkedOut(OwnMetricTest):
    PER_WATT = {
        "kind": "worked out",
        "label": "rate per watt",
        "unit": "fps/W",
        "of": "average_fps",
        "other": "wall_power",
        "by": "ratio",
    }

    def setUp(self) -> None:
        super().setUp()
        self.add(**{**WATTS, "label": "wall power", "lane": "", "statistic": ""})
        self.add(**self.PER_WATT)

    def test_it_is_paired_by_pass_and_labelled(self) -> None:
        self.type_in("average_fps", "60 62 64")
        self.type_in("wall_power", "30 31 32")
        cell, row = self.cell("rate_per_watt"), self.row("rate_per_watt")
        self.assertAlmostEqual(cell["centre"], 2.0)
        self.assertEqual((cell["n"], row["kind"], row["unit"]), (3, "worked out", "fps/W"))
        self.assertEqual(cell["methods"], ["worked out"])

    def test_its_configurations_are_compared(self) -> None:
        for column, watts in ((0, "30 30.3 30.6"), (1, "20 20.2 20.4")):
            self.type_in("average_fps", "60 61 60", column)
            self.type_in("wall_power", watts, column)
        self.assertEqual(self.cell("rate_per_watt", 1)["comparison"]["verdict"], "ahead")
        self.assertAlmostEqual(self.cell("rate_per_watt", 1)["comparison"]["change"], 50, delta=0.5)

    def test_a_cell_that_lacks_one_of_the_two_has_none(self) -> None:
        self.type_in("average_fps", "60 61")
        self.assertIsNone(self.cell("rate_per_watt"))

    def test_it_stores_no_figure_of_its_own(self) -> None:
        self.type_in("average_fps", "60")
        self.type_in("wall_power", "30")
        self.assertFalse(Figure.objects.filter(metric="rate_per_watt").exists())

    def test_what_it_is_made_of_cannot_go_before_it(self) -> None:
        answer = Browser("editor").send("delete", f"{self.review_path}/metrics/wall_power")
        self.assertIn("rate per watt is made of it", self.problem(answer, 409)["detail"])

    def test_it_needs_two_metrics_that_the_test_has(self) -> None:
        told = self.add(422, **{**self.PER_WATT, "label": "other", "other": "nothing"})
        self.assertIn("no metric nothing", told["detail"])


class Parts(OwnMetricTest):
    """A run that is fast indoors and slow outdoors, with a light switched on and off."""

    PHASES = ("indoor", "outdoor", "indoor")

    def run_with(self, *stretches: tuple[str, float]) -> str:
        """Twelve seconds of each stretch, at a rate of its own."""
        rng = np.random.default_rng(3)
        frames = np.concatenate([rng.normal(1000 / rate, 0.05, int(12 * rate)) for _, rate in stretches])
        pass_id = self.deliver(frames, {})
        at = 0.0
        for label, rate in stretches:
            length = int(12 * rate) / rate
            body = {"label": label, "start_s": at + 0.2, "end_s": at + length - 0.2}
            answer = Browser("tester").send("post", f"/api/passes/{pass_id}/marks", body)
            self.assertEqual(answer.status_code, 201, answer.content)
            at += length
        return pass_id

    def test_a_test_is_shown_once_for_each_part_from_the_same_passes(self) -> None:
        for label in ("indoor", "outdoor"):
            self.add(kind="part", label=f"average, {label}", of="average_fps", label_on=label)
        self.run_with(("indoor", 60.0), ("outdoor", 40.0), ("indoor", 60.0))
        self.assertAlmostEqual(self.cell("average_indoor")["centre"], 60, delta=0.3)
        self.assertAlmostEqual(self.cell("average_outdoor")["centre"], 40, delta=0.3)
        self.assertEqual((self.row("average_outdoor")["unit"], self.row("average_outdoor")["kind"]), ("fps", "part"))
        self.assertEqual(Pass.objects.count(), 1)

    def test_a_toggled_setting_has_a_row_of_pairs_with_their_interval(self) -> None:
        self.add(
            kind="toggle", label="light on against off", of="average_fps", label_on="light on", label_off="light off"
        )
        self.run_with(
            ("light off", 60.0), ("light on", 57.0), ("light off", 60.0), ("light on", 57.0), ("light off", 60.0)
        )
        cell, row = self.cell("light_on_against_off"), self.row("light_on_against_off")
        self.assertEqual((cell["n"], row["kind"], row["unit"], row["scale"]), (2, "toggle", "%", "difference"))
        self.assertAlmostEqual(cell["centre"], -5, delta=0.3)
        self.assertLess(cell["low"], -5)
        self.assertGreater(cell["high"], -5.3)
        self.assertEqual(self.row()["cells"][str(self.scene.columns[0].pk)]["n"], 1)

    def test_pairs_of_several_passes_stand_together(self) -> None:
        self.add(kind="toggle", label="light", of="average_fps", label_on="light on", label_off="light off")
        for _ in range(2):
            self.run_with(("light off", 60.0), ("light on", 57.0))
        self.assertEqual(self.cell("light")["n"], 2)

    def test_a_mark_that_goes_takes_its_figures_with_it(self) -> None:
        self.add(kind="part", label="indoors", of="average_fps", label_on="indoor")
        self.run_with(("indoor", 60.0), ("outdoor", 40.0))
        marks = Browser("reader").json(self.cell_path())["passes"][0]["marks"]
        Browser("tester").send("delete", f"/api/marks/{marks[0]['id']}")
        self.assertIsNone(self.cell("indoors"))

    def test_parts_and_toggles_need_their_words(self) -> None:
        self.assertIn("which words", self.add(422, kind="part", label="x", of="average_fps")["detail"])
        same = {"label_on": "light", "label_off": "light"}
        told = self.add(422, kind="toggle", label="x", of="average_fps", **same)
        self.assertIn("different words", told["detail"])


class Idle(OwnMetricTest):
    """Wall power of a scene and of the same machines doing nothing."""

    def setUp(self) -> None:
        super().setUp()
        nothing = Workload.objects.create(key="idle", name="Nothing", version="1", kind="idle", duration_s=300)
        idle = Test.objects.create(review=self.scene.review, position=2, workload=nothing, shown=[])
        self.scene.tests.append(idle)
        self.add(tests=(0, 2), **{**WATTS, "label": "wall power", "lane": "", "statistic": ""})
        self.type_in("wall_power", "60 61 62")
        self.type_in("wall_power", "45 46 47", 1)
        self.type_idle("10 12", 0)

    def type_idle(self, text: str, column: int) -> None:
        cell = {"test": self.scene.tests[2].pk, "column": self.scene.columns[column].pk, "metric": "wall_power"}
        path = f"{self.review_path}/typed/{uuid.uuid4()}"
        answer = Browser("tester").send("put", path, {"cells": [{**cell, "text": text, **METER}]})
        self.assertEqual(answer.status_code, 201, answer.content)

    def rows(self, *, idle_off: bool) -> dict[int, Any]:
        rows = Browser("reader").json(f"{self.review_path}/matrix{'?idle=1' if idle_off else ''}")["rows"]
        return {row["test"]: row for row in rows if row["metric"] == "wall_power"}

    def test_the_idle_figure_stands_with_the_cell_and_nothing_is_taken_off_unasked(self) -> None:
        row = self.rows(idle_off=False)[self.scene.tests[0].pk]
        cells = [row["cells"][str(column.pk)] for column in self.scene.columns]
        self.assertEqual([cell["idle"] for cell in cells], [11, None])
        self.assertAlmostEqual(cells[0]["centre"], 61, delta=0.01)
        self.assertFalse(row["idle_off"])

    def test_on_demand_it_is_taken_off_and_labelled(self) -> None:
        self.type_idle("20 20", 1)
        row = self.rows(idle_off=True)[self.scene.tests[0].pk]
        cells = [row["cells"][str(column.pk)] for column in self.scene.columns]
        self.assertAlmostEqual(cells[0]["centre"], 50, delta=0.02)
        self.assertAlmostEqual(cells[1]["centre"], 26, delta=0.02)
        self.assertEqual((row["label"], row["idle_off"]), ("wall power, idle taken off", True))
        self.assertAlmostEqual(cells[1]["comparison"]["change"], -48, delta=0.1)

    def test_a_configuration_without_one_has_no_figure_then(self) -> None:
        row = self.rows(idle_off=True)[self.scene.tests[0].pk]
        self.assertEqual(list(row["cells"]), [str(self.scene.columns[0].pk)])

    def test_what_comes_out_under_nothing_is_never_cut_at_nothing(self) -> None:
        self.type_idle("70 70", 1)
        row = self.rows(idle_off=True)[self.scene.tests[0].pk]
        self.assertAlmostEqual(row["cells"][str(self.scene.columns[1].pk)]["centre"], -24, delta=0.02)
        self.assertEqual(row["scale"], "difference")

    def test_the_idle_row_itself_and_rates_stay_as_they_are(self) -> None:
        self.type_in("average_fps", "60")
        matrix = Browser("reader").json(f"{self.review_path}/matrix?idle=1")
        rows = {(row["test"], row["metric"]): row["idle_off"] for row in matrix["rows"]}
        self.assertEqual(rows[self.scene.tests[0].pk, "average_fps"], False)
        self.assertEqual(rows[self.scene.tests[2].pk, "wall_power"], False)

    def test_a_new_idle_reading_is_seen_at_once(self) -> None:
        self.rows(idle_off=True)
        self.type_idle("26", 0)
        cell = self.rows(idle_off=True)[self.scene.tests[0].pk]["cells"][str(self.scene.columns[0].pk)]
        self.assertEqual(cell["idle"], 16)

    def test_a_worked_out_row_is_not_typed(self) -> None:
        self.add(kind="worked out", label="per watt", unit="fps/W", of="average_fps", other="wall_power", by="ratio")
        self.assertIn("type these instead", self.problem(self.type_in("per_watt", "2"), 422)["detail"])
