"""The Economy lens: power from any source, energy, work per watt, idle taken off, and where what is missing goes."""

import uuid
from typing import Any

import numpy as np

from nomothet.formats.series import pack
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Review, Test
from nomothet.server.shelf.models import Part, Price
from nomothet.server.systems.models import Fitting
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest, manifest

SECONDS = 20


class EconomyTest(SceneTest):
    def bring(self, column: int, fps: float, lanes: dict[str, float], test: int = 0) -> None:
        """A pass of 20 s at a rate, with the watts of its sensors."""
        self.scene.owe(test=test, column=column)
        pass_id, job = self.bench.take()
        frames = np.full(int(fps * SECONDS), 1000 / fps)
        blobs = {"frames": pack({"frame_ms": frames})}
        t = np.arange(0.0, SECONDS + 1)
        for name, watts in lanes.items():
            blobs[name] = pack({"t_s": t, "value": np.full(len(t), watts)})
        body = manifest(job["entry"], blobs, duration_s=float(SECONDS))
        for series in body["series"]:
            series["unit"] = "ms" if series["name"] == "frames" else "W"
        self.assertEqual(self.bench.send("put", f"/passes/{pass_id}", body).status_code, 200)
        for name, blob in blobs.items():
            self.bench.chunk(pass_id, name, 0, blob)
        self.assertEqual(self.bench.send("post", f"/passes/{pass_id}/finish").status_code, 200)

    def row(self, test: int = 0, idle: bool = False) -> dict[str, Any]:
        shown = Browser("reader").json(f"{self.review_path}/matrix{'?idle=1' if idle else ''}")
        return next(one for one in shown["economy"] if one["test"] == self.scene.tests[test].pk)

    def cell(self, column: int, **more: Any) -> dict[str, Any]:
        return self.row(**more)["cells"][str(self.scene.columns[column].pk)]

    def type_in(self, test: int, column: int, metric: str, text: str) -> None:
        cell = {
            "test": self.scene.tests[test].pk, "column": self.scene.columns[column].pk, "metric": metric, "text": text,
            "method": "meter", "half_width": 0.0,
        }  # fmt: skip
        answer = Browser("tester").send("put", f"{self.review_path}/typed/{uuid.uuid4()}", {"cells": [cell]})
        self.assertEqual(answer.status_code, 201, answer.content)


class FromSensors(EconomyTest):
    def test_mean_power_energy_and_work_per_watt_against_the_baseline(self) -> None:
        for fps in (60.0, 60.0):
            self.bring(0, fps, {"package power": 30.0})
        for watts in (18.0, 18.4):
            self.bring(1, 50.0, {"package power": watts})
        row = self.row()
        self.assertEqual((row["source"], row["source_words"], row["per_unit"]), ("power", "package", "fps/W"))
        base, own = self.cell(0), self.cell(1)
        self.assertAlmostEqual(base["mean_w"], 30.0)
        self.assertAlmostEqual(base["energy_j"], 30.0 * SECONDS, delta=1.0)
        self.assertAlmostEqual(base["per_watt"], 2.0, places=3)
        # The geometric mean of the passes, against the baseline's.
        wanted = (50 / 18.0 * 50 / 18.4) ** 0.5
        self.assertAlmostEqual(own["per_watt"], wanted, places=3)
        self.assertAlmostEqual(own["better"], 100 * (wanted / 2 - 1), places=1)
        self.assertEqual((own["verdict"], base["verdict"]), ("ahead", ""))

    def test_sources_are_never_mixed_and_another_can_be_chosen(self) -> None:
        for column, wall in ((0, 60.0), (0, 60.0), (1, 90.0), (1, 90.0)):
            self.bring(column, 60.0, {"package power": 30.0, "wall power": wall})
        row = self.row()
        self.assertEqual({one["key"] for one in row["sources"]}, {"wall power", "power"})
        self.assertEqual(row["source"], "wall power")
        self.assertAlmostEqual(self.cell(1)["mean_w"], 90.0)
        path = f"{self.review_path}/tests/{self.scene.tests[0].pk}"
        self.assertEqual(
            Browser("editor").send("patch", path, {"power": "power"}, **{"If-Match": "*"}).status_code, 200
        )
        self.assertAlmostEqual(self.cell(1)["mean_w"], 30.0)
        answer = Browser("editor").send("patch", path, {"power": "steam"}, **{"If-Match": "*"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("wall power", answer.json()["detail"])
        self.assertEqual(Browser("tester").send("patch", path, {"power": ""}, **{"If-Match": "*"}).status_code, 403)

    def test_a_pass_whose_power_was_recorded_too_little_has_none(self) -> None:
        self.bring(0, 60.0, {})
        cell = self.cell(0)
        self.assertEqual((cell["mean_w"], cell["per_watt"]), (None, None))
        self.assertIn("no power was recorded", cell["why_not"])

    def test_a_range_set_aside_takes_its_energy_along(self) -> None:
        self.bring(0, 60.0, {"package power": 30.0})
        owner = Pass.objects.get()
        answer = Browser("tester").send(
            "post", f"/api/passes/{owner.pk}/ranges", {"start_s": 0, "end_s": 10, "reason": "the wrong door"}
        )
        self.assertEqual(answer.status_code, 201, answer.content)
        self.assertAlmostEqual(self.cell(0)["energy_j"], 300.0, delta=35.0)

    def test_idle_is_taken_off_on_demand_and_never_cut(self) -> None:
        for column, watts in ((0, 30.0), (0, 30.0), (1, 12.0), (1, 12.0)):
            self.bring(column, 60.0, {"package power": watts})
        nothing = Workload.objects.create(
            key="idle", name="Nothing", version="1", kind="idle", duration_s=SECONDS, runner="simulated"
        )
        self.scene.tests.append(Test.objects.create(review=self.scene.review, position=9, workload=nothing, shown=[]))
        for column, watts in ((0, 10.0), (1, 14.0)):
            self.bring(column, 10.0, {"package power": watts}, test=2)
        plain, off = self.cell(0), self.cell(0, idle=True)
        self.assertEqual((round(plain["mean_w"], 6), round(plain["over_idle_w"], 6)), (30, 20))
        self.assertAlmostEqual(off["mean_w"], 20.0)
        self.assertAlmostEqual(off["energy_j"], 400.0, delta=1.0)
        self.assertAlmostEqual(off["per_watt"], 3.0, places=3)
        under = self.cell(1, idle=True)
        self.assertAlmostEqual(under["mean_w"], -2.0)
        self.assertEqual((under["per_watt"], under["why_not"] != ""), (None, True))


class Typed(EconomyTest):
    def test_watts_that_were_read_off_count_like_those_of_a_sensor(self) -> None:
        metrics = [
            {"key": "one_thread", "label": "one thread", "unit": "points", "direction": "higher", "scale": "ratio"},
            {"key": "watts", "label": "wall watts", "unit": "W", "direction": "lower", "scale": "ratio"},
        ]
        Workload.objects.filter(pk=self.scene.suite.pk).update(metrics=metrics)
        Test.objects.filter(pk=self.scene.tests[1].pk).update(shown=["one_thread", "watts"])
        for column, points, watts in ((0, "100 102", "50 51"), (1, "90 91", "30 30.5")):
            self.type_in(1, column, "one_thread", points)
            self.type_in(1, column, "watts", watts)
        row = self.row(1)
        self.assertEqual((row["source"], row["source_words"], row["per_unit"]), ("watts", "wall watts", "points/W"))
        own = row["cells"][str(self.scene.columns[1].pk)]
        self.assertAlmostEqual(own["per_watt"], (90 / 30 * 91 / 30.5) ** 0.5, places=6)
        self.assertEqual((own["verdict"], own["energy_j"]), ("ahead", None))

    def test_a_time_with_its_watts_has_the_energy_of_the_job(self) -> None:
        metrics = [
            {"key": "job_s", "label": "time", "unit": "s", "direction": "lower", "scale": "ratio"},
            {"key": "watts", "label": "watts", "unit": "W", "direction": "lower", "scale": "ratio"},
        ]
        Workload.objects.filter(pk=self.scene.suite.pk).update(metrics=metrics, kind="task")
        Test.objects.filter(pk=self.scene.tests[1].pk).update(shown=["job_s", "watts"])
        for column, seconds, watts in ((0, "100 101", "50 50"), (1, "50 50.5", "120 121")):
            self.type_in(1, column, "job_s", seconds)
            self.type_in(1, column, "watts", watts)
        row = self.row(1)
        base, own = (row["cells"][str(self.scene.columns[at].pk)] for at in (0, 1))
        self.assertEqual((row["per_unit"], row["is_time"]), ("1/kJ", True))
        self.assertAlmostEqual(base["energy_j"], (5000 + 5050) / 2)
        # A job of 5 kJ is a fifth of a job per kJ; the one that is twice as fast and draws more has less of it.
        self.assertAlmostEqual(base["per_watt"], 1000 / (5000 * 5050) ** 0.5, places=6)
        self.assertEqual(own["verdict"], "behind")

    def test_a_test_without_a_rate_says_so(self) -> None:
        Workload.objects.filter(pk=self.scene.suite.pk).update(
            metrics=[{"key": "one_thread", "label": "n", "unit": "", "direction": "neither", "scale": "ratio"}]
        )
        self.assertIn("no rate", self.row(1)["why_not"])


class Prices(EconomyTest):
    def test_what_is_missing_is_named_with_where_it_goes(self) -> None:
        board = Part.objects.create(kind="board", name="Board")
        card = Part.objects.create(kind="graphics", name="Card")
        base = self.scene.configurations[0]
        for place, part in (("board", board), ("graphics", card)):
            Fitting.objects.create(configuration=base, place=place, part=part)
        Price.objects.create(part=board, amount=100, currency="EUR", on="2026-01-01", basis="street")
        key = str(self.scene.columns[0].pk)

        def price() -> dict[str, Any]:
            return Browser("reader").json(f"{self.review_path}/matrix")["prices"][key]

        told = price()
        self.assertEqual((told["total"], told["missing"]), (None, ["Card"]))
        self.assertIn("of Card; note it on the shelf", told["words"])
        Price.objects.create(part=card, amount=200, currency="EUR", on="2026-02-01", basis="street")
        Price.objects.create(part=card, amount=180, currency="EUR", on="2026-03-01", basis="street")
        told = price()
        self.assertEqual((told["total"], told["on"], told["words"]), (280, "2026-01-01", ""))

    def test_a_review_that_changes_keeps_its_own_power(self) -> None:
        Test.objects.filter(pk=self.scene.tests[0].pk).update(power="power")
        other = Review.objects.create(key="other", question="Other?", editor=self.scene.people["editor"])
        path = f"{self.review_path}/tests/{self.scene.tests[0].pk}/copy"
        self.assertEqual(Browser("editor").send("post", path, {"review": other.pk}).status_code, 201)
        self.assertEqual(other.tests.get().power, "power")
