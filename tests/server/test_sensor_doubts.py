"""A person's doubt of a sensor: what was recorded stays, and no figure or finding rests on it."""

import uuid
from typing import Any

import numpy as np
from django.test import override_settings

from nomothet.formats.series import pack
from nomothet.server.analysis.models import SensorDoubt
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Test
from tests.server.base import Browser, SceneTest, manifest, steady
from tests.server.tasks import AT_ONCE

SENSOR = "package power"


class Doubts(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        own = {"key": "watts", "label": "package power", "unit": "W", "direction": "lower", "scale": "ratio",
               "kind": "reading", "lane": SENSOR, "statistic": "mean"}  # fmt: skip
        body = {"tests": [self.scene.tests[0].pk], **{key: value for key, value in own.items() if key != "key"}}
        answer = Browser("editor").send("post", f"{self.review_path}/metrics", body)
        self.assertEqual(answer.status_code, 201, answer.content)
        self.metric = Test.objects.get(pk=self.scene.tests[0].pk).metrics[0]["key"]
        self.passes = [self.recorded(0), self.recorded(0), self.recorded(1)]

    def recorded(self, column: int) -> str:
        self.scene.owe(column=column)
        pass_id, job = self.bench.take()
        lane = pack({"t_s": np.arange(60.0), "value": np.full(60, 40.0) + np.arange(60) % 2})
        blobs = {"frames": pack({"frame_ms": steady(60)}), SENSOR: lane}
        body = manifest(job["entry"], blobs)
        body["series"][1]["unit"] = "W"
        self.assertEqual(self.bench.send("put", f"/passes/{pass_id}", body).status_code, 200)
        for name, blob in blobs.items():
            self.assertEqual(self.bench.chunk(pass_id, name, 0, blob).status_code, 200)
        answer = self.bench.send("post", f"/passes/{pass_id}/finish")
        self.assertEqual(answer.status_code, 200, answer.content)
        return pass_id

    def doubt(self, at: int = 0, who: str = "editor", **more: Any) -> Any:
        body = {"sensor": SENSOR, "kind": "wrong", "reason": "the meter says 80 W", "scope": "pass", **more}
        return Browser(who).send("post", f"/api/passes/{self.passes[at]}/doubts", body)

    def figures(self) -> list[bool]:
        """Whether each pass has the figure that rests on the sensor."""
        return [Pass.objects.get(pk=one).figures.filter(metric=self.metric).exists() for one in self.passes]

    def trace(self, at: int = 0) -> dict[str, Any]:
        found: dict[str, Any] = Browser("reader").json(f"/api/passes/{self.passes[at]}/trace")
        return found


class OfAPass(Doubts):
    def test_its_figures_go_and_what_was_recorded_stays(self) -> None:
        self.assertEqual(self.figures(), [True, True, True])
        self.assertEqual(self.doubt().status_code, 201)
        self.assertEqual(self.figures(), [False, True, True])
        (lane,) = self.trace()["lanes"]
        self.assertEqual((lane["doubted"][0]["reason"], lane["median"]), ("the meter says 80 W", 40.5))
        self.assertEqual(self.trace(1)["lanes"][0]["doubted"], [])

    def test_believed_again_it_counts_again(self) -> None:
        made = self.doubt().json()["id"]
        self.assertEqual(Browser("tester").send("delete", f"/api/doubts/{made}").status_code, 204)
        self.assertEqual(self.figures(), [True, True, True])
        self.assertIsNotNone(SensorDoubt.objects.get(pk=made).back_at)
        self.problem(Browser("tester").send("delete", f"/api/doubts/{made}"), 409)

    def test_it_is_said_why_and_of_a_sensor_that_is_there_once(self) -> None:
        self.problem(self.doubt(reason=" "), 400)
        self.assertEqual(self.problem(self.doubt(sensor="fan speed"), 422)["field"], "sensor")
        self.doubt()
        self.problem(self.doubt(), 409)

    def test_a_record_keeps_it_as_it_was(self) -> None:
        made = self.doubt().json()["id"]
        slug = Browser("editor").send("post", f"{self.review_path}/records", {"change_note": ""}).json()["slug"]
        Browser("tester").send("delete", f"/api/doubts/{made}")
        lanes = Browser().json(f"/api/records/{slug}/traces/{self.passes[0]}")["lanes"]
        self.assertEqual(lanes[0]["doubted"][0]["kind"], "wrong")


class Labels(Doubts):
    def test_figures_of_a_pass_are_called_as_their_rows_are(self) -> None:
        cell = {"test": self.scene.tests[0].pk, "column": self.scene.columns[0].pk, "metric": "low_1pct",
                "text": "50", "method": "meter", "half_width": 1}  # fmt: skip
        path = f"{self.review_path}/typed/{uuid.uuid4()}"
        self.assertEqual(Browser("tester").send("put", path, {"cells": [cell]}).status_code, 201)
        passes = Browser("reader").json(self.cell_path())["passes"]
        labels = {figure["label"] for one in passes for figure in one["figures"]}
        self.assertLessEqual({"1 % low, as its tool says", "package power"}, labels)


class OfMany(Doubts):
    def test_of_a_system_it_reaches_all_its_passes(self) -> None:
        with override_settings(TASKS=AT_ONCE), self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(self.doubt(who="tester", scope="system").status_code, 201)
        self.assertEqual(self.figures(), [False, False, False])

    def test_a_pass_that_comes_later_is_computed_without_it(self) -> None:
        self.doubt(scope="workload")
        self.passes.append(self.recorded(1))
        self.assertFalse(self.figures()[-1])

    def test_who_may(self) -> None:
        self.problem(self.doubt(who="reader"), 403)
        self.problem(self.doubt(who="tester", scope="workload"), 403)


class ShownOnly(Doubts):
    def test_a_sensor_that_is_only_shown_is_noted_and_touches_nothing(self) -> None:
        body = {"kind": "not recorded", "sensor": "hot spot", "reason": "its maker's window shows 96 °C"}
        self.assertEqual(self.doubt(**body).status_code, 201)
        self.assertEqual([one["sensor"] for one in self.trace()["not_recorded"]], ["hot spot"])
        self.assertEqual(self.figures(), [True, True, True])
        self.assertEqual(self.problem(self.doubt(kind="not recorded"), 422)["field"], "sensor")
